"""A kind of finding: the function that finds it, its level, its words, its remedies and an example, in one record."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple, TypeAlias, TypedDict, Unpack

from ..change.differences.same_parts import PAGE_LIST
from ..change.steps.change import Change
from ..resolve.effective import EffectiveModel
from .bound_kind import BoundKind
from .context import FindingContext
from .finding import Finding
from .folded_setting import FoldedSetting
from .mending import Remedy

Find: TypeAlias = "Callable[[FindingContext, BoundKind], Iterator[Finding]]"
FindOf: TypeAlias = "Callable[[FindingContext, BoundKind, FoldedSetting], Iterator[Finding]]"
MoreWays: TypeAlias = "Callable[[EffectiveModel, Finding], Iterator[Remedy]]"
IsSame: TypeAlias = "Callable[[str], bool]"
ALL, FIRST, REST, LAST = slice(None), slice(0, 1), slice(1, None), slice(-1, None)
"""Which of a finding's statements a way takes away."""


class Kind(NamedTuple):
    """A kind of finding."""

    name: str
    level: str
    topic: str
    meaning: str  # what it means, in a line
    why: str  # why it matters, and how people mend it
    mend: str  # why it matters, and how people mend it
    setting: str | None = None  # the setting that the findings of the site name
    find: Find | None = None  # finds those of the site
    # finds those of one setting that some statement sets; a kind has one of the two, or `check` makes it
    of_setting: FindOf | None = None
    # the ways to mend it by taking statements away: what that is called, and which of the finding's statements
    takes_away: tuple[tuple[str, slice], ...] = ()
    is_redundant: bool = False  # whether it is about what does nothing: that can go although a preset says the same
    lifts_lock: bool = False  # whether the first of its statements is a lock that can be lifted
    has_exception: bool = False  # whether it is also mended by saying none of the setting on its pages alone
    needs_decision: bool = False  # whether no single edit mends it: somebody must decide first
    example: Change = Change()  # what to do to the demo's garden so that it has this finding; nothing where it has
    # works out other ways to mend a finding, where that takes too long to do for each
    more_ways: MoreWays | None = None
    # the settings, families of settings (`layout.`) and other words (see `SameParts`) that it depends on, besides the
    # page list, and besides its own setting for one that looks at a setting: between two states in which all of these
    # are the same, its findings are. None: it is always looked for
    depends_on: tuple[str, ...] | None = None
    # whether it asks of a page only which values it has: not where the page stands, nor what the page list says of it
    of_values: bool = False
    families: tuple[str, ...] = ()  # for one that looks at a setting: the families it looks at; none: every setting

    def looks_at(self, family: str) -> bool:
        """Whether a kind that looks at a setting looks at those of a family."""
        return not self.families or family in self.families

    def is_the_same(self, is_same: IsSame) -> bool:
        """Whether two states have the same findings of this kind; for one that looks at a setting, its own aside."""
        words = self.depends_on
        return words is not None and (self.of_values or is_same(PAGE_LIST)) and all(map(is_same, words))

    def bound(self, context: FindingContext, accepted: bool = False) -> BoundKind:
        """The kind as a search in a site goes about it."""
        return BoundKind(context, self.name, self.level, self.setting, accepted)


class _Words(TypedDict):
    meaning: str
    why: str
    mend: str


class _Options(_Words, total=False):
    """The attributes of `Kind` besides name, level and topic."""

    setting: str
    takes_away: tuple[tuple[str, slice], ...]
    is_redundant: bool
    lifts_lock: bool
    has_exception: bool
    needs_decision: bool
    example: Change
    more_ways: MoreWays
    depends_on: tuple[str, ...]
    of_values: bool
    families: tuple[str, ...]


def site_kind(name: str, level: str, topic: str, **options: Unpack[_Options]) -> Callable[[Find], Kind]:
    """Makes a function that looks at the whole site a kind of finding; `options` are the attributes of `Kind`."""
    return lambda find: Kind(name, level, topic, find=find, **options)


def setting_kind(name: str, level: str, topic: str, **options: Unpack[_Options]) -> Callable[[FindOf], Kind]:
    """Makes a function that looks at one setting after the other a kind of finding; `options` as in `Kind`."""
    return lambda find: Kind(name, level, topic, of_setting=find, **options)
