"""Resolution: from statements to the effective value and the source of every page, a setting at a time.

DESIGN's fold runs over columns. What holds everywhere and of types is folded once a type; then it is
laid out over the pages, and branches (slices), rules and single pages are folded over that.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from .columns import Codes, Mask
from .facts import Types
from .statements import BUILT_IN, Scope, Statements
from .tree import Tree
from .values import ByDepth, Reference

Cells = slice | NDArray[np.int64]


class Ground(NamedTuple):
    """What resolution stands on: the tree, the pages' types, and the pages each rule meets (top rule first)."""

    tree: Tree
    types: Types
    type_of: Codes
    rule_pages: tuple[NDArray[np.int64], ...]


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


class Stations(NamedTuple):
    """One setting of every page, and the way stations that findings look at. Each int32[pages] but `closed`.

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
    base_value: Codes
    base_source: Codes


class Watch(Protocol):
    """Told of every step of the fold.

    `pages: int64[n]`; `statements: int32[n]`, the one folded in on each; `before` and `after: int32[n]`, the value
    without and with it; `blocked: bool[n]`, where a lock had ended the fold, so that `before` stays.
    """

    def __call__(
        self, pages: NDArray[np.int64], statements: Codes, before: Codes, after: Codes, blocked: Mask
    ) -> None: ...


class Folding:
    """The fold of one setting: state over cells, which are types first and pages later."""

    def __init__(self, statements: Statements, setting: int, ground: Ground, watch: Watch | None = None) -> None:
        self.statements = statements
        self.setting = setting
        self.ground = ground
        self.watch = watch
        self.words = statements.words[setting]
        self._references = {c: w.scope for c, w in enumerate(self.words.items) if isinstance(w, Reference)}
        self._formulas = any(isinstance(w, ByDepth) for w in self.words.items)
        self._kept: dict[str, Codes] = {}
        self._over_pages = False
        self._some_closed = False
        self._simple = not self._references and bool(statements.replaces(setting).all())
        types = len(ground.types)
        self.value = np.zeros(types, dtype=np.int32)
        self.source = np.full(types, BUILT_IN, dtype=np.int32)
        self.closed = np.zeros(types, dtype=bool)

    def run(self, stamped: bool) -> Resolved:
        """All candidates, weakest first."""
        self._fold_types()
        self._fold_branches_and_rules()
        if stamped:
            self._fold_stamps()
        self._fold_pages(Scope.HERE)
        return Resolved(self.plain(self.value), self.source)

    def stations(self, stamped: bool) -> Stations:
        """The same, and what it had come to on the way."""
        self._fold_types()
        types = self.plain(self.value), self.source.copy()
        self._fold_branches_and_rules()
        live = self.plain(self.value), self.source.copy(), self.closed.copy()
        if stamped:
            self._fold_stamps()
        base = self.plain(self.value), self.source.copy()
        self._fold_pages(Scope.HERE)
        return Stations(self.plain(self.value), self.source, *live, *types, *base)

    def _fold_types(self) -> None:
        """Everywhere and types, once a type; then laid out over the pages."""
        types = self.ground.types
        every = np.arange(len(types))
        for statement in self.statements.of_setting(self.setting, Scope.EVERYWHERE):
            self._step(every, statement)
        self._keep("everywhere")
        for statement in self.statements.of_setting(self.setting, Scope.TYPE):
            target = int(self.statements.target[statement])
            self._step(np.array([t for t in range(len(types)) if target in types.chain(t)], dtype=np.int64), statement)
        self._keep("type")
        type_of = self.ground.type_of
        self.value, self.source, self.closed = self.value[type_of], self.source[type_of], self.closed[type_of]
        self._kept = {scope: value[type_of] for scope, value in self._kept.items()}
        self._over_pages = True

    def _fold_branches_and_rules(self) -> None:
        for statement in self.statements.of_setting(self.setting, Scope.BELOW):
            page = int(self.statements.target[statement])
            if page >= 0:
                self._step(slice(page + 1, int(self.ground.tree.end[page])), statement)
        self._keep("below")
        for statement in self.statements.of_setting(self.setting, Scope.RULE):
            self._step(self.ground.rule_pages[int(self.statements.target[statement])], statement)

    def _fold_stamps(self) -> None:
        """For a page that is there already only what is locked counts of the live fold, and then its stamp."""
        self.value = np.where(self.closed, self.value, 0).astype(np.int32)
        self.source = np.where(self.closed, self.source, BUILT_IN).astype(np.int32)
        self._fold_pages(Scope.STAMP)

    def plain(self, codes: Codes, pages: Cells | None = None) -> Codes:
        """The codes with every formula worked out for the page's depth."""
        if not self._formulas:
            return codes.copy()
        depth = self.ground.tree.depth if pages is None else self.ground.tree.depth[pages]
        codes = codes.copy()
        for code, word in enumerate(tuple(self.words.items)):
            if isinstance(word, ByDepth):
                here = codes == code
                table = [self.words.code(word.at(d)) for d in range(int(depth[here].max(initial=0)) + 1)]
                codes[here] = np.array(table, dtype=np.int32)[depth[here]]
        return codes

    def _keep(self, scope: str) -> None:
        if scope in self._references.values():
            self._kept[scope] = self.value.copy()

    def _fold_pages(self, scope: Scope) -> None:
        """What single pages say: in rounds, each with one statement a page at most."""
        span = self.statements.of_setting(self.setting, scope)
        ids = np.arange(span.start, span.stop, dtype=np.int64)
        ids = ids[self.statements.target[ids] >= 0]
        steps = self.statements.step[ids]
        edges = np.flatnonzero(np.r_[True, steps[1:] != steps[:-1], True]) if len(steps) else steps
        for start, stop in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            round_ = ids[start:stop]
            self._step(self.statements.target[round_].astype(np.int64), round_)

    def _step(self, cells: Cells, statement: int | NDArray[np.int64]) -> None:
        locks = bool(np.any(self.statements.locked[statement]))
        if self._simple and self.watch is None and not (self._some_closed or locks):
            self.value[cells] = self.statements.value[statement]
            self.source[cells] = statement
            return
        self._some_closed = self._some_closed or locks
        before = self.value[cells]
        ids = np.broadcast_to(np.asarray(statement, dtype=np.int32), before.shape)
        said = self._refer(np.broadcast_to(self.statements.value[statement], before.shape), cells)
        after = self.statements.fold(self.setting, before, said)
        blocked = self.closed[cells].copy()  # of a branch it would be a view, which the lines below change
        if self.watch is not None and len(before):
            self._tell(cells, ids, before, after, blocked)
        self.value[cells] = np.where(blocked, before, after)
        self.source[cells] = np.where(blocked, self.source[cells], ids)
        self.closed[cells] = blocked | self.statements.locked[statement]

    def _refer(self, said: Codes, cells: Cells) -> Codes:
        """The codes with `<everywhere>`, `<type>` and `<below>` replaced by what they stand for."""
        for code, scope in self._references.items():
            here = said == code
            if here.any():
                said = np.where(here, self._kept[scope][cells], said).astype(np.int32)
        return said

    def _tell(self, cells: Cells, ids: Codes, before: Codes, after: Codes, blocked: Mask) -> None:
        assert self.watch is not None
        if self._over_pages:
            pages = np.arange(cells.start, cells.stop) if isinstance(cells, slice) else cells
        else:
            at = np.full(len(self.ground.types), -1, dtype=np.int64)
            at[cells] = np.arange(len(before))
            place = at[self.ground.type_of]
            pages = np.flatnonzero(place >= 0)
            chosen = place[pages]
            ids, before, after, blocked = ids[chosen], before[chosen], after[chosen], blocked[chosen]
        self.watch(pages, ids, self.plain(before, pages), self.plain(after, pages), blocked)


def resolve_setting(statements: Statements, setting: int, ground: Ground, stamped: bool) -> Resolved:
    """The effective value and source of one setting, for every page.

    Parameters
    ----------
    statements : Statements
    setting : int
        Its number in the catalogue.
    ground : Ground
    stamped : bool
        Whether its flow is stamped.

    Returns
    -------
    Resolved
    """
    if len(statements.of_setting(setting)):
        return Folding(statements, setting, ground).run(stamped)
    pages = len(ground.tree)
    return Resolved(np.zeros(pages, dtype=np.int32), np.full(pages, BUILT_IN, dtype=np.int32))


def stations(
    statements: Statements, setting: int, ground: Ground, stamped: bool, watch: Watch | None = None
) -> Stations:
    """The same with its way stations; `watch` is told of every step. Findings use it."""
    return Folding(statements, setting, ground, watch).stations(stamped)
