"""The site that a change makes: another site, worked out without any file. The one it is made of stays as it is."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

import numpy as np

from ..arrays.codebooks import Column
from ..faults import Place, UnknownName, ValueFault
from ..site.catalogue import Adjustment, Catalogue, Vocabulary
from ..site.conditions import Condition
from ..site.declarations import SECTIONS, Declarations, Declared, Group, People, kind_of
from ..site.facts import Facts
from ..site.mentions import Mentions
from ..site.model import RolePlace, Rule, SiteModel
from ..site.new_statements import SAID_STEP, Form, NewStatement
from ..site.parse_values import check_scope, read_cell, read_value
from ..site.scopes import OF_PAGES, Scope, ScopeKind
from ..site.settings import ACCESS_FAMILIES, Setting
from ..site.types import Type, Types
from ..site.values import ByDepth, ListChange, Raw, Reference, raw_of
from .steps import (
    CHANGED,
    FRESH_ACCESS,
    AddAccept,
    AddRule,
    Adjust,
    Change,
    ChangeError,
    Declare,
    DropAccept,
    DropRule,
    ExceptFromPromise,
    Lock,
    RenameFact,
    Say,
    SetFact,
    SetSite,
    Step,
    TakeAway,
    Undeclare,
    Unlock,
)

Model = TypeVar("Model", bound=SiteModel)
_OF_STATEMENTS = (Say, TakeAway, Lock, Unlock)


class CannotDo(Exception):
    """A step that cannot be done; says why."""

    def __init__(self, what: str, word: str = "", allowed: Iterable[str] = ()) -> None:
        self.what, self.word, self.allowed = what, word, tuple(allowed)
        super().__init__(what)


def apply(site: Model, change: Change) -> Model:
    """The site after a change.

    Parameters
    ----------
    site : SiteModel
        It is not changed.
    change : Change
        Its steps are done in order.

    Returns
    -------
    SiteModel
        A site of the same class.

    Raises
    ------
    ChangeError
        If a step cannot be done.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = apply(site, Change().say("sidebar.right", "main", below="/visit"))
    >>> after.resolve()["/visit/tickets"]["sidebar.right"], site.resolve()["/visit/tickets"]["sidebar.right"]
    ('main', 'visit-planning')
    """
    edits = _StatementEdits(site)
    number = 0
    try:
        for number, step in enumerate(change.steps, 1):  # noqa: B007 - the number of the step that fails
            if isinstance(step, _OF_STATEMENTS):
                if edits.touches(step):
                    site = edits.done()
                    edits = _StatementEdits(site)
                edits.add(step)
            else:
                site = _done(edits.done(), step)
                edits = _StatementEdits(site)
        after: Model = edits.done()
        return after
    except CannotDo as error:
        raise ChangeError(number, error.what, error.word, error.allowed) from None
    except UnknownName as error:
        raise ChangeError(number, str(error), error.word, error.allowed) from None
    except ValueFault as error:
        raise ChangeError(number, error.what, error.word, tuple(error.allowed)) from None


def _done(site: Model, step: Step) -> Model:
    """The site after a step that is not about statements alone."""
    if isinstance(step, Declare):
        return _declared(site, step.record)
    if isinstance(step, Undeclare):
        return _undeclared(site, step.kind, step.name)
    if isinstance(step, Adjust):
        return _adjusted(site, step.setting, step.adjustment)
    if isinstance(step, SetSite):
        return replace(site, **{step.name: step.value})  # type: ignore[arg-type]
    if isinstance(step, AddRule):
        return _with_rule(site, step)
    if isinstance(step, DropRule):
        return _without_rule(site, step.name)
    if isinstance(step, ExceptFromPromise):
        return _with_exception(site, step)
    if isinstance(step, AddAccept):
        return replace(site, accepts=(*site.accepts, step.accept))
    if isinstance(step, DropAccept):
        left = tuple(one for one in site.accepts if one._replace(place=step.accept.place) != step.accept)
        if len(left) == len(site.accepts):
            raise CannotDo("there is no such accept")
        return replace(site, accepts=left)
    if isinstance(step, SetFact):
        return _with_fact(site, step)
    assert isinstance(step, RenameFact)
    return _with_fact_named(site, step.old, step.new)


class _StatementEdits:
    """Steps about statements that can be done at once: none is about what another is about."""

    def __init__(self, site: Any) -> None:
        self.site = site
        self._keep = np.ones(len(site.statements), dtype=bool)
        self._halved: list[int] = []
        self._more: list[NewStatement] = []
        self._touched: set[tuple[Scope, str]] = set()
        self._roles: set[RolePlace] = set()

    def touches(self, step: Say | TakeAway | Lock | Unlock) -> bool:
        """Whether a step is about what one before was about."""
        return any((part, step.setting) in self._touched for part in step.scope.parts)

    def add(self, step: Say | TakeAway | Lock | Unlock) -> None:
        """One step more."""
        if isinstance(step, Say):
            self._say(step)
        elif isinstance(step, TakeAway):
            self._take_away(step)
        else:
            self._relock(step)
        self._touched |= {(part, step.setting) for part in step.scope.parts}

    def done(self) -> Any:
        """The site after the steps."""
        if self._keep.all() and not self._more:
            return self.site
        site = self.site
        both = site.statements.both.copy()
        both[self._halved] = False
        statements = site.statements.edited(site.catalogue.built_in(), self._keep, self._more, columns={"both": both})
        places = {**site.role_places, **dict.fromkeys(self._roles, np.zeros(1, dtype=np.int32))}
        return _with_its_access(_like(site, statements=statements, role_places=places))

    def _say(self, step: Say, place: Place = CHANGED) -> None:
        if step.setting not in self.site.catalogue.names():
            self.site = _with_access_setting(self.site, step.setting)
            self._keep = np.append(self._keep, np.ones(len(self.site.statements) - len(self._keep), dtype=bool))
        number = self.site.setting_number(step.setting)
        setting = self.site.catalogue[number]
        raw = raw_of(step.value)
        value = read_value(setting, raw)
        self._roles |= {RolePlace(role, step.setting, CHANGED.file) for role in _roles_in(setting, raw)}
        if step.lock and all(part.kind >= ScopeKind.STAMP for part in step.scope.parts):
            raise CannotDo(f"a lock binds stronger scopes, and nothing is stronger than {step.scope.sentence}")
        for part in step.scope.parts:
            target = target_of(self.site, part)
            if part.kind in OF_PAGES and target < 0:
                raise UnknownName("page", part.name, self.site.tree.paths)
            if part.kind == ScopeKind.STAMP and isinstance(value, Reference | ListChange | ByDepth):
                raise CannotDo(f"a stamp is a plain value of {step.setting}")
            check_scope(part.kind, value, setting)
            self._drop(number, part, target, step.scope.both)
            locked = step.lock and part.kind != ScopeKind.HERE
            self._more.append(
                NewStatement(
                    number,
                    part.kind,
                    target,
                    value,
                    place,
                    locked=locked,
                    both=step.scope.both,
                    because=step.because,
                )
            )

    def _take_away(self, step: TakeAway) -> None:
        if step.setting == FRESH_ACCESS:
            rows = [row for part in step.scope.parts for row in self._fresh(part, step.scope.both)]
            self._keep[rows] = False
        else:
            number = self.site.catalogue.find(step.setting)
            rows = []
            for part in step.scope.parts if number is not None else ():
                rows += self._drop(number, part, target_of(self.site, part), step.scope.both)
        if not rows:
            raise CannotDo(f"{step.scope.sentence} does not say {step.setting}")

    def _relock(self, step: Lock | Unlock) -> None:
        number = self.site.setting_number(step.setting)
        have = [self._find(number, part) for part in step.scope.parts]
        if have[0] < 0:
            raise CannotDo(f"{step.scope.sentence} does not say {step.setting}")
        is_lock = isinstance(step, Lock)
        if bool(self.site.statements.locked[have[0]]) == is_lock:
            raise CannotDo(f"{step.scope.sentence} {'locks it already' if is_lock else 'does not lock it'}")
        said = self.site.statements.said(have[0])
        because = self.site.statements.reasons[int(self.site.statements.because[have[0]])]
        self._say(Say(step.scope, step.setting, said, is_lock, because), self.site.statements.place(have[0]))

    def _find(self, number: int, part: Scope) -> int:
        return int(self.site.statements.find(number, part.kind, target_of(self.site, part)))

    def _drop(self, number: int, part: Scope, target: int, both: bool) -> list[int]:
        """Leave out what a scope itself says; of a `here_and_below` the other half stays."""
        row = int(self.site.statements.find(number, part.kind, target))
        if row < 0:
            return []
        self._keep[row] = False
        if self.site.statements.both[row] and not both:
            other = ScopeKind.HERE if part.kind == ScopeKind.BELOW else ScopeKind.BELOW
            self._halved.append(int(self.site.statements.find(number, other, target)))
        return [row]

    def _fresh(self, part: Scope, both: bool) -> list[int]:
        """The rows of a scope's `fresh_access`; of a `here_and_below` the other half stays."""
        statements, target = self.site.statements, target_of(self.site, part)
        fresh = (statements.form == Form.FRESH) & (statements.target == target)
        rows = np.flatnonzero(fresh & (statements.scope == part.kind)).tolist()
        if not both and statements.both[rows].any():
            other = ScopeKind.HERE if part.kind == ScopeKind.BELOW else ScopeKind.BELOW
            self._halved += np.flatnonzero(fresh & (statements.scope == other) & statements.both).tolist()
        return rows


