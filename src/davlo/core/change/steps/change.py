"""A change: a list of steps to do to a site, independent of any file format.

It names pages by path and everything else by name, so it can be applied to another state of the site, printed, and
kept.
"""

from __future__ import annotations

from typing import Any, NamedTuple

from ...faults import DavloError
from ...site.declarations import Declared
from ...site.model import Accept
from ...site.pages.conditions import Condition
from ...site.settings.catalogue import Adjustment
from ...site.settings.scopes import Scope
from ...site.settings.values import Value, raw_of
from ...wording import count
from .declaration_steps import (
    AddAccept,
    AddViewpoint,
    Adjust,
    Declare,
    DropAccept,
    DropViewpoint,
    ExceptFromGuarantee,
    SetGuarantee,
    SetSite,
    SiteValue,
    Undeclare,
)
from .drop_declaration import UndeclareEverywhere
from .lock_exceptions import LockExcept
from .page_steps import AddDetail, AddPage, DropPage, MovePage, NameInstead, RefreshPages, RenameDetail, SetDetail
from .preset_steps import StopUsing, Use
from .rename import Rename
from .rule_steps import AddRule, ChangeRule, DropRule, MoveRule
from .stamp_steps import Restamp
from .statement_steps import FRESH_ACCESS, Lock, Say, StatementStep, TakeAway, Unlock
from .step import CHANGED, Step

__all__ = [
    "CHANGED",
    "FRESH_ACCESS",
    "AddAccept",
    "AddDetail",
    "AddPage",
    "AddRule",
    "AddViewpoint",
    "Adjust",
    "Change",
    "ChangeError",
    "ChangeRule",
    "Declare",
    "DropAccept",
    "DropPage",
    "DropRule",
    "DropViewpoint",
    "ExceptFromGuarantee",
    "Lock",
    "LockExcept",
    "MovePage",
    "MoveRule",
    "NameInstead",
    "RefreshPages",
    "Rename",
    "RenameDetail",
    "Restamp",
    "Say",
    "SetDetail",
    "SetGuarantee",
    "SetSite",
    "StatementStep",
    "Step",
    "StopUsing",
    "TakeAway",
    "Undeclare",
    "UndeclareEverywhere",
    "Unlock",
    "Use",
    "scope_named",
]
MOST_STEPS = 3
"""The most steps that a sentence tells one by one."""


