"""What names a declaration: one index of every place, in statements, declarations, conditions and lists."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np

from ..faults import Place
from .declarations import Declarations
from .model import SiteModel
from .pages.conditions import Condition
from .settings.scopes import ScopeKind
from .settings.setting import ACCESS_FAMILIES, Setting
from .settings.values import ListChange, Value, words_of
from .statements.new_statements import Form

NAMES = ("layout", "theme", "sidebar", "look", "band", "person", "group")
"""Kinds of settings whose values are names of declarations of that kind."""
SHOWING = ("layout", "band", "block")
"""What may stand in a setting's `used_by`."""


class Mention(NamedTuple):
    """One place that names a declaration: the words there, and the line."""

    by: str
    place: Place


class Mentions:
    """What names each declaration of a site.

    Example
    -------
    >>> import davlo
    >>> found = Mentions(davlo.open_demo())
    >>> [(one.by, str(one.place)) for one in found.of("block", "donate")]
    [('the sidebar call-to-action', 'declared.yaml:31')]
    >>> found.of("role", "reading"), found.names("group", "staff")
    ([], True)
    """

    def __init__(self, site: SiteModel) -> None:
        self._found: dict[tuple[str, str], list[Mention]] = {}
        for kind, name, mention in _all(site):
            if name:
                self._found.setdefault((kind, name), []).append(mention)

    def of(self, kind: str, name: str) -> list[Mention]:
        """Every place that names a declaration; for a statement that many scopes share, the first."""
        return self._found.get((kind, name), [])

    def names(self, kind: str, name: str) -> bool:
        """Whether anything names a declaration."""
        return (kind, name) in self._found


def _all(site: SiteModel) -> Iterator[tuple[str, str, Mention]]:
    yield from _of_declarations(site.declarations)
    yield from _of_settings_and_types(site)
    yield from _of_statements(site)
    for group, members in site.people.groups.items():
        mention = Mention(f"the group {group}", site.people.places[group])
        for member in members:
            yield _subject(site, member), member, mention
    for admin in site.people.admins:
        yield "person", admin, Mention("the admins", site.people.places[admin])
    for rule in site.rules:
        yield from _of_conditions((rule.when, *rule.excepts), Mention(f'the rule "{rule.name}"', rule.place))
    for guarantee in site.guarantees:
        mention = Mention(f'the guarantee "{guarantee.name}"', guarantee.place)
        yield from _of_conditions((guarantee.when, *guarantee.excepts), mention)
        for subject, actions in (*guarantee.may.items(), *guarantee.may_not.items()):
            yield _subject(site, subject), subject, mention
            yield from (("action", action, mention) for action in actions)
        for number, value in guarantee.has.items():
            yield "setting", site.catalogue[number].name, mention
            yield from _of_value(site, site.catalogue[number], value, mention)
    for viewpoint in site.viewpoints:
        yield _subject(site, viewpoint.viewer), viewpoint.viewer, Mention("a viewpoint", viewpoint.place)
    for accept in site.accepts:
        mention = Mention("an accept", accept.place)
        yield from _of_conditions((accept.when,) if accept.when else (), mention)
        yield "setting", accept.setting, mention
    yield from _of_roles(site)


def _of_declarations(declared: Declarations) -> Iterator[tuple[str, str, Mention]]:
    for layout in declared.layouts.values():
        mention = Mention(f"the layout {layout.name}", layout.place)
        yield "layout", layout.based_on, mention
        yield from (("block", block, mention) for blocks in layout.blocks.values() for block in blocks)
        changes = [some for some in layout.own.get("blocks", {}).values() if isinstance(some, ListChange)]
        yield from (("block", block, mention) for change in changes for block in change.remove)
    for theme in declared.themes.values():
        mention = Mention(f"the theme {theme.name}", theme.place)
        yield from (("block", instead.block, mention) for instead in theme.if_missing.values())
    for kind, holders in (("sidebar", declared.sidebars), ("band", declared.bands), ("block", declared.blocks)):
        for holder in holders.values():
            mention = Mention(f"the {kind} {holder.name}", holder.place)
            yield from (("block", block, mention) for block in holder.blocks)
    for role in declared.roles.values():
        yield from (("action", action, Mention(f"the role {role.name}", role.place)) for action in role.actions)
    for look in declared.looks.values():
        yield "look", look.based_on, Mention(f"the look {look.name}", look.place)


