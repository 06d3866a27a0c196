"""A change as edits of a site's files: which lines become what. Nothing is written.

What is said goes where the same scope speaks already; else at the end of what its section holds, in that file's own
manner. Lines that no edit names stay as they are, byte for byte. Reading the rewritten files gives the site that
`apply` gives.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterator, Sequence
from itertools import groupby
from pathlib import Path

import yaml

from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.estate_steps import said_by_estate
from davlo.core.change.refused import ChangeRefused
from davlo.core.change.steps.apply import apply, in_simple_steps
from davlo.core.change.steps.change import (
    FRESH_ACCESS,
    AddPage,
    Change,
    MovePage,
    RefreshPages,
    Rename,
    Say,
    StatementStep,
    Step,
    TakeAway,
)
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.settings.scopes import Scope, ScopeKind

from .cannot_rewrite import ALIASED, CannotRewrite
from .declaration_writer import DeclarationWriter
from .line_edits import Edit
from .page_writer import PageWriter
from .rename_writer import RenameWriter
from .site_files import ByStep, SiteFiles
from .statement_writer import StatementWriter


def rewrite(
    site: SiteModel, folder: Path, change: Change, today: datetime.date | None = None, is_read_again: bool = False
) -> list[Edit]:
    """What a change makes of a site's files.

    `site`: the site before the change, as it was read from the folder. `change`: it can be done: `apply` does it.
    `today`: the date of stamps that are written (default: the clock's). `is_read_again`: whether the caller reads the
    files with the edits made; else the new YAML is parsed here. Returns file by file, from the top of each. Raises
    CannotRewrite if a step cannot be said in the files, or a file is no longer the one that was read.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     edits = rewrite(davlo.open_site(folder), folder, Change().say("sidebar.right", "main", below="/visit"))
    >>> [(edit.file, edit.line, edit.new.strip()) for edit in edits]
    [('davlo.yaml', 79, 'below: {sidebar.right: main}')]
    """
    writer = Rewriter(site, folder, today)
    return writer.edits(change, is_read_again)


class Rewriter:
    """Rewrites the files of one site; each is read once."""

    def __init__(self, site: SiteModel, folder: Path, today: datetime.date | None = None) -> None:
        self.site, self.files = site, SiteFiles(site, folder, today)

    def edits(self, change: Change, is_read_again: bool = False) -> list[Edit]:
        """What a change makes of the files; see `rewrite`."""
        self.files.forget()
        told = next((told for step in change.steps if (told := said_by_estate(self.site, step))), "")
        if told:
            raise ChangeRefused(told)
        change = in_simple_steps(self.site, change)
        _refuse_new_pages(change, self.site.page_names)
        before = _States(self.site, change).before
        statements = StatementWriter(self.files, change, before)
        by_step: ByStep = {
            **statements.by_step,
            **DeclarationWriter(self.files, statements).by_step,
            **PageWriter(self.files, before).by_step,
            Rename: RenameWriter(self.files).rename,
        }

        try:
            for kind, steps in groupby(_last_said(_without_detours(change.steps, statements.says)), type):
                if kind is TakeAway:  # many at once take much less time
                    statements.take_away([*steps])  # type: ignore[list-item]
                elif kind is Say:
                    statements.say_all(steps)  # type: ignore[arg-type]
                else:
                    for step in steps:
                        by_step[type(step)](step)
            if not is_read_again:
                self.files.check_yaml()
        except (OSError, UnicodeDecodeError, yaml.YAMLError, RecursionError) as error:
            raise CannotRewrite(f"a file cannot be read: {error}") from None
        made = self.files.made()
        if not made and what_differs(self.site, apply(self.site, change)):
            raise CannotRewrite(ALIASED)
        return made


def _without_detours(steps: Sequence[Step], says: Callable[[Scope, str], bool]) -> Sequence[Step]:
    """Steps without what one of them says and a later one takes away, as condensing makes them in several rounds.

    A file is asked only for what it said before the change. `says`: whether a scope says a setting there.
    """
    if not all(isinstance(step, StatementStep) for step in steps):
        return steps  # a rule or a page may have come between
    left: dict[int, Step] = dict(enumerate(steps))
    told: dict[tuple[Scope, str], list[int]] = {}  # the steps about it that are left
    for number, step in left.copy().items():
        assert isinstance(step, StatementStep)
        before = told.setdefault((step.scope, step.setting), [])
        if isinstance(step, TakeAway) and before and all(map(_is_plain, [step, *(left[one] for one in before)])):
            while before and isinstance(left[before[-1]], Say):
                del left[before.pop()]
            if before or not says(step.scope, step.setting):
                del left[number]
                continue
        for part in step.scope.parts:
            told.setdefault((part, step.setting), []).append(number)
    return list(left.values())


def _is_plain(step: Step) -> bool:
    """Whether a step says one thing in one scope, or takes it away there."""
    return isinstance(step, Say | TakeAway) and not step.scope.both and step.setting != FRESH_ACCESS


def _last_said(steps: Sequence[Step]) -> list[Step]:
    """Steps without what a later step says anew, since files say each thing once."""
    left: list[Step] = []
    again: dict[tuple[Scope, str], bool] = {}  # whether a later step says it
    for step in reversed(steps):
        if not isinstance(step, StatementStep):
            left.append(step)
            continue
        about = [(part, step.setting) for part in step.scope.parts]
        if not (isinstance(step, Say) and all(again.get(one) for one in about)):
            left.append(step)
        again.update(dict.fromkeys(about, isinstance(step, Say)))
    return left[::-1]


class _States:
    """The site before each step of a change; steps are asked about in their order."""

    def __init__(self, site: SiteModel, change: Change) -> None:
        self._site, self._left = site, [*change.steps]

    def before(self, step: Step) -> SiteModel:
        """The site before a step."""
        place = next(at for at, one in enumerate(self._left) if one is step)
        self._site, self._left = apply(self._site, Change((*self._left[:place],))), self._left[place:]
        return self._site


def _refuse_new_pages(change: Change, names: PageNames) -> None:
    """Refuse a step about a page that an earlier step added or moved, since it is in no file yet.

    What a new page itself sets is allowed.
    """
    if len(change.steps) > 1 and any(isinstance(step, MovePage) for step in change.steps):
        raise CannotRewrite("a page that moves is written alone: make two changes of it")
    if len(change.steps) > 1 and any(isinstance(step, Rename) for step in change.steps):
        raise CannotRewrite("what is renamed is written alone: make two changes of it")
    added = {path for step in change.steps for path in _added_by(step, names)}
    for step in change.steps if added else ():
        if isinstance(step, AddPage) or (isinstance(step, Say) and step.scope.kind == ScopeKind.HERE):
            continue
        named = [getattr(step, name, "") for name in ("path", "old", "new")]
        if isinstance(step, RefreshPages):
            named = [*(path for path, _, _ in step.cells), *step.gone]
        pages = {*named, *getattr(step, "pages", ()), getattr(getattr(step, "scope", None), "name", "")}
        if not added.isdisjoint(map(names.path, pages)):
            raise CannotRewrite("the page is added by the same change: make two changes of it")


def _added_by(step: Step, names: PageNames) -> Iterator[str]:
    """The paths of the pages that a step adds."""
    if isinstance(step, AddPage):
        yield names.path(step.path)
    elif isinstance(step, RefreshPages):
        yield from (names.path(path) for path, _ in step.new)
