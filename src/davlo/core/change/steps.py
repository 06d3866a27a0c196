"""A change: something to be done to a site, in the words of the design, never in those of a file.

It names pages by path and all else by name, so it can be applied to another state of the site, printed, and kept.
"""

from __future__ import annotations

from typing import Any, NamedTuple, TypeAlias

from ..faults import Place
from ..site.catalogue import Adjustment
from ..site.conditions import Condition
from ..site.declarations import Declared
from ..site.model import Accept
from ..site.scopes import Scope
from ..site.values import Value

CHANGED = Place("the change")
"""Where something that a change says stands: in no file yet."""
FRESH_ACCESS = "fresh_access"
"""Takes the place of a setting's name in `TakeAway`, for a scope that begins access anew."""


class Say(NamedTuple):
    """A scope says a value of a setting, in place of what it said before."""

    scope: Scope
    setting: str
    value: Value
    lock: bool = False
    because: str = ""


class TakeAway(NamedTuple):
    """A scope no longer says a setting, or no longer begins access anew (`FRESH_ACCESS`)."""

    scope: Scope
    setting: str


class Lock(NamedTuple):
    """What a scope says of a setting becomes a lock."""

    scope: Scope
    setting: str


class Unlock(NamedTuple):
    """What a scope locks it says plainly from now on."""

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


class Spread(NamedTuple):
    """Pages are stamped with what a new page would get; with `add`, a list keeps what it holds and gets what is new."""

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
    """A declaration is taken away; with a type goes what is set for it."""

    kind: str
    name: str


class Adjust(NamedTuple):
    """The site makes something else of a setting of Davlo's, or of a family as `access.*`."""

    setting: str
    adjustment: Adjustment


class SetSite(NamedTuple):
    """The site as a whole: `languages` (tuple of str) or `menu_room` (int)."""

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


class ExceptFromPromise(NamedTuple):
    """A promise is no longer about some pages."""

    name: str
    pages: tuple[str, ...]


class AddAccept(NamedTuple):
    """A finding is known and meant."""

    accept: Accept


class DropAccept(NamedTuple):
    """An entry of `accept` is taken away."""

    accept: Accept


class AddPage(NamedTuple):
    """The inventory has one page more; what is stamped when a page is made is stamped on it.

    Who makes it (`by`) is stamped as its owner, where no default names another.
    """

    path: str
    facts: tuple[tuple[str, str], ...] = ()
    by: str = ""


class MovePage(NamedTuple):
    """A page gets another path, and with it the pages below it whose paths begin with its own.

    Everything that names one of them follows. The page stands where its new path puts it, or below `parent`.
    """

    path: str
    new: str
    parent: str = ""


class DropPage(NamedTuple):
    """A page goes, with what is set for it; with `branch` all pages below it too."""

    path: str
    branch: bool = False


class SetFact(NamedTuple):
    """The inventory says something else of a page: a fact as a cell holds it, empty for a blank cell."""

    path: str
    fact: str
    text: str


class NameInstead(NamedTuple):
    """All that names a page which is not there names another one: statements, conditions, blocks, other pages."""

    old: str
    new: str


class RenameFact(NamedTuple):
    """A fact of the site's own gets another name; with that of a setting, its cells set it."""

    old: str
    new: str


Step: TypeAlias = (
    Say
    | TakeAway
    | Lock
    | Unlock
    | Use
    | StopUsing
    | Spread
    | Rename
    | Declare
    | Undeclare
    | Adjust
    | SetSite
    | AddRule
    | DropRule
    | ExceptFromPromise
    | AddAccept
    | DropAccept
    | AddPage
    | MovePage
    | DropPage
    | SetFact
    | NameInstead
    | RenameFact
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
        """
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

    def add_page(self, path: str, *, by: str = "", **facts: str) -> Change:
        """This change, and then the inventory has one page more, made by a person where one is named."""
        return self.then(AddPage(path, tuple(facts.items()), by))

    def set_facts(self, path: str, **facts: str) -> Change:
        """This change, and then the inventory says something else of a page; empty for a blank cell."""
        return self.then(*(SetFact(path, fact, text) for fact, text in facts.items()))

    def move_page(self, path: str, new: str, *, parent: str = "") -> Change:
        """This change, and then a page, and those below it, have other paths, and all that names them follows."""
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

    Raises
    ------
    TypeError
        If it is not exactly one of those that there are.

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