def _roles_in(setting: Setting, raw: Raw) -> set[str]:
    """The roles that a value names."""
    lists = raw.values() if isinstance(raw, dict) else [raw]
    words = {word for some in lists if isinstance(some, list) for word in some if isinstance(word, str)}
    return setting.stands_for.keys() & words


def target_of(site: SiteModel, scope: Scope) -> int:
    """The number that a site's statements hold for a scope: of a page that is not there, as `Statements.gone` has it.

    Raises
    ------
    UnknownName
        If there is no such type or rule.
    """
    if scope.kind == ScopeKind.TYPE:
        number = site.types.find(scope.name)
        if number < 0:
            raise UnknownName("type", scope.name, site.types.names)
        return number
    if scope.kind == ScopeKind.RULE:
        names = [rule.name for rule in site.rules]
        if scope.name not in names:
            raise UnknownName("rule", scope.name, names)
        return names.index(scope.name)
    if scope.kind in OF_PAGES:
        page = site.tree.find(site.page_names.path(scope.name))
        if page < 0:
            gone = site.statements.gone
            path = site.page_names.path(scope.name)
            return -1 - gone.index(path) if path in gone else -1 - len(gone)
        return page
    return 0


def _like(site: Model, **changes: Any) -> Model:
    """The site with some of it changed; what follows from the rest alone is not worked out again."""
    after = replace(site, **changes)
    if not changes.keys() & {"tree", "facts", "rules"} and "scope_pages" in site.__dict__:
        after.__dict__["scope_pages"] = site.scope_pages
    return after


