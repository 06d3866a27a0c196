"""Scope bodies: what is said everywhere, of a type, below a page, by a rule, or by a page itself."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from davlo.core.catalogue import ACCESS_FAMILIES, Catalogue, Setting
from davlo.core.faults import Place, UnknownName, ValueFault
from davlo.core.statements import SAID_STEP, Form, Scope, Stated
from davlo.core.values import Reference, Value, read_value

from .reading import Reader
from .yaml_nodes import Mapping, Node, raw

RESERVED = ("use", "lock", "access", "deny", "fresh_access", "because")
SCOPE_WORD = {
    Scope.EVERYWHERE: "everywhere",
    Scope.TYPE: "type",
    Scope.BELOW: "below",
    Scope.RULE: "rule",
    Scope.HERE: "here",
}
NAMED_BY = {"everywhere": Scope.EVERYWHERE, "type": Scope.TYPE, "below": Scope.BELOW}
PRESETS_OF_OTHER = 10_000
"""The step at which the presets of `below` or `here` begin, after those of `here_and_below`."""


class Target(NamedTuple):
    """One scope that statements are for: its kind, its number, and what distinguishes it in messages."""

    scope: Scope
    number: int
    key: str
    both: bool = False


class Entry(NamedTuple):
    """One setting and its value in a body or a preset."""

    setting: int
    value: Value
    place: Place
    locked: bool = False


@dataclass(slots=True)
class Book:
    """Gathers statements from every file, and tells what stands twice."""

    catalogue: Catalogue
    reader: Reader
    presets: dict[str, tuple[Place, list[Entry]]] = field(default_factory=dict)
    stated: list[Stated] = field(default_factory=list)
    fresh: list[Stated] = field(default_factory=list)
    _first: dict[tuple[Scope, str, int], Place] = field(default_factory=dict)

    def finish(self) -> list[Stated]:
        """All statements; `fresh_access` as the empty list on every access setting there is by now."""
        numbers = self.catalogue.access_numbers()
        for fresh in self.fresh:
            for number in numbers:
                self.stated.append(
                    Stated(
                        number,
                        fresh.scope,
                        fresh.target,
                        (),
                        fresh.place,
                        Form.FRESH,
                        fresh.step,
                        both=fresh.both,
                        because=fresh.because,
                    )
                )
        return self.stated

    def say(self, target: Target, entry: Entry, because: str = "") -> None:
        """Add what a scope itself says of a setting, unless it may not say it."""
        key = (target.scope, target.key, entry.setting)
        setting = self.catalogue[entry.setting]
        if key in self._first:
            what = f"{setting.name} stands twice in one scope ({_scope_words(target)}); it is at {self._first[key]} too"
            self.reader.fault(entry.place, what)
            return
        self._first[key] = entry.place
        if self.may_stand(target, entry, setting, entry.place):
            self.stated.append(
                Stated(
                    entry.setting,
                    target.scope,
                    target.number,
                    entry.value,
                    entry.place,
                    step=SAID_STEP,
                    locked=entry.locked,
                    both=target.both,
                    because=because,
                )
            )

    def may_stand(self, target: Target, entry: Entry, setting: Setting, place: Place) -> bool:
        """Whether a setting and a value may stand in a scope; where not, the fault is noted."""
        word = SCOPE_WORD[target.scope]
        if word not in setting.scopes:
            told = ", ".join(setting.scopes) or "nowhere"
            self.reader.fault(place, f"{setting.name} may not be set here ({word}); it may be set in: {told}")
            return False
        if isinstance(entry.value, Reference) and NAMED_BY[entry.value.scope] >= target.scope:
            weaker = [f"<{name}>" for name, scope in NAMED_BY.items() if scope < target.scope]
            hint = f"one may stand here: {', '.join(weaker)}" if weaker else "no such word may stand here"
            what = f"<{entry.value.scope}> may only stand in a stronger scope than it names"
            self.reader.fault(place, what, hint=hint)
            return False
        return True

    def use(self, target: Target, preset: str, place: Place, step: int, because: str) -> None:
        """Add the values of a preset to a scope."""
        declared = self.presets.get(preset)
        if declared is None:
            self.reader.fault(place, f"there is no preset {preset!r}", preset, tuple(self.presets))
            return
        for entry in declared[1]:
            if self.may_stand(target, entry, self.catalogue[entry.setting], place):
                self.stated.append(
                    Stated(
                        entry.setting,
                        target.scope,
                        target.number,
                        entry.value,
                        place,
                        Form.PRESET,
                        step,
                        both=target.both,
                        because=because,
                        preset=preset,
                        preset_place=entry.place,
                    )
                )


def _scope_words(target: Target) -> str:
    word = SCOPE_WORD[target.scope]
    return f"{word} {target.key}" if target.key else word


class BodyReader:
    """Reads scope bodies and presets into a book."""

    def __init__(self, book: Book) -> None:
        self.book = book
        self.reader = book.reader
        self.catalogue = book.catalogue

    def presets(self, section: Mapping) -> None:
        """The presets; `use` finds them by name."""
        for name, place, node in section:
            entries: list[Entry] = []
            seen: dict[int, Place] = {}
            for key, at, value in self.reader.mapping(node, f"the preset {name}"):
                if key in ("label", "note"):
                    continue
                if key in RESERVED and key not in ACCESS_FAMILIES:
                    self.reader.fault(at, f"a preset holds settings, access, deny, label and note, not {key}")
                    continue
                for entry in self._entries(key, at, value, locked=False):
                    if entry.setting in seen:
                        told = self.catalogue[entry.setting].name
                        self.reader.fault(
                            entry.place, f"{told} stands twice in the preset {name}; it is at {seen[entry.setting]} too"
                        )
                    seen[entry.setting] = entry.place
                    entries.append(entry)
            self.book.presets[name] = (place, entries)

    def body(self, node: Node, targets: tuple[Target, ...], what: str) -> None:
        """One scope body, for one target or (`here_and_below`) for two."""
        body = self.reader.mapping(node, what)
        because = self.reader.text(body.entries.get("because"), "because")
        first = targets[0].both
        if self.reader.yes_no(body.entries.get("fresh_access"), "fresh_access"):
            place = body.keys["fresh_access"]
            for target in targets:
                step = 0 if first else 1
                self.book.fresh.append(
                    Stated(
                        -1, target.scope, target.number, (), place, Form.FRESH, step, both=target.both, because=because
                    )
                )
        for i, (preset, place) in enumerate(self.reader.words(body.entries.get("use"), "use")):
            for target in targets:
                self.book.use(target, preset, place, (2 if first else PRESETS_OF_OTHER) + i, because)
        for key, place, value in body:
            if key == "lock":
                self._lock(value, place, targets, because)
            elif key not in RESERVED or key in ACCESS_FAMILIES:
                self._say(self._entries(key, place, value, locked=False), targets, because)

    def _lock(self, node: Node, place: Place, targets: tuple[Target, ...], because: str) -> None:
        if all(target.scope == Scope.HERE for target in targets):
            hint = "write here_and_below, whose lock binds what is below, or take the lock away"
            self.reader.fault(place, "a lock in here means nothing: nothing is stronger than here", hint=hint)
            return
        for key, at, value in self.reader.mapping(node, "lock"):
            if key in RESERVED and key not in ACCESS_FAMILIES:
                self.reader.fault(at, f"lock holds settings, access and deny, not {key}")
            else:
                self._say(self._entries(key, at, value, locked=True), targets, because)

    def _say(self, entries: list[Entry], targets: tuple[Target, ...], because: str) -> None:
        for entry in entries:
            for target in targets:
                locked = entry.locked and target.scope != Scope.HERE
                self.book.say(target, Entry(entry.setting, entry.value, entry.place, locked), because)

    def _entries(self, key: str, place: Place, node: Node, locked: bool) -> list[Entry]:
        """The settings that a key of a body speaks of: one, or one for each subject of access and deny."""
        if key not in ACCESS_FAMILIES:
            entry = self.entry(key, place, node, locked)
            return [entry] if entry else []
        found = []
        for subject, at, value in self.reader.mapping(node, key):
            entry = self.entry(f"{key}.{subject}", at, value, locked)
            found += [entry] if entry else []
        return found

    def entry(self, name: str, place: Place, node: Node, locked: bool) -> Entry | None:
        """One setting and its value; None where either is not understood."""
        try:
            number = self.catalogue.number(name)
        except UnknownName as error:
            allowed = (*error.allowed, *RESERVED) if error.what == "setting" else error.allowed
            self.reader.fault(place, str(error), error.word, allowed)
            return None
        value = read_node(self.catalogue[number], node, place, self.reader)
        return None if isinstance(value, Unread) else Entry(number, value, place, locked)


class Unread:
    """What stands for a value that could not be read; the fault is noted."""


UNREAD = Unread()


def read_node(setting: Setting, node: Node, place: Place, reader: Reader) -> Value | Unread:
    """The value a node holds, typed by the setting's kind."""
    try:
        value = read_value(setting, raw(node))
    except ValueFault as error:
        hint = error.hint
        if isinstance(node, Mapping) and setting.kind != "list" and not hint and "by_depth" not in node.entries:
            hint = "if it is a text, put it in quotes"
        reader.fault(place, error.what, error.word, error.allowed, hint)
        return UNREAD
    return value