def _of_settings_and_types(site: SiteModel) -> Iterator[tuple[str, str, Mention]]:
    for setting in site.catalogue.settings:
        mention = Mention(f"the setting {setting.name}", setting.place)
        yield from (("type", name, mention) for name in setting.for_types)
        for name in setting.used_by:
            yield from ((kind, name, mention) for kind in SHOWING if name in site.declarations.of(kind))
    for declared in site.types.declared.values():
        mention = Mention(f"the type {declared.name}", declared.place)
        yield "type", declared.based_on, mention
        yield from (("setting", name, mention) for name in declared.without)
    for preset in site.declarations.presets.values():
        mention = Mention(f"the preset {preset.name}", preset.place)
        for name, value in preset.says.items():
            yield "setting", name, mention
            number = site.catalogue.find(name)
            if number is not None:
                yield from _of_value(site, site.catalogue[number], value, mention)


def _of_statements(site: SiteModel) -> Iterator[tuple[str, str, Mention]]:
    statements = site.statements
    for number, setting in enumerate(site.catalogue.settings):
        span = statements.of_setting(number)
        said = np.arange(span.start, span.stop)[statements.form[span.start : span.stop] != Form.FRESH]
        codes, first = np.unique(statements.value[said], return_index=True)
        for code, at in zip(codes.tolist(), said[first].tolist(), strict=True):
            mention = Mention("a statement", statements.place(at))
            yield "setting", setting.name, mention
            yield from _of_value(site, setting, statements.words[number][code], mention)
    for preset, _ in statements.presets.items:
        yield "preset", preset, Mention("a statement", Place(""))
    for preset, place in site.file_notes.idle_uses.items():
        yield "preset", preset, Mention("a scope", place)
    of_types = np.flatnonzero(statements.scope == ScopeKind.TYPE)
    targets, first = np.unique(statements.target[of_types], return_index=True)
    for target, at in zip(targets.tolist(), of_types[first].tolist(), strict=True):
        yield "type", site.types.names[target], Mention("a statement", statements.place(at))


def _of_roles(site: SiteModel) -> Iterator[tuple[str, str, Mention]]:
    """Roles that statements or other places name."""
    statements = site.statements
    for (role, setting, file, _), lines in site.file_notes.role_places.items():
        number = site.catalogue.find(setting)
        if number is None:
            yield "role", role, Mention("a guarantee or a preset", Place(file, int(lines[0]) if len(lines) else 0))
        else:
            span = statements.of_setting(number)
            rows = slice(span.start, span.stop)
            of_file = statements.file[rows] == statements.files.find(file)
            at = np.flatnonzero(of_file & np.isin(statements.line[rows], lines))
            if len(at):
                yield "role", role, Mention("a statement", statements.place(span.start + int(at[0])))


def _of_value(site: SiteModel, setting: Setting, value: Value, mention: Mention) -> Iterator[tuple[str, str, Mention]]:
    """What a value of a setting names; for an access setting its subject and its actions."""
    if setting.family in ACCESS_FAMILIES:
        yield _subject(site, setting.member), setting.member, mention
        yield from (("action", action, mention) for action in words_of(value))
    elif setting.kind in NAMES or setting.family == "blocks":
        kind = "block" if setting.family == "blocks" else setting.kind
        yield from ((kind, word, mention) for word in words_of(value))


def _of_conditions(conditions: Iterable[Condition], mention: Mention) -> Iterator[tuple[str, str, Mention]]:
    for one in conditions:
        yield from (("type", name, mention) for name in (*one.type, *one.only_type))


def _subject(site: SiteModel, name: str) -> str:
    """Whether a subject is a person, a group, or neither."""
    return "group" if name in site.people.groups else "person" if site.people.has(name) else "subject"
