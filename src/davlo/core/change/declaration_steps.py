"""Steps about declarations, types and settings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TypeVar

from ..faults import UnknownName
from ..site.catalogue import Adjustment
from ..site.declarations import SECTIONS, Declared, Group, Layout, kind_of
from ..site.mentions import Mentions
from ..site.model import SiteModel
from ..site.scopes import ScopeKind
from ..site.settings import Setting
from ..site.types import Type
from ..site.values import words_of
from .cannot_do import CannotDo
from .rebuild import rebuilt, without_redundant_access

Model = TypeVar("Model", bound=SiteModel)


def declared(site: Model, record: Declared) -> Model:
    if isinstance(record, Setting):
        own = {setting.name: setting for setting in site.catalogue.own} | {record.name: record}
        return rebuilt(site, own=tuple(own.values()))
    if isinstance(record, Type):
        if record.based_on and record.based_on not in site.types.declared and record.based_on != "page":
            raise UnknownName("type", record.based_on, tuple(site.types.declared))
        return rebuilt(site, types={**site.types.declared, record.name: record})
    if isinstance(record, Group):
        known = (*site.people.names, *site.people.groups)
        for member in record.members:
            if member not in known:
                raise UnknownName("person or group", member, known)
        people = replace(
            site.people,
            groups={**site.people.groups, record.name: record.members},
            places={record.name: record.place, **site.people.places},
        )
        return rebuilt(site, people=people)
    declarations = site.declarations.with_one(record)
    for kind, name in _names_of(record):
        if name and name not in declarations.of(kind):
            raise UnknownName(kind, name, tuple(declarations.of(kind)))
    return rebuilt(site, declarations=declarations)


def _names_of(record: Declared) -> list[tuple[str, str]]:
    """What a declaration names: kinds and names."""
    blocks = getattr(record, "blocks", ())
    listed = [block for some in blocks.values() for block in some] if isinstance(blocks, Mapping) else [*blocks]
    if isinstance(record, Layout):
        listed += [block for change in record.changes.values() for block in words_of(change)]
    return [("block", block) for block in listed] + [(kind_of(record), getattr(record, "based_on", ""))]


def undeclared(site: Model, kind: str, name: str) -> Model:
    is_type = kind == "type"
    named = [one for one in Mentions(site).of(kind, name) if not (is_type and one.by == "a statement")]
    if named:
        raise CannotDo(f"the {kind} {name} is named by {named[0].by} ({named[0].place})")
    if is_type:
        if name not in site.types.declared:
            raise UnknownName(kind, name, tuple(site.types.declared))
        number = site.types.find(name)
        keep = ~((site.statements.scope == ScopeKind.TYPE) & (site.statements.target == number))
        statements = site.statements.edited(site.catalogue.built_in(), keep)
        left = {one: declared for one, declared in site.types.declared.items() if one != name}
        return without_redundant_access(rebuilt(replace(site, statements=statements), types=left))
    if kind == "setting":
        return rebuilt(site, own=tuple(one for one in site.catalogue.own if one.name != name))
    if kind == "group":
        groups = {one: members for one, members in site.people.groups.items() if one != name}
        places = {one: place for one, place in site.people.places.items() if one != name}
        return rebuilt(site, people=replace(site.people, groups=groups, places=places))
    if kind not in SECTIONS or name not in site.declarations.of(kind):
        raise UnknownName(kind, name, tuple(site.declarations.of(kind)) if kind in SECTIONS else SECTIONS)
    return rebuilt(site, declarations=site.declarations.without(kind, name))


def adjusted(site: Model, name: str, adjustment: Adjustment) -> Model:
    said = {key: value for key, value in adjustment._asdict().items() if value is not None}
    before = site.catalogue.adjusted.get(name, Adjustment())
    own = {setting.name: setting for setting in site.catalogue.own}
    if name in own:
        own[name] = adjustment.of(own[name])
        return rebuilt(site, own=tuple(own.values()))
    if not name.endswith(".*"):
        adjustment.of(site.catalogue[site.setting_number(name)])
    return rebuilt(site, adjusted={**site.catalogue.adjusted, name: before._replace(**said)})
