"""One setting said with fewer statements: those of types, of branches and of single pages."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Codes, Mask
from ..cached import cached_property
from ..change.steps.change import Say, Step, TakeAway
from ..resolve.fold import Resolved
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.values import Reference, Value
from .free_statements import FreeStatements
from .least_statements import LeastStatements
from .type_statements import TypeStatements, by_types
from .wanted import ANY, CHANGES, INHERITED, ITSELF, NOTHING, VALUE, Said, Wanted


class SettingToCondense:
    """The fewest statements of one setting whose default is for all pages.

    `free`: only the free ones move.

    Notes
    -----
    For the statements of types that it ends with, those of branches and of single pages are the fewest there can be.
    The statements of types are the best of those that `TypeStatements` tries.
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
        """The values of pages as codes of this setting's own codebook. int32[pages]"""
        codes = self._codes(resolved.words).astype(np.int32)
        return resolved.value if (codes == np.arange(len(codes))).all() else codes[resolved.value]

    @cached_property
    def everywhere(self) -> Codes:
        """What each page gets from what everywhere says. int32[pages]"""
        if not (self.scope <= ScopeKind.EVERYWHERE).any():
            built_in = self.book.code(self.setting.built_in)
            return np.full(len(self.site.tree), built_in, dtype=np.int32)
        return self._coded(self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.EVERYWHERE]))

    @cached_property
    def by_type(self) -> Codes:
        """What each page gets where no branch speaks. int32[pages]"""
        of_types, locked = self.scope == ScopeKind.TYPE, self.free.column("locked")[self.scope <= ScopeKind.TYPE]
        if (self.free.plain & self.free.alone)[of_types].all() and not locked.any():
            return by_types(self.site, self.types, self.everywhere)
        return self._coded(self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.TYPE]))

    @cached_property
    def inherited(self) -> tuple[Codes, Codes]:
        """What comes down to each page, and from which statement. Each int32[pages]"""
        found = self.free.resolved_without([kind for kind in ScopeKind if kind > ScopeKind.BELOW], sources=True)
        return self._coded(found), found.source

    @cached_property
    def wanted(self) -> Wanted:
        """What each page is to have, and what it needs for that."""
        free, resolved = self.free, self.effective.resolved(self.number)
        value = self._coded(resolved)
        here, rule = self.scope == ScopeKind.HERE, self.scope == ScopeKind.RULE
        needs = np.full(len(free.rows) + 1, VALUE, dtype=np.int8)  # by the statement that gives it; index 0 is built-in
        needs[1:][here & ~free.free] = INHERITED
        needs[1:][(here & ~free.free & free.plain) | (free.column("locked") != 0)] = ANY
        alike = (needs == VALUE).all()
        source = resolved.source
        need = np.full(len(value), VALUE, dtype=np.int8) if alike else needs.take(free.places(source), mode="clip")
        if rule.any():
            pages, decided, base = self._ruled
            same, place = base == value[pages], free.places(source[pages])
            itself = np.append(False, here & free.free)[place]
            those = np.where(decided & (same | ~itself), ANY, np.where(itself, ITSELF, INHERITED))
            need[pages] = np.where(needs[place] == ANY, ANY, those)
        if not self.site.has_by_type[self.number].all():
            need[~self.site.has(self.number)] = ANY
        below, comes = self._kept_below(need)
        if (need == INHERITED).any():
            value = np.where(need == INHERITED, self.inherited[0], value).astype(np.int32)
        return Wanted(value, need, below, comes)

    @property
    def _ruled(self) -> tuple[NDArray[np.int64], Mask, Codes]:
        """The pages for which some rule says the setting, ascending; if no page said anything itself, whether a plain
        value of a rule would decide them, and what they would have. Each [n]"""
        free, rule, matched = self.free, self.scope == ScopeKind.RULE, self.site.scope_pages.matched
        if (free.plain & free.alone)[rule].all() and not free.column("locked").any():
            strongest = np.zeros(len(self.site.tree), dtype=np.int32)
            rows = np.flatnonzero(rule)
            for row in rows[np.argsort(-self.target[rows], kind="stable")].tolist():  # nearest the top is strongest
                strongest[matched(int(self.target[row]))] = row + 1
            pages = np.flatnonzero(strongest)
            return pages, np.ones(len(pages), dtype=bool), self.said[strongest[pages] - 1].astype(np.int32)
        base = free.resolved_without([ScopeKind.HERE], sources=True)
        pages = np.unique(np.concatenate([matched(number) for number in np.unique(self.target[rule]).tolist()]))
        decided = np.append(False, free.plain & rule)[free.places(base.source[pages])]
        return pages, decided, self._coded(base)[pages]

    def _kept_below(self, need: NDArray[np.int8]) -> tuple[Codes, Codes]:
        """What branches say and go on saying, and what comes to those that change it. Each int32[pages]

        Below a page whose branch changes what comes down, everything stays as it is.
        """
        below = np.full(len(self.site.tree), NOTHING, dtype=np.int32)
        kept = self._kept
        below[self.target[kept]] = np.where(self.free.plain[kept], self.said[kept], CHANGES)
        changes = np.flatnonzero(below == CHANGES) if not self.free.plain[kept].all() else kept[:0]
        comes = below
        if len(changes):
            comes = np.full(len(below), NOTHING, dtype=np.int32)
            place = self.free.places(self.inherited[1][changes])
            is_branch = np.append(False, self.scope == ScopeKind.BELOW)[place]
            comes[changes] = np.where(is_branch, np.append(NOTHING, self.said)[place], NOTHING)
            for page in changes.tolist():
                inside = slice(page + 1, int(self.site.tree.end[page]))
                need[inside], below[inside] = ANY, NOTHING
        return below, comes

    @property
    def _kept(self) -> NDArray[np.int64]:
        """The statements of branches that stay, the weakest first."""
        return np.flatnonzero((self.scope == ScopeKind.BELOW) & ~self.free.free & (self.target >= 0))

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
        kept = self._kept
        last = dict(zip(self.target[kept].tolist(), self.free.plain[kept].tolist(), strict=True))
        for page in (page for page, is_plain in last.items() if not is_plain):
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
        """The declared types whose statements may be others: none, if anything builds on what they say. bool[types]"""
        of_types = self.scope == ScopeKind.TYPE
        found = np.array([name in self.site.types.declared for name in self.site.types.names], dtype=bool)
        words = self.site.statements.words[self.number].items
        refers = any(isinstance(word, Reference) and word.scope == "type" for word in words)
        builds = bool(self._untouched.any())
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
        of_page = ~of_type & (self.target >= 0)  # what names a page that is gone stays
        inside = np.where(of_type, types[np.where(of_type, self.target, -1)], pages[np.where(of_page, self.target, -1)])
        return self.free.free & inside

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
        least = LeastStatements(parent, end, depth, wanted, len(self.book), have.below != NOTHING)
        now = have.size() + np.count_nonzero(self.free.free & (self.scope == ScopeKind.TYPE))
        may = self._may_say_types
        fixed = np.count_nonzero(self.free.free & (self.scope == ScopeKind.TYPE)) if not may.any() else 0
        trials = TypeStatements(self.site, self.wanted, len(self.book), self.everywhere, may)
        types, by_type, needed = trials.best(least, self.types, by_type, int(fixed))
        if needed >= now:
            return []
        said = least.chosen(by_type, have)
        return [*self._of_types(types), *self._of_pages(have, said, begin)]

    def _in_branch(self, branch: range) -> Codes:
        """What each page of a branch gets where nothing in the branch speaks. int32[branch]"""
        row = int(self.free.places(self.inherited[1][branch.start : branch.start + 1])[0]) - 1
        if row >= 0 and self.scope[row] == ScopeKind.BELOW:
            if self.free.plain[row]:
                return np.full(len(branch), self.said[row], dtype=np.int32)
            return self.inherited[0][branch.start : branch.stop]
        return self.by_type[branch.start : branch.stop]

    def _comes_in_branch(self, wanted: Wanted, branch: range) -> Codes:
        """As `wanted.comes`, but what comes from above the branch counts as said by no branch. int32[branch]"""
        place = self.free.places(self.inherited[1][branch.start : branch.stop])
        inside = np.append(False, (self.scope == ScopeKind.BELOW) & (self.target >= branch.start))[place]
        return np.where(inside, wanted.comes, NOTHING).astype(np.int32)

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
        own_now = have.here | have.both
        own_then = said.here | said.both
        differs = np.flatnonzero((have.below != said.below) | (own_now != own_then) | (have.both != said.both))
        columns = (have.below, have.both, own_now, said.below, said.both, own_then)
        rows = zip(
            self.site.tree.paths.take(differs + begin).tolist(),
            self.wanted.value[differs + begin].tolist(),
            *(column[differs].tolist() for column in columns),
            strict=True,
        )
        gone, more = list[Step](), list[Step]()
        for path, code, below_now, both_now, here_now, below, both, here in rows:
            if both:
                if not both_now or below_now != below:
                    more.append(self._step(Scope.here_and_below(path), code))
                continue
            if both_now and below == NOTHING and not here:
                gone.append(self._step(Scope.here_and_below(path), NOTHING))
                continue
            if below_now != below:
                (gone if below == NOTHING else more).append(self._step(Scope.below(path), below))
            if here_now != here:
                (more if here else gone).append(self._step(Scope.here(path), code if here else NOTHING))
        yield from gone
        yield from more
