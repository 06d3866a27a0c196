"""Resolution: from statements to the effective value and the source of every page, a setting at a time.

The fold runs over columns. Statements for everywhere and for types are folded once per type. The result is laid out
over the pages, and branches (slices), rules and single pages are folded over it. If every statement of a setting
replaces what weaker ones gave, nothing needs folding: see `paint`.

A fold can give values that no statement says: longer lists, numbers by depth. It adds them to a codebook of its own,
since the site's codebooks are read-only.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask, distinct, frozen, words_where
from ..arrays.grouping import run_edges
from ..site.settings.scopes import FOR_ALL, ScopeKind
from ..site.settings.values import ByDepth, ListChange, Plain, Reference, Value
from ..site.statements.new_statements import BUILT_IN
from ..site.statements.scope_pages import Pages, ScopePages
from ..site.statements.statement_table import Statements
from .paint import values_by_winner, winners


class Resolved(NamedTuple):
    """One setting of every page."""

    value: Codes  # int32[pages]: codes into `words`
    source: Codes  # int32[pages]: the statement that won; -1 for the built-in value
    words: Sequence[Value]  # among them may be values that no page has

    def where(self, holds: Callable[[Value], bool]) -> Mask:
        """The pages whose value meets a test, whether they have the setting or not. bool[pages]"""
        return words_where(self.words, holds)[self.value]

    def at(self, page: int) -> Plain:
        """The value of a page."""
        return self.words[int(self.value[page])]  # type: ignore[return-value]


class FoldStages(NamedTuple):
    """One setting of every page, and the stages of its fold that findings look at."""

    value: Codes  # int32[pages]: as in `Resolved`
    source: Codes  # int32[pages]: as in `Resolved`
    live_value: Codes  # `live_value`, `live_source`: int32[pages]: the live fold: what a new page would get
    live_source: Codes
    closed: Mask  # bool[pages]: where a lock ended the fold before single pages speak
    type_value: Codes  # int32[pages]: after everywhere and types
    type_source: Codes  # int32[pages]: after everywhere and types
    below_value: Codes  # `below_value`, `below_source`: int32[pages]: after branches: what a page inherits
    below_source: Codes
    # `base_value`, `base_source`: int32[pages]: before the page itself speaks: the live fold, or the stamp if the
    # default is for new pages
    base_value: Codes
    base_source: Codes
    words: Sequence[Value]  # what the codes mean


class FoldObserver(Protocol):
    """Receives every step of the fold.

    `pages: int64[n]`; `statements: int32[n]`, the one folded in on each; `before` and `after: int32[n]`, the value
    without and with it; `blocked: bool[n]`, where a lock had ended the fold, so that `before` stays.
    """

    def __call__(
        self, pages: NDArray[np.int64], statements: Codes, before: Codes, after: Codes, blocked: Mask
    ) -> None: ...


class SettingWords:
    """The words of one setting while it is folded: those of statements, and those that folding adds.

    `book`: the statements' own where each of them replaces; a copy that grows where lists change or values go by depth.
    `references`: the codes that mean what another scope gives, and which scope. `has_formulas`: whether some value goes
    by depth. `replaces`: bool[words said]: whether each word that a statement says replaces what was there, and is no
    change of a list. `replaces_only`: whether they all do, and none refers to another scope.
    """

    def __init__(self, statements: Statements, setting: int) -> None:
        said = statements.words[setting]
        self.references = {code: word.scope for code, word in enumerate(said.items) if isinstance(word, Reference)}
        self.has_formulas = any(isinstance(word, ByDepth) for word in said.items)
        self.replaces = np.array([not isinstance(word, ListChange) for word in said.items], dtype=bool)
        self.replaces_only = not self.references and bool(self.replaces.all())
        self.book = said if self.replaces_only and not self.has_formulas else said.copy()
        self._changed: dict[tuple[int, int], int] = {}

    def fold(self, state: Codes, said: int | Codes) -> Codes:
        """The result of folding `said` into `state`: one code, or one for each. int32[n]"""
        if isinstance(said, int):
            if self.replaces_only or not isinstance(self.book[said], ListChange):
                return np.full(len(state), said, dtype=np.int32)
            table = np.zeros(len(self.book), dtype=np.int32)
            states = state.astype(np.intp)
            for code in np.flatnonzero(np.bincount(states)).tolist():
                table[code] = self.fold_one(code, said)
            return table.take(states, mode="clip")
        if self.replaces_only:
            return said
        known = np.ones(len(self.book), dtype=bool)
        known[: len(self.replaces)] = self.replaces
        changes = ~known[said]
        if not changes.any():
            return said
        pairs = (state.astype(np.int64) << 32) + said
        first, which = distinct(pairs[changes])
        codes = [self.fold_one(pair >> 32, pair & 0xFFFFFFFF) for pair in pairs[changes][first].tolist()]
        result = said.copy()
        result[changes] = np.array(codes, dtype=np.int32)[which]
        return result

    def fold_one(self, state: int, said: int) -> int:
        """The result of folding one value into another, by their codes."""
        change = self.book[said]
        if not isinstance(change, ListChange):
            return said
        if (state, said) not in self._changed:
            items = self.book[state]
            assert isinstance(items, tuple)
            self._changed[state, said] = self.book.code(change.apply(items))
        return self._changed[state, said]

    def plain(self, code: int, depth: int) -> int:
        """The code of a value on a page of this depth; a formula is worked out."""
        word = self.book[code]
        return self.book.code(word.at(depth)) if isinstance(word, ByDepth) else code

    def by_depth(self, depths: int) -> Codes:
        """What each word comes to at each depth. int32[words, depths]"""
        table = np.repeat(np.arange(len(self.book), dtype=np.int32), depths).reshape(-1, depths)
        for code, word in enumerate(tuple(self.book.items)):
            if isinstance(word, ByDepth):
                table[code] = [self.book.code(word.at(depth)) for depth in range(depths)]
        return table


class Folding:
    """The fold of one setting: state over cells, which are types first and pages later."""

    def __init__(
        self,
        statements: Statements,
        setting: int,
        scope_pages: ScopePages,
        observer: FoldObserver | None = None,
        words: SettingWords | None = None,
    ) -> None:
        self.statements = statements
        self.setting = setting
        self.scope_pages = scope_pages
        self.observer = observer
        self.words = words or SettingWords(statements, setting)
        self._kept: dict[str, Codes] = {}
        self._over_pages = False
        span = statements.of_setting(setting)
        self._is_plain = observer is None and not statements.locked[span.start : span.stop].any()
        types = len(scope_pages.types)
        self.value = np.zeros(types, dtype=np.int32)
        self.source = np.full(types, BUILT_IN, dtype=np.int32)
        self.closed = np.zeros(types, dtype=bool)

    def run(self, for_new_pages: bool) -> Resolved:
        """All candidates, weakest first."""
        self._fold_types()
        self._fold_branches()
        self._fold_rules()
        if for_new_pages:
            self._fold_stamps()
        self._fold_pages(ScopeKind.HERE)
        return Resolved(self._plain(self.value), self.source, self.words.book.items)

    def stages(self, for_new_pages: bool) -> FoldStages:
        """All candidates, weakest first, with the stages of the fold."""
        self._fold_types()
        types = self._plain(self.value.copy()), self.source.copy()
        self._fold_branches()
        below = self._plain(self.value.copy()), self.source.copy()
        self._fold_rules()
        live = self._plain(self.value.copy()), self.source.copy(), self.closed.copy()
        if for_new_pages:
            self._fold_stamps()
        base = self._plain(self.value.copy()), self.source.copy()
        self._fold_pages(ScopeKind.HERE)
        return FoldStages(
            self._plain(self.value), self.source, *live, *types, *below, *base, words=self.words.book.items
        )

    def _fold_types(self) -> None:
        """Everywhere and types, once per type; then laid out over the pages."""
        types = self.scope_pages.types
        every = np.arange(len(types))
        for scope in FOR_ALL:
            for statement in self.statements.of_setting(self.setting, scope):
                self._step(every, statement)
        self._keep("everywhere")
        for statement in self.statements.of_setting(self.setting, ScopeKind.TYPE):
            target = int(self.statements.target[statement])
            self._step(np.flatnonzero(self.scope_pages.types_based_on(target)), statement)
        self._keep("type")
        type_of = self.scope_pages.type_of
        self.value, self.source, self.closed = self.value[type_of], self.source[type_of], self.closed[type_of]
        self._kept = {scope: value[type_of] for scope, value in self._kept.items()}
        self._over_pages = True

    def _fold_branches(self) -> None:
        span = self.statements.of_setting(self.setting, ScopeKind.BELOW)
        begins, ends = self.scope_pages.below(self.statements.target[span.start : span.stop])
        for at in np.flatnonzero(ends > begins).tolist():
            self._step(slice(int(begins[at]), int(ends[at])), span.start + at)
        self._keep("below")

    def _fold_rules(self) -> None:
        for statement in self.statements.of_setting(self.setting, ScopeKind.RULE):
            self._step(self.scope_pages.matched(int(self.statements.target[statement])), statement)

    def _fold_stamps(self) -> None:
        """An existing page keeps its stamp; of the live fold only a locked default still applies to it."""
        self.value = np.where(self.closed, self.value, 0).astype(np.int32)
        self.source = np.where(self.closed, self.source, BUILT_IN).astype(np.int32)
        self._fold_pages(ScopeKind.STAMP)

    def _plain(self, codes: Codes, pages: Pages | None = None) -> Codes:
        """The codes with every formula worked out for the page's depth; the same array where there is none."""
        if not self.words.has_formulas:
            return codes
        depth = self.scope_pages.depth if pages is None else self.scope_pages.depth[pages]
        by_depth = self.words.by_depth(int(depth.max(initial=0)) + 1)
        found: Codes = by_depth.ravel().take(codes.astype(np.intp) * by_depth.shape[1] + depth, mode="clip")
        return found

    def _keep(self, scope: str) -> None:
        if scope in self.words.references.values():
            self._kept[scope] = self.value.copy()

    def _fold_pages(self, scope: ScopeKind) -> None:
        """What single pages say: in rounds, each with one statement a page at most."""
        span = self.statements.of_setting(self.setting, scope)
        inside, pages = self.scope_pages.single(self.statements.target[span.start : span.stop])
        ids = inside + span.start
        steps = self.statements.step[ids]
        edges = run_edges(steps)
        for start, stop in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            self._step(pages[start:stop], ids[start:stop])

    def _step(self, cells: Pages, statement: int | NDArray[np.int64]) -> None:
        before = self.value[cells]
        one = not isinstance(statement, np.ndarray)
        said = int(self.statements.value[statement]) if one else self.statements.value[statement]
        said = self._refer(said, cells)
        after = self.words.fold(before, said)
        if self._is_plain:  # no lock ends the fold, and there is no observer
            self.value[cells], self.source[cells] = after, statement
            return
        ids = np.full(len(before), statement, dtype=np.int32) if one else np.asarray(statement, dtype=np.int32)
        blocked = self.closed[cells].copy()  # for a branch it would be a view, which the lines below change
        if self.observer is not None and len(before):
            self._observe(cells, ids, before, after, blocked)
        self.value[cells] = np.where(blocked, before, after)
        self.source[cells] = np.where(blocked, self.source[cells], ids)
        self.closed[cells] = blocked | self.statements.locked[statement]

    def _refer(self, said: int | Codes, cells: Pages) -> int | Codes:
        """The codes with `<everywhere>`, `<type>` and `<below>` replaced by what they mean."""
        references = self.words.references
        if isinstance(said, int):
            return self._kept[references[said]][cells] if said in references else said
        for code, scope in references.items():
            here = said == code
            if here.any():
                said = np.where(here, self._kept[scope][cells], said).astype(np.int32)
        return said

    def _observe(self, cells: Pages, ids: Codes, before: Codes, after: Codes, blocked: Mask) -> None:
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
        before, after = self._plain(before.copy(), pages), self._plain(after, pages)
        self.observer(pages + self.scope_pages.begin, ids, before, after, blocked)


