"""Steps about statements: said, taken away, locked, unlocked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ...faults import Place, UnknownName
from ...site.file_notes import RolePlace
from ...site.model import SiteModel
from ...site.settings.parse_values import check_scope, keeping_roles, read_value
from ...site.settings.scopes import OF_PAGES, Scope, ScopeKind
from ...site.settings.setting import ACCESS_FAMILIES
from ...site.settings.values import LIST_STEPS, ByDepth, ListChange, Raw, Reference, Value, raw_of, shown, words_of
from ...site.statements.new_statements import Form, NewStatement
from ...wording import shortened
from .rebuild import with_access_setting, with_changes, without_redundant_access
from .statement_reach import StatementEdit
from .step import CHANGED, CannotDo, Step

FRESH_ACCESS = "fresh_access"
"""Used as a setting's name in `Say` and `TakeAway`, for a scope with `fresh_access`."""
MANY = 100
"""The fewest steps whose pages are looked up together."""
MOST_LETTERS = 60
"""The most letters of a value in a sentence."""


@dataclass(frozen=True, slots=True)
class StatementStep(Step):
    """What a scope says of a setting changes."""

    scope: Scope
    setting: str

    def done(self, site: Any) -> Any:
        edits = StatementEdits(site)
        edits.add(self)
        return edits.done()

    def add_to(self, edits: StatementEdits) -> None:
        """Do the step together with others."""
        raise NotImplementedError

    def edits(self, site: SiteModel) -> list[StatementEdit] | None:
        """The step as edits of single statements, whose reach is quick to find; None if it is more than that."""
        number = site.catalogue.find(self.setting)
        if number is None or self.setting == FRESH_ACCESS:
            return None
        return [self._edit(site, number, part, target_of(site, part)) for part in self.scope.parts]

    def _edit(self, site: SiteModel, number: int, part: Scope, target: int) -> StatementEdit:
        raise NotImplementedError

    @property
    def changes_access(self) -> bool:
        """Whether it is about access, or about an owner."""
        return self.setting.partition(".")[0] in (*ACCESS_FAMILIES, "page") or self.setting == FRESH_ACCESS


@dataclass(frozen=True, slots=True)
class Say(StatementStep):
    """A scope sets a setting to a value, in place of what it said before."""

    value: Value
    lock: bool = False
    because: str = ""

    def add_to(self, edits: StatementEdits) -> None:
        edits.say(self)

    def _edit(self, site: SiteModel, number: int, part: Scope, target: int) -> StatementEdit:
        value = read_value(site.catalogue[number], raw_of(self.value))
        return StatementEdit(number, part.kind, target, value, self.lock and part.kind != ScopeKind.HERE)

    @property
    def says(self) -> str:
        """What it says, without the scope."""
        verb, raw = "lock" if self.lock else "set", raw_of(self.value)
        if isinstance(raw, dict) and set(raw) <= {*LIST_STEPS}:
            return f"{verb} {self.setting} ({value_in_words(self.value)})"
        return f"{verb} {self.setting} to {value_in_words(self.value)}"

    @property
    def words(self) -> str:
        if self.setting == FRESH_ACCESS:
            return f"drop the access that weaker scopes give {where(self.scope)}"
        return f"{self.says} {where(self.scope)}"


@dataclass(frozen=True, slots=True)
class TakeAway(StatementStep):
    """A scope no longer sets a setting, or no longer says `fresh_access` (`FRESH_ACCESS`)."""

    def add_to(self, edits: StatementEdits) -> None:
        edits.take_away(self)

    def _edit(self, site: SiteModel, number: int, part: Scope, target: int) -> StatementEdit:
        return StatementEdit(number, part.kind, target, gone=True)

    @property
    def words(self) -> str:
        setting = "the fresh start of access" if self.setting == FRESH_ACCESS else self.setting
        return f"take {setting} away {where(self.scope).replace('on ', 'from ', 1)}"


@dataclass(frozen=True, slots=True)
class Lock(StatementStep):
    """A plain statement of a scope becomes a lock."""

    locks: ClassVar[bool] = True

    def add_to(self, edits: StatementEdits) -> None:
        edits.relock(self)

    def _edit(self, site: SiteModel, number: int, part: Scope, target: int) -> StatementEdit:
        value = site.statements.said(site.statements.find(number, part.kind, target))
        return StatementEdit(number, part.kind, target, value, self.locks and part.kind != ScopeKind.HERE)

    @property
    def words(self) -> str:
        return f"{'lock' if self.locks else 'unlock'} {self.setting} {where(self.scope)}"


@dataclass(frozen=True, slots=True)
class Unlock(Lock):
    """A lock of a scope becomes a plain statement."""

    locks: ClassVar[bool] = False


def where(scope: Scope) -> str:
    """Where a scope applies, as a sentence has it."""
    if scope.both:
        return f"on {scope.name} and below it"
    return {
        "estate": "on every page of every site",
        "everywhere": "everywhere",
        "type": f"for the type {scope.name}",
        "below": f"below {scope.name}",
        "rule": f'in the rule "{scope.name}"',
        "stamp": f"as the stamp of {scope.name}",
    }.get(scope.kind.word, f"on {scope.name}")


