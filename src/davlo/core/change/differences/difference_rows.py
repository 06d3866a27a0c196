"""The rows of a difference: values, settings, outcomes, access and declarations that two states differ in."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...arrays.grouping import groups
from ...arrays.texts import Texts
from ...records.record import FieldValues
from ...site.settings.values import Plain, Value
from ...site.source import Source

Pages = NDArray[np.int64]


class ValueRow(NamedTuple):
    """One page and setting that differ: both values, their sources, and whether each is shown.

    None if the page is not there, or does not have the setting. `Difference.rows` alone fills `shown_before` and
    `shown_after`.
    """

    path: str
    setting: str
    before: Plain
    after: Plain
    source_before: Source | None
    source_after: Source | None
    shown_before: bool | None = None
    shown_after: bool | None = None


class SettingDifference(NamedTuple):
    """One setting on the pages whose value or source differs."""

    setting: str
    pages: Pages  # int64[n]: their numbers in the state before, ascending
    before: Codes  # `before`, `after`: int32[n]: codes into `words`; -1 where the page does not have the setting
    after: Codes
    # `source_before`, `source_after`: int32[n]: the statements that won, each in its own state; -1 for the built-in
    # value
    source_before: Codes
    source_after: Codes
    words: Sequence[Value]

    @property
    def changed(self) -> Mask:
        """Which of the pages have another value, or have the setting in one state only. bool[n]"""
        differs: Mask = self.before != self.after
        return differs


class LockChange(NamedTuple):
    """One setting on the pages whose value stays, and is locked now or no longer locked."""

    setting: str
    is_locked: bool  # whether it is locked in the second state
    pages: Pages  # int64[n]: their numbers in the first state, ascending


class DeclarationChange(NamedTuple):
    """A declaration that is new, gone, or holds something else; so does a viewpoint, and the site as a whole."""

    kind: str  # the site as a whole is of the kind `site`, and has no name
    name: str
    what: str  # `new`, `gone` or `changed`
    # for a changed one what it holds under each key that differs, before and after, as `declaration_contents` has it;
    # None if it says nothing there
    keys: Mapping[str, tuple[Any, Any]] = MappingProxyType({})


class OutcomeRow(NamedTuple):
    """One page, and one field of its record that differs for a viewer: before and after, as JSON holds it."""

    path: str
    viewer: str
    field: str
    before: Any
    after: Any


class OutcomeChange(NamedTuple):
    """One field of the page record on the pages on which it differs for a viewer."""

    field: str  # its whole name: `menu.label`
    viewer: str
    pages: Pages  # int64[n]: their numbers in the first state, ascending
    # `before`, `after`: the values of these pages, in each state; none where a page does not have the field
    before: FieldValues[Any]
    after: FieldValues[Any]
    as_json: Callable[[Any], object]

    def rows(self, paths: Texts) -> Iterator[OutcomeRow]:
        """A row for each page; `paths` are those of the first state."""
        sides = (self._told(side) for side in (self.before, self.after))
        for path, before, after in zip(paths.take(self.pages), *sides, strict=True):
            yield OutcomeRow(path, self.viewer, self.field, before, after)

    def _told(self, side: FieldValues[Any]) -> Iterator[Any]:
        return (self.as_json(side.values[code]) if code >= 0 else None for code in side.codes.tolist())

    def only(self, kept: Mask) -> OutcomeChange:
        """The change on some of its pages. `kept`: bool[n]."""
        before, after = (FieldValues(side.codes[kept], side.values) for side in (self.before, self.after))
        return self._replace(pages=self.pages[kept], before=before, after=after)

    def where_told(self) -> OutcomeChange:
        """The change without the pages on which an empty text only comes or goes."""
        told = np.zeros(len(self.pages), dtype=bool)
        for side in (self.before, self.after):
            used, which = np.unique(side.codes, return_inverse=True)
            told |= np.array([code >= 0 and bool(side.values[code]) for code in used.tolist()], dtype=bool)[which]
        return self.only(told)

    def by_values(self) -> Iterator[tuple[Any, Any, Pages]]:
        """The values before and after, None for none, with the pages on which the one becomes the other."""
        for (was, now), at in groups(self.before.codes, self.after.codes):
            yield (
                self.before.values[was] if was >= 0 else None,
                self.after.values[now] if now >= 0 else None,
                self.pages[at],
            )


class ShownRow(NamedTuple):
    """One page and setting whose value is shown in one state only; both states have the page and the setting."""

    path: str
    setting: str
    before: bool
    after: bool


class AccessRow(NamedTuple):
    """Someone who may do something on other pages than before: how many they gain and lose, and one of each."""

    who: str
    action: str
    gained: int
    lost: int
    gained_first: str
    lost_first: str


class ReachNumbers(NamedTuple):
    """What two states differ in, or what a change would do, in numbers."""

    changed: int  # on how many pages the value of some setting changes
    new: int  # how many pages there are in one state only
    gone: int  # how many pages there are in one state only
    # `own`, `locked`, `keep_stamp`, `already`: how many pages the change reaches without effect: a stronger statement,
    # a lock or their stamp decides, or they have the value already. A page counts once, as the first of these that
    # fits: locked, overridden, keeps its stamp, has it already. A page on which something changes does not count.
    own: int
    locked: int
    keep_stamp: int
    already: int
    gaining: int  # `gaining`, `losing`: how many people gain or lose an action on some page
    losing: int
    visitor_gains: bool = False  # whether a visitor does
    visitor_loses: bool = False  # whether a visitor does
    relocked: int = 0  # on how many pages some value stays, and is locked now or no longer locked
    looking: int = 0  # how many pages look different to a visitor
    addresses: int = 0  # how many pages are published at another address
    detailed: int = 0  # of how many pages the page list says something else
    entries: int = 0  # how many pages have another entry in the menu, or enter or leave it
    listed: int = 0  # how many pages enter or leave the sitemap, or have other alternates there at the same address
    headed: int = 0  # how many pages have other tags in their head


class FindingChange(NamedTuple):
    """A finding that is there in both states, on more or fewer pages: as it was, as it is, and how many come and go."""

    before: Any
    after: Any
    more: int
    fewer: int


class FindingChanges(NamedTuple):
    """The findings that are new, that are gone, and that are there on more or fewer pages."""

    new: tuple[Any, ...] = ()
    gone: tuple[Any, ...] = ()
    changed: tuple[FindingChange, ...] = ()
