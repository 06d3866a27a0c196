"""The nodes of YAML files that name something: a page, a declaration, a setting, a person. The form says where."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import yaml

from davlo.core.site.settings.setting import ACCESS_FAMILIES, kind_named_by
from davlo.core.site.settings.values import LIST_STEPS

from ..form.davlo_yaml import DAVLO_YAML
from ..form.shapes import (
    ActionList,
    Either,
    Entries,
    Fields,
    ListOf,
    NameOf,
    Settings,
    SettingValue,
    Shape,
    Text,
    Words,
)
from .yaml_entries import Found

ROLE = ("role",)


class NamedNode(NamedTuple):
    """A key, or a single word, that names something."""

    kinds: tuple[str, ...]  # what it may name: kinds of declarations, `page`, `setting`, `subject`, `declaration` (any)
    found: Found
    is_key: bool

    @property
    def node(self) -> yaml.ScalarNode:
        """The node itself."""
        node = self.found.key if self.is_key else self.found.node
        assert isinstance(node, yaml.ScalarNode)
        return node

    @property
    def word(self) -> str:
        """The name."""
        return str(self.node.value)


def named_nodes(root: yaml.Node | None) -> Iterator[NamedNode]:
    """Every node of a file that names something."""
    for entry in _entries(root):
        field = DAVLO_YAML.fields.get(str(entry.key.value) if entry.key else "")
        if field:
            yield from _named(field.shape, entry)


def _named(shape: Shape, entry: Found, setting: str = "") -> Iterator[NamedNode]:
    """The names in an entry of this shape. `setting` is the setting whose default the entry may be."""
    if isinstance(shape, Text | NameOf):
        kinds = shape.kinds if isinstance(shape, NameOf) else (shape.names,) if shape.names else ()
        if kinds and isinstance(entry.node, yaml.ScalarNode):
            yield NamedNode(kinds, entry, False)
    elif isinstance(shape, Words):
        for one in [entry] if isinstance(entry.node, yaml.ScalarNode) else _items(entry.node):
            yield from _named(shape.of, one)
    elif isinstance(shape, Either):
        yield from dict.fromkeys(named for one in shape.shapes for named in _named(one, entry, setting))
    elif isinstance(shape, ActionList | SettingValue):
        yield from _of_value(ROLE if isinstance(shape, ActionList) else _kinds_of_value(setting), entry)
    elif isinstance(shape, ListOf):
        for item in _items(entry.node):
            yield from _named(shape.of, item)
    elif isinstance(shape, Fields | Settings | Entries):
        for one in _entries(entry.node):
            yield from _of_entry(shape, one, setting)


def _of_entry(shape: Fields | Settings | Entries, entry: Found, setting: str) -> Iterator[NamedNode]:
    key = str(entry.key.value) if entry.key else ""
    if isinstance(shape, Entries):
        if shape.named:
            yield NamedNode((shape.named,), entry, True)
        yield from _named(shape.of, entry, key if shape.named == "setting" else setting)
        return
    fields = shape.fields if isinstance(shape, Fields) else shape.beside
    if key in fields:
        yield from _named(fields[key].shape, entry, setting)
    elif isinstance(shape, Settings):
        yield NamedNode(("setting",), entry, True)
        yield from _of_value(_kinds_of_value(key), entry)


def _kinds_of_value(setting: str) -> tuple[str, ...]:
    """The kind of declaration that the values of a setting name; none if they name none."""
    if setting.partition(".")[0] in ACCESS_FAMILIES:
        return ROLE
    kind = kind_named_by(setting)
    return (kind,) if kind else ()


def _of_value(kinds: tuple[str, ...], entry: Found) -> Iterator[NamedNode]:
    """The names in a word, a list, or the lists of a change."""
    changed = [one for one in _entries(entry.node) if one.key and str(one.key.value) in LIST_STEPS]
    for one in [entry, *changed] if kinds else ():
        yield from _named(Words(NameOf(kinds)), one)


def _entries(node: yaml.Node | None) -> Iterator[Found]:
    if isinstance(node, yaml.MappingNode):
        yield from (Found(node, place) for place, (key, _) in enumerate(node.value) if _is_word(key))


def _items(node: yaml.Node) -> Iterator[Found]:
    if isinstance(node, yaml.SequenceNode):
        yield from (Found(node, place) for place in range(len(node.value)))


def _is_word(key: yaml.Node) -> bool:
    return isinstance(key, yaml.ScalarNode)
