"""Taking a declaration away together with whatever names it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...site.declarations import Band, Block, Group, Layout, Preset, Sidebar, Theme
from ...site.mentions import NAMES
from ...site.model import SiteModel
from ...site.settings.setting import ACCESS_FAMILIES, Setting
from ...site.settings.values import LIST_STEPS, ListChange, Value, words_of
from ...site.source import source_of
from ...site.statements.new_statements import Form
from .declaration_steps import Declare, DropViewpoint, Undeclare
from .preset_steps import StopUsing, of_preset
from .statement_steps import Say, TakeAway
from .step import Step


@dataclass(frozen=True, slots=True)
class UndeclareEverywhere(Step):
    """A declaration goes with what names it: statements, items of lists, members of groups, viewpoints.

    What cannot go by itself, as a rule for pages of a type or a layout based on another, makes the step impossible.
    """

    kind: str
    name: str

    def parts(self, site: Any) -> Sequence[Step]:
        return (*_of_statements(site, self.kind, self.name), *_of_lists(site, self.kind, self.name), self._alone)

    @property
    def _alone(self) -> Undeclare:
        return Undeclare(self.kind, self.name)

    @property
    def words(self) -> str:
        return f"take the {self.kind} {self.name} away, with whatever names {'them' if self.kind == 'person' else 'it'}"


def _of_statements(site: SiteModel, kind: str, name: str) -> Iterator[Step]:
    """The steps that take a name out of statements: one that says nothing else goes."""
    said = site.statements
    if kind == "preset":
        rows = np.flatnonzero(of_preset(site, name)).tolist()
        yield from dict.fromkeys(StopUsing(_scope(site, row), name) for row in rows)
        return
    done = set()
    for number, setting in enumerate(site.catalogue.settings):
        span = said.of_setting(number)
        for row in range(span.start, span.stop):
            value = said.said(row)
            if said.form[row] == Form.FRESH or said.form[row] == Form.PRESET:
                continue
            left = _left(setting, value, kind, name)
            scope = _scope(site, row)
            if left == value or (scope, setting.name) in done:
                continue
            done.add((scope, setting.name))
            if left is None:
                yield TakeAway(scope, setting.name)
            else:
                yield Say(scope, setting.name, left, bool(said.locked[row]), said.reasons[int(said.because[row])])


def _scope(site: SiteModel, row: int) -> Any:
    scope = source_of(site, row).scope
    return type(scope).here_and_below(scope.name) if site.statements.both[row] else scope


def _without(value: Value, name: str) -> Value:
    """A list, or a change of one, without an item; None if nothing is left."""
    if isinstance(value, ListChange):
        parts = {step: tuple(one for one in getattr(value, step) if one != name) for step in LIST_STEPS}
        return ListChange(**parts) if any(parts.values()) else None
    return tuple(one for one in words_of(value) if one != name) or None


def _of_lists(site: SiteModel, kind: str, name: str) -> Iterator[Step]:
    """The steps that take a name out of declarations and viewpoints."""
    declared = site.declarations
    for preset in declared.presets.values():
        yield from _of_preset(site, preset, kind, name)
    if kind == "block":
        holders: list[Sidebar | Band | Block] = [*declared.sidebars.values(), *declared.bands.values()]
        for holder in (*holders, *declared.blocks.values()):
            if name in holder.blocks and not (isinstance(holder, Block) and holder.name == name):
                yield Declare(holder._replace(blocks=tuple(one for one in holder.blocks if one != name)))
        for layout in declared.layouts.values():
            yield from _of_layout(layout, name)
        for theme in declared.themes.values():
            yield from _of_theme(theme, name)
    if kind in ("person", "group"):
        for group, members in site.people.groups.items():
            if name in members and group != name:
                yield Declare(Group(group, site.people.places[group], tuple(one for one in members if one != name)))
        for one in site.viewpoints:
            if one.viewer == name:
                yield DropViewpoint(one.page, one.viewer)


def _of_preset(site: SiteModel, preset: Preset, kind: str, name: str) -> Iterator[Step]:
    says = dict[str, Value]()
    for setting, value in preset.says.items():
        left = _left(site.catalogue.setting(setting), value, kind, name)
        says |= {} if left is None and value is not None else {setting: left}
    if says != preset.says:
        yield Declare(preset._replace(says=says))


def _left(setting: Setting, value: Value, kind: str, name: str) -> Value:
    """What is left of a value if a declaration goes; None: nothing."""
    if setting.name == name and kind == "setting":
        return None
    if setting.family in ACCESS_FAMILIES:
        return None if setting.member == name and kind in ("person", "group") else value
    if name not in words_of(value):
        return value
    if setting.family == "blocks":
        return _without(value, name) if kind == "block" else value
    return None if setting.kind == kind and kind in NAMES else value


def _of_layout(layout: Layout, name: str) -> Iterator[Step]:
    own = layout.own.get("blocks", {})
    if any(name in words_of(some) for some in own.values()):
        left: dict[str, Value] = {}
        for area, some in own.items():
            if isinstance(some, ListChange):
                parts = {step: tuple(one for one in getattr(some, step) if one != name) for step in LIST_STEPS}
                left |= {area: ListChange(**parts)} if any(parts.values()) else {}
            else:
                left[area] = tuple(one for one in some if one != name)
        keys = {key: value for key, value in layout.own.items() if key != "blocks"}
        yield Declare(
            Layout(
                layout.name,
                layout.place,
                layout.label,
                layout.note,
                based_on=layout.based_on,
                own={**keys, **({"blocks": left} if left else {})},
            )
        )


def _of_theme(theme: Theme, name: str) -> Iterator[Step]:
    left = {area: instead for area, instead in theme.if_missing.items() if instead.block != name}
    if len(left) < len(theme.if_missing):
        yield Declare(theme._replace(if_missing=left))