class Change(NamedTuple):
    """Steps, to be done one after the other.

    Example
    -------
    >>> change = Change().say("sidebar.right", "main", below="/visit").take_away("menu.show", here="/topics")
    >>> for step in change.steps:
    ...     print(step.scope, step.setting)
    below /visit sidebar.right
    here menu.show
    """

    steps: tuple[Step, ...] = ()

    def then(self, *steps: Step) -> Change:
        """This change, and these steps after it."""
        return Change((*self.steps, *steps))

    @property
    def words(self) -> str:
        """What the change does, in one sentence; of many steps the first ones.

        Example
        -------
        >>> Change().say("sidebar.right", "main", below="/visit").take_away("menu.show", here="/topics").words
        'set sidebar.right to main below /visit; take menu.show away from /topics'
        """
        told = list(dict.fromkeys(step.words for step in self.steps))
        says = [step for step in self.steps if isinstance(step, Say)]
        if len(told) > MOST_STEPS and len(says) == len(self.steps):
            first, scopes = says[0], {step.scope for step in says}
            if len({step.says for step in says}) == 1 and len({scope.kind for scope in scopes}) == 1:
                return f"{first.words} and {count(len(scopes) - 1, 'other page')}"
        more = len(told) - MOST_STEPS
        return "; ".join(told[:MOST_STEPS]) + (f"; and {count(more, 'more step')}" if more > 0 else "")

    def say(self, setting: str, value: Any, *, lock: bool = False, because: str = "", **where: Any) -> Change:
        """This change, and then a scope says a value of a setting.

        Parameters
        ----------
        setting : str
        value : bool, int, float, str, list of str, dict or None
            A text is read as `davlo.yaml` would read it; a dict with `add`, `first` and `remove` changes a list.
        lock : bool
            Whether stronger scopes may not change it.
        because : str
            The reason.
        **where
            One of `everywhere=True`, `type=NAME`, `below=PATH`, `here=PATH`, `here_and_below=PATH`, `rule=NAME`,
            `stamp=PATH`; in the shared files of an estate `estate=True`.

        Raises
        ------
        TypeError
            If a value is of another kind.
        """
        raw_of(value)
        return self.then(Say(scope_named(**where), setting, value, lock, because))

    def take_away(self, setting: str, **where: Any) -> Change:
        """This change, and then a scope no longer says a setting; `where` as in `say`."""
        return self.then(TakeAway(scope_named(**where), setting))

    def use(self, preset: str, **where: Any) -> Change:
        """This change, and then a scope uses a preset; `where` as in `say`."""
        return self.then(Use(scope_named(**where), preset))

    def stop_using(self, preset: str, **where: Any) -> Change:
        """This change, and then a scope no longer uses a preset; `where` as in `say`."""
        return self.then(StopUsing(scope_named(**where), preset))

    def add_page(self, path: str, *, by: str = "", **details: str) -> Change:
        """This change, and then the page list has one page more, made by a person where one is named."""
        return self.then(AddPage(path, tuple(details.items()), by))

    def set_details(self, path: str, **details: str) -> Change:
        """This change, and then the page list says something else of a page; empty for a blank cell."""
        return self.then(*(SetDetail(path, detail, text) for detail, text in details.items()))

    def move_page(self, path: str, new: str, *, parent: str = "") -> Change:
        """This change, and then a page and those below it have other paths, and whatever names them is updated."""
        return self.then(MovePage(path, new, parent))

    def drop_page(self, path: str, *, branch: bool = False) -> Change:
        """This change, and then a page is gone with what is set for it; with `branch` all pages below it too."""
        return self.then(DropPage(path, branch))

    def rename(self, kind: str, old: str, new: str) -> Change:
        """This change, and then a declaration has another name, or has gone into the one that has it."""
        return self.then(Rename(kind, old, new))

    def lock(self, setting: str, **where: Any) -> Change:
        """This change, and then what a scope says of a setting is locked; `where` as in `say`."""
        return self.then(Lock(scope_named(**where), setting))

    def lock_except(self, setting: str, value: Any, *excepts: Condition, because: str = "", **where: Any) -> Change:
        """This change, and then a rule locks what a scope sets, but not on some pages; `where` as in `say`."""
        return self.then(LockExcept(scope_named(**where), setting, value, excepts, because))

    def unlock(self, setting: str, **where: Any) -> Change:
        """This change, and then what a scope locks it says plainly; `where` as in `say`."""
        return self.then(Unlock(scope_named(**where), setting))

    def restamp(self, setting: str, *pages: str, add: bool = False) -> Change:
        """This change, and then pages get the stamps of new pages; with `add` a list only gets the new items."""
        return self.then(Restamp(setting, pages, add))

    def name_instead(self, old: str, new: str) -> Change:
        """This change, and then whatever names a page that is not there names another one."""
        return self.then(NameInstead(old, new))

    def refresh_pages(
        self,
        new: dict[str, dict[str, str]] | None = None,
        details: dict[str, dict[str, str]] | None = None,
        gone: tuple[str, ...] = (),
    ) -> Change:
        """This change, and then the page list has these new pages, these details of pages, and not those that are gone.

        `new`, `details`: by path, details by name; empty for a blank cell.
        """
        rows = tuple((path, tuple(cells.items())) for path, cells in (new or {}).items())
        cells = tuple((path, name, text) for path, some in (details or {}).items() for name, text in some.items())
        return self.then(RefreshPages(rows, cells, gone))

    def add_detail(self, name: str) -> Change:
        """This change, and then the page list has a column for a detail of the site's own."""
        return self.then(AddDetail(name))

    def rename_detail(self, old: str, new: str) -> Change:
        """This change, and then a column of the page list has another name."""
        return self.then(RenameDetail(old, new))

    def declare(self, record: Declared) -> Change:
        """This change, and then a declaration is there, in place of one of its name."""
        return self.then(Declare(record))

    def undeclare(self, kind: str, name: str, *, everywhere: bool = False) -> Change:
        """This change, and then a declaration is gone; for a type, also what is set for it.

        `everywhere`: whatever names it goes, too: statements, items of lists, members of groups, viewpoints.
        """
        return self.then((UndeclareEverywhere if everywhere else Undeclare)(kind, name))

    def adjust(self, setting: str, **adjustment: Any) -> Change:
        """This change, and then a setting of Davlo's has another default, scopes, label, help or `default_for`."""
        return self.then(Adjust(setting, Adjustment(**adjustment)))

    def set_site(self, name: str, value: SiteValue) -> Change:
        """This change, and then the site has another `name`, `url` or `home_path`, other `languages`, …"""
        return self.then(SetSite(name, value))

    def add_rule(
        self, name: str, when: Condition, says: dict[str, Value], *excepts: Condition, weaker_than: str | None = None
    ) -> Change:
        """This change, and then there is a rule that sets some settings.

        `weaker_than`: the rule that it comes right after; empty: it is the strongest; None: the weakest of all.
        """
        return self.then(AddRule(name, when, tuple(says.items()), excepts, weaker_than))

    def change_rule(self, name: str, when: Condition, *excepts: Condition, note: str = "") -> Change:
        """This change, and then a rule matches other pages; what it gives stays."""
        return self.then(ChangeRule(name, when, excepts, note))

    def move_rule(self, name: str, *, before: str = "", after: str = "") -> Change:
        """This change, and then a rule comes right before another one, and so is stronger; or right after it."""
        return self.then(MoveRule(name, before or after, not before))

    def drop_rule(self, name: str) -> Change:
        """This change, and then a rule is gone, with all that it gives."""
        return self.then(DropRule(name))

    def except_from_guarantee(self, name: str, *pages: str) -> Change:
        """This change, and then a guarantee excludes some pages."""
        return self.then(ExceptFromGuarantee(name, pages))

    def guarantee(
        self,
        name: str,
        when: Condition,
        *excepts: Condition,
        has: dict[str, Value] | None = None,
        may: dict[str, tuple[str, ...]] | None = None,
        may_not: dict[str, tuple[str, ...]] | None = None,
    ) -> Change:
        """This change, and then there is a guarantee, in place of one of its name."""
        says = (tuple((some or {}).items()) for some in (has, may, may_not))
        return self.then(SetGuarantee(name, when, excepts, *says))  # type: ignore[arg-type]

    def add_viewpoint(self, page: str, viewer: str) -> Change:
        """This change, and then a page and a viewer are looked at after every change."""
        return self.then(AddViewpoint(page, viewer))

    def drop_viewpoint(self, page: str, viewer: str) -> Change:
        """This change, and then a page and a viewer are no longer looked at."""
        return self.then(DropViewpoint(page, viewer))

    def accept(self, accept: Accept) -> Change:
        """This change, and then a finding is known and meant."""
        return self.then(AddAccept(accept))

    def drop_accept(self, accept: Accept) -> Change:
        """This change, and then a finding is no longer accepted."""
        return self.then(DropAccept(accept))


