"""The rows of a difference: values, settings, outcomes, access and declarations that two states differ in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...arrays.texts import Texts
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


class Declaration(NamedTuple):
    """A declaration that is in one state only: its kind and name, and whether it is new."""

    kind: str
    name: str
    is_new: bool


class OutcomeRow(NamedTuple):
    """One page that differs in what readers and search engines see: which outcome, before and after."""

    path: str
    outcome: str
    before: str
    after: str


class OutcomeChange(NamedTuple):
    """One outcome on the pages on which it differs."""

    outcome: str
    pages: Pages  # int64[n]: their numbers in the first state, ascending
    # `before`, `after`: what readers and search engines saw before, and what they see now: a text, or `in` and `out`
    before: Texts
    after: Texts
    is_text: bool  # whether it is a text, rather than being in or out

    @property
    def kind(self) -> str:
        """What it is: `list` for all lists of links, else the outcome."""
        return "list" if self.outcome.startswith("list ") else self.outcome

    def rows(self, paths: Texts) -> Iterator[OutcomeRow]:
        """A row for each page; `paths` are those of the first state."""
        for path, before, after in zip(paths.take(self.pages), self.before, self.after, strict=True):
            yield OutcomeRow(path, self.outcome, before, after)


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
