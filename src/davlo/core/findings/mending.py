"""What would mend a finding: ways, each of them a change."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Mask
from ..change.differences.difference import Difference
from ..change.differences.difference_rows import AccessRow
from ..change.steps.apply import apply
from ..change.steps.change import FRESH_ACCESS, Change, DropRule, Say, StatementStep, Step, TakeAway, Unlock
from ..change.steps.statement_reach import Reach, StatementEdit, reach, reach_without
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.values import Value
from ..site.source import source_of
from ..site.statements.new_statements import Form

MOST_STEPS = 500
"""The most steps of a way that is offered."""
FEW = 50
"""The most pages mended one by one."""


class Remedy(NamedTuple):
    """One way to mend a finding."""

    words: str  # what it does, as in "take away the look"
    change: Change

    def changed(self, effective: EffectiveModel) -> Mask:
        """The pages that would get another value of some setting. bool[pages]"""
        found = np.zeros(len(effective.site.tree), dtype=bool)
        steps = [step for step in self.change.steps if step.changes_values]
        said = [step for step in steps if isinstance(step, StatementStep)]
        edits = [step.edits(effective.site) for step in said] if len(said) == len(steps) else [None]
        if any(one is None for one in edits):
            return Difference(effective, EffectiveModel(apply(effective.site, self.change))).changed_pages()
        by_setting: dict[int, list[StatementEdit]] = {}
        for one in edits:
            for edit in one or ():
                by_setting.setdefault(edit.setting, []).append(edit)
        for setting, some in by_setting.items():
            changed = np.zeros(len(found), dtype=bool)
            for reached in _reached(effective, setting, some):
                changed[reached.pages] = True
            found |= changed & effective.site.has(setting)
        return found

    def gains(self, effective: EffectiveModel) -> tuple[AccessRow, ...]:
        """Who could do more than now."""
        if not any(step.changes_access for step in self.change.steps):
            return ()
        after = EffectiveModel(apply(effective.site, self.change))
        return tuple(row for row in Difference(effective, after).access if row.gained)


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


def scope_of_line(site: SiteModel, number: int) -> Scope:
    """The scope that a statement is said in: a `here_and_below` says it for two."""
    scope = source_of(site, number).scope
    return Scope.here_and_below(scope.name) if site.statements.both[number] else scope


def without(site: SiteModel, words: str, numbers: Sequence[int], is_redundant: bool = False) -> Remedy | None:
    """The way that takes these statements away.

    None if there are very many, or a preset says one. Also None if a preset in the same scope says the same as one,
    unless they are redundant. A rule that would give nothing is taken away itself.
    """
    statements = site.statements
    if not numbers or len(numbers) > MOST_STEPS:
        return None
    steps: list[Step] = []
    for number in numbers:
        form = int(statements.form[number]) if number >= 0 else None
        if form not in (Form.SAID, Form.FRESH) or (not is_redundant and _said_again(site, number)):
            return None
        scope = scope_of_line(site, number)
        if scope.kind == ScopeKind.RULE and _gives_no_more(site, number, numbers):
            steps.append(DropRule(scope.name))
        else:
            name = site.catalogue[int(statements.setting[number])].name if form == Form.SAID else FRESH_ACCESS
            steps.append(TakeAway(scope, name))
    return Remedy(f"take away {words}", Change(tuple(dict.fromkeys(steps))))


def _said_again(site: SiteModel, number: int) -> bool:
    """Whether a preset says the same in the same scope, so that nothing changes when a statement is taken away."""
    said = site.statements
    span = said.of_setting(int(said.setting[number]), ScopeKind(int(said.scope[number])))
    rows = slice(span.start, span.stop)
    return bool(
        (
            (said.target[rows] == said.target[number])
            & (said.value[rows] == said.value[number])
            & (said.form[rows] == Form.PRESET)
        ).any()
    )


def _gives_no_more(site: SiteModel, number: int, numbers: Sequence[int]) -> bool:
    """Whether a rule gives nothing but these statements."""
    statements = site.statements
    of_rule = (statements.scope == ScopeKind.RULE) & (statements.target == statements.target[number])
    return set(np.flatnonzero(of_rule).tolist()) <= set(numbers)


def changed(site: SiteModel, words: str, number: int, value: Value) -> Remedy | None:
    """The way that gives a statement another value; None where a preset says it."""
    statements = site.statements
    if number < 0 or int(statements.form[number]) != Form.SAID:
        return None
    scope, name = scope_of_line(site, number), site.catalogue[int(statements.setting[number])].name
    return Remedy(words, Change((Say(scope, name, value, bool(statements.locked[number])),)))


def lifted(site: SiteModel, number: int) -> Remedy | None:
    """The way that lifts a lock and keeps its value; None where a preset says it."""
    statements = site.statements
    if number < 0 or int(statements.form[number]) != Form.SAID:
        return None
    name = site.catalogue[int(statements.setting[number])].name
    return Remedy("lift the lock", Change((Unlock(scope_of_line(site, number), name),)))
