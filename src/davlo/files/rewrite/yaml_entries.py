"""Entries of a YAML text: which keys lead to them, where they are, and where they end."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple, TypeAlias

import yaml

from davlo.core.site.settings.values import Raw

BECAUSE = "because"
"""The key of a reason, which says nothing alone."""


class Item(NamedTuple):
    """An item of a list, among keys: the one that a test is true of, given its value."""

    is_it: Callable[[Raw], bool]
    word: str


class PageKey(NamedTuple):
    """A key that names a page: any that `path_of` reads as its path."""

    path: str
    path_of: Callable[[str], str]


Keys: TypeAlias = tuple["str | Item | PageKey", ...]


class Found(NamedTuple):
    """An entry of a mapping or an item of a list: where it is in its holder, and what it stands in, outermost first."""

    holder: yaml.CollectionNode
    place: int
    around: tuple[Found, ...] = ()

    @property
    def key(self) -> yaml.Node | None:
        """The key of an entry; None for an item."""
        key: yaml.Node | None = self.holder.value[self.place][0] if self.is_entry else None
        return key

    @property
    def node(self) -> yaml.Node:
        """The value of an entry, or the item."""
        held = self.holder.value[self.place]
        node: yaml.Node = held[1] if self.is_entry else held
        return node

    @property
    def is_entry(self) -> bool:
        """Whether it is an entry of a mapping."""
        return isinstance(self.holder, yaml.MappingNode)

    @property
    def path(self) -> tuple[str, ...]:
        """The keys that lead to it, empty for items."""
        return tuple(str(one.key.value) if one.key else "" for one in (*self.around, self))


def raw_of_node(node: yaml.Node) -> Raw:
    """A node as texts, lists and mappings."""
    if isinstance(node, yaml.MappingNode):
        return {str(key.value): raw_of_node(value) for key, value in node.value}
    if isinstance(node, yaml.SequenceNode):
        return [raw_of_node(item) for item in node.value]
    return str(node.value)


def parts_of(node: yaml.Node) -> list[yaml.Node]:
    """The keys and values, or the items, of a node."""
    if isinstance(node, yaml.MappingNode):
        return [one for pair in node.value for one in pair]
    return node.value if isinstance(node, yaml.SequenceNode) else []


def is_alone(found: Found) -> bool:
    """Whether its holder would keep nothing but a reason."""
    if not found.is_entry:
        return len(found.holder.value) == 1
    others = (key.value for place, (key, _) in enumerate(found.holder.value) if place != found.place)
    return all(key == BECAUSE for key in others)


def last_of(node: yaml.Node) -> yaml.Node | None:
    """The node with which the text of a node ends; in block style, the last node in it. None if that is an alias."""
    if isinstance(node, yaml.CollectionNode) and not node.flow_style and node.value:
        parts = parts_of(node)
        begins = [part.start_mark.index for part in parts]
        is_alias = begins[-1] <= max([node.start_mark.index - 1, *begins[:-1]])  # its anchor is farther up
        return None if is_alias else last_of(parts[-1])
    return node
