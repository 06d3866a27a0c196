"""Steps about what is declared, and about guarantees, viewpoints, accepts and the site as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, TypeAlias

from ...faults import UnknownName
from ...site.declarations import DERIVED, SECTIONS, Declared, Group, Layout, Look, Person, Preset, Role, kind_of
from ...site.mentions import Mention, Mentions
from ...site.model import Accept, Guarantee, SitemapRules, SiteModel, Viewpoint
from ...site.pages.conditions import Condition
from ...site.pages.types import Type
from ...site.people import SIGNED_IN, VISITOR
from ...site.publication import OwnershipProof, RobotsLine
from ...site.settings.catalogue import Adjustment
from ...site.settings.scopes import ScopeKind
from ...site.settings.setting import Setting
from ...site.settings.values import Value, words_of
from ...wording import count
from .preset_steps import with_preset
from .rebuild import rebuilt, with_changes, without_redundant_access
from .role_actions import with_new_actions
from .step import CHANGED, CannotDo, Step


@dataclass(frozen=True, slots=True)
class Declare(Step):
    """A declaration is added, or replaced."""

    record: Declared

    def done(self, site: Any) -> Any:
        return _declared(site, self.record)

    @property
    def words(self) -> str:
        return f"declare the {kind_of(self.record)} {self.record.name}"


@dataclass(frozen=True, slots=True)
class Undeclare(Step):
    """A declaration is taken away; for a type, also what is set for it."""

    kind: str
    name: str

    def done(self, site: Any) -> Any:
        return _undeclared(site, self.kind, self.name)

    @property
    def words(self) -> str:
        return f"take the {self.kind} {self.name} away"


@dataclass(frozen=True, slots=True)
class Adjust(Step):
    """The site adjusts a setting of Davlo's, or a family such as `access.*`."""

    setting: str
    adjustment: Adjustment

    def done(self, site: Any) -> Any:
        return _adjusted(site, self.setting, self.adjustment)

    @property
    def words(self) -> str:
        return f"adjust the setting {self.setting}"


SiteValue: TypeAlias = "str | tuple[str, ...] | tuple[OwnershipProof, ...] | int | SitemapRules"


@dataclass(frozen=True, slots=True)
class SetSite(Step):
    """The site as a whole: `name`, `url`, `home_path`, `languages`, …, `actions`, `robots` or `ownership_proofs`."""

    name: str
    value: SiteValue
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        if self.name == "home_path":
            path = site.page_names.path(str(self.value))
            home = site.tree.find(path)
            if home < 0 and path != "/":
                raise UnknownName("page", path, site.tree.paths)
            return with_changes(site, home_path=path, details=site.details._replace(home=home))
        if self.name == "url" and len(site.details.written.holding_text(b"://")):
            raise CannotDo(
                f"{site.page_list} has full addresses, which would be those of another site: change them first"
            )
        if self.name == "actions":
            assert isinstance(self.value, tuple)
            for action in site.actions:
                named = Mentions(site).of("action", action) if action not in self.value else []
                if named:
                    raise CannotDo(f"{named[0].by} ({named[0].place}) names the action {action}")
            return rebuilt(replace(site, actions=self.value))
        if self.name == "robots":
            assert isinstance(self.value, tuple)
            return replace(site, robots=tuple(RobotsLine(str(text), CHANGED) for text in self.value))
        return replace(site, **{self.name: self.value})

    @property
    def words(self) -> str:
        return f"set the site's {self.name.replace('_', ' ')}"


def said_of_site(site: SiteModel, name: str) -> Any:
    """What a site says under a name that `SetSite` takes, wherever it says it."""
    found = getattr(site, name)
    if name == "robots":
        return tuple(line.text for line in found)
    return tuple(one._replace(place=CHANGED) for one in found) if name == "ownership_proofs" else found


@dataclass(frozen=True, slots=True)
class ExceptFromGuarantee(Step):
    """A guarantee excludes some pages."""

    name: str
    pages: tuple[str, ...]
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        names = [guarantee.name for guarantee in site.guarantees]
        if self.name not in names:
            raise UnknownName("guarantee", self.name, names)
        guarantees = list(site.guarantees)
        one = guarantees[names.index(self.name)]
        guarantees[names.index(self.name)] = one._replace(excepts=(*one.excepts, Condition(path=self.pages)))
        return replace(site, guarantees=tuple(guarantees))

    @property
    def words(self) -> str:
        return f'except {count(len(self.pages), "page")} from the guarantee "{self.name}"'


