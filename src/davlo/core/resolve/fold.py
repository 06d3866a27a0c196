"""Resolution: from statements to the effective value and the source of every page, a setting at a time.

The fold runs over columns. What holds everywhere and of types is folded once a type; then it is laid out over the
pages, and branches (slices), rules and single pages are folded over that. Where every statement of a setting replaces
what was there, nothing is folded: the statements are painted over each other, and locked ones over all, the weakest
last; the values follow from who won.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..site.statements import BUILT_IN, Scope, Statements
from ..site.values import ByDepth, Change, Reference
from .scope_pages import Cells, ScopePages


class Resolved(NamedTuple):
    """One setting of every page.

    Attributes
    ----------
    value : int32[pages]
        Codes of the setting's words.
    source : int32[pages]
        The statement that won, -1 where nobody spoke.
    """

    value: Codes
    source: Codes


class FoldStages(NamedTuple):
    """One setting of every page, and the way fold_stages that findings look at. Each int32[pages] but `closed`.

    Attributes
    ----------
    value, source : int32[pages]
        As in `Resolved`.
    live_value, live_source : int32[pages]
        The live fold: what a new page would get.
    closed : bool[pages]
        Where a lock ended the fold before single pages speak.
    type_value, type_source : int32[pages]
        After everywhere and types.
    below_value, below_source : int32[pages]
        After branches: what a page inherits.
    base_value, base_source : int32[pages]
        Before the page itself speaks: the live fold, or of a stamped setting the stamp.
    """

    value: Codes
    source: Codes
    live_value: Codes
    live_source: Codes
    closed: Mask
    type_value: Codes
    type_source: Codes
    below_value: Codes
    below_source: Codes
    base_value: Codes
    base_source: Codes


class FoldObserver(Protocol):
    """Told of every step of the fold.

    `pages: int64[n]`; `statements: int32[n]`, the one folded in on each; `before` and `after: int32[n]`, the value
    without and with it; `blocked: bool[n]`, where a lock had ended the fold, so that `before` stays.
    """

    def __call__(
        self, pages: NDArray[np.int64], statements: Codes, before: Codes, after: Codes, blocked: Mask
    ) -> None: ...


class Folding:
    """The fold of one setting: state over cells, which are types first and pages later."""

    def __init__(
        self, statements: Statements, setting: int, scope_pages: ScopePages, observer: FoldObserver | None = None
    ) -> None:
        self.statements = statements
        self.setting = setting
        self.scope_pages = scope_pages
        self.observer = observer
        self.words = statements.words[setting]
        self._references = {c: w.scope for c, w in enumerate(self.words.items) if isinstance(w, Reference)}
        self.has_formulas = any(isinstance(w, ByDepth) for w in self.words.items)
        self._kept: dict[str, Codes] = {}
        self._over_pages = False
        self.replaces_only = not self._references and bool(statements.replaces(setting).all())
        span = statements.of_setting(setting)
        self._is_plain = observer is None and not statements.locked[span.start : span.stop].any()
        types = len(scope_pages.types)
        self.value = np.zeros(types, dtype=np.int32)
        self.source = np.full(types, BUILT_IN, dtype=np.int32)
        self.closed = np.zeros(types, dtype=bool)

    def run(self, stamped: bool) -> Resolved:
        """All candidates, weakest first."""
        self._fold_types()
        self._fold_branches()
        self._fold_rules()
        if stamped:
            self._fold_stamps()
        self._fold_pages(Scope.HERE)
        return Resolved(self.plain(self.value), self.source)

    def fold_stages(self, stamped: bool) -> FoldStages:
        """The same, and what it had come to on the way."""
        self._fold_types()
        types = self.plain(self.value.copy()), self.source.copy()
        self._fold_branches()
        below = self.plain(self.value.copy()), self.source.copy()
        self._fold_rules()
        live = self.plain(self.value.copy()), self.source.copy(), self.closed.copy()
        if stamped:
            self._fold_stamps()
        base = self.plain(self.value.copy()), self.source.copy()
        self._fold_pages(Scope.HERE)
        return FoldStages(self.plain(self.value), self.source, *live, *types, *below, *base)

    def _fold_types(self) -> None:
        """Everywhere and types, once a type; then laid out over the pages."""
        types = self.scope_pages.types
        every = np.arange(len(types))
        for statement in self.statements.of_setting(self.setting, Scope.EVERYWHERE):
            self._step(every, statement)
        self._keep("everywhere")
        for statement in self.statements.of_setting(self.setting, Scope.TYPE):
            target = int(self.statements.target[statement])
            self._step(np.flatnonzero(self.scope_pages.types_based_on(target)), statement)
        self._keep("type")
        type_of = self.scope_pages.type_of
        self.value, self.source, self.closed = self.value[type_of], self.source[type_of], self.closed[type_of]
        self._kept = {scope: value[type_of] for scope, value in self._kept.items()}
        self._over_pages = True

    def _fold_branches(self) -> None:
        span = self.statements.of_setting(self.setting, Scope.BELOW)
        begins, ends = self.scope_pages.below(self.statements.target[span.start : span.stop])
        for at in np.flatnonzero(ends > begins).tolist():
            self._step(slice(int(begins[at]), int(ends[at])), span.start + at)
        self._keep("below")

    def _fold_rules(self) -> None:
        for statement in self.statements.of_setting(self.setting, Scope.RULE):
            self._step(self.scope_pages.met(int(self.statements.target[statement])), statement)

    def _fold_stamps(self) -> None:
        """For a page that is there already only what is locked counts of the live fold, and then its stamp."""
        self.value = np.where(self.closed, self.value, 0).astype(np.int32)
        self.source = np.where(self.closed, self.source, BUILT_IN).astype(np.int32)
        self._fold_pages(Scope.STAMP)

    def plain(self, codes: Codes, pages: Cells | None = None) -> Codes:
        """The codes with every formula worked out for the page's depth; the same array where there is none."""
        if not self.has_formulas:
            return codes
        depth = self.scope_pages.depth if pages is None else self.scope_pages.depth[pages]
        by_depth = self.by_depth(int(depth.max(initial=0)) + 1)
        found: Codes = by_depth.ravel().take(codes.astype(np.intp) * by_depth.shape[1] + depth, mode="clip")
        return found

    def by_depth(self, depths: int) -> Codes:
        """What each word comes to at each depth. int32[words, depths]"""
        table = np.repeat(np.arange(len(self.words), dtype=np.int32), depths).reshape(-1, depths)
        for code, word in enumerate(tuple(self.words.items)):
            if isinstance(word, ByDepth):
                table[code] = [self.words.code(word.at(depth)) for depth in range(depths)]
        return table

    def _keep(self, scope: str) -> None:
        if scope in self._references.values():
            self._kept[scope] = self.value.copy()

    def _fold_pages(self, scope: Scope) -> None:
        """What single pages say: in rounds, each with one statement a page at most."""
        span = self.statements.of_setting(self.setting, scope)
        inside, pages = self.scope_pages.single(self.statements.target[span.start : span.stop])
        ids = inside + span.start
        steps = self.statements.step[ids]
        edges = np.flatnonzero(np.r_[True, steps[1:] != steps[:-1], True]) if len(steps) else steps
        for start, stop in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            self._step(pages[start:stop], ids[start:stop])

    def _step(self, cells: Cells, statement: int | NDArray[np.int64]) -> None:
        before = self.value[cells]
        one = not isinstance(statement, np.ndarray)
        said = int(self.statements.value[statement]) if one else self.statements.value[statement]
        said = self._refer(said, cells)
        after = self.statements.fold(self.setting, before, said)
        if self._is_plain:  # no lock ends the fold, and nobody watches
            self.value[cells], self.source[cells] = after, statement
            return
        ids = np.full(len(before), statement, dtype=np.int32) if one else np.asarray(statement, dtype=np.int32)
        blocked = self.closed[cells].copy()  # of a branch it would be a view, which the lines below change
        if self.observer is not None and len(before):
            self._tell(cells, ids, before, after, blocked)
        self.value[cells] = np.where(blocked, before, after)
        self.source[cells] = np.where(blocked, self.source[cells], ids)
        self.closed[cells] = blocked | self.statements.locked[statement]

    def _refer(self, said: int | Codes, cells: Cells) -> int | Codes:
        """The codes with `<everywhere>`, `<type>` and `<below>` replaced by what they stand for."""
        if isinstance(said, int):
            return self._kept[self._references[said]][cells] if said in self._references else said
        for code, scope in self._references.items():
            here = said == code
            if here.any():
                said = np.where(here, self._kept[scope][cells], said).astype(np.int32)
        return said

    def _tell(self, cells: Cells, ids: Codes, before: Codes, after: Codes, blocked: Mask) -> None:
        assert self.observer is not None
        if self._over_pages:
            pages = np.arange(cells.start, cells.stop) if isinstance(cells, slice) else cells
        else:
            at = np.full(len(self.scope_pages.types), -1, dtype=np.int64)
            at[cells] = np.arange(len(before))
            place = at[self.scope_pages.type_of]
            pages = np.flatnonzero(place >= 0)
            chosen = place[pages]
            ids, before, after, blocked = ids[chosen], before[chosen], after[chosen], blocked[chosen]
        before, after = self.plain(before.copy(), pages), self.plain(after, pages)
        self.observer(pages + self.scope_pages.begin, ids, before, after, blocked)


