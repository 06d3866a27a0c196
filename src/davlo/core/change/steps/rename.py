"""Renaming: a declaration gets another name, or goes into another one, everywhere it is named."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np

from ...arrays.codebooks import Column
from ...faults import UnknownName
from ...site.declarations import SECTIONS, Declarations, Instead
from ...site.declared_names import DECLARED_KINDS
from ...site.mentions import SHOWING
from ...site.model import SiteModel
from ...site.pages.types import Type, Types
from ...site.people import People
from ...site.settings.catalogue import Adjustment, Catalogue
from ...site.settings.scopes import ScopeKind
from ...site.settings.setting import ACCESS_FAMILIES, Setting, kind_named_by
from ...site.settings.values import ListChange, Raw, Value, with_actions
from ...site.statements.new_statements import Form
from .preset_steps import of_preset
from .rebuild import rebuilt, said_again, with_access_setting, with_changes, without_redundant_access
from .renaming import SUBJECTS, TITLED, Renaming
from .step import CannotDo, Step

Model = TypeVar("Model", bound=SiteModel)


@dataclass(frozen=True, slots=True)
class Rename(Step):
    """A declaration gets another name, or goes into the one that has that name, everywhere it is named.

    `kind` is that of a declaration: `sidebar`, `person`, `type`, `setting`, `rule`, …
    """

    kind: str
    old: str
    new: str

    def done(self, site: Any) -> Any:
        if self.kind not in DECLARED_KINDS:
            raise UnknownName("kind of declaration", self.kind, DECLARED_KINDS)
        names = Renaming(site, self.kind, self.old, self.new)
        site = _with_conditions_and_lists(site, names)
        if self.kind in TITLED:
            return site
        if self.kind == "setting":
            return _with_setting(site, names)
        if self.kind == "type":
            return _with_type(site, names)
        if self.kind == "role" and names.goes_into:
            roles = site.declarations.roles
            if set(roles[self.old].actions) != set(roles[self.new].actions):
                raise CannotDo(f"the roles {self.old} and {self.new} hold different actions")
        declarations, people = _declarations(site, names), _people(site, names)
        both = _both(site, declarations, people, names)
        both = _with_values(both, names)
        if self.kind in SUBJECTS:
            for family in ACCESS_FAMILIES:
                both = _with_subject(both, family, names)
        adjusted = _adjusted(both.catalogue, names)
        after = rebuilt(both, declarations=declarations, people=people, own=_own(both, names), adjusted=adjusted)
        return without_redundant_access(after)

    @property
    def words(self) -> str:
        return f"rename the {self.kind} {self.old} to {self.new}"


def _both(site: Model, declarations: Declarations, people: People, names: Renaming) -> Model:
    """The site in which the old name and the new one are both declared, while statements go from one to the other."""
    if names.kind == "person":
        return rebuilt(site, people=replace(people, names=(*people.names, names.old)))
    if names.kind == "group":
        return rebuilt(site, people=replace(people, groups={**people.groups, names.old: ()}))
    return rebuilt(site, declarations=declarations.with_one(site.declarations.of(names.kind)[names.old]))


def _with_values(site: Model, names: Renaming) -> Model:
    """The site in which statements say the new name."""
    statements, more = site.statements, []
    keep = np.ones(len(statements), dtype=bool)
    for number, setting in enumerate(site.catalogue.settings):
        if not names.is_about(setting):
            continue
        changed = {
            code: names.value(setting, word)
            for code, word in enumerate(statements.words[number].items)
            if names.value(setting, word) != word
        }
        span = statements.of_setting(number)
        rows = np.arange(span.start, span.stop)
        for row in rows[np.isin(statements.value[rows], [*changed])].tolist() if changed else ():
            keep[row] = False
            more.append(said_again(site, row, value=changed[int(statements.value[row])]))
    if names.kind == "preset":
        for row in np.flatnonzero(of_preset(site, names.old)).tolist():
            keep[row] = False
            more.append(said_again(site, row, preset=names.new))
        if names.goes_into:
            _refuse_other_preset(site, names)
    renamed = {names.old: (names.new,)} if names.kind == "role" else {}
    places = {
        one._replace(role=names.of("role", one.role), said=with_actions(renamed, one.said)): lines
        for one, lines in site.file_notes.role_places.items()
    }
    idle = {names.of("preset", one): place for one, place in site.file_notes.idle_uses.items()}
    notes = site.file_notes._replace(role_places=places, idle_uses=idle)
    if keep.all():
        return replace(site, file_notes=notes)
    return with_changes(site, statements=statements.edited(site.catalogue.built_in(), keep, more), file_notes=notes)


def _refuse_other_preset(site: SiteModel, names: Renaming) -> None:
    presets = site.declarations.presets
    if presets[names.old].says != presets[names.new].says:
        places = f"{presets[names.old].place}, {presets[names.new].place}"
        raise CannotDo(f"the presets {names.old} and {names.new} say different things ({places})")


def _with_subject(site: Model, family: str, names: Renaming) -> Model:
    """The site in which one subject takes over what `access` or `deny` gives another."""
    old = site.catalogue.find(f"{family}.{names.old}")
    if old is None:
        return site
    site = with_access_setting(site, f"{family}.{names.new}")
    old, new = (site.setting_number(f"{family}.{name}") for name in (names.old, names.new))
    said = site.statements
    span = said.of_setting(old)
    keep = np.ones(len(said), dtype=bool)
    keep[span.start : span.stop] = said.form[span.start : span.stop] == Form.FRESH
    more = []
    for row in span:
        if said.form[row] == Form.FRESH:
            continue
        one = said_again(site, row, setting=new)
        if not (one.form == Form.SAID and _is_said_too(site, row, new)):
            more.append(one)
    return with_changes(site, statements=said.edited(site.catalogue.built_in(), keep, more))


def _is_said_too(site: SiteModel, row: int, setting: int) -> bool:
    """Whether the statement's scope also sets another setting to the same value.

    Raises CannotDo if it sets the other setting to another value.
    """
    said = site.statements
    other = said.find(setting, ScopeKind(int(said.scope[row])), int(said.target[row]))
    if other < 0:
        return False
    same = said.said(row) == said.said(other) and said.locked[row] == said.locked[other]
    if not same or said.both[row] != said.both[other]:
        first, second = (site.catalogue[int(said.setting[one])].name for one in (row, other))
        raise CannotDo(
            f"one scope says different things of both: {first} ({said.place(row)}), {second} ({said.place(other)})"
        )
    return True


def _declarations(site: SiteModel, names: Renaming) -> Declarations:
    """All declarations under their new names, naming others by theirs."""
    found: dict[str, Any] = {}
    for kind in SECTIONS:
        records: dict[str, Any] = {}
        for name, record in site.declarations.of(kind).items():
            if kind == names.kind and name == names.old and names.goes_into:
                continue
            new = names.of(kind, name)
            records[new] = _record(kind, record, names)._replace(name=new)
        found[f"{kind}s"] = records
    return Declarations(**found)


def _record(kind: str, record: Any, names: Renaming) -> Any:
    """A declaration that names others by their new names."""
    fields = record._fields
    changes: dict[str, Any] = {}
    if "based_on" in fields:
        changes["based_on"] = names.of(kind, record.based_on)
    if "blocks" in fields:
        blocks = record.blocks
        changes["blocks"] = (
            {area: names.all("block", some) for area, some in blocks.items()}
            if isinstance(blocks, Mapping)
            else names.all("block", blocks)
        )
    if kind == "layout" and "blocks" in record.own:
        changes["own"] = {
            **record.own,
            "blocks": {
                area: ListChange(*(names.all("block", some) for some in (one.first, one.add, one.remove)))
                if isinstance(one, ListChange)
                else names.all("block", one)
                for area, one in record.own["blocks"].items()
            },
        }
    if kind == "theme":
        changes["if_missing"] = {
            area: Instead(one.area, names.of("block", one.block)) for area, one in record.if_missing.items()
        }
    return record._replace(**changes)


def _people(site: SiteModel, names: Renaming) -> People:
    people = site.people
    if names.kind not in SUBJECTS:
        return people
    groups = {
        names.of("group", name): names.listed(members)
        for name, members in people.groups.items()
        if not (names.kind == "group" and name == names.old and names.goes_into)
    }
    for name, members in groups.items():
        if name in members:
            raise CannotDo(f"the group {name} would hold itself")
    places = {names.subject(name): place for name, place in people.places.items()}
    return People(names.all("person", people.names), names.all("person", people.admins), groups, places)


def _own(site: SiteModel, names: Renaming) -> list[Setting]:
    """The site's own settings, naming types and what shows them by their new names."""
    return [
        one._replace(
            name=names.of("setting", one.name),
            for_types=names.all("type", one.for_types),
            used_by=names.all(names.kind, one.used_by) if names.kind in SHOWING else one.used_by,
        )
        for one in site.catalogue.own
    ]


