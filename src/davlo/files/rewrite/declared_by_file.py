"""Declarations from a file of the same form as davlo.yaml, as the steps that join it into a site."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import nullcontext, suppress
from pathlib import Path
from typing import Any

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.change.differences.same_state import placeless
from davlo.core.change.steps.change import (
    CHANGED,
    FRESH_ACCESS,
    AddAccept,
    AddRule,
    AddViewpoint,
    Adjust,
    ChangeRule,
    Declare,
    Say,
    SetGuarantee,
    Step,
    Use,
)
from davlo.core.change.steps.statement_steps import said_by, target_of
from davlo.core.faults import DavloError, Place, SiteError
from davlo.core.site.declarations import Block, Declared, Group, Instead, Layout, Person, Theme, kind_of
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.types import Type, Types
from davlo.core.site.settings.catalogue import Catalogue, GrowingCatalogue
from davlo.core.site.settings.parse_values import read_value
from davlo.core.site.settings.scopes import Scope, ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES, FLAGS, Setting
from davlo.core.site.settings.values import words_of
from davlo.core.site.statements.new_statements import Form

from ..form.davlo_yaml import DAVLO_YAML
from ..read.sections.guarantees import read_accepts, read_guarantees
from ..read.sections.scope_bodies import RESERVED, StatementCollector
from ..read.sections.statement_sections import read_statements
from ..read.sections.viewpoints import read_viewpoints
from ..read.site_folder import Declared as DeclaredBy
from ..read.site_folder import read_declared
from ..read.yaml.includes import decoded, read_decisions
from ..read.yaml.node_reader import Reader
from ..read.yaml.yaml_nodes import Items, Node, Scalar, raw, read_yaml
from ..read.yaml.yaml_nodes import Mapping as MappingNode

BY_NAME = ("settings", "presets", "types", "layouts", "themes", "sidebars", "looks", "bands", "blocks", "roles")
LISTED = ("rules", "guarantees", "viewpoints", "accept")
DECLARING = (*BY_NAME, "people", *LISTED)
"""The sections that declare something."""


def declared_by_file(site: SiteModel, content: bytes, name: str) -> tuple[Step, ...]:
    """The steps that join the declarations of a file into a site; what the site declares alike is left out.

    Parameters
    ----------
    site : SiteModel
        A site in a folder, whose files are as they were read.
    content : bytes
        YAML with the sections of davlo.yaml that declare something.
    name : str
        The file's name, for messages.

    Raises
    ------
    SiteError
        If it cannot be understood, or declares something otherwise than the site does, with every fault.
    """
    reader = Reader()
    reader.names = site.page_names
    mine = _sections(content, name, reader)
    if mine is None:
        raise SiteError(reader.faults)
    theirs = read_decisions(Path(site.folder), Reader())
    assert theirs is not None, "the site was read from these files"
    joined, found = _Joined(site, reader, mine, theirs), tuple[Step, ...]()
    with suppress(DavloError) if reader.faults else nullcontext():  # what cannot be read is reported already
        found = tuple(joined.steps())
    if reader.faults:
        raise SiteError(sorted(dict.fromkeys(reader.faults), key=lambda fault: fault.place.line))
    return found


def _sections(content: bytes, name: str, reader: Reader) -> MappingNode | None:
    """The sections of the file; None if it is no YAML."""
    text = decoded(content, name, reader)
    if text is None:
        return None
    if not text.strip():
        reader.fault(Place(name), "the file is empty, so it declares nothing")
        return None
    node, faults = read_yaml(text, name)
    reader.faults += faults
    if node is None:
        return None
    for key, place, _ in list(node):
        if key in DAVLO_YAML.keys and key not in DECLARING:
            command = "davlo set" if key in ("everywhere", "pages") else "davlo declare site"
            reader.fault(place, f"{key} declares nothing, so it cannot come from a file", hint=f"use {command}")
            node.drop(key)
    return reader.mapping(node, "the file", DECLARING)


class _Joined:
    """The sections of a site with those of a file in front: what the file declares, and whether the site does alike."""

    def __init__(self, site: SiteModel, reader: Reader, mine: MappingNode, theirs: MappingNode) -> None:
        self.site, self.reader, self.mine = site, reader, mine
        self._whole = _with(theirs, mine)
        self.declared: DeclaredBy = read_declared(self._whole, reader)
        self._growing = GrowingCatalogue(self.declared.catalogue)
        collector = StatementCollector(self._growing, reader, Types(self.declared.types, ()))
        own: dict[str, Node] = {key: mine.entries[key] for key in ("types", "rules") if key in mine.entries}
        self.rules = read_statements(
            MappingNode(mine.place, own, {k: mine.keys[k] for k in own}), self.declared.presets, collector
        )
        collector.finish(site.tree)
        self.presets = {
            preset: {self._growing[entry.setting].name: entry.value for entry in entries}
            for preset, (_, entries) in collector.presets.items()
        }

    def steps(self) -> Iterator[Step]:
        """Each declaration of the file that the site lacks, what it names before it."""
        yield from self._people()
        records = self._records()
        done: set[tuple[str, str]] = set()

        def first(key: tuple[str, str]) -> Iterator[Step]:
            if key in done or key not in records:
                return
            done.add(key)
            for other in _names_of(records[key]):
                yield from first(other)
            yield from self._declare(records[key])

        for key in records:
            yield from first(key)
        yield from self._adjustments()
        yield from self._of_types()
        yield from self._of_rules()
        yield from self._listed()

    def _names(self, section: str) -> dict[str, Place]:
        """What the file names in a section, and where."""
        node = self.mine.entries.get(section)
        return dict(node.keys) if isinstance(node, MappingNode) else {}

    def _people(self) -> Iterator[Step]:
        node = self.mine.entries.get("people")
        body = node if isinstance(node, MappingNode) else MappingNode(self.mine.place)
        named = [word for word, _ in Reader().words(body.entries.get("names"), "names")]
        admins = [word for word, _ in Reader().words(body.entries.get("admins"), "admins")]
        for person in dict.fromkeys((*named, *admins)):
            is_admin = person in admins or self.site.people.is_admin(person)
            if not self.site.people.has(person) or is_admin != self.site.people.is_admin(person):
                yield Declare(Person(person, CHANGED, is_admin))

    def _records(self) -> dict[tuple[str, str], Declared]:
        """What the file declares under names, presets last."""
        declared, found = self.declared, dict[tuple[str, str], Declared]()
        groups = self.mine.entries.get("people")
        held = groups.entries.get("groups") if isinstance(groups, MappingNode) else None
        for group in held.entries if isinstance(held, MappingNode) else ():
            found["group", group] = Group(group, held.keys[group], declared.people.groups.get(group, ()))  # type: ignore[union-attr]
        own = {setting.name: setting for setting in declared.catalogue.own}
        by_section: dict[str, Mapping[str, Any]] = {
            "settings": own,
            "types": declared.types,
            **{f"{kind}s": declared.declarations.of(kind) for kind in ("role", "block", "sidebar", "look", "band")},
            **{f"{kind}s": declared.declarations.of(kind) for kind in ("theme", "layout")},
        }
        for section, records in by_section.items():
            for name in self._names(section):
                if name in records:
                    record: Any = records[name]
                    found[kind_of(record), name] = record
        for name in self._names("presets"):
            preset = declared.declarations.presets[name]
            found["preset", name] = preset._replace(says=self.presets.get(name, {}))
        return found

    def _declare(self, record: Declared) -> Iterator[Step]:
        before = self._before(record)
        if before is None:
            yield Declare(record._replace(place=CHANGED))
        elif placeless(before) != placeless(record):
            self._differs(record.place, kind_of(record), record.name, before.place)

    def _before(self, record: Declared) -> Declared | None:
        site, kind, name = self.site, kind_of(record), record.name
        if isinstance(record, Setting):
            return next((one for one in site.catalogue.own if one.name == name), None)
        if isinstance(record, Type):
            there = site.types.declared.get(name)
            return there if there is not None and there.is_declared else None
        if isinstance(record, Group):
            members = site.people.groups.get(name)
            return None if members is None else Group(name, site.people.places[name], members)
        return site.declarations.of(kind).get(name)

    def _differs(self, place: Place, kind: str, name: str, there: Place) -> None:
        told = f"the {kind} {name} is declared already, and otherwise, at {there}"
        self.reader.fault(
            place, told, hint=f"take it out here, or change it with: davlo declare {kind} {name} KEY=VALUE"
        )

    def _adjustments(self) -> Iterator[Step]:
        for name, place in self._names("settings").items():
            after = self.declared.catalogue.adjusted.get(name)
            before = self.site.catalogue.adjusted.get(name)
            if after is None or before == after:
                continue
            if before is None:
                yield Adjust(name, after)
            else:
                self._differs(place, "setting", name, Place("davlo.yaml"))

    def _of_types(self) -> Iterator[Step]:
        """What types give to their pages."""
        section = self.mine.entries.get("types")
        for name, _, body in section if isinstance(section, MappingNode) else ():
            if isinstance(body, MappingNode) and "give" in body.entries:
                yield from self._said(Scope.type(name), body.entries["give"])

    def _of_rules(self) -> Iterator[Step]:
        there = {rule.name: rule for rule in self.site.rules}
        nodes = self.mine.entries.get("rules")
        for rule, node in zip(self.rules, nodes.items if isinstance(nodes, Items) else (), strict=False):
            if rule.name in there:
                if placeless(there[rule.name]) != placeless(rule):
                    self.reader.fault(rule.place, f"there is a rule {rule.name!r} already, at {there[rule.name].place}")
            else:
                yield AddRule(rule.name, rule.when, (), rule.excepts)
                if rule.note:
                    yield ChangeRule(rule.name, rule.when, rule.excepts, rule.note)
            if isinstance(node, MappingNode) and "give" in node.entries:
                yield from self._said(Scope.rule(rule.name), node.entries["give"], node.entries.get("because"))

    def _said(self, scope: Scope, body: Node, beside: Node | None = None) -> Iterator[Step]:
        """The steps that say what a scope body says, but for what the site says alike."""
        if not isinstance(body, MappingNode):
            return
        reason = body.entries.get("because", beside)
        because = reason.text if isinstance(reason, Scalar) else ""
        fresh = body.entries.get("fresh_access")
        if isinstance(fresh, Scalar) and FLAGS.get(fresh.text.lower()) and not self._begins_anew(scope):
            yield Say(scope, FRESH_ACCESS, True, because=because)
        lock = body.entries.get("lock")
        for is_lock, some in ((False, body), (True, lock)):
            for name, place, node in _settings(some):
                step = Say(scope, name, raw(node), is_lock, because)  # type: ignore[arg-type]
                if not self._says(step, place):
                    yield step
        for preset, _ in Reader().words(body.entries.get("use"), "use"):
            if not self._uses(scope, preset):
                yield Use(scope, preset)

    def _uses(self, scope: Scope, preset: str) -> bool:
        site = self.site
        codes = set(site.statements.preset[_said_in(site, scope)].tolist())
        return any(site.statements.presets[code][0] == preset for code in codes)

    def _begins_anew(self, scope: Scope) -> bool:
        return bool((self.site.statements.form[_said_in(self.site, scope)] == Form.FRESH).any())

    def _says(self, step: Say, place: Place) -> bool:
        """Whether the site says it; if it says otherwise, that is noted."""
        site = self.site
        row = said_by(site, step.scope, step.setting) if _is_there(site, step.scope) else -1
        if row < 0:
            return False
        value = read_value(site.catalogue.setting(step.setting), step.value)  # type: ignore[arg-type]
        if (site.statements.said(row), bool(site.statements.locked[row])) != (value, step.lock):
            there = site.statements.place(row)
            self.reader.fault(place, f"{step.scope.sentence} sets {step.setting} already, and otherwise, at {there}")
        return True

    def _listed(self) -> Iterator[Step]:
        """Guarantees, viewpoints and accepts."""
        site, declared, entries = self.site, self.declared, self.mine.entries
        access = {
            one.name for one in (*site.catalogue.settings, *self._growing.settings) if one.family in ACCESS_FAMILIES
        }
        access = {name for name in access if name.partition(".")[2] in declared.words.subjects}
        catalogue = Catalogue(declared.words, declared.catalogue.own, declared.catalogue.adjusted, access)
        there = {one.name: one for one in site.guarantees}
        for one in read_guarantees(entries.get("guarantees"), catalogue, declared.words, self.reader, declared.types):
            has = {catalogue[number].name: value for number, value in one.has.items()}
            step = SetGuarantee(
                one.name, one.when, one.excepts, tuple(has.items()), tuple(one.may.items()), tuple(one.may_not.items())
            )
            if one.name not in there:
                yield step
                continue
            before = there[one.name]
            was = {site.catalogue[number].name: value for number, value in before.has.items()}
            if (placeless(one._replace(has={})), has) != (placeless(before._replace(has={})), was):
                self.reader.fault(one.place, f"there is a guarantee {one.name!r} already, at {before.place}")
        looked_at = {(one.page, one.viewer) for one in site.viewpoints}
        for viewpoint in read_viewpoints(entries.get("viewpoints"), declared.people, self.reader):
            if (viewpoint.page, viewpoint.viewer) not in looked_at:
                yield AddViewpoint(viewpoint.page, viewpoint.viewer)
        accepted = [placeless(one) for one in site.accepts]
        for accept in read_accepts(entries.get("accept"), catalogue, self.reader, declared.types):
            if placeless(accept) not in accepted:
                yield AddAccept(accept._replace(place=CHANGED))


def _is_there(site: SiteModel, scope: Scope) -> bool:
    """Whether the site has the type or the rule that a scope is about."""
    if scope.kind == ScopeKind.TYPE:
        return site.types.find(scope.name) >= 0
    return any(rule.name == scope.name for rule in site.rules)


def _said_in(site: SiteModel, scope: Scope) -> Mask:
    """The statements of a type or a rule, if the site has it. bool[statements]"""
    said = site.statements
    if not _is_there(site, scope):
        return np.zeros(len(said), dtype=bool)
    found: Mask = (said.scope == scope.kind) & (said.target == target_of(site, scope))
    return found


def _settings(body: Node | None) -> Iterator[tuple[str, Place, Node]]:
    """The settings of a scope body or of its lock, one for each subject of access and deny."""
    for key, place, node in body if isinstance(body, MappingNode) else ():
        if key in ACCESS_FAMILIES:
            yield from (
                (f"{key}.{who}", at, inner) for who, at, inner in (node if isinstance(node, MappingNode) else ())
            )
        elif key not in RESERVED:
            yield key, place, node


def _names_of(record: Declared) -> Iterator[tuple[str, str]]:
    """What a declaration names, which must be there before it."""
    base = getattr(record, "based_on", "")
    if base:
        yield kind_of(record), base
    if isinstance(record, Group):
        yield from (("group", member) for member in record.members)
    elif isinstance(record, Type):
        yield from (("setting", name) for name in record.without)
    elif isinstance(record, Theme):
        yield from (("block", one.block) for one in record.if_missing.values() if isinstance(one, Instead))
    elif isinstance(record, Layout):
        for some in record.own.get("blocks", {}).values():
            yield from (("block", name) for name in words_of(some))
    elif isinstance(record, Block):
        yield from (("block", name) for name in record.blocks)
    else:
        yield from (("block", name) for name in getattr(record, "blocks", ()))


def _with(theirs: MappingNode, mine: MappingNode) -> MappingNode:
    """The sections of a site with the entries of a file in the place of its own; lists of both."""
    whole = MappingNode(theirs.place, dict(theirs.entries), dict(theirs.keys))
    for key, place, value in mine:
        have = whole.entries.get(key)
        if isinstance(have, MappingNode) and isinstance(value, MappingNode):
            if key == "people":
                whole.entries[key] = _with(have, value)
            else:
                places = {**have.keys, **value.keys}
                whole.entries[key] = MappingNode(have.place, {**have.entries, **value.entries}, places)
        elif have is not None and not isinstance(have, MappingNode) and not isinstance(value, MappingNode):
            lists = (one.items if isinstance(one, Items) else [one] for one in (have, value))
            whole.entries[key] = Items([item for some in lists for item in some], have.place)
        else:
            whole.entries[key], whole.keys[key] = value, place
    return whole
