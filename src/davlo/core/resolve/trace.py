"""Why a page has a value: every candidate for one page and one setting, and its fate."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Codes
from ..faults import Place, UnknownName
from ..site.model import SiteModel
from ..site.settings.scopes import BUILT_IN_SCOPE, SINGLE, Scope, ScopeKind
from ..site.settings.setting import Setting
from ..site.settings.values import ListChange, Plain, Value, shown
from ..site.source import source_of
from ..site.statements.new_statements import Form
from ..site.statements.scope_pages import ScopePages
from .fold import SettingWords
from .page_fold import PageFold, PageStep, fold_page

STATED = [scope for scope in ScopeKind if scope != ScopeKind.BUILT_IN]
"""The scopes of statements, the weakest first."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """One candidate: what it says, where it stands, and what became of it.

    `gives` is the value after it was folded in (or would have been); `because` the reason its author wrote;
    `verdict` is `wins`, `counts` (a part of a list), `overridden`, `overruled` (by a lock) or `left out` (of a
    setting whose default is for new pages); `reason` says so in a sentence.
    """

    scope: Scope
    says: Value
    gives: Plain
    place: Place | None
    locked: bool
    preset: str
    preset_place: Place | None
    fresh: bool
    because: str
    verdict: str
    reason: str


@dataclass(frozen=True, slots=True)
class Trace:
    """The answer to "why": the value a page ends up with, and its candidates, weakest first."""

    path: str
    setting: str
    value: Plain
    for_new_pages: bool
    candidates: tuple[Candidate, ...]

    @property
    def winner(self) -> Candidate:
        """The candidate that is the source."""
        return next(candidate for candidate in self.candidates if candidate.verdict == "wins")


def candidates_for(site: SiteModel, pages: NDArray[np.int64], setting: int) -> list[list[int]]:
    """For each of some pages, ascending, the statements that reach it, weakest first."""
    statements, found = site.statements, [list[int]() for _ in pages]
    sampled = site.scope_pages.sampled(pages)
    for scope in STATED:
        span = statements.of_setting(setting, scope)
        if len(span) and (scope != ScopeKind.STAMP or site.catalogue[setting].default_for == "new-pages"):
            for one, places in _reached(sampled, scope, statements.target[span.start : span.stop]):
                for place in places:
                    found[place].append(span.start + one)
    return found


def _reached(sampled: ScopePages, scope: ScopeKind, target: Codes) -> Iterator[tuple[int, Iterable[int]]]:
    """The targets of a scope that have pages of a sample among theirs, each with the places of these in the sample."""
    if scope in SINGLE:
        for one, place in zip(*(side.tolist() for side in sampled.single(target)), strict=True):
            yield one, (place,)
    elif scope == ScopeKind.BELOW:
        begin, end = sampled.below(target)
        some = np.flatnonzero(begin < end)
        yield from zip(some.tolist(), map(range, begin[some].tolist(), end[some].tolist()), strict=True)
    else:
        every = np.arange(sampled.size)
        for one, number in enumerate(target.tolist()):
            yield one, every[sampled.of(scope, number)].tolist()


def check_has(site: SiteModel, page: int, setting: int) -> None:
    """Make sure that a page has a setting.

    Raises UnknownName if its type goes without it.
    """
    kind = int(site.details.type_of[page])
    if not site.has_by_type[setting, kind]:
        has = [one.name for number, one in enumerate(site.catalogue.settings) if site.has_by_type[number, kind]]
        whose = f"setting for a page of type {site.types.names[kind]}, as {site.tree.paths[page]} is,"
        raise UnknownName(whose, site.catalogue[setting].name, has)


def trace(site: SiteModel, page: int, setting: int) -> Trace:
    """Every candidate for one page and one setting. `Effective.why` is the call to use."""
    check_has(site, page, setting)
    (found,) = traces(site, np.array([page]), setting)
    return found


def traces(site: SiteModel, pages: NDArray[np.int64], setting: int) -> Iterator[Trace]:
    """Every candidate of a setting for each of some pages that have it; the pages ascend."""
    declared = site.catalogue[setting]
    words, for_new_pages = SettingWords(site.statements, setting), declared.default_for == "new-pages"
    for page, candidates in zip(pages.tolist(), candidates_for(site, pages, setting), strict=True):
        fold = fold_page(site.statements, words, candidates, int(site.tree.depth[page]), for_new_pages)
        teller = _Teller(site, declared, fold, words.book)
        value: Plain = words.book[fold.value]  # type: ignore[assignment]
        steps = (teller.built_in(), *map(teller.candidate, fold.steps))
        yield Trace(site.tree.paths[page], declared.name, value, for_new_pages, steps)


class _Teller:
    """Explains the fate of each candidate of a page."""

    def __init__(self, site: SiteModel, setting: Setting, fold: PageFold, words: Codebook[Value]) -> None:
        self.site, self.setting, self.fold, self.words = site, setting, fold, words
        self.counted = [step for step in fold.steps if step.fate == "counts"]

    def built_in(self) -> Candidate:
        """The built-in value as a candidate."""
        built_in = self.setting.built_in
        beats = self._first_replacing(self.counted)
        if self.fold.source < 0:
            verdict, reason = "wins", "no statement sets it, so the built-in value stays"
        elif beats is not None:
            verdict, reason = "overridden", f"overridden by {self._who(beats)}"
        else:
            verdict, reason = "counts", "the list starts from it"
        return Candidate(BUILT_IN_SCOPE, built_in, built_in, None, False, "", None, False, "", verdict, reason)

    def candidate(self, step: PageStep) -> Candidate:
        """A statement as a candidate."""
        statements, statement = self.site.statements, step.statement
        source = source_of(self.site, statement)
        preset, preset_place = statements.presets[int(statements.preset[statement])]
        verdict, reason = self._verdict(step)
        return Candidate(
            source.scope,
            statements.said(statement),
            self._value(step),
            statements.place(statement),
            source.locked,
            preset,
            preset_place,
            source.fresh,
            statements.reasons[int(statements.because[statement])],
            verdict,
            reason,
        )

    def _verdict(self, step: PageStep) -> tuple[str, str]:
        name, fold = self.setting.name, self.fold
        if step.fate == "left out":
            return "left out", f"the default of {name} is for new pages: an existing page keeps its stamp"
        if step.fate == "overruled":
            lock = source_of(self.site, fold.lock)
            would = "" if step.gives == fold.value else f"; it would have given {self._shown(step)}"
            place = f"{lock.file}:{lock.line}"
            return "overruled", f"overruled: {self._who(fold.lock)} locks {name} ({place}){would}"
        if step.statement == fold.source:
            is_lock = step.statement == fold.lock
            return "wins", "wins, and is locked: nothing stronger may change it" if is_lock else (
                "wins: no stronger statement sets it"
            )
        beats = self._first_replacing(self.counted[self.counted.index(step) + 1 :])
        if beats is not None:
            return "overridden", f"overridden by {self._who(beats)}"
        return "counts", f"counts: the list is {self._shown(step)} after it"

    def _first_replacing(self, steps: Sequence[PageStep]) -> int | None:
        """The first of these statements that replaces the value."""
        statements = (step.statement for step in steps)
        return next((one for one in statements if not isinstance(self.site.statements.said(one), ListChange)), None)

    def _who(self, statement: int) -> str:
        statements = self.site.statements
        scope, form = source_of(self.site, statement).scope, Form(int(statements.form[statement]))
        where = scope.sentence if scope.kind == ScopeKind.RULE else str(scope)
        if form == Form.PRESET:
            return f"the preset {statements.presets[int(statements.preset[statement])][0]} used in {where}"
        return f"fresh_access in {where}" if form == Form.FRESH else where

    def _value(self, step: PageStep) -> Plain:
        return self.words[step.gives]  # type: ignore[return-value]

    def _shown(self, step: PageStep) -> str:
        return shown(self._value(step))