@dataclass(frozen=True, slots=True)
class SetGuarantee(Step):
    """A guarantee is added, or replaced by its name; `has` pairs settings and values."""

    name: str
    when: Condition
    excepts: tuple[Condition, ...] = ()
    has: tuple[tuple[str, Value], ...] = ()
    may: tuple[tuple[str, tuple[str, ...]], ...] = ()
    may_not: tuple[tuple[str, tuple[str, ...]], ...] = ()
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        has = {site.setting_number(name): value for name, value in self.has}
        one = Guarantee(self.name, CHANGED, self.when, self.excepts, has, dict(self.may), dict(self.may_not))
        if not any(before.name == self.name for before in site.guarantees):
            return replace(site, guarantees=(*site.guarantees, one))
        others = (one._replace(place=old.place) if old.name == self.name else old for old in site.guarantees)
        return replace(site, guarantees=tuple(others))

    @property
    def words(self) -> str:
        return f'guarantee "{self.name}"'


@dataclass(frozen=True, slots=True)
class AddViewpoint(Step):
    """A page and a viewer are looked at after every change."""

    page: str
    viewer: str
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        page = site.page_names.path(self.page)
        viewers = (*site.people.names, *site.people.groups, VISITOR, SIGNED_IN)
        if self.viewer not in viewers:
            raise UnknownName("person or group", self.viewer, viewers)
        if any((one.page, one.viewer) == (page, self.viewer) for one in site.viewpoints):
            raise CannotDo(f"{page} as {self.viewer} is a viewpoint already")
        return replace(site, viewpoints=(*site.viewpoints, Viewpoint(page, self.viewer, CHANGED)))

    @property
    def words(self) -> str:
        return f"look at {self.page} as {self.viewer} after every change"


@dataclass(frozen=True, slots=True)
class DropViewpoint(Step):
    """A page and a viewer are no longer looked at."""

    page: str
    viewer: str
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        page = site.page_names.path(self.page)
        left = tuple(one for one in site.viewpoints if (one.page, one.viewer) != (page, self.viewer))
        if len(left) == len(site.viewpoints):
            raise CannotDo(f"{page} as {self.viewer} is no viewpoint")
        return replace(site, viewpoints=left)

    @property
    def words(self) -> str:
        return f"no longer look at {self.page} as {self.viewer}"


@dataclass(frozen=True, slots=True)
class AddAccept(Step):
    """A finding is known and meant."""

    accept: Accept
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        return replace(site, accepts=(*site.accepts, self.accept))

    @property
    def words(self) -> str:
        return "accept a finding"


@dataclass(frozen=True, slots=True)
class DropAccept(Step):
    """An entry of `accept` is taken away."""

    accept: Accept
    changes_values: ClassVar[bool] = False

    def done(self, site: Any) -> Any:
        left = tuple(one for one in site.accepts if one._replace(place=self.accept.place) != self.accept)
        if len(left) == len(site.accepts):
            raise CannotDo("there is no such accept")
        return replace(site, accepts=left)

    @property
    def words(self) -> str:
        return "take an accept away"


def _declared(site: Any, record: Declared) -> Any:
    if isinstance(record, Setting):
        own = {setting.name: setting for setting in site.catalogue.own} | {record.name: record}
        return rebuilt(site, own=tuple(own.values()))
    if isinstance(record, Type):
        if record.based_on and record.based_on not in site.types.declared and record.based_on != "page":
            raise UnknownName("type", record.based_on, tuple(site.types.declared))
        return rebuilt(site, types={**site.types.declared, record.name: record})
    if isinstance(record, Person):
        return _with_person(site, record)
    if isinstance(record, Preset):
        return with_preset(site, record)
    if isinstance(record, Group):
        if site.people.has(record.name):
            raise CannotDo(f"there is a person called {record.name}: a person and a group may not share a name")
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
    before, after = (one.of(kind_of(record)).get(record.name) for one in (site.declarations, declarations))
    for key in DERIVED[type(record)] if isinstance(record, Layout | Look) else ():
        states = [one for one in (before, after, type(record)(record.name, record.place)) if one]
        if getattr(record, key) not in [getattr(one, key) for one in states]:
            who = f"the {kind_of(record)} {record.name}"
            raise CannotDo(f"{who}: what it says itself stands in own: own={{{key!r}: …}}")
    for kind, name in _names_of(record):
        if name and name not in declarations.of(kind):
            raise UnknownName(kind, name, tuple(declarations.of(kind)))
    after = rebuilt(site, declarations=declarations)
    return with_new_actions(site, after, record.name) if isinstance(record, Role) else after


