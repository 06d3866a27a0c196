"""Condensing: the change that says the same of a site with fewer statements."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..arrays.in_background import MANY, results_of
from ..change.steps.apply import apply
from ..change.steps.change import Change, Say, Step
from ..change.steps.statement_reach import common_codes
from ..progress import work
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.settings.scopes import ScopeKind
from ..site.statements.new_statements import Form
from .condense_setting import SettingToCondense
from .free_statements import PLACED, FreeStatements, Intent
from .redundant_statements import redundant_steps


class CondensedSetting(NamedTuple):
    """One setting: how many statements set it before and after, presets aside, and the reasons that go.

    A `here_and_below` counts one.
    """

    setting: str
    before: int
    after: int
    reasons: tuple[str, ...]


class Condensing(NamedTuple):
    """What says the same of a site with fewer statements.

    Attributes
    ----------
    change : Change
    settings : tuple of CondensedSetting
        Those that have fewer statements then; the one that loses most comes first.
    """

    change: Change
    settings: tuple[CondensedSetting, ...]


def condensing(site: SiteModel, settings: Sequence[str] = (), intent: Intent | None = None) -> Condensing:
    """The change that says the same of a site with fewer statements.

    Every page keeps the value of every setting. Locks stay, and so do the statements of everywhere, rules, presets and
    stamps; one of everywhere goes if it has no effect. A setting whose default is for new pages loses only statements
    of single pages that have no effect.

    `settings`: only these. `intent`: what people want to keep.

    Notes
    -----
    Time for each setting: resolving it a few times, and O(c d log c) for c places in the tree where its value changes,
    at depth d; both for every other choice of statements of types that is tried. See `SettingToCondense`.

    Example
    -------
    >>> import davlo
    >>> found = condensing(davlo.open_demo())
    >>> found.settings[0].setting, found.settings[0].before, found.settings[0].after
    ('sitemap.changefreq', 10, 7)
    """
    numbers = [site.setting_number(name) for name in settings] or range(len(site.catalogue))
    said = [number for number in numbers if len(site.statements.of_setting(number))]
    effective = after = EffectiveModel(site)
    steps, found, intent = list[Step](), list[CondensedSetting](), intent or Intent()
    waiting = [(site.catalogue[number].name, False) for number in said]
    while waiting:
        more, left = list[Step](), list[tuple[str, bool]]()
        for (name, _), (mine, placed, done) in zip(waiting, _all_steps(effective, after, waiting, intent), strict=True):
            if mine:
                more += mine
                left.append((name, placed))
            found += done
        more.sort(key=lambda step: isinstance(step, Say))  # what goes is taken away at once: that takes much less time
        after = EffectiveModel(apply(after.site, Change(tuple(more)))) if more else after
        steps, waiting = steps + more, left
    return Condensing(Change(tuple(steps)), tuple(sorted(found, key=lambda one: (one.after - one.before, one.setting))))


def _all_steps(
    before: EffectiveModel, now: EffectiveModel, waiting: Sequence[tuple[str, bool]], intent: Intent
) -> list[tuple[list[Step], bool, list[CondensedSetting]]]:
    """For each setting, the steps that are left, or the result; on a large site several at a time."""
    with work("looking for fewer statements", len(waiting)) as step:

        def one(name_and_placed: tuple[str, bool]) -> tuple[list[Step], bool, list[CondensedSetting]]:
            name, is_placed = name_and_placed
            step(name)
            steps, placed = _steps_of(now, name, is_placed, intent)
            is_done = not steps and now is not before
            return steps, placed, [_condensed(before, now, before.site.setting_number(name))] if is_done else []

        assert now.site.scope_pages  # made before, so that two threads do not
        return results_of(one, waiting, len(now.site.tree) >= MANY)


def _steps_of(effective: EffectiveModel, name: str, is_placed: bool, intent: Intent) -> tuple[list[Step], bool]:
    """What is left to do for one setting, and whether it was about where its statements are put.

    `is_placed`: they are where they are best already, so only what has no effect is looked for.
    """
    number = effective.site.catalogue.find(name)
    if number is None:  # access that nothing names any more
        return [], True
    setting, free = effective.site.catalogue[number], FreeStatements(effective, number, intent)
    placed = np.zeros(len(free.rows), dtype=bool)
    if (
        free.free.any()
        and not effective.is_for_new_pages(number)
        and all(kind.word in setting.scopes for kind in PLACED)
    ):
        condense = SettingToCondense(free)
        steps = [] if is_placed else condense.steps()
        if steps:
            return steps, True
        placed = condense.placed
    return (redundant_steps(free, placed) if (free.may_go & ~placed).any() else []), False


def _condensed(before: EffectiveModel, after: EffectiveModel, setting: int) -> CondensedSetting:
    """What came of one setting.

    Raises RuntimeError if some page would have another value: a fault of Davlo's own.
    """
    name = before.site.catalogue[setting].name
    now, number = before.resolved(setting), after.site.catalogue.find(name)
    if number is None:
        codes = np.broadcast_to(np.int32(now.words.index(before.site.catalogue[setting].built_in)), len(now.value))
    else:
        codes, _ = common_codes(now, after.resolved(number))
    differs = np.flatnonzero(before.site.has(setting) & (now.value != codes))
    if len(differs):
        raise RuntimeError(f"condensing {name} would change {before.site.tree.paths[int(differs[0])]}")
    (one, reasons), (other, left) = (_counted(model.site, name) for model in (before, after))
    return CondensedSetting(name, one, other, tuple(reason for reason in reasons if reason not in left))


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
