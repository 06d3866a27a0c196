"""Steps about presets: a scope uses one, or no longer."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ...arrays.codebooks import Mask
from ...faults import UnknownName
from ...site.declarations import Preset
from ...site.model import SiteModel
from ...site.settings.parse_values import check_scope
from ...site.settings.scopes import OF_PAGES, Scope, ScopeKind
from ...site.statements.new_statements import PRESET_STEP, PRESET_STEP_OF_OTHER, Form, NewStatement
from .rebuild import rebuilt, with_access_setting, with_changes, without_redundant_access
from .statement_steps import target_of, where
from .step import CHANGED, CannotDo, Step


@dataclass(frozen=True, slots=True)
class Use(Step):
    """A scope uses a preset, after those that it uses already."""

    scope: Scope
    preset: str

    def done(self, site: Any) -> Any:
        return _used(site, self.scope, self.preset)

    @property
    def words(self) -> str:
        return f"use the preset {self.preset} {where(self.scope)}"


@dataclass(frozen=True, slots=True)
class StopUsing(Step):
    """A scope no longer uses a preset."""

    scope: Scope
    preset: str

    def done(self, site: Any) -> Any:
        return _stopped_using(site, self.scope, self.preset)

    @property
    def words(self) -> str:
        return f"use the preset {self.preset} no longer {where(self.scope)}"


def _used(site: Any, scope: Scope, preset: str) -> Any:
    declared = site.declarations.presets.get(preset)
    if declared is None:
        raise UnknownName("preset", preset, tuple(site.declarations.presets))
    more = []
    for part in scope.parts:
        target = target_of(site, part)
        if part.kind in OF_PAGES and target < 0:
            raise UnknownName("page", part.name, site.tree.paths)
        mine = _presets_of(site, part, scope.both)
        if (mine & of_preset(site, preset)).any():
            raise CannotDo(f"{scope.sentence} uses the preset {preset} already")
        first = PRESET_STEP if scope.both else PRESET_STEP_OF_OTHER
        step = int(site.statements.step[mine].max(initial=first - 1)) + 1
        for name, value in declared.says.items():
            setting = site.catalogue[site.setting_number(name)]
            check_scope(part.kind, value, setting)
            more.append(
                NewStatement(
                    site.setting_number(name),
                    part.kind,
                    target,
                    value,
                    CHANGED,
                    Form.PRESET,
                    step,
                    both=scope.both,
                    preset=preset,
                    preset_place=declared.place,
                )
            )
    if not declared.says:
        idle = {**site.file_notes.idle_uses, preset: CHANGED}
        return replace(site, file_notes=site.file_notes._replace(idle_uses=idle))
    return with_changes(site, statements=site.statements.edited(site.catalogue.built_in(), more=more))


def _stopped_using(site: Any, scope: Scope, preset: str) -> Any:
    gone: Any = np.zeros(len(site.statements), dtype=bool)
    for part in scope.parts:
        gone |= _presets_of(site, part, scope.both) & of_preset(site, preset)
    if not gone.any():
        if any((_presets_of(site, part, True) & of_preset(site, preset)).any() for part in scope.parts):
            raise CannotDo(f"{scope.name} uses the preset {preset} in here_and_below: take it away there")
        raise CannotDo(f"{scope.sentence} does not use the preset {preset}")
    return without_redundant_access(
        with_changes(site, statements=site.statements.edited(site.catalogue.built_in(), ~gone))
    )


def with_preset(site: Any, preset: Preset) -> Any:
    """The site in which a preset is declared, or sets something else wherever it is used."""
    before = site.declarations.presets.get(preset.name)
    idle = site.file_notes.idle_uses.get(preset.name) if before is not None and not before.says else None
    if idle is not None and preset.says:
        what = f"sets nothing today, and {idle} uses it: write its first value into {before.place}"
        raise CannotDo(f"the preset {preset.name} {what}")
    for name in preset.says:
        site = site if site.catalogue.find(name) is not None else with_access_setting(site, name)
    uses = np.flatnonzero(of_preset(site, preset.name))
    said, places = site.statements, dict[tuple[int, ...], int]()
    columns = (said.scope, said.target, said.both, said.step)
    for row in uses.tolist():
        places.setdefault(tuple(int(column[row]) for column in columns), row)
    more = []
    for (scope, target, both, step), row in places.items():
        for name, value in preset.says.items():
            number = site.setting_number(name)
            check_scope(ScopeKind(scope), value, site.catalogue[number])
            one = NewStatement(number, ScopeKind(scope), target, value, CHANGED, Form.PRESET, step, both=bool(both))
            reason = said.reasons[int(said.because[row])]
            more.append(one._replace(because=reason, preset=preset.name, preset_place=preset.place))
    keep = np.ones(len(said), dtype=bool)
    keep[uses] = False
    site = with_changes(site, statements=said.edited(site.catalogue.built_in(), keep, more))
    return without_redundant_access(rebuilt(site, declarations=site.declarations.with_one(preset)))


def _presets_of(site: SiteModel, part: Scope, both: bool) -> Mask:
    """Which statements are those of the presets that a scope uses in this body of its own. bool[statements]"""
    said = site.statements
    found: Mask = (said.form == Form.PRESET) & (said.scope == part.kind) & (said.target == target_of(site, part))
    found &= said.both == both
    return found


def of_preset(site: SiteModel, preset: str) -> Mask:
    """Which statements a preset says. bool[statements]"""
    said = site.statements
    codes = [code for code, one in enumerate(said.presets.items) if one[0] == preset]
    found: Mask = np.isin(said.preset, codes) & (said.form == Form.PRESET)
    return found
