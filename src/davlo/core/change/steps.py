"""A change: a list of steps to do to a site, independent of any file format.

It names pages by path and everything else by name, so it can be applied to another state of the site, printed, and
kept.
"""

from __future__ import annotations

from typing import Any, NamedTuple, TypeAlias

from ..faults import Place
from ..site.catalogue import Adjustment
from ..site.conditions import Condition
from ..site.declarations import Declared
from ..site.model import Accept
from ..site.scopes import Scope
from ..site.values import Value, raw_of

CHANGED = Place("the change")
"""Where something that a change says stands: in no file yet."""
FRESH_ACCESS = "fresh_access"
"""Used as a setting's name in `TakeAway`, for a scope with `fresh_access`."""


class Say(NamedTuple):
    """A scope sets a setting to a value, in place of what it said before."""

    scope: Scope
    setting: str
    value: Value
    lock: bool = False
    because: str = ""


class TakeAway(NamedTuple):
    """A scope no longer sets a setting, or no longer says `fresh_access` (`FRESH_ACCESS`)."""

    scope: Scope
    setting: str


class Lock(NamedTuple):
    """A plain statement of a scope becomes a lock."""

    scope: Scope
    setting: str


class Unlock(NamedTuple):
    """A lock of a scope becomes a plain statement."""

    scope: Scope
    setting: str


class Use(NamedTuple):
    """A scope uses a preset, after those that it uses already."""

    scope: Scope
    preset: str


class StopUsing(NamedTuple):
    """A scope no longer uses a preset."""

    scope: Scope
    preset: str


class Restamp(NamedTuple):
    """Pages get the stamps that a new page would get; with `add`, a list keeps its items and gets the new ones."""

    setting: str
    pages: tuple[str, ...]
    add: bool = False


class Rename(NamedTuple):
    """A declaration gets another name, or goes into the one that has that name, everywhere it is named.

    `kind` is that of a declaration: `sidebar`, `person`, `type`, `setting`, `rule`, …
    """

    kind: str
    old: str
    new: str


class Declare(NamedTuple):
    """A declaration is added, or replaced."""

    record: Declared


class Undeclare(NamedTuple):
    """A declaration is taken away; for a type, also what is set for it."""

    kind: str
    name: str


class Adjust(NamedTuple):
    """The site adjusts a setting of Davlo's, or a family such as `access.*`."""

    setting: str
    adjustment: Adjustment


class SetSite(NamedTuple):
    """The site as a whole: `languages` (tuple of str) or `max_entries` (int)."""

    name: str
    value: tuple[str, ...] | int


class AddRule(NamedTuple):
    """A new rule, the weakest of all; `says` pairs settings and values."""

    name: str
    when: Condition
    says: tuple[tuple[str, Value], ...]
    excepts: tuple[Condition, ...] = ()


class DropRule(NamedTuple):
    """A rule is taken away, with all that it gives."""

    name: str


class ExceptFromGuarantee(NamedTuple):
    """A guarantee excludes some pages."""

    name: str
    pages: tuple[str, ...]


class AddAccept(NamedTuple):
    """A finding is known and meant."""

    accept: Accept


class DropAccept(NamedTuple):
    """An entry of `accept` is taken away."""

    accept: Accept


class AddPage(NamedTuple):
    """The page list has one page more, with the stamps of a new page.

    Its maker (`by`) becomes its owner, if no default names another.
    """

    path: str
    details: tuple[tuple[str, str], ...] = ()
    by: str = ""


class MovePage(NamedTuple):
    """A page gets another path, and with it the pages below it whose paths begin with its own.

    Whatever names one of them is updated. The page goes where its new path puts it, or below `parent`.
    """

    path: str
    new: str
    parent: str = ""


class DropPage(NamedTuple):
    """A page goes, with what is set for it; with `branch` all pages below it too."""

    path: str
    branch: bool = False


class SetDetail(NamedTuple):
    """The page list has another cell for a page: a detail as a cell holds it, empty for a blank cell."""

    path: str
    detail: str
    text: str


class NameInstead(NamedTuple):
    """Whatever names a page that is not there names another one: statements, conditions, blocks, other pages."""

    old: str
    new: str


class RenameDetail(NamedTuple):
    """A detail of the site's own gets another name; if that is a setting's name, its cells set that setting."""

    old: str
    new: str


Step: TypeAlias = (
    Say
    | TakeAway
    | Lock
    | Unlock
    | Use
    | StopUsing
    | Restamp
    | Rename
    | Declare
    | Undeclare
    | Adjust
    | SetSite
    | AddRule
    | DropRule
    | ExceptFromGuarantee
    | AddAccept
    | DropAccept
    | AddPage
    | MovePage
    | DropPage
    | SetDetail
    | NameInstead
    | RenameDetail
)


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
            `stamp=PATH`.

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

    def unlock(self, setting: str, **where: Any) -> Change:
        """This change, and then what a scope locks it says plainly; `where` as in `say`."""
        return self.then(Unlock(scope_named(**where), setting))


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
        if kind == "everywhere" and name is True:
            return Scope.everywhere()
        if kind in kinds and isinstance(name, str):
            found: Scope = getattr(Scope, kind)(name)
            return found
    raise TypeError(f"name one scope: everywhere=True, or one of {', '.join(kinds)} with a name")


class ChangeError(Exception):
    """A step of a change that cannot be done.

    Attributes
    ----------
    number : int
        Which step, from 1.
    what : str
        Why not, in a sentence.
    word, allowed
        What was named, and what might have been, as in `Fault`.
    """

    def __init__(self, number: int, what: str, word: str = "", allowed: tuple[str, ...] = ()) -> None:
        self.number, self.what, self.word, self.allowed = number, what, word, allowed
        super().__init__(f"step {number}: {what}")
