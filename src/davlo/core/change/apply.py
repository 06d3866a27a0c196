"""The site that a change makes: another site, worked out without any file. The first site stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Any, Generic, TypeVar

from ..faults import Place, SiteError, UnknownName, ValueFault
from ..site.conditions import Condition
from ..site.model import Rule, SiteModel
from ..site.new_statements import SAID_STEP, NewStatement
from ..site.parse_values import check_scope, read_cell
from ..site.scopes import Scope, ScopeKind
from . import steps
from .cannot_do import CannotDo
from .declaration_steps import adjusted, declared, undeclared
from .new_page import with_page
from .page_steps import dropped, moved, named_instead, with_detail
from .preset_steps import stopped_using, used
from .reach import StatementEdit
from .rebuild import with_access_setting, with_changes, without_redundant_access
from .rename import renamed
from .restamp import restamp
from .statement_steps import StatementEdits, target_of
from .steps import CHANGED, Change, ChangeError, Lock, Say, TakeAway, Unlock

Model = TypeVar("Model", bound=SiteModel)
_OF_STATEMENTS = (Say, TakeAway, Lock, Unlock)


def apply(site: Model, change: Change) -> Model:
    """The site after a change.

    `site`: it is not changed. `change`: its steps are done in order. Returns a site of the same class. Raises
    ChangeError if a step cannot be done.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = apply(site, Change().say("sidebar.right", "main", below="/visit"))
    >>> after.resolve()["/visit/tickets"]["sidebar.right"], site.resolve()["/visit/tickets"]["sidebar.right"]
    ('main', 'visit-planning')
    """
    return Applying(site, change).done()


class Applying(Generic[Model]):
    """A change whose steps are checked, and all done but the last ones about statements.

    Raises ChangeError if a step cannot be done.
    """

    single: StatementEdit | None  # the change, if it is the edit of one statement of the site; `done` cannot fail then

    def __init__(self, site: Model, change: Change) -> None:
        self._edits, number = StatementEdits(site), 0
        self._edits.look_up(change.steps)
        with _named(lambda: number):
            for number, step in enumerate(change.steps, 1):  # noqa: B007 - the number of the step that fails
                if isinstance(step, _OF_STATEMENTS):
                    self._edits.add(step)
                else:
                    self._edits = StatementEdits(_DO[type(step)](self._edits.done(), step))
        self._steps = number
        self.single = self._edits.single if self._edits.site is site else None

    def done(self) -> Model:
        """The site after the change."""
        with _named(lambda: self._steps):
            after: Model = self._edits.done()
            return after


@contextmanager
def _named(step: Callable[[], int]) -> Iterator[None]:
    """Raise whatever cannot be done as an error that names the step."""
    try:
        yield
    except CannotDo as error:
        raise ChangeError(step(), error.what, error.word, error.allowed) from None
    except UnknownName as error:
        raise ChangeError(step(), str(error), error.word, error.allowed) from None
    except ValueFault as error:
        raise ChangeError(step(), error.what, error.word, tuple(error.allowed)) from None
    except SiteError as error:
        raise ChangeError(step(), error.faults[0].what) from None


def _with_rule(site: Model, step: steps.AddRule) -> Model:
    if step.name in [rule.name for rule in site.rules]:
        raise CannotDo(f"there is a rule {step.name!r} already")
    rules = (*site.rules, Rule(step.name, CHANGED, step.when, step.excepts))
    statements = site.statements.edited(site.catalogue.built_in(), rules=len(rules))
    edits = StatementEdits(replace(site, rules=rules, statements=statements))
    for name, value in step.says:
        edits.add(Say(Scope.rule(step.name), name, value))
    found: Model = edits.done()
    return found


def _without_accept(site: Model, step: steps.DropAccept) -> Model:
    left = tuple(one for one in site.accepts if one._replace(place=step.accept.place) != step.accept)
    if len(left) == len(site.accepts):
        raise CannotDo("there is no such accept")
    return replace(site, accepts=left)


def _without_rule(site: Model, step: steps.DropRule) -> Model:
    number, statements = target_of(site, Scope.rule(step.name)), site.statements
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


def _with_exception(site: Model, step: steps.ExceptFromGuarantee) -> Model:
    names = [guarantee.name for guarantee in site.guarantees]
    if step.name not in names:
        raise UnknownName("guarantee", step.name, names)
    guarantees = list(site.guarantees)
    one = guarantees[names.index(step.name)]
    guarantees[names.index(step.name)] = one._replace(excepts=(*one.excepts, Condition(path=step.pages)))
    return replace(site, guarantees=tuple(guarantees))


def _with_detail_named(site: Model, step: steps.RenameDetail) -> Model:
    old, new = step.old, step.new
    columns = dict(site.details.columns)
    if old not in columns:
        raise UnknownName("detail", old, tuple(columns))
    if (new in columns and not site.details.is_blank(new)) or new in site.setting_columns:
        raise CannotDo(f"the page list has a column {new} already")
    column = columns.pop(old)
    if not site.catalogue.could_be(new):
        return replace(site, details=site.details._replace(columns={**columns, new: column}))
    site = replace(site, details=site.details._replace(columns=columns), setting_columns=(*site.setting_columns, new))
    if site.catalogue.find(new) is None:
        site = with_access_setting(site, new)
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
            place = Place(site.page_list, int(site.tree.line[page]))
            more.append(NewStatement(number, ScopeKind.HERE, page, values[text], place, step=SAID_STEP))
    return with_changes(site, statements=site.statements.edited(site.catalogue.built_in(), more=more))


_DO: dict[type, Callable[[Any, Any], Any]] = {
    steps.Use: lambda site, step: used(site, step.scope, step.preset),
    steps.StopUsing: lambda site, step: stopped_using(site, step.scope, step.preset),
    steps.Restamp: restamp,
    steps.Rename: renamed,
    steps.Declare: lambda site, step: declared(site, step.record),
    steps.Undeclare: lambda site, step: undeclared(site, step.kind, step.name),
    steps.Adjust: lambda site, step: adjusted(site, step.setting, step.adjustment),
    steps.SetSite: lambda site, step: replace(site, **{step.name: step.value}),
    steps.AddRule: _with_rule,
    steps.DropRule: _without_rule,
    steps.ExceptFromGuarantee: _with_exception,
    steps.AddAccept: lambda site, step: replace(site, accepts=(*site.accepts, step.accept)),
    steps.DropAccept: _without_accept,
    steps.AddPage: lambda site, step: with_page(site, step.path, dict(step.details), by=step.by)[0],
    steps.MovePage: moved,
    steps.DropPage: dropped,
    steps.SetDetail: with_detail,
    steps.NameInstead: lambda site, step: named_instead(site, step.old, step.new),
    steps.RenameDetail: _with_detail_named,
}
"""How to do each kind of step that is not about statements: the site and the step give the site after it."""