def _with_person(site: Any, person: Person) -> Any:
    people = site.people
    if person.name in people.groups:
        raise CannotDo(f"there is a group called {person.name}: a person and a group may not share a name")
    names = people.names if people.has(person.name) else (*people.names, person.name)
    admins = tuple(one for one in people.admins if one != person.name or person.is_admin)
    if person.is_admin and person.name not in admins:
        admins = (*admins, person.name)
    places = {person.name: person.place, **people.places}
    return rebuilt(site, people=replace(people, names=names, admins=admins, places=places))


def _without_person(site: Any, name: str) -> Any:
    people = site.people
    names, admins = (tuple(one for one in some if one != name) for some in (people.names, people.admins))
    places = {one: place for one, place in people.places.items() if one != name}
    return rebuilt(site, people=replace(people, names=names, admins=admins, places=places))


def _names_of(record: Declared) -> list[tuple[str, str]]:
    """What a declaration names: kinds and names."""
    blocks = getattr(record, "blocks", ())
    listed = [block for some in blocks.values() for block in some] if isinstance(blocks, Mapping) else [*blocks]
    if isinstance(record, Layout):
        listed += [block for some in record.own.get("blocks", {}).values() for block in words_of(some)]
    return [("block", block) for block in listed] + [(kind_of(record), getattr(record, "based_on", ""))]


def named_elsewhere(site: SiteModel, kind: str, name: str) -> list[Mention]:
    """The places that name a declaration and would not go with it: what is set for a type goes, and so do admins."""
    is_its_own = {"type": "a statement", "person": "the admins"}.get(kind, "")
    return [one for one in Mentions(site).of(kind, name) if one.by != is_its_own]


def _undeclared(site: Any, kind: str, name: str) -> Any:
    names = {
        "person": site.people.names,
        "group": tuple(site.people.groups),
        "setting": tuple(one.name for one in site.catalogue.own),
        "type": tuple(site.types.declared),
        "guarantee": tuple(one.name for one in site.guarantees),
        **{each: tuple(site.declarations.of(each)) for each in SECTIONS},
    }
    if kind not in names:
        raise UnknownName("kind of declaration", kind, tuple(names))
    if name not in names[kind]:
        raise UnknownName(kind, name, names[kind])
    if kind == "guarantee":
        return replace(site, guarantees=tuple(one for one in site.guarantees if one.name != name))
    named = named_elsewhere(site, kind, name)
    if named:
        more = f" and {count(len(named) - 1, 'other place')}" if len(named) > 1 else ""
        raise CannotDo(f"{named[0].by} ({named[0].place}){more} names the {kind} {name}")
    if kind == "person":
        return _without_person(site, name)
    if kind == "type":
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
    after = rebuilt(site, declarations=site.declarations.without(kind, name))
    return without_redundant_access(after) if kind == "preset" else after


def _adjusted(site: Any, name: str, adjustment: Adjustment) -> Any:
    said = {key: value for key, value in adjustment._asdict().items() if value is not None}
    before = site.catalogue.adjusted.get(name, Adjustment())
    own = {setting.name: setting for setting in site.catalogue.own}
    if name in own:
        own[name] = adjustment.of(own[name])
        return rebuilt(site, own=tuple(own.values()))
    if not name.endswith(".*"):
        adjustment.of(site.catalogue[site.setting_number(name)])
    return rebuilt(site, adjusted={**site.catalogue.adjusted, name: before._replace(**said)})
