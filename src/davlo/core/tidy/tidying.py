"""Tidying: the change that says the same of a site with fewer statements."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..change.apply import apply
from ..change.reach import common_codes
from ..change.steps import Change, Step
from ..progress import work
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.new_statements import Form
from ..site.scopes import ScopeKind
from .free_statements import PLACED, FreeStatements, Intent
from .idle_statements import idle_steps
from .tidy_setting import TidySetting


class TidiedSetting(NamedTuple):
    """One setting: how many statements set it before and after, presets aside, and the reasons that go.

    A `here_and_below` counts one.
    """

    setting: str
    before: int
    after: int
    reasons: tuple[str, ...]


class Tidying(NamedTuple):
    """What says the same with fewer statements: the change, and what it does of each setting that has fewer then."""

    change: Change
    settings: tuple[TidiedSetting, ...]


def tidying(site: SiteModel, settings: Sequence[str] = (), intent: Intent | None = None) -> Tidying:
    """The change that says the same of a site with fewer statements.

    Every page keeps the value of every setting. What everywhere, rules, presets and stamps say stays, and locks; of
    everywhere what has no effect goes. A setting that is stamped loses only what has no effect on single pages.

    Parameters
    ----------
    site : SiteModel
    settings : sequence of str, optional
        Only these.
    intent : Intent, optional
        What is to stay as people meant it.

    Raises
    ------
    UnknownName
        If there is no such setting.

    Notes
    -----
    Time for each setting: resolving it a few times, and O(c d log c) for c places in the tree where its value changes,
    at depth d; both for every other choice of statements of types that is tried. See `TidySetting`.

    Example
    -------
    >>> import davlo
    >>> found = tidying(davlo.open_demo())
    >>> found.settings[0].setting, found.settings[0].before > found.settings[0].after
    ('title.pattern', True)
    """
    numbers = [site.setting_number(name) for name in settings] or range(len(site.catalogue))
    said = [number for number in numbers if len(site.statements.of_setting(number))]
    effective, found, steps = EffectiveModel(site), [], list[Step]()
    with work("looking for fewer statements", len(said)) as step:
        for number in said:
            step(site.catalogue[number].name)
            mine = _steps_of(effective, number, intent or Intent())
            if mine:
                after = apply(site, Change(tuple(mine)))
                found.append(_tidied(effective, EffectiveModel(after), number))
                steps += mine
    return Tidying(Change(tuple(steps)), tuple(sorted(found, key=lambda one: one.after - one.before)))


def _steps_of(effective: EffectiveModel, setting: int, intent: Intent) -> list[Step]:
    """The steps for one setting: again and again, until nothing is left to do."""
    name, steps = effective.site.catalogue[setting].name, list[Step]()
    scopes = effective.site.catalogue[setting].scopes
    while (number := effective.site.catalogue.find(name)) is not None:  # None: access that nothing names any more
        free = FreeStatements(effective, number, intent)
        placed = np.zeros(len(free.rows), dtype=bool)
        more = list[Step]()
        if free.free.any() and not effective.is_stamped(number) and all(scope.word in scopes for scope in PLACED):
            tidy = TidySetting(free)
            more, placed = tidy.steps(), tidy.placed
        more = more or idle_steps(free, placed)
        if not more:
            return steps
        steps += more
        effective = EffectiveModel(apply(effective.site, Change(tuple(more))))
    return steps


def _tidied(before: EffectiveModel, after: EffectiveModel, setting: int) -> TidiedSetting:
    """What came of one setting.

    Raises
    ------
    RuntimeError
        If some page would have another value: a fault of Davlo's own.
    """
    name = before.site.catalogue[setting].name
    now, number = before.resolved(setting), after.site.catalogue.find(name)
    if number is None:
        codes = np.broadcast_to(np.int32(now.words.index(before.site.catalogue[setting].built_in)), len(now.value))
    else:
        codes, _ = common_codes(now, after.resolved(number))
    differs = np.flatnonzero(before.site.has(setting) & (now.value != codes))
    if len(differs):
        raise RuntimeError(f"tidying {name} would change {before.site.tree.paths[int(differs[0])]}")
    (one, reasons), (other, left) = (_counted(model.site, name) for model in (before, after))
    return TidiedSetting(name, one, other, tuple(reason for reason in reasons if reason not in left))


def _counted(site: SiteModel, name: str) -> tuple[int, list[str]]:
    """How many statements set a setting, presets aside, and their reasons; a `here_and_below` counts one."""
    number = site.catalogue.find(name)
    if number is None:
        return 0, []
    span, said = site.statements.of_setting(number), site.statements
    some = slice(span.start, span.stop)
    mine = (said.form[some] == Form.SAID) & ~(said.both[some] & (said.scope[some] == ScopeKind.HERE))
    reasons = np.unique(said.because[some]).tolist()
    return int(np.count_nonzero(mine)), [said.reasons[code] for code in reasons if code]