class Painting:
    """The winner of one setting on every page, where each statement replaces what weaker ones gave.

    Statements are counted from 1 among those of the setting, so that tables of them are small; 0 is nobody. Those from
    `until` on are left out.
    """

    def __init__(self, statements: Statements, setting: int, scope_pages: ScopePages, until: int | None = None) -> None:
        self.statements = statements
        self.setting = setting
        self.scope_pages = scope_pages
        span = statements.of_setting(setting)
        self.before_first = span.start - 1
        self.until = span.stop if until is None else until
        self.winner = np.zeros(0, dtype=np.intp)  # NumPy gathers by its own kind of number twice as fast

    def run(self, stamped: bool) -> NDArray[np.intp]:
        """The statement that won on each page. int64[pages]"""
        scope_pages, statements = self.scope_pages, self.statements
        if stamped:  # of the live fold only what is locked counts
            self.winner = np.zeros(scope_pages.pages, dtype=np.intp)
            self._paint(Scope.STAMP)
        else:
            by_type = np.zeros(len(scope_pages.types), dtype=np.intp)
            for statement in self._of(Scope.EVERYWHERE):
                by_type[:] = statement - self.before_first
            for statement in self._of(Scope.TYPE):
                by_type[scope_pages.types_based_on(int(statements.target[statement]))] = statement - self.before_first
            self.winner = by_type.take(scope_pages.type_of, mode="clip")
            self._paint(Scope.BELOW)
            self._paint(Scope.RULE)
        self._paint(Scope.HERE)
        first = self.before_first + 1
        for locked in np.flatnonzero(statements.locked[first : self.until])[::-1].tolist():
            scope, target = int(statements.scope[first + locked]), int(statements.target[first + locked])
            self.winner[scope_pages.cells(Scope(scope), target)] = locked + 1
        return self.winner

    def _of(self, scope: Scope) -> range:
        span = self.statements.of_setting(self.setting, scope)
        return range(min(span.start, self.until), min(span.stop, self.until))

    def _paint(self, scope: Scope) -> None:
        span, scope_pages = self._of(scope), self.scope_pages
        target = self.statements.target[span.start : span.stop]
        first = span.start - self.before_first
        if scope in (Scope.STAMP, Scope.HERE):  # in the order of their strength: the last on a page is the strongest
            inside, pages = scope_pages.single(target)
            self.winner[pages] = inside + first
        elif scope == Scope.RULE:
            for number, rule in enumerate(target.tolist(), first):
                self.winner[scope_pages.met(rule)] = number
        else:
            winner, (begins, ends) = self.winner, scope_pages.below(target)
            some = np.flatnonzero(ends > begins)
            for at, begin, end in zip(some.tolist(), begins[some].tolist(), ends[some].tolist(), strict=True):
                winner[begin:end] = first + at


