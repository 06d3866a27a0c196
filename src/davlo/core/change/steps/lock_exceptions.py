"""Exceptions to a lock: a rule locks the value on all other pages, and the scope itself sets it plainly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ...site.model import SiteModel
from ...site.pages.conditions import EVERY_PAGE, Condition
from ...site.settings.parse_values import read_value
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import Value, raw_of
from ...wording import count
from ..differences.list_changes import said_before
from .rule_steps import AddRule, ChangeRule
from .statement_steps import Say, said_by, target_of, where
from .step import CannotDo, Step


@dataclass(frozen=True, slots=True)
class LockExcept(Step):
    """A value of a scope is locked, but not on pages that match one of some conditions.

    A rule with these exceptions locks the value. The scope itself sets it plainly, so excepted pages still get it
    where nothing stronger speaks. If that rule is there already, it gets the exceptions.
    """

    scope: Scope
    setting: str
    value: Value
    excepts: tuple[Condition, ...]
    because: str = ""

    def parts(self, site: Any) -> Sequence[Step]:
        """The plain statement of the scope, the rule, and its lock; what is there already is left out."""
        scope, setting = self.scope, self.setting
        value = read_value(site.catalogue.setting(setting), raw_of(self.value))
        when, left_out = condition_of(site, scope)
        steps = list[Step]()
        if _says(site, scope, setting) != (value, False):
            steps.append(Say(scope, setting, value, because=self.because or said_before(site, scope, setting)[1]))
        rule = next((rule for rule in site.rules if rule.name == self.rule), None)
        if rule is None:
            beside = scope.name if scope.kind == ScopeKind.RULE else None
            steps.append(AddRule(self.rule, when, (), (*left_out, *self.excepts), beside))
        elif more := [one for one in self.excepts if one not in rule.excepts]:
            steps.append(ChangeRule(self.rule, rule.when, (*rule.excepts, *more), rule.note))
        if rule is None or _says(site, Scope.rule(self.rule), setting) != (value, True):
            steps.append(Say(Scope.rule(self.rule), setting, value, lock=True, because=self.because))
        return steps

    @property
    def rule(self) -> str:
        """The name of the rule that locks."""
        return f"{self.setting} is locked {where(self.scope)}"

    @property
    def words(self) -> str:
        return f"lock {self.setting} {where(self.scope)} by a rule, with {count(len(self.excepts), 'exception')}"


def condition_of(site: SiteModel, scope: Scope) -> tuple[Condition, tuple[Condition, ...]]:
    """The pages that a scope is for, as a condition and its exceptions.

    Raises CannotDo for a scope that can lock nothing; UnknownName if there is no such rule.

    Example
    -------
    >>> import davlo
    >>> condition_of(davlo.open_demo(), Scope.below("/press"))[0].below
    ('/press',)
    """
    if scope.both:
        return Condition(in_branch=(scope.name,)), ()
    if scope.kind == ScopeKind.RULE:
        rule = site.rules[target_of(site, scope)]
        return rule.when, rule.excepts
    found = {
        ScopeKind.ESTATE: EVERY_PAGE,
        ScopeKind.EVERYWHERE: EVERY_PAGE,
        ScopeKind.TYPE: Condition(type=(scope.name,)),
        ScopeKind.BELOW: Condition(below=(scope.name,)),
    }.get(scope.kind)
    if found is None:
        raise CannotDo(f"a lock binds stronger scopes, and nothing is stronger than {scope.sentence}")
    return found, ()


def _says(site: SiteModel, scope: Scope, setting: str) -> tuple[Value, bool] | None:
    """What a scope itself sets, and whether it locks it; None if it does not set it."""
    row = said_by(site, scope.parts[0], setting)
    return (site.statements.said(row), bool(site.statements.locked[row])) if row >= 0 else None
