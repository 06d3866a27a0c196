"""The site that a change makes: another site, worked out without any file. The first site stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Generic, TypeVar

from ...faults import SiteError, UnknownName, ValueFault
from ...site.model import SiteModel
from .change import Change, ChangeError, StatementStep
from .statement_reach import StatementEdit
from .statement_steps import StatementEdits
from .step import CannotDo, Step

Model = TypeVar("Model", bound=SiteModel)


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


def in_simple_steps(site: SiteModel, change: Change) -> Change:
    """The change without steps that come to simpler ones (`parts`): those stand in their place."""
    if all(type(step).parts is Step.parts for step in change.steps):
        return change
    done: tuple[Step, ...] = ()
    for step in change.steps:
        before = apply(site, Change(done))
        is_simple = type(step).parts is Step.parts
        done += (step,) if is_simple else in_simple_steps(before, Change((*step.parts(before),))).steps
    return Change(done)


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
                if isinstance(step, StatementStep):
                    self._edits.add(step)
                else:
                    self._edits = StatementEdits(step.done(self._edits.done()))
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
        raise ChangeError(step(), str(error), error.word, error.allowed, error.what) from None
    except ValueFault as error:
        raise ChangeError(step(), error.what, error.word, tuple(error.allowed), error.kind) from None
    except SiteError as error:
        raise ChangeError(step(), error.faults[0].what) from None
