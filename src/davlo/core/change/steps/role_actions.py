"""A role holds other actions: so does all that names it, since values hold the actions alone."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from ...arrays.codebooks import Codes
from ...site.file_notes import RolePlace
from ...site.model import Guarantee, SiteModel
from ...site.settings.values import Value, with_actions
from ...site.statements.new_statements import Form
from .preset_steps import with_preset
from .rebuild import said_again, with_changes
from .step import CannotDo


def with_new_actions(before: SiteModel, site: Any, role: str) -> Any:
    """The site in which statements, presets and guarantees that name a role hold the actions that it has now.

    `before`: the site in which the role holds other actions. Raises CannotDo if a line says so much that Davlo cannot
    tell which of its values name the role.
    """
    old, new = ({name: one.actions for name, one in state.declarations.roles.items()} for state in (before, site))
    changed = []
    for place, lines in before.file_notes.role_places.items():
        was, now = with_actions(old, place.said), with_actions(new, place.said)
        if place.role == role and was != now:
            changed.append((place, lines, was, now))
    for place, lines, was, now in changed:
        site = _with_presets(_with_guarantees(site, place, lines, was, now), place, lines, was, now)
    for place, lines, was, now in changed:
        site = _with_statements(site, place, lines, was, now)
    return site


def _with_statements(site: Any, place: RolePlace, lines: Codes, was: Value, now: Value) -> Any:
    """The site in which the statements at some lines say a value in place of another."""
    statements, number = site.statements, site.catalogue.find(place.setting)
    if number is None:
        return site
    span = statements.of_setting(number)
    rows = np.arange(span.start, span.stop)
    of_file = statements.file[rows] == statements.files.find(place.file)
    rows = rows[of_file & np.isin(statements.line[rows], lines) & (statements.form[rows] != Form.PRESET)]
    rows = rows[np.array([statements.said(row) == was for row in rows.tolist()], dtype=bool)]
    if len(rows) - int(statements.both[rows].sum()) // 2 > len(lines):
        at = statements.place(int(rows[0]))
        raise CannotDo(
            f"{at} says {place.setting} more than once, by the role {place.role} and by its actions: give each a line "
            "of its own"
        )
    if not len(rows):
        return site
    keep = np.ones(len(statements), dtype=bool)
    keep[rows] = False
    more = [said_again(site, row, value=now) for row in rows.tolist()]
    return with_changes(site, statements=statements.edited(site.catalogue.built_in(), keep, more))


def _with_presets(site: Any, place: RolePlace, lines: Codes, was: Value, now: Value) -> Any:
    """The site in which the presets that say a value at some lines say another, wherever they are used."""
    presets = site.declarations.presets
    for name in {name for line in lines.tolist() for name in _last_before(presets, place.file, line)}:
        if presets[name].says.get(place.setting) == was:
            says = {**presets[name].says, place.setting: now}
            site = with_preset(site, presets[name]._replace(says=says))
    return site


def _last_before(declared: Mapping[str, Any], file: str, line: int) -> Iterator[str]:
    """The names of what is declared in a file, of which the last begins at a line or before it."""
    begins = {name: one.place.line for name, one in declared.items() if one.place.file == file}
    last = max((begin for begin in begins.values() if begin <= line), default=0)
    yield from (name for name, begin in begins.items() if begin == last)


def _with_guarantees(site: Any, place: RolePlace, lines: Codes, was: Value, now: Value) -> Any:
    """The site in which the guarantees that say what a subject may do, at some lines, say another thing."""
    key, _, subject = place.setting.partition(".")
    if key not in ("may", "may_not"):
        return site
    by_name = {one.name: one for one in site.guarantees}
    names = {name for line in lines.tolist() for name in _last_before(by_name, place.file, line)}

    def changed(one: Guarantee) -> Guarantee:
        said = one.may if key == "may" else one.may_not
        if one.name not in names or said.get(subject) != was or not isinstance(now, tuple):
            return one
        said = {**said, subject: now}
        return one._replace(may=said) if key == "may" else one._replace(may_not=said)

    return replace(site, guarantees=tuple(map(changed, site.guarantees)))