def resolve_setting(statements: Statements, setting: int, scope_pages: ScopePages, stamped: bool) -> Resolved:
    """The effective value and source of one setting, for every page of the scope_pages.

    Parameters
    ----------
    statements : Statements
    setting : int
        Its number in the catalogue.
    scope_pages : ScopePages
    stamped : bool
        Whether its flow is stamped.

    Returns
    -------
    Resolved
    """
    if not len(statements.of_setting(setting)):
        pages = scope_pages.pages
        value, source = np.zeros(1, dtype=np.int32), np.full(1, BUILT_IN, dtype=np.int32)
        return Resolved(np.broadcast_to(value, pages), np.broadcast_to(source, pages))  # the same everywhere: no array
    folding = Folding(statements, setting, scope_pages)
    if not folding.replaces_only:
        return folding.run(stamped)
    winner = winners(statements, setting, scope_pages, stamped)
    span = statements.of_setting(setting)
    sources = np.arange(span.start - 1, span.stop, dtype=np.int32)
    sources[0] = BUILT_IN
    # the winners are places in both tables: to clip them changes nothing, and is the fastest way to gather
    source, value = sources.take(winner, mode="clip"), values_by_winner(statements, setting)
    if folding.has_formulas:
        by_depth = folding.by_depth(int(scope_pages.depth.max(initial=0)) + 1)[value]
        winner *= by_depth.shape[1]
        winner += scope_pages.depth
        value = by_depth.ravel()
    return Resolved(value.take(winner, mode="clip"), source)


def says_all(statements: Statements, setting: int) -> bool:
    """Whether each value of a setting is one that a statement says: no list grows, nothing goes by depth, and nothing
    refers to what another scope says."""
    return not any(isinstance(word, ByDepth | Change | Reference) for word in statements.words[setting].items)


def winners(
    statements: Statements, setting: int, scope_pages: ScopePages, stamped: bool, until: int | None = None
) -> NDArray[np.intp]:
    """Which statement won on each page, counted from 1 among those of a setting whose statements say all its values;
    0 where nobody spoke. Statements from `until` on are left out. int64[pages]"""
    return Painting(statements, setting, scope_pages, until).run(stamped)


def values_by_winner(statements: Statements, setting: int) -> Codes:
    """What is built in, and what each statement of a setting says. int32[1 + statements of the setting]"""
    span = statements.of_setting(setting)
    values = np.zeros(1 + len(span), dtype=np.int32)
    values[1:] = statements.value[span.start : span.stop]
    return values


def fold_stages(
    statements: Statements, setting: int, scope_pages: ScopePages, stamped: bool, observer: FoldObserver | None = None
) -> FoldStages:
    """The same with its way fold_stages; `observer` is told of every step. Findings use it."""
    return Folding(statements, setting, scope_pages, observer).fold_stages(stamped)