def scope_named(**where: Any) -> Scope:
    """The scope that one keyword names.

    Raises TypeError if it is not exactly one of those that there are.

    Example
    -------
    >>> str(scope_named(type="event")), str(scope_named(everywhere=True))
    ('type event', 'everywhere')
    """
    kinds = ("type", "below", "here", "here_and_below", "rule", "stamp")
    if len(where) == 1:
        kind, name = next(iter(where.items()))
        if kind in ("estate", "everywhere") and name is True:
            return Scope.estate() if kind == "estate" else Scope.everywhere()
        if kind in kinds and isinstance(name, str):
            found: Scope = getattr(Scope, kind)(name)
            return found
    raise TypeError(f"name one scope: everywhere=True, estate=True, or one of {', '.join(kinds)} with a name")


class ChangeError(DavloError):
    """A step of a change that cannot be done.

    Attributes
    ----------
    number : int
        Which step, from 1.
    what : str
        Why not, in a sentence.
    word, allowed
        What was named, and what might have been, as in `Fault`.
    kind : str
        What was looked for, if there is nothing of that name: `page`, or a kind of declaration; else empty.
    """

    def __init__(self, number: int, what: str, word: str = "", allowed: tuple[str, ...] = (), kind: str = "") -> None:
        self.number, self.what, self.word, self.allowed, self.kind = number, what, word, allowed, kind
        super().__init__(f"step {number}: {what}")
