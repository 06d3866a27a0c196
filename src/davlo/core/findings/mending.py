"""What would mend a finding: ways, each of them steps that change what the files say."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple, TypeAlias

import numpy as np

from ..change.reach import Reach, StatementEdit, reach, reach_without
from ..faults import Place
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.new_statements import Form
from ..site.scopes import ScopeKind
from ..site.values import Raw, Value

MOST_STEPS = 500
"""A way of more steps is none that anybody takes by hand."""
FEW = 50
"""So many pages are mended one by one."""


class Taken(NamedTuple):
    """Take away what a line says: an entry of this name, or a setting's cell; without a name, the item of a list."""

    file: str
    line: int
    name: str = ""


class Changed(NamedTuple):
    """Give an entry, or a cell, another value."""

    file: str
    line: int
    name: str
    value: Raw


class Lifted(NamedTuple):
    """Let what a line locks be said without the lock."""

    file: str
    line: int
    name: str


class Put(NamedTuple):
    """Put a value under keys, one in the other: of the whole site, or in the entry of a name, or the item, at a place.

    `more`: it is one more of a list.
    """

    keys: tuple[str, ...]
    value: Raw
    place: Place | None = None
    name: str = ""
    more: bool = False


class Added(NamedTuple):
    """Add a row to a sheet."""

    file: str
    cells: Mapping[str, Raw]


Step: TypeAlias = Taken | Changed | Lifted | Put | Added


class Remedy(NamedTuple):
    """One way to mend a finding.

    Attributes
    ----------
    words : str
        What it does, as in "take away the look".
    steps : tuple of Step
    effects : tuple of StatementEdit, or None
        The statements that become other ones; none where no page's value changes. None: what it changes is not told.
    """

    words: str
    steps: tuple[Step, ...]
    effects: tuple[StatementEdit, ...] | None = ()

    def changes(self, effective: EffectiveModel) -> int | None:
        """How many pages would get another value; None where that cannot be told."""
        if self.effects is None:
            return None
        found = np.zeros(len(effective.site.tree), dtype=bool)
        by_setting: dict[int, list[StatementEdit]] = {}
        for effect in self.effects:
            by_setting.setdefault(effect.setting, []).append(effect)
        for setting, some in by_setting.items():
            changed = np.zeros(len(found), dtype=bool)
            for reached in _reached(effective, setting, some):
                changed[reached.pages] = True
            found |= changed & effective.site.has(setting)
        return int(np.count_nonzero(found))


def _reached(effective: EffectiveModel, setting: int, edits: list[StatementEdit]) -> Iterator[Reach]:
    """What edits of one setting change. Those that are taken away may have hidden one another: they go together."""
    gone = [one for one in edits if one.gone]
    if len(gone) > 1 and any(one.scope not in (ScopeKind.HERE, ScopeKind.STAMP) for one in gone):
        statements = effective.site.statements
        numbers = [statements.find(setting, one.scope, one.target) for one in gone]
        yield reach_without(effective, setting, [number for number in numbers if number >= 0])
        edits = [one for one in edits if not one.gone]
    for edit in edits:
        yield reach(effective, edit)


def without(site: SiteModel, words: str, numbers: Sequence[int]) -> Remedy | None:
    """The way that takes these statements away; None where they are very many, or a preset says it.

    Of a `fresh_access` it cannot be told what comes back.
    """
    statements, steps, effects, is_told = site.statements, [], [], True
    if len(numbers) > MOST_STEPS:
        return None
    for number in numbers:
        form = int(statements.form[number]) if number >= 0 else None
        if form not in (Form.SAID, Form.FRESH):
            return None
        place, setting = statements.place(number), int(statements.setting[number])
        is_told &= form == Form.SAID
        name = site.catalogue[setting].name if form == Form.SAID else "fresh_access"
        steps.append(Taken(place.file, place.line, name))
        target = int(statements.target[number])
        effects += [StatementEdit(setting, scope, target, gone=True) for scope in _scopes(site, number)]
    if not steps:
        return None
    words = words if is_told else f"{words}, so that weaker scopes speak there again"
    return Remedy(f"take away {words}", tuple(dict.fromkeys(steps)), tuple(effects) if is_told else None)


def changed(site: SiteModel, words: str, number: int, raw: Raw, value: Value) -> Remedy | None:
    """The way that gives a statement another value: as a file says it, and as it is read.

    None where a preset says it.
    """
    statements = site.statements
    if number < 0 or int(statements.form[number]) != Form.SAID:
        return None
    place, setting = statements.place(number), int(statements.setting[number])
    target, locked = int(statements.target[number]), bool(statements.locked[number])
    effects = [
        StatementEdit(setting, scope, target, value, locked=locked and scope != ScopeKind.HERE)
        for scope in _scopes(site, number)
    ]
    return Remedy(words, (Changed(place.file, place.line, site.catalogue[setting].name, raw),), tuple(effects))


def lifted(site: SiteModel, number: int) -> Remedy | None:
    """The way that lifts a lock and keeps its value; None where a preset says it."""
    statements = site.statements
    if number < 0 or int(statements.form[number]) != Form.SAID:
        return None
    place, setting, target = statements.place(number), int(statements.setting[number]), int(statements.target[number])
    edit = StatementEdit(setting, ScopeKind(int(statements.scope[number])), target, statements.said(number))
    return Remedy("lift the lock", (Lifted(place.file, place.line, site.catalogue[setting].name),), (edit,))


def _scopes(site: SiteModel, number: int) -> tuple[ScopeKind, ...]:
    """The scopes in which a line says what a statement says: a `here_and_below` does in two."""
    return (
        (ScopeKind.BELOW, ScopeKind.HERE)
        if site.statements.both[number]
        else (ScopeKind(int(site.statements.scope[number])),)
    )
