"""One setting said with fewer statements: those of types, of branches and of single pages."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Codes, Mask
from ..change.steps import Say, Step, TakeAway
from ..resolve.fold import Resolved
from ..site.scopes import Scope, ScopeKind
from ..site.values import Reference, Value
from .free_statements import FreeStatements
from .least_statements import LeastStatements
from .wanted import ANY, CHANGES, INHERITED, ITSELF, NOTHING, VALUE, Said, Wanted

TRIALS = 4_000_000
"""How many pages are looked at, together, while other statements of types are tried."""
FEWEST_TRIALS = 2


class TidySetting:
    """The fewest statements of one setting that is not stamped.

    Parameters
    ----------
    free : FreeStatements
        Only those that are free are said otherwise.

    Notes
    -----
    For the statements of types that it ends with, those of branches and of single pages are the fewest there can be.
    The statements of types are the best of those it tries: one type after the other without its statement, and with
    each value that its pages want, as long as that makes it fewer, and until `TRIALS` is spent.
    """

    def __init__(self, free: FreeStatements) -> None:
        self.free, self.effective, self.site = free, free.effective, free.effective.site
        self.number, self.setting = free.setting, free.effective.site.catalogue[free.setting]
        self.book: Codebook[Value] = Codebook(self.effective.resolved(self.number).words)
        self.scope, self.target = free.column("scope"), free.column("target")
        self.said = self._codes(self.site.statements.words[self.number].items)[free.column("value")]

    def _codes(self, words: Sequence[Value]) -> NDArray[np.int64]:
        return np.array([self.book.code(word) for word in words], dtype=np.int64)

    def _coded(self, resolved: Resolved) -> Codes:
        return self._codes(resolved.words).astype(np.int32)[resolved.value]

    @cached_property
    def everywhere(self) -> Codes:
        """What each page gets from what everywhere says. int32[pages]"""
        return self._coded(self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.EVERYWHERE]))

    @cached_property
    def by_type(self) -> Codes:
        """What each page gets where no branch speaks. int32[pages]"""
        return self._coded(self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.TYPE]))

    @cached_property
    def inherited(self) -> tuple[Codes, Codes]:
        """What comes down to each page, and from which statement. Each int32[pages]"""
        found = self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.BELOW])
        return self._coded(found), found.source

    @cached_property
    def wanted(self) -> Wanted:
        """What each page is to have, and what it needs for that."""
        free, statements, pages = self.free, self.site.statements, len(self.site.tree)
        resolved = self.effective.resolved(self.number)
        value, source = self._coded(resolved).copy(), resolved.source
        need = np.full(pages, VALUE, dtype=np.int8)
        row = np.maximum(source - free.rows.start, 0)
        said = source >= 0
        plain, movable = (mask.take(row, mode="clip") for mask in (free.plain, free.free))
        from_here = said & (self.scope.take(row, mode="clip") == ScopeKind.HERE)
        need[from_here & ~movable & plain] = ANY
        need[from_here & ~movable & ~plain] = INHERITED
        ruled = self._ruled
        if ruled.any():
            base = free.resolved_without([ScopeKind.HERE])
            decides = np.zeros(len(free.rows) + 1, dtype=bool)  # a rule that says one value
            decides[1:] = free.plain & (self.scope == ScopeKind.RULE)
            decided = ruled & decides[np.where(base.source < 0, 0, base.source - free.rows.start + 1)]
            same = self._coded(base) == value
            itself = from_here & movable
            need[ruled & itself & ~(decided & same)] = ITSELF
            need[decided & (same | ~itself)] = ANY
            need[ruled & ~decided & ~itself] = INHERITED
        locked = said & statements.locked.take(np.maximum(source, 0), mode="clip") if len(statements) else said
        need[locked | ~self.site.has(self.number)] = ANY
        below, comes = self._kept_below(need)
        if (need == INHERITED).any():
            value[need == INHERITED] = self.inherited[0][need == INHERITED]
        return Wanted(value, need, below, comes)

    @property
    def _ruled(self) -> Mask:
        """The pages for which some rule says the setting. bool[pages]"""
        found = np.zeros(len(self.site.tree), dtype=bool)
        for rule in np.unique(self.target[self.scope == ScopeKind.RULE]).tolist():
            found[self.site.scope_pages.matched(rule)] = True
        return found

    def _kept_below(self, need: NDArray[np.int8]) -> tuple[Codes, Codes]:
        """What branches say and go on saying, and what comes to those that change it. Each int32[pages]

        Below a page whose branch changes what comes down, everything stays as it is.
        """
        below = np.full(len(self.site.tree), NOTHING, dtype=np.int32)
        comes = below.copy()
        kept = np.flatnonzero((self.scope == ScopeKind.BELOW) & ~self.free.free & (self.target >= 0))
        below[self.target[kept]] = np.where(self.free.plain[kept], self.said[kept], CHANGES)
        changes = np.flatnonzero(below == CHANGES)
        if len(changes):
            source = self.inherited[1][changes]
            row = np.maximum(source - self.free.rows.start, 0)
            is_branch = (source >= 0) & (self.scope.take(row, mode="clip") == ScopeKind.BELOW)
            comes[changes] = np.where(is_branch, self.said.take(row, mode="clip"), NOTHING)
            for page in changes.tolist():
                inside = slice(page + 1, int(self.site.tree.end[page]))
                need[inside], below[inside] = ANY, NOTHING
        return below, comes

    @cached_property
    def have(self) -> Said:
        """What branches and pages say now, of what may be said otherwise."""
        have, both = Said.nothing(len(self.site.tree)), self.free.column("both") != 0
        inside = self._untouched
        for kind in (ScopeKind.BELOW, ScopeKind.HERE):
            rows = np.flatnonzero(self.free.free & (self.scope == kind))
            rows = rows[~inside[self.target[rows]]]
            if kind == ScopeKind.BELOW:
                have.below[self.target[rows]] = self.said[rows]
                have.both[self.target[rows[both[rows]]]] = True
            else:
                have.here[self.target[rows]] = True
        have.both[:] &= have.here
        have.here[have.both] = False
        return have

    @cached_property
    def _untouched(self) -> Mask:
        """The pages below a branch that changes what comes down: nothing is put elsewhere there. bool[pages]"""
        found = np.zeros(len(self.site.tree), dtype=bool)
        for page in np.flatnonzero(self.wanted.below == CHANGES).tolist():
            found[page + 1 : int(self.site.tree.end[page])] = True
        return found

    @cached_property
    def types(self) -> Codes:
        """What each type says, as a code; NOTHING. int32[types]"""
        found = np.full(len(self.site.types), NOTHING, dtype=np.int32)
        rows = np.flatnonzero(self.scope == ScopeKind.TYPE)
        found[self.target[rows]] = self.said[rows]
        return found

    @cached_property
    def _may_say_types(self) -> Mask:
        """The types whose statements may be others: none, if anything builds on what they say. bool[types]"""
        of_types = self.scope == ScopeKind.TYPE
        found = np.ones(len(self.site.types), dtype=bool)
        words = self.site.statements.words[self.number].items
        refers = any(isinstance(word, Reference) and word.scope == "type" for word in words)
        builds = (self.wanted.below == CHANGES).any()
        plain = (self.free.plain | (self.free.column("locked") != 0))[of_types].all()
        locked = self.free.column("locked")[of_types].any()
        if self.free.intent.branch is not None or refers or builds or not plain or locked:
            found[:] = False
        found[self.target[of_types & ~self.free.free]] = False
        return found

    @property
    def placed(self) -> Mask:
        """The statements that are put where they are best, so that each has an effect. bool[rows]"""
        pages, types = np.append(~self._untouched, False), np.append(self._may_say_types, False)
        of_type = self.scope == ScopeKind.TYPE
        inside = np.where(of_type, types[np.where(of_type, self.target, -1)], pages[np.where(of_type, -1, self.target)])
        return self.free.free & inside

    def by_types(self, types: Codes) -> Codes:
        """What each page gets where no branch speaks, if types say these values. int32[pages]"""
        table = types.copy()
        for number, base in enumerate(self.site.types.base):
            if table[number] == NOTHING and base >= 0:
                table[number] = table[base]
        mine = table[self.site.facts.type_of]
        return np.where(mine == NOTHING, self.everywhere, mine)

    def steps(self) -> list[Step]:
        """The steps that say the same with fewer statements; none where there is no way with fewer."""
        tree, branch = self.site.tree, self.free.intent.branch
        wanted, have, by_type = self.wanted, self.have, self.by_type
        parent, end, depth = tree.parent, tree.end, tree.depth
        begin = 0
        if branch is not None:
            some, begin = slice(branch.start, branch.stop), branch.start
            parent = np.maximum(parent[some] - begin, -1).astype(np.int32)
            end, depth = end[some] - begin, depth[some] - depth[begin]
            by_type = self._in_branch(branch)
            wanted = wanted.part(some)
            wanted = wanted._replace(comes=self._comes_in_branch(wanted, branch))
            have = have.part(some)
        least = LeastStatements(parent, end, depth, wanted, len(self.book))
        now = have.size() + np.count_nonzero(self.free.free & (self.scope == ScopeKind.TYPE))
        types, by_type, needed = self._best_types(least, by_type)
        if needed >= now:
            return []
        said = least.chosen(by_type, have)
        return [*self._of_types(types), *self._of_pages(have, said, begin)]

    def _in_branch(self, branch: range) -> Codes:
        """What each page of a branch gets where nothing in the branch speaks. int32[branch]"""
        source = int(self.inherited[1][branch.start])
        row = source - self.free.rows.start
        if source >= 0 and self.scope[row] == ScopeKind.BELOW:
            if self.free.plain[row]:
                return np.full(len(branch), self.said[row], dtype=np.int32)
            return self.inherited[0][branch.start : branch.stop]
        return self.by_type[branch.start : branch.stop]

    def _comes_in_branch(self, wanted: Wanted, branch: range) -> Codes:
        """As `wanted.comes`, but what comes from above the branch counts as said by no branch. int32[branch]"""
        sources = self.inherited[1][branch.start : branch.stop]
        row = np.maximum(sources - self.free.rows.start, 0)
        inside = (sources >= 0) & (self.target.take(row, mode="clip") >= branch.start)
        return np.where(inside, wanted.comes, NOTHING).astype(np.int32)

    def _best_types(self, least: LeastStatements, by_type: Codes) -> tuple[Codes, Codes, int]:
        """The best statements of types that are tried, what pages get by them, and how many statements that needs."""
        types, may = self.types, self._may_say_types
        fixed = np.count_nonzero(self.free.free & (self.scope == ScopeKind.TYPE)) if not may.any() else 0
        best = int(least.count(by_type) + fixed + np.count_nonzero(types[may] != NOTHING))
        trials = max(FEWEST_TRIALS, TRIALS // max(len(self.site.tree), 1))
        tried, better = 0, bool(may.any())
        while better:
            better = False
            for number, value in self._promising(types, may):
                if tried >= trials:
                    return types, by_type, best
                tried += 1
                other = types.copy()
                other[number] = value
                others = self.by_types(other)
                needed = int(least.count(others) + np.count_nonzero(other[may] != NOTHING))
                if needed < best:
                    types, by_type, best, better = other, others, needed, True
                    break
        return types, by_type, best

    def _promising(self, types: Codes, may: Mask) -> list[tuple[int, int]]:
        """Other statements of types, those first that would give most pages more what they want."""
        wanted, type_of = self.wanted, self.site.facts.type_of
        asks = (wanted.need == VALUE) & (self.wanted.below != CHANGES)
        width = len(self.book)
        counts = np.bincount(type_of[asks] * width + wanted.value[asks], minlength=len(types) * width)
        counts = counts.reshape(len(types), width)
        have = self._table(types)
        found = []
        for number in np.flatnonzero(may).tolist():
            mine = self.site.types.based_on([number])
            gets = counts[mine].sum(axis=0)
            for value in [NOTHING, *np.flatnonzero(gets).tolist()]:
                if value != types[number]:
                    other = types.copy()
                    other[number] = value
                    now, then = (self._agreeing(counts, table) for table in (have, self._table(other)))
                    found.append((now - then - (value == NOTHING), number, value))
        return [(number, value) for _, number, value in sorted(found)]

    def _table(self, types: Codes) -> Codes:
        """What each type gets if types say these values: of everywhere what most pages get. int32[types]"""
        table = types.copy()
        common = int(np.bincount(self.everywhere).argmax()) if len(self.everywhere) else 0
        for number, base in enumerate(self.site.types.base):
            if table[number] == NOTHING:
                table[number] = table[base] if base >= 0 else common
        return table

    @staticmethod
    def _agreeing(counts: NDArray[np.int64], table: Codes) -> int:
        return int(counts[np.arange(len(table)), table].sum())

    def _of_types(self, types: Codes) -> Iterator[Step]:
        for number in np.flatnonzero(types != self.types).tolist():
            scope = Scope.type(self.site.types.names[number])
            yield self._step(scope, int(types[number]))

    def _step(self, scope: Scope, code: int) -> Step:
        if code == NOTHING:
            return TakeAway(scope, self.setting.name)
        return Say(scope, self.setting.name, self.book[code])

    def _of_pages(self, have: Said, said: Said, begin: int) -> Iterator[Step]:
        """What to say and to take away so that branches and pages say this; what goes comes first."""
        value, paths = self.wanted.value, self.site.tree.paths
        own_now = have.here | have.both
        own_then = said.here | said.both
        differs = (have.below != said.below) | (own_now != own_then) | (have.both != said.both)
        gone, more = list[Step](), list[Step]()
        for at in np.flatnonzero(differs).tolist():
            path, code = paths[at + begin], int(value[at + begin])
            if said.both[at]:
                if not have.both[at] or have.below[at] != said.below[at]:
                    more.append(self._step(Scope.here_and_below(path), code))
                continue
            if have.both[at] and said.below[at] == NOTHING and not own_then[at]:
                gone.append(self._step(Scope.here_and_below(path), NOTHING))
                continue
            if have.below[at] != said.below[at]:
                to = gone if said.below[at] == NOTHING else more
                to.append(self._step(Scope.below(path), int(said.below[at])))
            if own_now[at] != own_then[at]:
                (more if own_then[at] else gone).append(self._step(Scope.here(path), code if own_then[at] else NOTHING))
        yield from gone
        yield from more