def _with_access_setting(site: Model, name: str) -> Model:
    """The site with `access.WHO` or `deny.WHO` among its settings.

    Raises
    ------
    UnknownName
        If it is no such setting.
    """
    family, _, member = name.partition(".")
    if family not in ACCESS_FAMILIES or not member:
        raise UnknownName("setting", name, site.catalogue.names())
    site.catalogue.access_setting(name)
    return _with_catalogue(site, {*_access_names(site.catalogue), name})


def _access_names(catalogue: Catalogue) -> set[str]:
    return {catalogue[number].name for number in catalogue.access_numbers()}


def _with_its_access(site: Model) -> Model:
    """The site without the settings of the access families that nothing names any more."""
    statements, names = site.statements, _access_names(site.catalogue)
    said = np.flatnonzero(np.bincount(statements.setting[statements.form != Form.FRESH], minlength=len(site.catalogue)))
    named = {site.catalogue[number].name for number in said.tolist()} | set(site.setting_columns)
    named |= {name for preset in site.declarations.presets.values() for name in preset.says}
    named |= {name for name in site.catalogue.adjusted if not name.endswith(".*")} | {"access.everyone"}
    return site if names <= named else _with_catalogue(site, names & named)


def _with_catalogue(site: Model, access: Iterable[str], catalogue: Catalogue | None = None) -> Model:
    """The site with another catalogue: the same declared names unless one is given, and these access settings.

    A `fresh_access` speaks of every access setting there is.
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
    promises = tuple(
        one._replace(has={new.number(old[at].name): value for at, value in one.has.items()}) for one in site.promises
    )
    number = np.maximum(number, 0)
    edited = statements.edited(new.built_in(), keep, more, setting=number)
    return _like(site, catalogue=new, statements=edited, promises=promises)


def _each_fresh(site: SiteModel) -> list[NewStatement]:
    """Every `fresh_access`, as it is said of one access setting."""
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


def _rebuilt(
    site: Model,
    declarations: Declarations | None = None,
    people: People | None = None,
    types: Mapping[str, Type] | None = None,
    own: Sequence[Setting] | None = None,
    adjusted: Mapping[str, Adjustment] | None = None,
) -> Model:
    """The site with other declarations: its catalogue, the numbers of its types and its statements follow."""
    declarations, people = declarations or site.declarations, people or site.people
    if types is not None:
        site = _with_types(site, types)
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
    after = _with_catalogue(site, (), catalogue)
    return replace(after, declarations=declarations, people=people)


def _with_types(site: Model, declared: Mapping[str, Type]) -> Model:
    facts, statements, old = site.facts, site.statements, site.types
    types = Types(declared, facts.columns["type"].words)
    found = [types.find(name) for name in old.names]
    of_types = statements.scope == ScopeKind.TYPE
    target = statements.target.copy()
    target[of_types] = np.array(found, dtype=np.int32)[target[of_types]]
    keep = ~(of_types & (target < 0))
    built_in = site.catalogue.built_in()
    edited = statements.edited(built_in, keep, columns={"target": target})
    return replace(site, facts=_typed(facts, types), statements=edited)


def _typed(facts: Facts, types: Types) -> Facts:
    column = facts.columns["type"]
    table = np.array([types.find(word or "page") for word in column.words], dtype=np.intp)
    return facts._replace(types=types, type_of=table[column.codes])


def _declared(site: Model, record: Declared) -> Model:
    if isinstance(record, Setting):
        own = {setting.name: setting for setting in site.catalogue.own} | {record.name: record}
        return _rebuilt(site, own=tuple(own.values()))
    if isinstance(record, Type):
        if record.based_on and record.based_on not in site.types.declared and record.based_on != "page":
            raise UnknownName("type", record.based_on, tuple(site.types.declared))
        return _rebuilt(site, types={**site.types.declared, record.name: record})
    if isinstance(record, Group):
        known = (*site.people.names, *site.people.groups)
        for member in record.members:
            if member not in known:
                raise UnknownName("person or group", member, known)
        people = site.people._replace(
            groups={**site.people.groups, record.name: record.members},
            places={record.name: record.place, **site.people.places},
        )
        return _rebuilt(site, people=people)
    declarations = site.declarations.with_one(record)
    for kind, name in _names_of(record):
        if name and name not in declarations.of(kind):
            raise UnknownName(kind, name, tuple(declarations.of(kind)))
    return _rebuilt(site, declarations=declarations)


def _names_of(record: Declared) -> list[tuple[str, str]]:
    """What a declaration names: kinds and names."""
    blocks = getattr(record, "blocks", ())
    listed = [block for some in blocks.values() for block in some] if isinstance(blocks, Mapping) else blocks
    return [("block", block) for block in listed] + [(kind_of(record), getattr(record, "based_on", ""))]


def _undeclared(site: Model, kind: str, name: str) -> Model:
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
        return _with_its_access(_rebuilt(replace(site, statements=statements), types=left))
    if kind == "setting":
        return _rebuilt(site, own=tuple(one for one in site.catalogue.own if one.name != name))
    if kind == "group":
        groups = {one: members for one, members in site.people.groups.items() if one != name}
        places = {one: place for one, place in site.people.places.items() if one != name}
        return _rebuilt(site, people=site.people._replace(groups=groups, places=places))
    if kind not in SECTIONS or name not in site.declarations.of(kind):
        raise UnknownName(kind, name, tuple(site.declarations.of(kind)) if kind in SECTIONS else SECTIONS)
    return _rebuilt(site, declarations=site.declarations.without(kind, name))


def _adjusted(site: Model, name: str, adjustment: Adjustment) -> Model:
    said = {key: value for key, value in adjustment._asdict().items() if value is not None}
    before = site.catalogue.adjusted.get(name, Adjustment())
    own = {setting.name: setting for setting in site.catalogue.own}
    if name in own:
        own[name] = adjustment.of(own[name])
        return _rebuilt(site, own=tuple(own.values()))
    if not name.endswith(".*"):
        adjustment.of(site.catalogue[site.setting_number(name)])
    return _rebuilt(site, adjusted={**site.catalogue.adjusted, name: before._replace(**said)})


def _with_rule(site: Model, step: AddRule) -> Model:
    if step.name in [rule.name for rule in site.rules]:
        raise CannotDo(f"there is a rule {step.name!r} already")
    rules = (*site.rules, Rule(step.name, CHANGED, step.when, step.excepts))
    statements = site.statements.edited(site.catalogue.built_in(), rules=len(rules))
    edits = _StatementEdits(replace(site, rules=rules, statements=statements))
    for name, value in step.says:
        edits.add(Say(Scope.rule(step.name), name, value))
    found: Model = edits.done()
    return found


def _without_rule(site: Model, name: str) -> Model:
    number, statements = target_of(site, Scope.rule(name)), site.statements
    of_rules = statements.scope == ScopeKind.RULE
    target = statements.target - (of_rules & (statements.target > number))
    edited = statements.edited(
        site.catalogue.built_in(),
        ~(of_rules & (statements.target == number)),
        columns={"target": target},
        rules=len(site.rules) - 1,
    )
    rules = (*site.rules[:number], *site.rules[number + 1 :])
    return _with_its_access(replace(site, rules=rules, statements=edited))


def _with_exception(site: Model, step: ExceptFromPromise) -> Model:
    names = [promise.name for promise in site.promises]
    if step.name not in names:
        raise UnknownName("promise", step.name, names)
    promises = list(site.promises)
    one = promises[names.index(step.name)]
    promises[names.index(step.name)] = one._replace(excepts=(*one.excepts, Condition(path=step.pages)))
    return replace(site, promises=tuple(promises))


def _with_fact(site: Model, step: SetFact) -> Model:
    if step.fact in ("path", "parent", "order"):
        raise CannotDo(f"to set {step.fact} is to move the page, which is no step yet")
    page = site.page_number(step.path)
    if step.fact not in site.facts.columns:
        raise UnknownName("fact", step.fact, tuple(site.facts.columns))
    text = step.text or {"type": "page", "status": "live"}.get(step.fact, "")
    column = site.facts.columns[step.fact]
    words = [*column.words]
    code = words.index(text) if text in words else len(words)
    codes = column.codes.copy()
    codes[page] = code
    changed = Column(codes, words if code < len(words) else [*words, text])
    facts = site.facts._replace(columns={**site.facts.columns, step.fact: changed})
    if step.fact != "type":
        return replace(site, facts=facts)
    return _with_types(replace(site, facts=facts._replace(types=site.types)), site.types.declared)


def _with_fact_named(site: Model, old: str, new: str) -> Model:
    columns = dict(site.facts.columns)
    if old not in columns:
        raise UnknownName("fact", old, tuple(columns))
    if new in columns or new in site.setting_columns:
        raise CannotDo(f"the inventory has a column {new} already")
    column = columns.pop(old)
    if not site.catalogue.could_be(new):
        return replace(site, facts=site.facts._replace(columns={**columns, new: column}))
    site = replace(site, facts=site.facts._replace(columns=columns), setting_columns=(*site.setting_columns, new))
    if site.catalogue.find(new) is None:
        site = _with_access_setting(site, new)
    number = site.catalogue.number(new)
    setting = site.catalogue[number]
    values = {word: read_cell(setting, word) for word in set(column.words) if word.strip()}
    for value in values.values():
        check_scope(ScopeKind.HERE, value, setting)
    more = []
    for page, text in enumerate(column.texts()):
        if text.strip():
            if site.statements.find(number, ScopeKind.HERE, page) >= 0:
                raise CannotDo(f"{site.tree.paths[page]} says {new} already")
            place = Place(site.inventory, int(site.tree.line[page]))
            more.append(NewStatement(number, ScopeKind.HERE, page, values[text], place, step=SAID_STEP))
    return _like(site, statements=site.statements.edited(site.catalogue.built_in(), more=more))
