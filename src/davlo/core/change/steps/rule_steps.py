"""Steps about rules: one is added, goes, matches other pages, or gets another place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ...faults import UnknownName
from ...site.model import Rule
from ...site.pages.conditions import Condition
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import Value
from .rebuild import without_redundant_access
from .statement_steps import Say, StatementEdits, target_of
from .step import CHANGED, CannotDo, Step


@dataclass(frozen=True, slots=True)
class AddRule(Step):
    """A new rule; `says` pairs settings and values.

    `weaker_than`: the rule that it comes right after; empty: it is the strongest; None: the weakest of all.
    """

    name: str
    when: Condition
    says: tuple[tuple[str, Value], ...]
    excepts: tuple[Condition, ...] = ()
    weaker_than: str | None = None

    def done(self, site: Any) -> Any:
        names = [rule.name for rule in site.rules]
        if self.name in names:
            raise CannotDo(f"there is a rule {self.name!r} already")
        if self.weaker_than and self.weaker_than not in names:
            raise UnknownName("rule", self.weaker_than, tuple(names))
        place = self.place_among(names)
        rules = (*site.rules[:place], Rule(self.name, CHANGED, self.when, self.excepts), *site.rules[place:])
        said = site.statements
        target = said.target + ((said.scope == ScopeKind.RULE) & (said.target >= place))
        statements = said.edited(site.catalogue.built_in(), columns={"target": target}, rules=len(rules))
        edits = StatementEdits(replace(site, rules=rules, statements=statements))
        for name, value in self.says:
            edits.add(Say(Scope.rule(self.name), name, value))
        return edits.done()

    def place_among(self, names: Sequence[str]) -> int:
        """How many of the rules with these names, the strongest first, are stronger."""
        if self.weaker_than is None:
            return len(names)
        return names.index(self.weaker_than) + 1 if self.weaker_than else 0

    @property
    def words(self) -> str:
        return f'add the rule "{self.name}"'


@dataclass(frozen=True, slots=True)
class DropRule(Step):
    """A rule is taken away, with all that it gives."""

    name: str

    def done(self, site: Any) -> Any:
        number, statements = target_of(site, Scope.rule(self.name)), site.statements
        of_rules = statements.scope == ScopeKind.RULE
        target = statements.target - (of_rules & (statements.target > number))
        edited = statements.edited(
            site.catalogue.built_in(),
            ~(of_rules & (statements.target == number)),
            columns={"target": target},
            rules=len(site.rules) - 1,
        )
        rules = (*site.rules[:number], *site.rules[number + 1 :])
        return without_redundant_access(replace(site, rules=rules, statements=edited))

    @property
    def words(self) -> str:
        return f'take the rule "{self.name}" away'


@dataclass(frozen=True, slots=True)
class ChangeRule(Step):
    """A rule matches other pages, or has another note; what it gives stays."""

    name: str
    when: Condition
    excepts: tuple[Condition, ...] = ()
    note: str = ""

    def done(self, site: Any) -> Any:
        number = target_of(site, Scope.rule(self.name))
        rule = site.rules[number]._replace(when=self.when, excepts=self.excepts, note=self.note)
        return replace(site, rules=(*site.rules[:number], rule, *site.rules[number + 1 :]))

    @property
    def words(self) -> str:
        return f'change the rule "{self.name}"'


@dataclass(frozen=True, slots=True)
class MoveRule(Step):
    """A rule comes right before another one, and so is stronger; or right after it."""

    name: str
    other: str
    is_after: bool = False

    def done(self, site: Any) -> Any:
        number = target_of(site, Scope.rule(self.name))
        target_of(site, Scope.rule(self.other))
        if self.name == self.other:
            raise CannotDo(f"the rule {self.name!r} cannot be stronger or weaker than itself")
        order = self.order([rule.name for rule in site.rules])
        place = np.empty(len(order), dtype=np.int32)
        place[order] = np.arange(len(order))
        if place[number] == number:
            return site
        said = site.statements
        of_rules = said.scope == ScopeKind.RULE
        target = np.where(of_rules, place[np.where(of_rules, said.target, 0)], said.target).astype(np.int32)
        edited = said.edited(site.catalogue.built_in(), columns={"target": target})
        return replace(site, rules=tuple(site.rules[at] for at in order), statements=edited)

    def order(self, names: Sequence[str]) -> list[int]:
        """The places that rules with these names, the strongest first, had before, in their new order."""
        left = [at for at, name in enumerate(names) if name != self.name]
        place = next(at for at, old in enumerate(left) if names[old] == self.other) + self.is_after
        return [*left[:place], names.index(self.name), *left[place:]]

    @property
    def words(self) -> str:
        return f'put the rule "{self.name}" right {"after" if self.is_after else "before"} "{self.other}"'
