"""What every step of a change has, and why one cannot be done."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from ...faults import DavloError, Place

CHANGED = Place("the change")
"""Where something that a change says stands: in no file yet."""


class Step:
    """One thing to do to a site. It names pages by path and everything else by name.

    A step knows the site after it (`done`) and how it reads (`words`). How files spell it is known by the room that
    rewrites them. A step that comes to simpler ones says which (`parts`), and needs nothing else.
    """

    __slots__ = ()
    changes_values: ClassVar[bool] = True  # whether pages may get another value of some setting

    def done(self, site: Any) -> Any:
        """The site after the step. Raises CannotDo, UnknownName, ValueFault or SiteError if it cannot be done."""
        for part in self.parts(site):
            site = part.done(site)
        return site

    def parts(self, site: Any) -> Sequence[Step]:
        """The simpler steps that this one comes to."""
        raise NotImplementedError(type(self).__name__)

    @property
    def words(self) -> str:
        """What the step does, in a few words that begin with a verb."""
        raise NotImplementedError(type(self).__name__)

    @property
    def changes_access(self) -> bool:
        """Whether somebody may be able to do more or less after it."""
        return self.changes_values


class CannotDo(DavloError):
    """A step that cannot be done, without its number; `apply` raises a `ChangeError` in its place."""

    def __init__(self, what: str, word: str = "", allowed: tuple[str, ...] = ()) -> None:
        self.what, self.word, self.allowed = what, word, allowed
        super().__init__(what)