def _adjusted(catalogue: Catalogue, names: Renaming) -> dict[str, Adjustment]:
    """The site's adjustments of settings, under their new names, with the new names as defaults."""
    found: dict[str, Adjustment] = {}
    for name, one in catalogue.adjusted.items():
        new = names.setting(name)
        if new in found or (new != name and new in catalogue.adjusted):
            raise CannotDo(f"the section settings says something of {name} and of {new}")
        default = one.default if one.default is None or kind_named_by(name) != names.kind else _raw(one.default, names)
        found[new] = one._replace(default=default)
    return found


def _raw(value: Raw, names: Renaming) -> Raw:
    if isinstance(value, str):
        return names.of(names.kind, value)
    if isinstance(value, list):
        return [*names.listed(map(str, value))]
    return {key: _raw(inner, names) for key, inner in value.items()}


def _with_conditions_and_lists(site: Model, names: Renaming) -> Model:
    """The site in which rules, guarantees, accepts, viewpoints and presets name things by their new names."""
    rules = tuple(
        one._replace(
            name=names.of("rule", one.name),
            when=names.condition(one.when),
            excepts=tuple(map(names.condition, one.excepts)),
        )
        for one in site.rules
    )
    guarantees = tuple(
        one._replace(
            name=names.of("guarantee", one.name),
            when=names.condition(one.when),
            excepts=tuple(map(names.condition, one.excepts)),
            has={number: names.value(site.catalogue[number], value) for number, value in one.has.items()},
            may=_subjects(one.may, names),
            may_not=_subjects(one.may_not, names),
        )
        for one in site.guarantees
    )
    accepts = tuple(
        one._replace(
            declaration=names.new if one.declaration == names.old else one.declaration,
            setting=names.setting(one.setting) if one.setting else "",
            when=None if one.when is None else names.condition(one.when),
        )
        for one in site.accepts
    )
    viewpoints = tuple(one._replace(viewer=names.subject(one.viewer)) for one in site.viewpoints)
    if len({one[:2] for one in viewpoints}) < len(viewpoints):
        raise CannotDo(f"two viewpoints would look at one page as {names.new}")
    return with_changes(
        site, rules=rules, guarantees=guarantees, accepts=accepts, viewpoints=viewpoints, **_presets(site, names)
    )


