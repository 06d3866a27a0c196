"""YAML, as nodes that know their lines: built from the events of PyYAML's C parser.

Scalars stay texts; the kind of the setting they are for types them. An alias means the node it names.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, TypeAlias

import yaml

from davlo.core.arrays.lines import line_of, lines_of
from davlo.core.faults import Fault, Place
from davlo.core.site.settings.values import Raw

from .yaml_faults import yaml_fault
from .yaml_letters import without_odd_breaks

try:
    from yaml.cyaml import CParser as _Parser  # type: ignore[attr-defined]
except ImportError:  # a PyYAML that was built without its C parser
    from yaml import Loader as _Parser  # type: ignore[assignment]

MOST_NODES = 5_000_000
"""The most nodes that aliases may unfold to."""
MOST_BROKEN = 20
"""The most mistakes of YAML in one file that are reported."""
_SECTION = re.compile(r"[A-Za-z_]+:")
MANY_FAULTS = 200
"""After this many faults of a file, the others get shorter messages."""
_NO_YAML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufffe\uffff]")
"""What no YAML file may hold (YAML 1.2, section 5.1)."""
_NOTHING = frozenset(("", "~", "null", "Null", "NULL"))


@dataclass(slots=True)
class Scalar:
    """A text, and whether it was written without quotes."""

    text: str
    place: Place
    bare: bool

    @property
    def is_nothing(self) -> bool:
        """Whether nothing stands there."""
        return self.bare and self.text in _NOTHING


@dataclass(slots=True)
class Items:
    """A list."""

    items: list[Node]
    place: Place


class Mapping:
    """A mapping; `keys` holds for each key the place where it stands.

    A large file has very many small mappings, and most of them are only iterated. So places are kept in a list beside
    the entries until a key is looked up.
    """

    __slots__ = ("_places", "entries", "place")

    def __init__(
        self, place: Place, entries: dict[str, Node] | None = None, places: list[Place] | dict[str, Place] | None = None
    ) -> None:
        self.place = place
        self.entries: dict[str, Node] = {} if entries is None else entries
        self._places: list[Place] | dict[str, Place] = {} if places is None else places

    @property
    def keys(self) -> dict[str, Place]:
        """Where each key stands."""
        places = self._places
        if isinstance(places, list):
            places = self._places = dict(zip(self.entries, places, strict=True))
        return places

    def drop(self, key: str) -> None:
        """Take a key away."""
        del self.keys[key]
        del self.entries[key]

    def __iter__(self) -> Iterator[tuple[str, Place, Node]]:
        places = self._places
        if isinstance(places, dict):
            return ((key, places[key], node) for key, node in self.entries.items())
        return ((key, place, node) for (key, node), place in zip(self.entries.items(), places, strict=True))


Node: TypeAlias = Scalar | Items | Mapping


def raw(node: Node) -> Raw:
    """The node as texts, lists and mappings."""
    if isinstance(node, Scalar):
        return node.text
    if isinstance(node, Items):
        return [raw(item) for item in node.items]
    return {key: raw(value) for key, value in node.entries.items()}


def read_yaml(
    content: str, file: str, seen: Callable[[str, Node], None] | None = None
) -> tuple[Mapping | None, list[Fault]]:
    """The mapping a YAML file holds, and what is wrong with it.

    `content`: the file's text. `file`: its name in the site folder. `seen`: told of each key at the top and of what it
    holds, as soon as that is read. Returns none where the file could not be read at all. Returns a mistake of YAML
    itself (the reading ends there), keys that stand twice, keys that are no text.
    """
    odd = _NO_YAML.search(content)
    if odd:
        name = "a NUL" if odd[0] == "\0" else f"the control character U+{ord(odd[0]):04X}"
        place = Place(file, line_of(content, odd.start()))
        return None, [Fault(place, f"the line holds {name}, which no YAML file may hold", hint="take it out")]
    composer = _Composer(content, file, seen)
    try:
        return composer.document(), composer.faults
    except yaml.YAMLError as error:
        broken = yaml_fault(error, content, file)
        faults = [fault for fault in composer.faults if fault.place != broken.place]
        return None, [*faults, broken, *_broken_below(content, file, broken.place.line)]
    except TooMuch as error:
        return None, [*composer.faults, error.fault]
    except RecursionError:
        return None, [*composer.faults, Fault(composer.place, "the lists and mappings are nested too deep")]


def _broken_below(content: str, file: str, line: int) -> list[Fault]:
    """The mistakes of YAML in the sections below a broken one, each section read anew."""
    found: list[Fault] = []
    lines = lines_of(content)
    while len(found) < MOST_BROKEN:
        below = (at for at in range(line, len(lines)) if _SECTION.match(lines[at]))
        begin = next(below, None)
        if begin is None:
            break
        rest = "\n" * begin + "".join(lines[begin:])
        try:
            _Composer(rest, file, None).document()
            break
        except yaml.YAMLError as error:
            fault = yaml_fault(error, rest, file)
            if "undefined alias" in fault.what or fault.place.line <= line:
                break
            found.append(fault)
            line = fault.place.line
        except (TooMuch, RecursionError):
            break
    return found


class TooMuch(Exception):
    """The error about a file that would unfold to more than a machine holds."""

    def __init__(self, fault: Fault) -> None:
        self.fault = fault
        super().__init__(fault.what)


class _Composer:
    def __init__(self, content: str, file: str, seen: Callable[[str, Node], None] | None) -> None:
        self.file = file
        self._seen = seen
        self.faults: list[Fault] = []
        text, self._stands_for = without_odd_breaks(content)
        self._parser = _Parser(text)
        self._get_event = self._event if self._stands_for else self._parser.get_event
        self._line, self._place = -1, Place(file)
        self._content = content
        self._split: list[str] | None = None
        self._anchors: dict[str, tuple[Node, int]] = {}
        self._nodes = 0

    @property
    def place(self) -> Place:
        """The line that was read last."""
        return self._place

    def document(self) -> Mapping | None:
        parser = self._parser
        parser.get_event()
        if parser.check_event(yaml.StreamEndEvent):
            self.faults.append(Fault(Place(self.file), "the file is empty", hint="a site begins with davlo: 1"))
            return None
        parser.get_event()
        first: Any = parser.get_event()
        top = type(first) is yaml.MappingStartEvent and not first.anchor
        node = self._mapping(self._place_of(first), first.flow_style, self._seen) if top else self._node(first)
        parser.get_event()
        if not parser.check_event(yaml.StreamEndEvent):
            second: Any = parser.peek_event()
            line = second.start_mark.line + 1
            self.faults.append(Fault(Place(self.file, line), "a second document begins here; a file holds one"))
        if isinstance(node, Mapping):
            return node
        if isinstance(node, Scalar) and node.is_nothing:
            self.faults.append(Fault(Place(self.file), "the file says nothing", hint="a site begins with davlo: 1"))
        else:
            self.faults.append(Fault(node.place, "the file holds keys with values, as in davlo: 1"))
        return None

    def _event(self) -> Any:
        """The next event of a text in which letters of private use stand for others."""
        event: Any = self._parser.get_event()
        if type(event) is yaml.ScalarEvent:
            event.value = event.value.translate(self._stands_for)
        return event

    def _place_of(self, event: Any) -> Place:
        """Where an event begins; nodes of one line share it."""
        line = event.start_mark.line
        if line != self._line:
            self._line, self._place = line, Place(self.file, line + 1)
        return self._place

    def _node(self, event: Any) -> Node:
        self._nodes += 1
        place = self._place_of(event)
        kind = type(event)
        if kind is yaml.AliasEvent:
            return self._alias(event, place)
        before = self._nodes
        node: Node
        if kind is yaml.ScalarEvent:
            node = Scalar(event.value, place, not event.style)
        elif kind is yaml.SequenceStartEvent:
            node = self._items(place)
        else:
            node = self._mapping(place, bool(event.flow_style))
        if event.anchor:
            self._anchors[event.anchor] = (node, self._nodes - before + 1)
        return node

    def _items(self, place: Place) -> Items:
        items: list[Node] = []
        get_event = self._get_event
        while True:
            event: Any = get_event()
            if type(event) is yaml.SequenceEndEvent:
                return Items(items, place)
            item: Node
            if type(event) is yaml.ScalarEvent and not event.anchor:
                self._nodes += 1
                item = Scalar(event.value, self._place_of(event), not event.style)
            else:
                item = self._node(event)
            if type(item) is Scalar and item.bare and item.text in _NOTHING:
                hint = "write a word, or take the line away"
                self.faults.append(Fault(item.place, "nothing stands after this -", hint=hint))
            else:
                items.append(item)

    def _mapping(self, place: Place, flow: bool, seen: Callable[[str, Node], None] | None = None) -> Node:
        entries: dict[str, Node] = {}
        places: list[Place] = []
        empty: list[str] = []
        node = Mapping(place, entries, places)
        get_event, scalar = self._get_event, yaml.ScalarEvent
        begin, end = yaml.MappingStartEvent, yaml.MappingEndEvent
        while True:  # this loop runs for every line of a large file, so the common case calls as little as possible
            event: Any = get_event()
            kind = type(event)
            if kind is end:
                break
            if kind is not scalar or event.anchor:
                self._odd_key(self._node(event), flow, node, places, empty)
                continue
            key, line = event.value, event.start_mark.line
            if line != self._line:
                self._line, self._place = line, Place(self.file, line + 1)
            at = self._place
            event = get_event()
            kind = type(event)
            value: Node
            if event.anchor or (kind is not scalar and kind is not begin):
                value = self._node(event)
            elif kind is begin:
                line = event.start_mark.line
                if line != self._line:
                    self._line, self._place = line, Place(self.file, line + 1)
                value = self._mapping(self._place, event.flow_style)
            else:
                text, bare, line = event.value, not event.style, event.start_mark.line
                if line != self._line:
                    self._line, self._place = line, Place(self.file, line + 1)
                value = Scalar(text, self._place, bare)
                if bare and text in _NOTHING:
                    empty.append(key)
                    if not flow:
                        self._says_nothing(Scalar(key, at, bare=True))
                    continue
            if key in entries:
                self._stands_again(key, at, node)
            else:
                entries[key] = value
                places.append(at)
                if seen:
                    seen(key, value)
        self._nodes += 2 * len(places)
        if flow and empty:
            written = "{" + ", ".join([*node.entries, *empty]) + "}"
            what = f"{empty[0]} has no value in {written}"
            self.faults.append(Fault(place, what, hint=f'if it is a text, put it in quotes: "{written}"'))
            if not node.entries:
                return Scalar(written, place, bare=False)
        return node

    def _stands_again(self, key: str, at: Place, node: Mapping) -> None:
        what = f"{key} is set twice"
        if len(self.faults) < MANY_FAULTS:  # to find the first takes as long as the mapping is
            what += f"; the first is at line {list(node)[list(node.entries).index(key)][1].line}"
        self.faults.append(Fault(at, what))

    def _odd_key(self, key: Node, flow: bool, node: Mapping, places: list[Place], empty: list[str]) -> None:
        """A key that has an anchor, is an alias, or is no word."""
        value = self._node(self._get_event())
        if not isinstance(key, Scalar):
            what = "a key is a single word here, not a list or a mapping"
            self.faults.append(Fault(key.place, what, hint='a value that begins with { stands in quotes: "{title}"'))
        elif isinstance(value, Scalar) and value.is_nothing:
            empty.append(key.text)
            if not flow:
                self._says_nothing(key)
        elif key.text in node.entries:
            self._stands_again(key.text, key.place, node)
        else:
            node.entries[key.text] = value
            places.append(key.place)

    @property
    def _lines(self) -> list[str]:
        """The lines of the file, split once."""
        if self._split is None:
            self._split = lines_of(self._content)
        return self._split

    def _says_nothing(self, key: Scalar) -> None:
        """A key with nothing after it, and what was probably meant."""
        lines = self._lines
        line = lines[key.place.line - 1] if key.place.line <= len(lines) else ""
        after = line.partition(":")[2].strip()
        if after.startswith("#"):
            hint = f'a # begins a comment; put a color in quotes: {key.text}: "{after.split()[0]}"'
        else:
            hint = "write none for an explicit nothing, or take the line away to inherit"
        self.faults.append(Fault(key.place, f"{key.text} has nothing after it", hint=hint))

    def _alias(self, event: Any, place: Place) -> Node:
        if event.anchor not in self._anchors:
            self.faults.append(
                Fault(
                    place,
                    f"*{event.anchor} names nothing above",
                    hint=f'a text that begins with * stands in quotes: "*{event.anchor}"',
                )
            )
            return Scalar("", place, bare=False)
        node, size = self._anchors[event.anchor]
        self._nodes += size
        if self._nodes > MOST_NODES:
            raise TooMuch(Fault(place, f"the aliases of this file unfold to more than {MOST_NODES:,} values"))
        return node