def resolve_setting(statements: Statements, setting: int, scope_pages: ScopePages, for_new_pages: bool) -> Resolved:
    """The effective value and source of one setting, for every page.

    `setting`: its number in the catalogue. `for_new_pages`: whether its default is for new pages. Returns its arrays
    are read-only.
    """
    found = _resolved(statements, setting, scope_pages, for_new_pages)
    frozen(found.value, found.source)
    return found


def _resolved(statements: Statements, setting: int, scope_pages: ScopePages, for_new_pages: bool) -> Resolved:
    span = statements.of_setting(setting)
    if not len(span):
        pages = scope_pages.size
        value, source = np.zeros(1, dtype=np.int32), np.full(1, BUILT_IN, dtype=np.int32)
        words = statements.words[setting].items[:1]
        # the same everywhere: no array
        return Resolved(np.broadcast_to(value, pages), np.broadcast_to(source, pages), words)
    words_of = SettingWords(statements, setting)
    if not words_of.replaces_only:
        return Folding(statements, setting, scope_pages, words=words_of).run(for_new_pages)
    winner = winners(statements, setting, scope_pages, for_new_pages)
    sources = np.arange(span.start - 1, span.stop, dtype=np.int32)
    sources[0] = BUILT_IN
    # winners are valid indexes, so mode='clip' is only for speed
    source, value = sources.take(winner, mode="clip"), values_by_winner(statements, setting)
    if words_of.has_formulas:
        by_depth = words_of.by_depth(int(scope_pages.depth.max(initial=0)) + 1)[value]
        winner *= by_depth.shape[1]
        winner += scope_pages.depth
        value = by_depth.ravel()
    return Resolved(value.take(winner, mode="clip"), source, words_of.book.items)


def fold_stages(
    statements: Statements,
    setting: int,
    scope_pages: ScopePages,
    for_new_pages: bool,
    observer: FoldObserver | None = None,
    words: SettingWords | None = None,
) -> FoldStages:
    """One setting of every page with the stages of its fold; `observer` receives every step.

    `words` are shared with folds that come later.
    """
    return Folding(statements, setting, scope_pages, observer, words).stages(for_new_pages)