def _presets(site: SiteModel, names: Renaming) -> dict[str, Any]:
    presets = {}
    for name, preset in site.declarations.presets.items():
        says: dict[str, Value] = {}
        for key, value in preset.says.items():
            setting, new = site.catalogue.find(key), names.setting(key)
            if new in says or (new != key and new in preset.says):
                raise CannotDo(f"the preset {name} says something of {key} and of {new} ({preset.place})")
            says[new] = value if setting is None else names.value(site.catalogue[setting], value)
        presets[name] = preset._replace(says=says)
    return {"declarations": site.declarations._replace(presets=presets)}


def _subjects(told: Mapping[str, tuple[str, ...]], names: Renaming) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for who, actions in told.items():
        new = names.subject(who)
        if new in found or (new != who and new in told):
            raise CannotDo(f"a guarantee says something of {who} and of {new}")
        found[new] = actions
    return found


def _with_setting(site: Model, names: Renaming) -> Model:
    """The site in which a setting of its own has another name; its number stays."""
    old = site.catalogue
    access = [old[number].name for number in old.access_numbers()]
    catalogue = Catalogue(old.words, _own(site, names), old.adjusted, access)
    types = {name: one._replace(without=names.all("setting", one.without)) for name, one in site.types.declared.items()}
    columns = tuple(names.of("setting", name) for name in site.file_notes.setting_columns)
    details = site.details._replace(types=Types(types, site.details.columns["type"].words))
    notes = site.file_notes._replace(setting_columns=columns)
    return replace(site, catalogue=catalogue, file_notes=notes, details=details)


def _with_type(site: Model, names: Renaming) -> Model:
    """The site in which a type has another name, in the page list too, or has gone into another one."""
    declared: dict[str, Type] = {}
    for name, one in site.types.declared.items():
        if name == names.old and names.goes_into and names.new in site.types.declared:
            continue
        new = names.of("type", name)
        declared[new] = one._replace(name=new, based_on=names.of("type", one.based_on))
    if any(one.based_on == name for name, one in declared.items()):
        raise CannotDo(f"the type {names.new} would be based on itself")
    column = site.details.columns["type"].changed(lambda word: names.of("type", word))
    types = Types(declared, column.words)
    number = np.array([types.find(names.of("type", name)) for name in site.types.names], dtype=np.int32)
    details = site.details._replace(columns={**site.details.columns, "type": column}, types=types)
    details = details._replace(type_of=_numbers(column, types))
    statements = site.statements
    keep = np.ones(len(statements), dtype=bool)
    if names.goes_into:  # what is set for the type moves with its name
        old = site.types.find(names.old)
        keep = ~((statements.scope == ScopeKind.TYPE) & (statements.target == old))
    of_types = statements.scope == ScopeKind.TYPE
    target = statements.target.copy()
    target[of_types] = number[target[of_types]]
    edited = statements.edited(site.catalogue.built_in(), keep, columns={"target": target})
    after = replace(site, details=details, statements=edited)
    return without_redundant_access(rebuilt(after, own=_own(after, names)))


def _numbers(column: Column, types: Types) -> Any:
    table = np.array([types.find(word or "page") for word in column.words], dtype=np.intp)
    return table[column.codes]
