"""Reads nodes by the shape that is allowed there; anything else becomes a fault, and reading continues."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import TypeVar

import numpy as np

from davlo.core.arrays.codebooks import Codes
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Fault, Place, UnknownName, ValueFault
from davlo.core.site.file_notes import RolePlace
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.settings.names import what_is_wrong
from davlo.core.site.settings.near_names import near_paths
from davlo.core.site.settings.numbers import number_of
from davlo.core.site.settings.setting import FLAGS, Setting
from davlo.core.site.settings.values import Raw, Value, words_of
from davlo.core.wording import round_circle

from ..digests import digest
from .yaml_nodes import Items, Mapping, Node, Scalar

Choice = TypeVar("Choice", bound=str)


class Reader:
    """Collects faults while nodes are read, and notes about what Davlo reads differently."""

    def __init__(self) -> None:
        self.faults: list[Fault] = []
        self.notes: list[str] = []
        self.names = PageNames("")
        self._page_words: dict[int, str] = {}
        self._last_names: tuple[tuple[str, ...], frozenset[str]] = (), frozenset()
        self._role_lines: dict[RolePlace, list[int]] = {}
        self.digests: dict[str, str] = {}

    def page_path(self, name: str) -> str:
        """The path that a name of a page means."""
        return self.names.path(name)

    def note_content(self, file: str, content: bytes | memoryview) -> None:
        """Note which bytes of a file are read."""
        self.digests[file] = digest(content)

    def note(self, file: str, what: str) -> None:
        """Note something that Davlo reads differently from how it is written."""
        self.notes.append(f"{file}: {what}")

    def fault(self, place: Place, what: str, word: str = "", allowed: Iterable[str] = (), hint: str = "") -> None:
        """Note a fault."""
        self.faults.append(Fault(place, what, word, tuple(allowed), hint))

    def page_fault(self, place: Place, what: str, word: str) -> None:
        """Note a name of a page that does not begin with a slash; `hint_pages` finds the page that was meant."""
        self.fault(place, what, hint=f"write /{word}")
        self._page_words[len(self.faults) - 1] = word

    def hint_pages(self, paths: Texts) -> None:
        """Once the pages are known, find the page that was meant by a name without its slash."""
        meant = near_paths((f"/{word}" for word in self._page_words.values()), paths)
        for number, word in self._page_words.items():
            if f"/{word}" in meant:
                self.faults[number] = self.faults[number]._replace(hint=f"write {meant[f'/{word}']}")

    def note_roles(self, setting: Setting, said: Value, file: str, lines: Iterable[int]) -> None:
        """Note the roles that statements name, on which lines; `said`: the value with their names."""
        for role in setting.stands_for.keys() & set(words_of(said)):
            self._role_lines.setdefault(RolePlace(role, setting.name, file, said), []).extend(lines)

    def note_role(self, role: str, place: Place, key: str = "", said: Value = None) -> None:
        """Note a role that something else than a statement names.

        `key`: for a guarantee, `may` or `may_not` and the subject, as in `may.staff`. `said`: the words with the role.
        """
        self._role_lines.setdefault(RolePlace(role, key, place.file, said), []).append(place.line)

    def role_places(self) -> dict[RolePlace, Codes]:
        """Where roles are named."""
        return {place: np.array(lines, dtype=np.int32) for place, lines in self._role_lines.items()}

    def value_fault(self, place: Place, error: ValueFault) -> None:
        """Note a value that its setting cannot take."""
        self.faults.append(error.at(place))

    def unknown(self, place: Place, error: UnknownName) -> None:
        """Note a name that is not known."""
        self.fault(place, str(error), error.word, () if error.hint else error.allowed, error.hint)

    def mapping(
        self, node: Node, what: str, allowed: Sequence[str] | None = None, hint: Callable[[str], str] = lambda key: ""
    ) -> Mapping:
        """A mapping; an empty one if something else stands there.

        Keys that are not among `allowed` are faults; `hint` gives what to type instead of one.
        """
        if not isinstance(node, Mapping):
            self.fault(node.place, f"{what} takes keys with values, not {_described(node)}")
            return Mapping(node.place)
        if allowed is None:
            return node
        known = Mapping(node.place)
        for key, place, value in node:
            if key in allowed:
                known.entries[key], known.keys[key] = value, place
            else:
                self.fault(place, f"{what} has no key {key!r}", key, () if hint(key) else allowed, hint(key))
        return known

    def items_or_one(self, node: Node) -> list[Node]:
        """The items of a list; anything else counts as a list of one."""
        return node.items if isinstance(node, Items) else [node]

    def items(self, node: Node, what: str) -> list[Node]:
        """The items of a list; none if something else stands there."""
        if isinstance(node, Items):
            return node.items
        first = next(iter(node.entries), "") if isinstance(node, Mapping) else ""
        hint = f"begin each entry with a dash, as in - {first}: …" if first else ""
        self.fault(node.place, f"{what} takes a list, not {_described(node)}", hint=hint)
        return []

    def text(self, node: Node | None, what: str) -> str:
        """A text; empty where the node is missing or something else."""
        if node is None:
            return ""
        if isinstance(node, Scalar):
            return node.text
        self.fault(node.place, f"{what} takes a text, not {_described(node)}")
        return ""

    def words(self, node: Node | None, what: str) -> list[tuple[str, Place]]:
        """One word or a list of them, each with its place."""
        if node is None:
            return []
        if isinstance(node, Scalar):
            return [(node.text, node.place)]
        found = []
        for item in self.items(node, what):
            if isinstance(item, Scalar):
                found.append((item.text, item.place))
            else:
                self.fault(item.place, f"{what} takes words, not {_described(item)}")
        return found

    def known(
        self,
        node: Node | None,
        what: str,
        allowed: Iterable[str],
        kind: str,
        hint: Callable[[str], str] = lambda word: "",
    ) -> tuple[str, ...]:
        """Words that must be among `allowed`; those that are not are faults and left out.

        `hint` gives what to type instead of one.
        """
        allowed, found = tuple(allowed), []
        known = self._set_of(allowed)
        for word, place in self.words(node, what):
            if word in known:
                found.append(word)
            else:
                told = hint(word)
                self.fault(place, f"{what}: there is no {kind} {word!r}", word, () if told else allowed, told)
        return tuple(dict.fromkeys(found))

    def _set_of(self, names: tuple[str, ...]) -> frozenset[str]:
        """Names as a set; those of many declarations are asked for again and again, and are made a set once."""
        if self._last_names[0] is not names:
            self._last_names = names, frozenset(names)
        return self._last_names[1]

    def known_one(self, node: Node | None, what: str, allowed: Iterable[str], kind: str) -> str:
        """One word that must be among `allowed`, and no list; empty if it is not, which is a fault, or not there."""
        if isinstance(node, Items):
            words = [word for word, _ in self.words(node, what)]
            hint = f"{what}: {words[0]}" if words else ""
            self.fault(node.place, f"{what} takes one {kind}, not a list", hint=hint)
            return ""
        return next(iter(self.known(node, what, allowed, kind)), "")

    def one_of(self, node: Node | None, what: str, allowed: Sequence[str], default: str) -> str:
        """A word among `allowed`."""
        if node is None:
            return default
        if isinstance(node, Scalar) and node.text in allowed:
            return node.text
        word = node.text if isinstance(node, Scalar) else ""
        self.fault(node.place, f"{what} takes one of {', '.join(allowed)}, not {_described(node)}", word, allowed)
        return default

    def flag(self, node: Node | None, what: str, default: bool = False) -> bool:
        """yes or no."""
        if node is None:
            return default
        if isinstance(node, Scalar) and node.text.lower() in FLAGS:
            return FLAGS[node.text.lower()]
        self.fault(node.place, f"{what} takes yes or no, not {_described(node)}")
        return default

    def number(
        self, node: Node | None, what: str, default: float, least: float = 0, most: float = 1e9, whole: bool = True
    ) -> float:
        """A number within bounds."""
        if node is None:
            return default
        text = node.text if isinstance(node, Scalar) else ""
        number = number_of(text)
        if number is not None and least <= number <= most and (not whole or number.is_integer()):
            return number
        kind = "an integer" if whole else "a number"
        self.fault(node.place, f"{what} takes {kind} from {least:g} to {most:g}, not {_described(node)}")
        return default

    def name(self, name: str, place: Place, what: str) -> None:
        """Check that a name is lower-case words with - or . between."""
        told, hint = what_is_wrong(name, what)
        if told:
            self.fault(place, told, hint=hint)

    def circles(self, above: dict[str, tuple[str, ...]], places: dict[str, Place], what: str) -> set[str]:
        """Names that form circles, each circle reported once. `above` gives for a name those it is based on."""
        looped: set[str] = set()
        order = {name: i for i, name in enumerate(above)}
        for circle in _circles(above):
            if not looped & set(circle):
                at = min(range(len(circle)), key=lambda i: order[circle[i]])
                told = [*circle[at:], *circle[: at + 1]]
                self.fault(places[told[0]], f"the {what} go round in a circle: {round_circle(told)}")
            looped |= set(circle)
        return looped


def _circles(above: dict[str, tuple[str, ...]]) -> Iterator[list[str]]:
    """The circles among names, found in one walk over all of them."""
    done: set[str] = set()
    for start in above:
        if start in done:
            continue
        way, place = [start], {start: 0}
        left = [iter(above[start])]
        while way:
            other = next(left[-1], None)
            if other is None:
                done.add(way[-1])
                del place[way.pop()]
                left.pop()
            elif other in place:
                yield way[place[other] :]
            elif other in above and other not in done:
                place[other] = len(way)
                way.append(other)
                left.append(iter(above[other]))


def _described(node: Node) -> str:
    if isinstance(node, Scalar):
        return repr(node.text)
    return "a list" if isinstance(node, Items) else "a mapping"


def words_in(said: Raw) -> Iterator[str]:
    """Every word in nested lists and mappings."""
    if isinstance(said, str):
        yield said
    else:
        for inner in said.values() if isinstance(said, dict) else said:
            yield from words_in(inner)
