"""Scope bodies: what is said everywhere, of a type, below a page, by a rule, or by a page itself."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.codebooks import Codebook, Codes
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, UnknownName, ValueFault
from davlo.core.site.pages.tree import Tree
from davlo.core.site.pages.types import Types
from davlo.core.site.settings.catalogue import GrowingCatalogue
from davlo.core.site.settings.parse_values import check_scope, keeping_roles, read_value
from davlo.core.site.settings.scopes import OF_PAGES, ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES, Setting
from davlo.core.site.settings.values import Value
from davlo.core.site.statements.new_statements import (
    PRESET_STEP,
    PRESET_STEP_OF_OTHER,
    SAID_STEP,
    Form,
    NewStatement,
    StatementBatch,
    settled,
)

from ...form.davlo_yaml import SCOPE_KEYS
from ..yaml.node_reader import Reader, words_in
from ..yaml.yaml_nodes import Mapping, Node, raw

RESERVED = tuple(SCOPE_KEYS)


class Target(NamedTuple):
    """One scope that statements are for: its kind, its number (as `Statements.target` holds it), its name."""

    scope: ScopeKind
    number: int
    name: str
    both: bool = False


class Entry(NamedTuple):
    """One setting and its value in a body or a preset."""

    setting: int
    value: Value
    place: Place
    locked: bool = False


@dataclass(slots=True)
class StatementCollector:
    """Collects statements from every file, and reports settings that are set twice.

    Statements are read before it is known which pages there are, since a large page list is read beside them: pages
    are named by the numbers that `pages` gives, until `settle` says what these mean.
    """

    catalogue: GrowingCatalogue
    reader: Reader
    types: Types
    presets: dict[str, tuple[Place, list[Entry]]] = field(default_factory=dict)
    idle_uses: dict[str, Place] = field(default_factory=dict)
    """The presets that set nothing and are used all the same, each with the first place."""
    stated: list[NewStatement] = field(default_factory=list)
    fresh: list[NewStatement] = field(default_factory=list)
    batches: list[StatementBatch] = field(default_factory=list)
    gone: Codebook[str] = field(default_factory=Codebook)
    numbers: Codes = field(default_factory=lambda: np.zeros(0, dtype=np.int32))
    """What each number from `pages` means once it is settled, as `Statements.target` has it."""
    _paths: list[Texts] = field(default_factory=list)
    _count: int = 0
    names: dict[tuple[int, int], str] = field(default_factory=dict)
    """What types and rules are called, by scope and number."""

    def pages(self, paths: Texts) -> Codes:
        """Provisional numbers for pages, until the pages are known. int32[paths]"""
        self._paths.append(paths)
        self._count += len(paths)
        return np.arange(self._count - len(paths), self._count, dtype=np.int32)

    def settle(self, tree: Tree) -> None:
        """Replace the numbers from `pages` in the batches by page numbers, now that the pages are known."""
        found = [tree.find_all(paths) for paths in self._paths]
        for paths, pages in zip(self._paths, found, strict=True):
            for i in np.flatnonzero(pages < 0).tolist():
                pages[i] = -1 - self.gone.code(paths[i])
        self.numbers = np.concatenate([self.numbers, *found])
        self.batches = [
            batch._replace(target=settled(batch.scope, batch.target, self.numbers)) for batch in self.batches
        ]

    def finish(self, tree: Tree) -> list[NewStatement]:
        """All statements but those in batches; `fresh_access` is the empty list of every access setting.

        A setting that is twice in one scope is a fault.
        """
        self._tell_repeated(tree)
        numbers = self.catalogue.access_numbers()
        return [*self.stated, *(fresh._replace(setting=number) for fresh in self.fresh for number in numbers)]

    def _tell_repeated(self, tree: Tree) -> None:
        said = [s for s in self.stated if s.form == Form.SAID]
        parts = [np.array([(s.scope, s.setting, s.target) for s in said], dtype=np.int64).reshape(-1, 3).T]
        parts[0][2] = settled(parts[0][0], parts[0][2], self.numbers)
        parts += [np.stack([batch.scope.astype(np.int64), batch.setting, batch.target]) for batch in self.batches]
        scope, setting, target = np.concatenate(parts, axis=1)
        key = (scope * len(self.catalogue) + setting << 32) + target + (1 << 31)
        ordered = np.sort(key)
        if not (ordered[1:] == ordered[:-1]).any():
            return
        places = [s.place for s in said]
        places += [Place(batch.file, line) for batch in self.batches for line in batch.line.tolist()]
        first: dict[int, Place] = {}
        for one, what, page, place in zip(key.tolist(), setting.tolist(), target.tolist(), places, strict=True):
            if one in first:
                words = self._scope_words(ScopeKind(one // len(self.catalogue) >> 32), page, tree)
                told = f"{self.catalogue[what].name} is set twice in one scope ({words}); the first is at {first[one]}"
                self.reader.fault(place, told)
            first.setdefault(one, place)

    def _scope_words(self, scope: ScopeKind, target: int, tree: Tree) -> str:
        if scope in OF_PAGES:
            return f"{scope.word} {tree.paths[target] if target >= 0 else self.gone[-1 - target]}"
        return f"{scope.word} {self.names.get((scope, target), '')}".rstrip()

    def say(self, target: Target, entry: Entry, because: str = "") -> None:
        """Add what a scope itself says of a setting, unless it may not say it."""
        self.names[target.scope, target.number] = target.name
        if self.may_stand(target.scope, entry.value, self.catalogue[entry.setting], entry.place):
            self.stated.append(
                NewStatement(
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

    def may_stand(self, scope: ScopeKind, value: Value, setting: Setting, place: Place) -> bool:
        """Whether a setting and a value may stand in a scope; where not, the fault is noted."""
        try:
            check_scope(scope, value, setting)
        except ValueFault as error:
            self.reader.value_fault(place, error)
            return False
        return True

    def use(self, target: Target, preset: str, place: Place, step: int, because: str) -> None:
        """Add the values of a preset to a scope."""
        declared = self.presets.get(preset)
        if declared is None:
            self.reader.fault(place, f"there is no preset {preset!r}", preset, tuple(self.presets))
            return
        if not declared[1]:
            self.idle_uses.setdefault(preset, place)
        for entry in declared[1]:
            if self.may_stand(target.scope, entry.value, self.catalogue[entry.setting], place):
                self.stated.append(
                    NewStatement(
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


class BodyReader:
    """Reads scope bodies and presets into a collector."""

    def __init__(self, collector: StatementCollector) -> None:
        self.collector = collector
        self.reader = collector.reader
        self.catalogue = collector.catalogue

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
                for role in self.catalogue.words.roles.keys() & set(words_in(raw(value))):
                    self.reader.note_role(role, at)
                for entry in self._entries(key, at, value, locked=False):
                    if entry.setting in seen:
                        told = self.catalogue[entry.setting].name
                        self.reader.fault(
                            entry.place,
                            f"{told} is set twice in the preset {name}; the first is at {seen[entry.setting]}",
                        )
                    seen[entry.setting] = entry.place
                    entries.append(entry)
            self.collector.presets[name] = (place, entries)

    def body(self, node: Node, targets: tuple[Target, ...], what: str, beside: Node | None = None) -> None:
        """One scope body, for one target or (`here_and_below`) for two; of a rule the reason may stand `beside` it."""
        body = self.reader.mapping(node, what)
        because = self.reader.text(body.entries.get("because", beside), "because")
        if beside is not None and "because" in body.entries:
            self.reader.fault(body.keys["because"], f"because is said twice; the first is at {beside.place}")
        first = targets[0].both
        if self.reader.flag(body.entries.get("fresh_access"), "fresh_access"):
            place = body.keys["fresh_access"]
            for target in targets:
                step = 0 if first else 1
                self.collector.fresh.append(
                    NewStatement(
                        -1, target.scope, target.number, (), place, Form.FRESH, step, both=target.both, because=because
                    )
                )
        for i, (preset, place) in enumerate(self.reader.words(body.entries.get("use"), "use")):
            for target in targets:
                self.collector.use(target, preset, place, (PRESET_STEP if first else PRESET_STEP_OF_OTHER) + i, because)
        for key, place, value in body:
            if key == "lock":
                self._lock(value, place, targets, because)
            elif key not in RESERVED or key in ACCESS_FAMILIES:
                self._say(self._entries(key, place, value, locked=False), targets, because)

    def _lock(self, node: Node, place: Place, targets: tuple[Target, ...], because: str) -> None:
        if all(target.scope == ScopeKind.HERE for target in targets):
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
                locked = entry.locked and target.scope != ScopeKind.HERE
                self.collector.say(target, Entry(entry.setting, entry.value, entry.place, locked), because)

    def _entries(self, key: str, place: Place, node: Node, locked: bool) -> list[Entry]:
        """The settings that a key of a body sets: one, or one for each subject of access and deny."""
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
            self.reader.fault(place, str(error), error.word, () if error.hint else allowed, error.hint)
            return None
        value = read_node(self.catalogue[number], node, place, self.reader)
        return None if isinstance(value, Unread) else Entry(number, value, place, locked)


class Unread:
    """The value used where one could not be read; the fault is noted."""


UNREAD = Unread()


def read_node(setting: Setting, node: Node, place: Place, reader: Reader) -> Value | Unread:
    """The value a node holds, typed by the setting's kind."""
    said = raw(node)
    try:
        value = read_value(setting, said)
        if not setting.stands_for.keys().isdisjoint(words_in(said)):
            reader.note_roles(setting, read_value(keeping_roles(setting), said), place.file, (place.line,))
    except ValueFault as error:
        hint = error.hint
        if isinstance(node, Mapping) and setting.kind != "list" and not hint and "by_depth" not in node.entries:
            hint = "if it is a text, put it in quotes"
        reader.fault(place, error.what, error.word, error.allowed, hint)
        return UNREAD
    return value
