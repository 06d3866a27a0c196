"""A site with other declarations; its catalogue, the numbers of its types and its statements are made anew."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

import numpy as np

from ...faults import UnknownName
from ...site.declarations import SECTIONS, Declarations
from ...site.model import SiteModel
from ...site.pages.details import Details
from ...site.pages.types import Type, Types
from ...site.people import People
from ...site.settings.catalogue import Adjustment, Catalogue, Vocabulary
from ...site.settings.scopes import ScopeKind
from ...site.settings.setting import ACCESS_FAMILIES, Setting
from ...site.statements.new_statements import Form, NewStatement
from .step import CannotDo

Model = TypeVar("Model", bound=SiteModel)


def with_changes(site: Model, **changes: Any) -> Model:
    """The site with some parts changed; what depends only on the other parts is kept."""
    after = replace(site, **changes)
    if not changes.keys() & {"tree", "details", "rules"}:
        after.__dict__["scope_pages"] = site.scope_pages
    return after


def with_access_setting(site: Model, name: str) -> Model:
    """The site with `access.WHO` or `deny.WHO` among its settings.

    Raises UnknownName if it is no such setting.
    """
    family, _, member = name.partition(".")
    if family not in ACCESS_FAMILIES or not member:
        raise UnknownName("setting", name, site.catalogue.names())
    site.catalogue.access_setting(name)
    return with_catalogue(site, {*_access_names(site.catalogue), name})


def _access_names(catalogue: Catalogue) -> set[str]:
    return {catalogue[number].name for number in catalogue.access_numbers()}


def without_redundant_access(site: Model) -> Model:
    """The site without the settings of the access families that nothing names any more."""
    statements, names = site.statements, _access_names(site.catalogue)
    said = np.flatnonzero(np.bincount(statements.setting[statements.form != Form.FRESH], minlength=len(site.catalogue)))
    named = {site.catalogue[number].name for number in said.tolist()} | set(site.file_notes.setting_columns)
    named |= {name for preset in site.declarations.presets.values() for name in preset.says}
    named |= {name for name in site.catalogue.adjusted if not name.endswith(".*")} | {"access.everyone"}
    return site if names <= named else with_catalogue(site, names & named)


def with_catalogue(site: Model, access: Iterable[str], catalogue: Catalogue | None = None) -> Model:
    """The site with another catalogue: the same declared names unless one is given, and these access settings.

    A `fresh_access` is about every access setting.
    """
    old, statements = site.catalogue, site.statements
    new = catalogue or Catalogue(old.words, old.own, old.adjusted, access)
    found = [new.find(setting.name) for setting in old.settings]
    number = np.array([-1 if at is None else at for at in found], dtype=np.int32)
    keep = (number >= 0)[statements.setting] if len(statements) else np.zeros(0, dtype=bool)
    lost = ~keep & (statements.form != Form.FRESH)
    if lost.any():
        name = old[int(statements.setting[np.argmax(lost)])].name
        raise CannotDo(f"{name} is set at {statements.place(int(np.argmax(lost)))}, and would be no setting then")
    added = [new.number(setting.name) for setting in new.settings if old.find(setting.name) is None]
    more = [one._replace(setting=at) for at in added if new[at].family in ACCESS_FAMILIES for one in _each_fresh(site)]
    guarantees = tuple(
        one._replace(has={new.number(old[at].name): value for at, value in one.has.items()}) for one in site.guarantees
    )
    number = np.maximum(number, 0)
    edited = statements.edited(new.built_in(), keep, more, setting=number)
    return with_changes(site, catalogue=new, statements=edited, guarantees=guarantees)


def _each_fresh(site: SiteModel) -> list[NewStatement]:
    """Every `fresh_access`, as a statement about one access setting."""
    statements = site.statements
    fresh = np.flatnonzero(statements.form == Form.FRESH)
    if not len(fresh):
        return []
    one = fresh[statements.setting[fresh] == statements.setting[fresh[0]]].tolist()
    return [
        NewStatement(
            0,
            ScopeKind(int(statements.scope[row])),
            int(statements.target[row]),
            (),
            statements.place(row),
            Form.FRESH,
            int(statements.step[row]),
            both=bool(statements.both[row]),
            because=statements.reasons[int(statements.because[row])],
        )
        for row in one
    ]


def rebuilt(
    site: Model,
    declarations: Declarations | None = None,
    people: People | None = None,
    types: Mapping[str, Type] | None = None,
    own: Sequence[Setting] | None = None,
    adjusted: Mapping[str, Adjustment] | None = None,
) -> Model:
    """The site with other declarations; its catalogue, the numbers of its types and its statements are made anew."""
    declarations, people = declarations or site.declarations, people or site.people
    if types is not None:
        site = with_types(site, types)
    names = {kind: tuple(declarations.of(kind)) for kind in SECTIONS if kind != "role"}
    roles = {name: role.actions for name, role in declarations.roles.items()}
    words = Vocabulary(
        {**names, "person": people.names, "group": tuple(people.groups)}, declarations.areas(), site.actions, roles
    )
    old = site.catalogue
    members = {name for name in _access_names(old) if name.partition(".")[2] in words.subjects}
    catalogue = Catalogue(
        words, old.own if own is None else own, old.adjusted if adjusted is None else adjusted, members
    )
    after = with_catalogue(site, (), catalogue)
    return replace(after, declarations=declarations, people=people)


def with_types(site: Model, declared: Mapping[str, Type]) -> Model:
    details, statements, old = site.details, site.statements, site.types
    types = Types(declared, details.columns["type"].words)
    found = [types.find(name) for name in old.names]
    of_types = statements.scope == ScopeKind.TYPE
    target = statements.target.copy()
    target[of_types] = np.array(found, dtype=np.int32)[target[of_types]]
    keep = ~(of_types & (target < 0))
    built_in = site.catalogue.built_in()
    edited = statements.edited(built_in, keep, columns={"target": target})
    return replace(site, details=_typed(details, types), statements=edited)


def _typed(details: Details, types: Types) -> Details:
    column = details.columns["type"]
    table = np.array([types.find(word or "page") for word in column.words], dtype=np.intp)
    return details._replace(types=types, type_of=table[column.codes])


def said_again(site: SiteModel, row: int, **other: Any) -> NewStatement:
    """A statement of a site as a new one, some of it different."""
    said = site.statements
    preset, preset_place = said.presets[int(said.preset[row])]
    one = NewStatement(
        int(said.setting[row]),
        ScopeKind(int(said.scope[row])),
        int(said.target[row]),
        said.said(row),
        said.place(row),
        Form(int(said.form[row])),
        int(said.step[row]),
        bool(said.locked[row]),
        bool(said.both[row]),
        said.reasons[int(said.because[row])],
        preset,
        preset_place,
    )
    return one._replace(**other)
