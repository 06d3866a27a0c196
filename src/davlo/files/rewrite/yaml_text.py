"""Edits of YAML as text: an entry is taken away, changed or put in, and comments, order and layout survive.

The marks of PyYAML's parser say where each node stands. Only what changes is written out again.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Sequence
from typing import NamedTuple

import yaml

from davlo.core.arrays.lines import lines_of
from davlo.core.cached import cached_property
from davlo.core.site.settings.values import Raw

from ..read.yaml.yaml_letters import give_back, without_odd_breaks
from .cannot_rewrite import ALIASED, CannotRewrite
from .yaml_entries import BECAUSE, Found, Item, Keys, PageKey, is_alone, last_of, parts_of, raw_of_node

try:
    from yaml import CBaseLoader as _Loader
except ImportError:  # a PyYAML that was built without its C parser
    from yaml import BaseLoader as _Loader  # type: ignore[assignment]

IN_LINES = re.compile(r"\|[ \t]*(#.*)?\s*")
"""How a text in lines of its own begins, if its last line break belongs to it: `|-` and `|2` are left to one line."""
BARE = re.compile(r"-?[A-Za-z0-9.]+|/[A-Za-z0-9/.-]*")
"""Words that need no quotes: yes, no and numbers are texts here."""


class Splice(NamedTuple):
    """A part of a text to replace: its begin, its end, the new text, and the node that holds it."""

    begin: int
    end: int
    new: str
    within: yaml.Node

    @property
    def spare(self) -> int:
        """How many parts of the node can be taken away at once, this one among them, each a splice of its own.

        Lines of a block go one by one, as long as something stays besides a reason.
        """
        node = self.within
        if self.new or not isinstance(node, yaml.CollectionNode) or node.flow_style:
            return 1
        reasons = sum(key.value == BECAUSE for key, _ in node.value) if isinstance(node, yaml.MappingNode) else 0
        return max(1, len(node.value) - reasons - 1)

    def apply(self, content: str) -> str:
        """The text with it made."""
        return content[: self.begin] + self.new + content[self.end :]


class YamlText:
    """A YAML file's text, and what to replace in it so that something is changed.

    Raises yaml.YAMLError if it is no YAML.

    Example
    -------
    >>> text = YamlText("menu: {max_entries: 7}  # for the wide screen")
    >>> text.put(("menu", "max_entries"), "9").apply(text.content)
    'menu: {max_entries: 9}  # for the wide screen'
    >>> text.put(("everywhere", "heading.show"), "no").apply(text.content).splitlines()[1]
    'everywhere: {heading.show: no}'
    >>> text.without(("menu", "max_entries"), lambda path: True).apply(text.content)
    '{}  # for the wide screen'
    """

    def __init__(self, content: str) -> None:
        self.content = content

    @cached_property
    def root(self) -> yaml.Node | None:
        """The whole text as nodes; it is parsed when somebody first looks into it."""
        text, stands_for = without_odd_breaks(self.content)
        root = yaml.compose(text, Loader=_Loader)
        if stands_for and root:
            give_back(root, stands_for)
        return root

    def parse(self) -> None:
        """Make sure that it is YAML; raises `yaml.YAMLError` if it is not."""
        for _ in yaml.parse(without_odd_breaks(self.content)[0], Loader=_Loader):
            pass

    @cached_property
    def starts(self) -> list[int]:
        """Where each line begins, and the end of the text."""
        starts = [0, *itertools.accumulate(map(len, lines_of(self.content)))]
        if self.content.startswith("\ufeff"):
            starts[0] = 1  # the parser does not count a byte-order mark
        return starts

    @cached_property
    def _newline(self) -> str:
        first = next(iter(lines_of(self.content[: self.content.find("\n") + 1] or self.content)), "")
        return first[len(first.rstrip("\r\n")) :] or "\n"

    def find(self, keys: Keys) -> Found | None:
        """The entry or item that keys lead to, one in the other; None where there is none."""
        node = self.root
        around: tuple[Found, ...] = ()
        found: Found | None = None
        for key in keys:
            place = self._place(node, key)
            if place is None or not isinstance(node, yaml.CollectionNode):
                return None
            found = Found(node, place, around)
            node, around = found.node, (*around, found)
        return found

    def at(self, keys: Keys) -> Found:
        """The entry or item that keys lead to.

        Raises CannotRewrite if there is none.
        """
        found = self.find(keys)
        if found is None:
            raise CannotRewrite("it is not there")
        return found

    def _place(self, node: yaml.Node | None, key: str | Item | PageKey) -> int | None:
        if isinstance(key, Item):
            items = node.value if isinstance(node, yaml.SequenceNode) else []
            return next((place for place, item in enumerate(items) if key.is_it(raw_of_node(item))), None)
        if not isinstance(node, yaml.MappingNode):
            return None
        of_pages = isinstance(key, PageKey)
        if (id(node), of_pages) not in self._keys:
            read = key.path_of if isinstance(key, PageKey) else str
            pairs = reversed([*enumerate(node.value)])
            self._keys[id(node), of_pages] = {read(str(one.value)): place for place, (one, _) in pairs}
        return self._keys[id(node), of_pages].get(key.path if isinstance(key, PageKey) else key)

    @cached_property
    def _keys(self) -> dict[tuple[int, bool], dict[str, int]]:
        """For each mapping that was looked into, where each of its keys is."""
        return {}

    def holds(self, keys: Keys) -> int:
        """How many of these keys, one in the other, are there."""
        return next((count for count in range(len(keys), 0, -1) if self.find(keys[:count])), 0)

    def without(self, keys: Keys, goes: Callable[[tuple[str, ...]], bool]) -> Splice:
        """Takes away an entry or an item, and whatever becomes empty around it.

        `goes`: from the keys that lead to an entry, whether it goes once nothing but a reason is left in it. Raises
        CannotRewrite if it is not there, or is said in one place for several.
        """
        found = self.at(keys)
        while is_alone(found) and found.around and goes(found.around[-1].path):
            found = found.around[-1]
        return self.without_found(found)

    def without_found(self, found: Found) -> Splice:
        """Takes away an entry or an item; alone in its mapping or list, it leaves that empty."""
        holder, parts = found.holder, found.holder.value
        if is_alone(found):  # the mapping or list stays, with nothing in it
            begin = self._at(holder.start_mark)
            block = not holder.flow_style and bool(found.around)
            if block:  # from the key on, since the value is in the lines below
                key = found.around[-1].key
                begin = self.content.index(":", self._at(key.end_mark)) + 1 if key else begin
            empty = "{}" if found.is_entry else "[]"
            return self._splice(begin, self._end(holder)[1], f" {empty}" if block else empty, holder)
        if holder.flow_style:
            flat = [part for pair in parts for part in pair] if found.is_entry else parts
            count = 2 if found.is_entry else 1
            return self._without_part(holder, flat, count * found.place, count)
        first = found.key or found.node
        before = self.content[self.starts[first.start_mark.line] : self._at(first.start_mark)].strip()
        if before not in ("", "-") or (not found.is_entry and before != "-"):
            raise CannotRewrite("something stands before it in its line")
        begin, end = first.start_mark.line, self._end(found.node)[0]
        return self._splice(self.starts[begin], self.starts[end + 1], "", holder)

    def change(self, found: Found, value: Raw) -> Splice:
        """Gives an entry another value, or puts another item in place of one."""
        node = found.node
        if found.key and isinstance(node, yaml.CollectionNode) and not node.flow_style:
            begin = (
                self.content.index(":", self._at(found.key.end_mark)) + 1
            )  # from its key on, since the value is in the lines below
            return self._splice(begin, self._end(node)[1], f" {flow(value)}", node)
        if isinstance(value, str) and value.endswith("\n") and self._is_in_lines(node):
            first, end = self.starts[node.start_mark.line + 1], self._end(node)[1]
            text = self.content[first:end].lstrip("\r\n")
            indent = " " * (len(text) - len(text.lstrip(" ")))
            told = self._newline.join(f"{indent}{line}" for line in value.removesuffix("\n").split("\n"))
            return self._splice(first, end, told, node)
        return self._splice(self._at(node.start_mark), self._end(node)[1], flow(value), node)

    def has_lines(self, keys: Keys) -> bool:
        """Whether a text stands under some keys in lines of its own, and ends with a line break."""
        found = self.find(keys)
        return found is not None and self._is_in_lines(found.node)

    def _is_in_lines(self, node: yaml.Node) -> bool:
        header = self.content[self._at(node.start_mark) : self.starts[node.start_mark.line + 1]]
        return isinstance(node, yaml.ScalarNode) and bool(node.value.strip()) and bool(IN_LINES.fullmatch(header))

    def renamed(self, node: yaml.Node, text: str) -> Splice:
        """Puts another text in place of a key or of a single word."""
        return self._splice(self._at(node.start_mark), self._at(node.end_mark), flow(text), node)

    def lift(self, found: Found) -> Splice:
        """Takes an entry out of the mapping that it stands in, to stand beside that; alone in it, in its place."""
        around = found.around[-1]
        if not (found.key and around.key):
            raise CannotRewrite("it stands in no entry")
        begin, end = self._at(around.key.start_mark), self._end(around.node)[1]
        new = self.content[self._at(found.key.start_mark) : self._end(found.node)[1]]
        if len(found.holder.value) == 1:
            between = self.content[self._at(around.key.end_mark) : self._at(found.key.start_mark)]
            comments = [line.strip() for line in lines_of(between) if line.strip().startswith("#")]
            new = f"{self._newline}{' ' * around.key.start_mark.column}".join([*comments, new])
        else:
            rest = self.without_found(found)
            left = self.content[begin : rest.begin] + rest.new + self.content[rest.end : end]
            flows = around.holder.flow_style
            new += (", " if flows else f"{self._newline}{' ' * around.key.start_mark.column}") + left.rstrip()
        return self._splice(begin, end, new, around.holder)

    def put(self, keys: Keys, value: Raw, more: bool = False) -> Splice:
        """Puts a value under these keys, there already or not.

        `keys`: one in the other, the outermost first. `more`: whether a list is there, or will be, to which the value
        is added. Raises CannotRewrite if something else stands there.
        """
        found = self.find(keys)
        if found is not None:
            return self._with_more(found, value) if more else self.change(found, value)
        there = self.holds(keys)
        holder = self.find(keys[:there]) if there else None
        node = holder.node if holder else self.root
        inner: Raw = [value] if more else value
        for outer in reversed(keys[there + 1 :]):
            if isinstance(outer, Item):
                raise CannotRewrite(f"there is no {outer.word}")
            inner = {outer.path if isinstance(outer, PageKey) else outer: inner}
        key = keys[there]
        if node is None:
            raise CannotRewrite("the file is empty")
        if isinstance(key, Item):
            raise CannotRewrite(f"there is no {key.word}")
        if not isinstance(node, yaml.MappingNode):
            raise CannotRewrite(f"{key} would stand in no mapping")
        return self._with_new(node, holder, key.path if isinstance(key, PageKey) else key, inner)

    def beside(self, found: Found, value: Raw, is_after: bool) -> Splice:
        """Puts an item into a list, before or after one that is there; before the comments right above that."""
        node = found.holder
        begin, (last_line, end) = self._at(found.node.start_mark), self._end(found.node)
        if node.flow_style:
            told = f", {flow(value)}" if is_after else f"{flow(value)}, "
            return self._splice(end if is_after else begin, end if is_after else begin, told, node)
        indent = self.content[self.starts[found.node.start_mark.line] : begin]
        first, _ = self._item_lines(found)
        if is_after:
            return self._with_line(node, last_line, indent + flow(value))
        return self._splice(first, first, f"{indent}{flow(value)}{self._newline}", node)

    def moved(self, found: Found, other: Found, is_after: bool) -> tuple[Splice, Splice]:
        """Moves an item of a list in block style, with the comments right above it, before or after another one."""
        node = found.holder
        if node.flow_style or other.holder is not node:
            raise CannotRewrite("they are not in one list with a line for each")
        (begin, end), (before, after) = self._item_lines(found), self._item_lines(other)
        text = self.content[begin:end]
        text = text if text.endswith(("\n", "\r")) else text + self._newline
        to = after if is_after else before
        if to == len(self.content) and not self.content.endswith(("\n", "\r")):
            text = self._newline + text.rstrip("\r\n")
        return self._splice(begin, end, "", node), self._splice(to, to, text, node)

    def _item_lines(self, found: Found) -> tuple[int, int]:
        """Where the lines of an item of a list begin, with the comments right above it, and where they end."""
        line, begin = found.node.start_mark.line, self._at(found.node.start_mark)
        indent = self.content[self.starts[line] : begin]
        if indent.strip() != "-":
            raise CannotRewrite("something stands before an item of the list")
        end = self.starts[self._end(found.node)[0] + 1]
        dash = len(indent) - len(indent.lstrip())
        while line and self.content[self.starts[line - 1] : self.starts[line]].startswith(f"{indent[:dash]}#"):
            line -= 1
        return self.starts[line], end

    def _splice(self, begin: int, end: int, new: str, within: yaml.Node) -> Splice:
        """A splice, if it touches no node that stands in several places by a name (an anchor)."""
        begins, nodes = self._shared
        if end < begin or id(within) in nodes or any(begin <= at < end for at in begins):
            raise CannotRewrite(ALIASED)
        return Splice(begin, end, new, within)

    @cached_property
    def _shared(self) -> tuple[list[int], set[int]]:
        """Where nodes begin that stand in several places, and the identities of these and of all nodes in them."""
        if "&" not in self.content:
            return [], set()
        seen: set[int] = set()
        several: dict[int, yaml.Node] = {}
        left = [self.root] if self.root is not None else []
        while left:
            node = left.pop()
            if id(node) in seen:
                several[id(node)] = node
                continue
            seen.add(id(node))
            left += parts_of(node)
        inner, left = set(several), [*several.values()]
        while left:
            for part in parts_of(left.pop()):
                if id(part) not in inner:
                    inner.add(id(part))
                    left.append(part)
        return [self._at(node.start_mark) for node in several.values()], inner

    def _at(self, mark: yaml.Mark) -> int:
        return self.starts[mark.line] + mark.column

    def _end(self, node: yaml.Node) -> tuple[int, int]:
        """Where the text of a node ends: the number of the line, and the place in the content.

        In block style that is where its last word ends. The parser puts the end of a text in lines (`|`,
        `>`) at the beginning of whatever comes next.
        """
        leaf = last_of(node)
        if leaf is None:
            raise CannotRewrite(ALIASED)
        mark = leaf.end_mark
        if not isinstance(leaf, yaml.ScalarNode) or leaf.style not in ("|", ">") or mark.column:
            return mark.line, self._at(mark)
        line = mark.line - 1
        while line > leaf.start_mark.line and not self.content[self.starts[line] : self.starts[line + 1]].strip():
            line -= 1
        text = self.content[self.starts[line] : self.starts[line + 1]]
        return line, self.starts[line] + len(text.rstrip("\r\n"))

    def _without_part(self, node: yaml.Node, parts: Sequence[yaml.Node], place: int, count: int) -> Splice:
        """Take away neighbouring nodes within brackets, and their comma."""
        if place + count < len(parts):
            return self._splice(self._at(parts[place].start_mark), self._at(parts[place + count].start_mark), "", node)
        return self._splice(self._end(parts[place - 1])[1], self._end(parts[place + count - 1])[1], "", node)

    def _with_more(self, found: Found, value: Raw) -> Splice:
        node = found.node
        if isinstance(node, yaml.ScalarNode):
            return self.change(found, [node.value, value])
        if not isinstance(node, yaml.SequenceNode):
            raise CannotRewrite("it is no list")
        if not node.value and found.holder is self.root and not self.root.flow_style and isinstance(value, dict):
            return self._begun(node, flow(value))
        if node.flow_style or not node.value:
            return self._with_last(node, flow(value))
        last = node.value[-1]
        indent = self.content[self.starts[last.start_mark.line] : self._at(last.start_mark)]
        if indent.strip() != "-":
            raise CannotRewrite("something stands before the last of the list")
        return self._with_line(node, self._end(last)[0], indent + flow(value))

    def _begun(self, node: yaml.SequenceNode, told: str) -> Splice:
        """Puts the first item of an empty list on a line of its own; a comment beside the list stays there."""
        begin, end = self._at(node.start_mark), self._at(node.end_mark)
        line_end = self.starts[self._end(node)[0] + 1]
        rest = self.content[end:line_end].rstrip("\r\n")
        while self.content[begin - 1] == " ":
            begin -= 1
        return self._splice(begin, end + len(rest), f"{rest.rstrip()}{self._newline}  - {told}", node)

    def _with_new(self, mapping: yaml.MappingNode, holder: Found | None, key: str, value: Raw) -> Splice:
        """Puts in a new entry, the last of its mapping."""
        told = f"{flow(key)}: {flow(value)}"
        if mapping.flow_style:
            if not mapping.value and holder is None:  # the whole file is {}: use block style from now on
                return self._splice(self._at(mapping.start_mark), self._at(mapping.end_mark), told, mapping)
            return self._with_last(mapping, told)
        last, mark = mapping.value[-1], mapping.value[0][0].start_mark
        if self.content[self.starts[mark.line] : self._at(mark)].strip() == "?":
            raise CannotRewrite("a key is written with a question mark before it")
        indent = " " * mark.column
        if holder is None and isinstance(value, dict) and any(isinstance(inner, dict) for inner in value.values()):
            # a section of pages, types and the like: each of them on a line of its own
            lines = [f"{indent}  {flow(name)}: {flow(inner)}" for name, inner in value.items()]
            told = self._newline.join([f"{flow(key)}:", *lines])
        elif holder is None and isinstance(value, list) and any(isinstance(inner, dict) for inner in value):
            # a section of rules and the like: what two people add is then in lines of its own, which git can merge
            lines = [f"{indent}  - {flow(inner)}" for inner in value]
            told = self._newline.join([f"{flow(key)}:", *lines])
        return self._with_line(mapping, self._last_line(*last), indent + told)

    def _last_line(self, key: yaml.Node, value: yaml.Node) -> int:
        """The number of the line on which an entry ends."""
        if value.start_mark.index >= key.end_mark.index:
            return self._end(value)[0]
        line = key.end_mark.line  # the value is an alias
        begin = self._at(key.end_mark)
        if not self.content[begin : self.starts[line + 1]].lstrip(" \t:").startswith("*"):
            raise CannotRewrite(ALIASED)
        return line

    def _with_last(self, node: yaml.CollectionNode, told: str) -> Splice:
        """Puts one more within the brackets of a node."""
        if not node.value:
            return self._splice(self._at(node.start_mark) + 1, self._at(node.end_mark) - 1, told, node)
        last = node.value[-1]
        end = self._end(last[1] if isinstance(node, yaml.MappingNode) else last)[1]
        return self._splice(end, end, f", {told}", node)

    def _with_line(self, node: yaml.Node, after: int, told: str) -> Splice:
        """Puts in a line after one; a comment at its end stays there."""
        end = self.starts[after + 1]
        before = "" if self.content[end - 1 : end] in ("\n", "\r") else self._newline
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
