"""Edits of YAML as text: an entry taken away, changed or put in, so that comments, order and layout survive.

What stands where is told by the marks of PyYAML's parser; nothing is written out anew but what changes.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import NamedTuple

import yaml

from davlo.core.site.values import Raw

try:
    from yaml import CBaseLoader as _Loader
except ImportError:  # a PyYAML that was built without its C parser
    from yaml import BaseLoader as _Loader  # type: ignore[assignment]

GOES_WHEN_EMPTY = ("access", "deny", "lock", "here", "below", "here_and_below", "everywhere", "give")
"""Keys that mean nothing once nothing is in them; so does the path of a page."""


LOCK = "lock"
BARE = re.compile(r"-?[A-Za-z0-9.]+|/[A-Za-z0-9/.-]*")
"""Words that need no quotes: yes, no and numbers are texts here."""


class CannotEdit(Exception):
    """An edit that cannot be made in the text."""


class Splice(NamedTuple):
    """Letters of a text to replace: the first, one past the last, what comes instead; and within which node."""

    begin: int
    end: int
    new: str
    within: yaml.Node

    def apply(self, content: str) -> str:
        """The text with it made."""
        return content[: self.begin] + self.new + content[self.end :]


class _Entry(NamedTuple):
    """An entry of a mapping, and the entries that it stands in, the outermost first."""

    mapping: yaml.MappingNode
    place: int
    around: tuple[tuple[yaml.MappingNode, int], ...]

    @property
    def key(self) -> yaml.Node:
        key: yaml.Node = self.mapping.value[self.place][0]
        return key

    @property
    def value(self) -> yaml.Node:
        value: yaml.Node = self.mapping.value[self.place][1]
        return value


class _Item(NamedTuple):
    """An item of a list, and the entry whose value the list is, if it is one."""

    items: yaml.SequenceNode
    place: int
    holder: _Entry | None

    @property
    def node(self) -> yaml.Node:
        node: yaml.Node = self.items.value[self.place]
        return node


class YamlText:
    """A YAML file's text, and what to replace in it so that something is changed.

    Parameters
    ----------
    content : str

    Raises
    ------
    yaml.YAMLError
        If it is no YAML.

    Example
    -------
    >>> text = YamlText("menu: {room: 7}  # for the wide screen")
    >>> text.put(0, ("menu", "room"), "9").apply(text.content)
    'menu: {room: 9}  # for the wide screen'
    >>> text.put(0, ("everywhere", "title.show"), "no").apply(text.content).splitlines()[1]
    'everywhere: {title.show: no}'
    """

    def __init__(self, content: str) -> None:
        self.content = content
        self.root = yaml.compose(content, Loader=_Loader)
        lines = content.splitlines(keepends=True)
        self.starts = [0]
        for line in lines:
            self.starts.append(self.starts[-1] + len(line))
        self._newline = "\r\n" if lines and lines[0].endswith("\r\n") else "\n"

    def without(self, line: int, name: str) -> Splice:
        """Takes away the entry of this name (or family and name) at a line, and what then is empty around it.

        Raises
        ------
        CannotEdit
            If the line does not say it once, or a rule would give nothing then.
        """
        entry = self._entry(line, name)
        while _is_alone(entry) and entry.around and _goes_when_empty(entry):
            mapping, place = entry.around[-1]
            entry = _Entry(mapping, place, entry.around[:-1])
        if "when" in [key.value for key, _ in entry.mapping.value]:
            raise CannotEdit("a rule gives something")
        return self._without_entry(entry)

    def without_item(self, line: int) -> Splice:
        """Takes away the item of a list that begins at a line; the list's key goes with its last item.

        Raises
        ------
        CannotEdit
            If no single item begins there.
        """
        item = self._item(line)
        if len(item.items.value) == 1:
            if item.holder is None:
                raise CannotEdit("the list is no entry")
            return self._without_entry(item.holder)
        if item.items.flow_style:
            return self._without_part(item.items, item.items.value, item.place)
        begin, end = item.node.start_mark.line, _end(item.node).line
        if self.content[self.starts[begin] : self._at(item.node.start_mark)].strip() != "-":
            raise CannotEdit("something stands before it")
        return self._splice(self.starts[begin], self.starts[end + 1], "", item.items)

    def change(self, line: int, name: str, value: Raw) -> Splice:
        """Gives the entry of this name at a line another value.

        Raises
        ------
        CannotEdit
            If the line does not say it once.
        """
        entry = self._entry(line, name)
        return self._with_value(entry.key, entry.value, value)

    def lift(self, line: int, name: str) -> Splice:
        """Takes the entry of this name at a line out of the `lock` that it stands in.

        Raises
        ------
        CannotEdit
            If the line does not say it once, or it stands in no lock.
        """
        entry = self._entry(line, name)
        around = _Entry(*entry.around[-1], entry.around[:-1]) if entry.around else None
        if around is None or around.key.value != LOCK:
            raise CannotEdit("it stands in no lock")
        begin, end = self._at(around.key.start_mark), self._at(_end(around.value))
        new = self.content[self._at(entry.key.start_mark) : self._at(_end(entry.value))]
        if len(entry.mapping.value) > 1:
            rest = self._without_entry(entry)
            left = self.content[begin : rest.begin] + rest.new + self.content[rest.end : end]
            between = ", " if around.mapping.flow_style else f"{self._newline}{' ' * around.key.start_mark.column}"
            new += between + left.rstrip()
        return self._splice(begin, end, new, around.mapping)

    def put(self, line: int, keys: Sequence[str], value: Raw, name: str = "", more: bool = False) -> Splice:
        """Puts a value under these keys, there already or not.

        Parameters
        ----------
        line : int
            Where the entry, or the item of a list, stands in which to put it; 0: the whole file.
        keys : sequence of str
            One in the other, the outermost first.
        value : str, list or dict
        name : str
            The entry's; empty: the item of a list.
        more : bool
            Whether a list is there, or will be, to which the value is added.

        Raises
        ------
        CannotEdit
            If something else stands there.
        """
        node = self.root if line == 0 else self._entry(line, name).value if name else self._item(line).node
        if node is None:
            raise CannotEdit("the file is empty")
        for at, key in enumerate(keys):
            if not isinstance(node, yaml.MappingNode):
                raise CannotEdit(f"{key} would stand in no mapping")
            found = [pair for pair in node.value if pair[0].value == key]
            if not found:
                inner: Raw = [value] if more else value
                for outer in reversed(keys[at + 1 :]):
                    inner = {outer: inner}
                return self._with_new(node, key, inner)
            key_node, node = found[0]
        return self._with_more(key_node, node, value) if more else self._with_value(key_node, node, value)

    def holds(self, keys: Sequence[str]) -> int:
        """How many of these keys, one in the other, are there."""
        node = self.root
        for count, key in enumerate(keys):
            inner = [v for k, v in node.value if k.value == key] if isinstance(node, yaml.MappingNode) else []
            if not inner:
                return count
            node = inner[0]
        return len(keys)

    @cached_property
    def _found(self) -> tuple[dict[int, list[_Entry]], dict[int, list[_Item]]]:
        """The entries and the items that begin at each line."""
        entries: dict[int, list[_Entry]] = {}
        items: dict[int, list[_Item]] = {}
        for one in _all(self.root, None, ()) if self.root is not None else ():
            if isinstance(one, _Entry):
                entries.setdefault(one.key.start_mark.line + 1, []).append(one)
            else:
                items.setdefault(one.node.start_mark.line + 1, []).append(one)
        return entries, items

    def _entry(self, line: int, name: str) -> _Entry:
        def names(entry: _Entry) -> tuple[str, str]:
            above = str(entry.around[-1][0].value[entry.around[-1][1]][0].value) if entry.around else ""
            return entry.key.value, f"{above}.{entry.key.value}"

        found = [entry for entry in self._found[0].get(line, ()) if name in names(entry)]
        if len(found) != 1:
            raise CannotEdit("the line does not say it once")
        return found[0]

    def _item(self, line: int) -> _Item:
        found = self._found[1].get(line, [])
        outer = [item for item in found if isinstance(item.node, yaml.MappingNode)]
        if len(outer) != 1:
            raise CannotEdit("no single item begins there")
        return outer[0]

    def _splice(self, begin: int, end: int, new: str, within: yaml.Node) -> Splice:
        """A splice, if no name of a node goes or is meant by it."""
        if end < begin or any(begin <= at < end for at in self._named):
            raise CannotEdit("it is said in one place for several")
        return Splice(begin, end, new, within)

    @cached_property
    def _named(self) -> list[int]:
        """Where nodes begin that stand in several places, by a name (an anchor)."""
        seen: set[int] = set()
        found: dict[int, yaml.Node] = {}
        left = [self.root] if self.root is not None else []
        while left:
            node = left.pop()
            if id(node) in seen:
                found[id(node)] = node
                continue
            seen.add(id(node))
            if isinstance(node, yaml.MappingNode):
                left += [one for pair in node.value for one in pair]
            elif isinstance(node, yaml.SequenceNode):
                left += node.value
        return [self._at(node.start_mark) for node in found.values()]

    def _at(self, mark: yaml.Mark) -> int:
        return self.starts[mark.line] + mark.column

    def _without_entry(self, entry: _Entry) -> Splice:
        mapping, entries = entry.mapping, entry.mapping.value
        if _is_alone(entry):  # the mapping stays, with nothing in it
            return self._splice(self._at(mapping.start_mark), self._at(_end(mapping)), "{}", mapping)
        if mapping.flow_style:
            return self._without_part(mapping, [part for pair in entries for part in pair], 2 * entry.place, 2)
        begin, end = entry.key.start_mark.line, _end(entry.value).line
        return self._splice(self.starts[begin], self.starts[end + 1], "", mapping)

    def _without_part(self, node: yaml.Node, parts: Sequence[yaml.Node], place: int, count: int = 1) -> Splice:
        """Takes so many of the nodes away that stand one after the other within brackets, and their comma."""
        if place + count < len(parts):
            return self._splice(self._at(parts[place].start_mark), self._at(parts[place + count].start_mark), "", node)
        return self._splice(self._at(_end(parts[place - 1])), self._at(_end(parts[place + count - 1])), "", node)

    def _with_value(self, key: yaml.Node, node: yaml.Node, value: Raw) -> Splice:
        if isinstance(node, yaml.CollectionNode) and not node.flow_style:  # from its key on, as it stands below it
            begin = self.content.index(":", self._at(key.end_mark)) + 1
            return self._splice(begin, self._at(_end(node)), f" {flow(value)}", node)
        return self._splice(self._at(node.start_mark), self._at(_end(node)), flow(value), node)

    def _with_more(self, key: yaml.Node, node: yaml.Node, value: Raw) -> Splice:
        if isinstance(node, yaml.ScalarNode):
            return self._with_value(key, node, [node.value, value])
        if not isinstance(node, yaml.SequenceNode):
            raise CannotEdit("it is no list")
        if node.flow_style or not node.value:
            return self._with_last(node, flow(value))
        last = node.value[-1]
        indent = self.content[self.starts[last.start_mark.line] : self._at(last.start_mark)]
        if indent.strip() != "-":
            raise CannotEdit("something stands before the last of the list")
        return self._with_line(node, _end(last).line, indent + flow(value))

    def _with_new(self, mapping: yaml.MappingNode, key: str, value: Raw) -> Splice:
        """Puts in a new entry, the last of its mapping."""
        told = f"{flow(key)}: {flow(value)}"
        if mapping.flow_style:
            return self._with_last(mapping, told)
        last = mapping.value[-1]
        indent = " " * mapping.value[0][0].start_mark.column
        return self._with_line(mapping, _end(last[1]).line, indent + told)

    def _with_last(self, node: yaml.CollectionNode, told: str) -> Splice:
        """Puts one more within the brackets of a node."""
        if not node.value:
            return self._splice(self._at(node.start_mark) + 1, self._at(node.end_mark) - 1, told, node)
        last = node.value[-1]
        end = self._at(_end(last[1] if isinstance(node, yaml.MappingNode) else last))
        return self._splice(end, end, f", {told}", node)

    def _with_line(self, node: yaml.Node, after: int, told: str) -> Splice:
        """Puts in a line after one; a comment at its end stays there."""
        end = self.starts[after + 1]
        before = "" if self.content[:end].endswith("\n") else self._newline
        return self._splice(end, end, f"{before}{told}{self._newline}", node)


def flow(value: Raw) -> str:
    """A value as YAML in one line.

    Example
    -------
    >>> flow({"add": ["search", "a: b"]}), flow("no"), flow("12")
    ("{add: [search, 'a: b']}", 'no', '12')
    """
    if isinstance(value, dict):
        return "{" + ", ".join(f"{flow(key)}: {flow(inner)}" for key, inner in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(flow, value)) + "]"
    if BARE.fullmatch(value) and value.lower() != "null":
        return value
    told: str = yaml.dump([value], default_flow_style=True, width=float("inf"), allow_unicode=True)
    return told.strip()[1:-1]


def _all(
    node: yaml.Node, holder: _Entry | None, around: tuple[tuple[yaml.MappingNode, int], ...]
) -> Iterator[_Entry | _Item]:
    """Every entry and every item in a node."""
    if isinstance(node, yaml.SequenceNode):
        for place, item in enumerate(node.value):
            yield _Item(node, place, holder)
            yield from _all(item, None, ())
    elif isinstance(node, yaml.MappingNode):
        for place, (_, value) in enumerate(node.value):
            entry = _Entry(node, place, around)
            yield entry
            yield from _all(value, entry, (*around, (node, place)))


def _is_alone(entry: _Entry) -> bool:
    """Whether nothing is left of its mapping but a reason."""
    others = [key.value for i, (key, _) in enumerate(entry.mapping.value) if i != entry.place]
    return all(key == "because" for key in others)


def _goes_when_empty(entry: _Entry) -> bool:
    """Whether the key that holds the mapping means nothing without it."""
    names = [str(mapping.value[place][0].value) for mapping, place in entry.around]
    return names[-1] in GOES_WHEN_EMPTY or (len(names) == 2 and names[0] == "pages")


def _end(node: yaml.Node) -> yaml.Mark:
    """Where the text of a node ends: of what is written in lines, where its last word does."""
    if isinstance(node, yaml.CollectionNode) and not node.flow_style and node.value:
        last = node.value[-1]
        return _end(last[1] if isinstance(node, yaml.MappingNode) else last)
    return node.end_mark