def value_in_words(value: object) -> str:
    """A value as a sentence has it: `main`, `view; edit`, `add offer`.

    Example
    -------
    >>> value_in_words({"add": ["offer"]}), value_in_words(["view", "edit"]), value_in_words(False)
    ('add offer', 'view; edit', 'no')
    """
    raw: Raw = raw_of(value)
    if isinstance(raw, dict):
        if set(raw) <= {*LIST_STEPS}:
            return shown(ListChange(**{key: tuple(map(str, items)) for key, items in raw.items()}))
        return shortened(str(raw), MOST_LETTERS)
    if isinstance(raw, list):
        return "; ".join(map(str, raw)) or "the empty list"
    return shortened(raw, MOST_LETTERS)


class StatementEdits:
    """Steps about statements, done together unless one depends on another."""

    def __init__(self, site: Any) -> None:
        self._numbers: dict[str, int] = {}
        self._begin(site)

    def look_up(self, steps: Sequence[Step]) -> None:
        """Prepare for these steps: what is asked for many pages at once takes much less time."""
        said = [step for step in steps if isinstance(step, StatementStep) and step.scope.kind in OF_PAGES]
        if len(said) < MANY:
            return
        names = list({step.scope.name for step in said})
        numbers = zip(names, self.site.page_numbers(names), strict=True)
        self._numbers = {name: number for name, number in numbers if number >= 0}
        for setting, count in Counter(step.setting for step in said).items():
            number = self.site.catalogue.find(setting)
            if number is not None and count >= MANY:
                self.site.statements.look_up(number)

    def _target(self, part: Scope) -> int:
        found = self._numbers.get(part.name) if part.kind in OF_PAGES else None
        return target_of(self.site, part) if found is None else found

    def _begin(self, site: Any) -> None:
        self.site = site
        self._gone: list[int] = []
        self._halved: list[int] = []
        self._more: list[NewStatement] = []
        self._touched: set[tuple[int, str, str]] = set()
        self._roles = Counter[RolePlace]()

    def _depends(self, step: StatementStep) -> bool:
        """Whether a step touches what an earlier one touched, or makes a new setting, which renumbers all settings."""
        is_new = isinstance(step, Say) and self.site.catalogue.find(step.setting) is None
        return is_new or not self._touched.isdisjoint(_about(step))

    def add(self, step: StatementStep) -> None:
        """One step more."""
        if self._depends(step):
            self._begin(self.done())
        step.add_to(self)
        self._touched.update(_about(step))

    @property
    def single(self) -> StatementEdit | None:
        """The steps as one edit, if they come to adding or removing one statement of a plain setting."""
        site, statements = self.site, self.site.statements
        edits = len(self._more), len(self._gone)
        if max(edits) != 1 or self._halved or len(self._touched) != 1:
            return None
        one = self._more[0] if self._more else None
        number = one.setting if one else int(statements.setting[self._gone[0]])
        if site.catalogue[number].family in ACCESS_FAMILIES:
            return None
        if one:
            return StatementEdit(number, one.scope, one.target, one.value, one.locked)
        row = self._gone[0]
        return StatementEdit(number, ScopeKind(int(statements.scope[row])), int(statements.target[row]), gone=True)

    def done(self) -> Any:
        """The site after the steps."""
        if not self._gone and not self._more:
            return self.site
        site = self.site
        statements = site.statements.amended(self._gone, self._more, self._halved)
        places = {**site.file_notes.role_places}
        for place, times in self._roles.items():
            places[place] = np.zeros(times + len(places.get(place, ())), dtype=np.int32)
        after = with_changes(site, statements=statements, file_notes=site.file_notes._replace(role_places=places))
        taken = set(site.statements.setting[self._gone].tolist())
        return without_redundant_access(after) if taken.intersection(site.catalogue.access_numbers()) else after

    def say(self, step: Say, place: Place = CHANGED) -> None:
        """Add what a scope says, in place of what it said."""
        if step.setting == FRESH_ACCESS:
            self._begin_anew(step)
            return
        if self.site.catalogue.find(step.setting) is None:
            self._begin(with_access_setting(self.site, step.setting))
        number = self.site.setting_number(step.setting)
        setting = self.site.catalogue[number]
        raw = raw_of(step.value)
        value = read_value(setting, raw)
        said = read_value(keeping_roles(setting), raw) if setting.stands_for else None
        roles = setting.stands_for.keys() & set(words_of(said))
        self._roles.update(RolePlace(role, step.setting, CHANGED.file, said) for role in roles)
        if step.lock and all(part.kind >= ScopeKind.STAMP for part in step.scope.parts):
            raise CannotDo(f"a lock binds stronger scopes, and nothing is stronger than {step.scope.sentence}")
        for part in step.scope.parts:
            target = self._target(part)
            if part.kind in OF_PAGES and target < 0:
                raise UnknownName("page", part.name, self.site.tree.paths)
            if part.kind == ScopeKind.STAMP and isinstance(value, Reference | ListChange | ByDepth):
                raise CannotDo(f"a stamp is a plain value of {step.setting}")
            check_scope(part.kind, value, setting)
            self._drop(number, part, target, step.scope.both)
            locked = step.lock and part.kind != ScopeKind.HERE
            self._more.append(
                NewStatement(
                    number, part.kind, target, value, place, locked=locked, both=step.scope.both, because=step.because
                )
            )

    def _begin_anew(self, step: Say) -> None:
        """Let a scope drop the access that weaker scopes give, if it does not yet."""
        if step.value is not True or step.lock:
            raise CannotDo("fresh_access is set to yes, and never locked; to let access through again, take it away")
        self._begin(self.done())
        site, statements, more = self.site, self.site.statements, list[NewStatement]()
        for part in step.scope.parts:
            target = self._target(part)
            if part.kind in OF_PAGES and target < 0:
                raise UnknownName("page", part.name, site.tree.paths)
            kind, both, because = part.kind, step.scope.both, step.because
            fresh = (statements.form == Form.FRESH) & (statements.scope == kind) & (statements.target == target)
            if not (fresh & statements.both if both else fresh).any():
                order = 0 if both else 1
                more += [
                    NewStatement(number, kind, target, (), CHANGED, Form.FRESH, order, both=both, because=because)
                    for number in site.catalogue.access_numbers()
                ]
        if more:  # what the scope sets comes after it, and only `edited` sorts the statements of a scope
            self._begin(with_changes(site, statements=statements.edited(site.catalogue.built_in(), more=more)))

    def take_away(self, step: TakeAway) -> None:
        """Leave out what a scope says."""
        if step.setting == FRESH_ACCESS:
            rows = [row for part in step.scope.parts for row in self._fresh(part, step.scope.both)]
            self._gone += rows
        else:
            number = self.site.catalogue.find(step.setting)
            rows = []
            for part in step.scope.parts if number is not None else ():
                rows += self._drop(number, part, self._target(part), step.scope.both)
        if not rows:
            raise CannotDo(f"{step.scope.sentence} does not set {step.setting}")

    def relock(self, step: Lock) -> None:
        """Lock what a scope says, or unlock it."""
        number = self.site.setting_number(step.setting)
        have = [self._find(number, part) for part in step.scope.parts]
        if have[0] < 0:
            raise CannotDo(f"{step.scope.sentence} does not set {step.setting}")
        if bool(self.site.statements.locked[have[0]]) == step.locks:
            raise CannotDo(f"{step.scope.sentence} {'locks it already' if step.locks else 'does not lock it'}")
        said = self.site.statements.said(have[0])
        because = self.site.statements.reasons[int(self.site.statements.because[have[0]])]
        self.say(Say(step.scope, step.setting, said, step.locks, because), self.site.statements.place(have[0]))

    def _find(self, number: int, part: Scope) -> int:
        return int(self.site.statements.find(number, part.kind, self._target(part)))

    def _drop(self, number: int, part: Scope, target: int, both: bool) -> list[int]:
        """Leave out what a scope itself says; the other half of a `here_and_below` stays."""
        row = int(self.site.statements.find(number, part.kind, target))
        if row < 0:
            return []
        self._gone.append(row)
        if self.site.statements.both[row] and not both:
            other = ScopeKind.HERE if part.kind == ScopeKind.BELOW else ScopeKind.BELOW
            self._halved.append(int(self.site.statements.find(number, other, target)))
        return [row]

    def _fresh(self, part: Scope, both: bool) -> list[int]:
        """The rows of a scope's `fresh_access` to leave out; the other half of a `here_and_below` stays.

        If the other half has a `fresh_access` of its own too, only that one stays, since two would say the same.
        """
        statements, target = self.site.statements, target_of(self.site, part)
        fresh = (statements.form == Form.FRESH) & (statements.target == target)
        rows = np.flatnonzero(fresh & (statements.scope == part.kind)).tolist()
        if not both and statements.both[rows].any():
            other = ScopeKind.HERE if part.kind == ScopeKind.BELOW else ScopeKind.BELOW
            halves, own = fresh & (statements.scope == other) & statements.both, ~statements.both
            if (fresh & (statements.scope == other) & own).any():
                rows += np.flatnonzero(halves).tolist()
            else:
                self._halved += np.flatnonzero(halves).tolist()
        return rows


def _about(step: StatementStep) -> list[tuple[int, str, str]]:
    """What a step touches: kinds of scope (as numbers, which a set finds faster), names and settings."""
    return [(int(part.kind), part.name, step.setting) for part in step.scope.parts]


def target_of(site: SiteModel, scope: Scope) -> int:
    """The number that a site's statements hold for a scope; `Statements.gone` numbers a page that is not there."""
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


def said_by(site: SiteModel, part: Scope, setting: str) -> int:
    """The statement in which a scope itself sets a setting, or -1; `part`: no `here_and_below`, which is two scopes.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> site.statements.said(said_by(site, Scope.below("/visit"), "sidebar.right"))
    'visit-planning'
    """
    number = site.catalogue.find(setting)
    return -1 if number is None else int(site.statements.find(number, part.kind, target_of(site, part)))
