"""Findings: what contradicts what. `KINDS` is the list of them; `check` finds them all."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.in_background import MANY, in_background
from ..change.differences.difference_rows import FindingChange, FindingChanges
from ..change.differences.page_pairs import PagePairs
from ..change.differences.same_parts import PAGE_LIST, SameParts
from ..faults import UnknownName
from ..letters import visible
from ..outcomes.sitemap.sitemap_marks import Published
from ..progress import work
from ..resolve.effective import EffectiveModel
from ..site.model import Accept
from ..wording import count as counted
from ..wording import shortened
from .context import OF_EFFECTS, FindingContext
from .finding import LEVELS, Finding, KnownPages, Pages
from .finding_kind import Kind
from .kinds.every_kind import KINDS
from .kinds.stray_accept import stray_accept
from .short_names import named
from .title_marks import PATTERN

PageNumbers = NDArray[np.int64]
MOST_SHOWN, MOST_LETTERS = 20, 110
"""The most findings that a report shows of itself, as in a notebook, and the most letters of each message."""


@dataclass(frozen=True, slots=True, repr=False)
class Report:
    """All findings, the worst first, and how many were accepted.

    Attributes
    ----------
    findings : tuple of Finding
    accepted : tuple of Finding
        What an entry of `accept` silences.
    """

    findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...] = ()

    def __repr__(self) -> str:
        counts = [counted(self.count(level), level) for level in LEVELS if self.count(level)]
        head = f"<Report: {', '.join(counts) or 'no findings'}; {len(self.accepted):,} accepted>"
        rows = [
            f"{one.level:8} {one.name:10} {len(one.pages):6,}  {shortened(visible(one.message), MOST_LETTERS)}"
            for one in self.findings[:MOST_SHOWN]
        ]
        more = len(self.findings) - MOST_SHOWN
        header = [f"{'level':8} {'name':10}  pages  message"] if rows else []
        return "\n".join([head, *header, *rows, *([f"and {more:,} more: .findings"] if more > 0 else [])])

    def count(self, level: str) -> int:
        """How many findings have a level."""
        return sum(finding.level == level for finding in self.findings)

    def since(self, earlier: Report) -> Report:
        """What is new here: findings that an earlier report does not have, or not for all pages."""
        return since(self, earlier)

    def named(self, name: str) -> tuple[Finding, ...]:
        """The findings of a short name, open or accepted: one, or by a rare chance several.

        Raises
        ------
        UnknownName
            If there is none.
        """
        every = (*self.findings, *self.accepted)
        found = tuple(one for one in every if one.name == name)
        if not found:
            raise UnknownName("finding", name, [one.name for one in every])
        return found

    def find(self, name: str) -> Finding:
        """The finding of a short name, open or accepted; of several with that name the first.

        Raises
        ------
        UnknownName
            If there is none.
        """
        return self.named(name)[0]

    def chosen(self, kinds: Collection[str] = (), topics: Collection[str] = (), level: str | None = None) -> Report:
        """The findings that all of these choose; what is left out chooses all.

        Parameters
        ----------
        kinds, topics : collection of str
        level : str, optional
            This level or a worse one.
        """
        of_topics = {kind.name for kind in KINDS if kind.topic in topics}

        def is_chosen(finding: Finding) -> bool:
            if (kinds and finding.kind not in kinds) or (topics and finding.kind not in of_topics):
                return False
            return level is None or LEVELS.index(finding.level) <= LEVELS.index(level)

        return Report(tuple(filter(is_chosen, self.findings)), tuple(filter(is_chosen, self.accepted)))

    def reaches(self, level: str) -> bool:
        """Whether any finding is at a level or above it."""
        return any(LEVELS.index(finding.level) <= LEVELS.index(level) for finding in self.findings)


def since(report: Report, earlier: Report, known: KnownPages | None = None) -> Report:
    """The new findings of a report: no earlier one of the same kind, setting and statements had all their pages.

    Lines may have moved; accepted earlier findings count. `known` may hold answers already.
    """
    before: dict[tuple[object, ...], list[Pages]] = {}
    for finding in (*earlier.findings, *earlier.accepted):
        before.setdefault(finding.cause, []).append(finding.pages)
    known = known or KnownPages()

    def is_new(finding: Finding) -> bool:
        return not known.cover(finding.pages, before.get(finding.cause, ()))

    return Report(tuple(filter(is_new, report.findings)), report.accepted)


def finding_changes(
    before: EffectiveModel, after: EffectiveModel, same_pages: Callable[[], PagePairs], same: SameParts | None
) -> FindingChanges:
    """What becomes of the findings of one state of a site in another: each is known by its kind, setting and cause.

    `same_pages`: gives the pages that both states have. `same`: which parts of the two are the same: findings that
    depend on such parts alone are not looked for.
    """
    parts = same if same is not None and same.has_same_accepts else None
    contexts = [FindingContext(model, same=parts) for model in (before, after)]
    begun = in_background(lambda: _search(contexts[0]), len(after) >= MANY)
    found_now, found_before, pairs = _search(contexts[1]), begun(), same_pages()
    if parts is not None:
        found_before, found_now = _with_all_matches(contexts, found_before, found_now)
    was, now = (_opened(context, one) for context, one in zip(contexts, (found_before, found_now), strict=True))
    there = np.full(len(before.site.tree), -1, dtype=np.int64)
    there[pairs.before] = pairs.after
    accepted_before, accepted_now = (_pages_by_name(named(one.accepted)) for one in (found_before, found_now))
    moved = dict(pairs.moved)
    by_key: tuple[dict[object, list[int]], dict[object, list[int]]] = {}, {}
    for side, findings in enumerate((was, now)):
        for at, one in enumerate(findings):
            by_key[side].setdefault(one.cause if side else _key(one, moved), []).append(at)
    new, changed = dict[int, Finding](), dict[int, FindingChange]()
    gone = {at: one for key, some in by_key[0].items() if key not in by_key[1] for at, one in _named(was, some)}
    for key, mine in by_key[1].items():
        theirs = by_key[0].get(key, [])
        if len(mine) == len(theirs) == 1 and _has_same_pages(was[theirs[0]], now[mine[0]], there):
            continue  # found without a name, which takes a while to make
        earlier = _named(was, theirs)
        for at, one in _named(now, mine):
            if not earlier:
                new[at] = one
                continue
            old = next((pair for pair in earlier if pair[1].name == one.name), earlier[0])
            earlier.remove(old)
            if not _has_same_pages(old[1], one, there):
                changed[at] = _page_changes(old[1], one, there)
        gone |= dict(earlier)
    return FindingChanges(
        tuple(
            one
            for _, one in sorted(new.items())
            if not _is_among(one.pages.numbers, there, accepted_before.get(one.name))
        ),
        tuple(
            one
            for _, one in sorted(gone.items())
            if not _is_among(there[one.pages.numbers], None, accepted_now.get(one.name))
        ),
        tuple(one for _, one in sorted(changed.items()) if one.more or one.fewer),
    )


def _named(findings: Sequence[Finding], some: Sequence[int]) -> list[tuple[int, Finding]]:
    """Some findings, all that have one cause, with their numbers and their names."""
    return [*zip(some, named([findings[at] for at in some]), strict=True)]


def _has_same_pages(before: Finding, after: Finding, there: PageNumbers) -> bool:
    """Whether a finding is about the same pages in both states; `there`: the numbers in the second."""
    return np.array_equal(after.pages.numbers, there[before.pages.numbers])


def _page_changes(before: Finding, after: Finding, there: PageNumbers) -> FindingChange:
    """A finding that both states have, with the number of pages that it gains and loses."""
    mine, theirs = after.pages.numbers, there[before.pages.numbers]
    return FindingChange(before, after, int((~np.isin(mine, theirs)).sum()), int((~np.isin(theirs, mine)).sum()))


def _key(finding: Finding, moved: Mapping[str, str]) -> object:
    """What a finding is known by in both states: its cause, with the paths that moved pages have in the second."""
    return _with_paths(finding.cause, moved) if moved else finding.cause


def _with_paths(cause: Any, moved: Mapping[str, str]) -> Any:
    if isinstance(cause, tuple):
        return tuple(_with_paths(one, moved) for one in cause)
    return moved.get(cause, cause) if isinstance(cause, str) else cause


def _pages_by_name(findings: Sequence[Finding]) -> dict[str, PageNumbers]:
    """The pages of accepted findings, by their short names."""
    found: dict[str, PageNumbers] = {}
    for one in findings:
        found[one.name] = np.union1d(found.get(one.name, one.pages.numbers), one.pages.numbers)
    return found


def _is_among(pages: PageNumbers, there: PageNumbers | None, accepted: PageNumbers | None) -> bool:
    """Whether a finding was accepted in the other state on all its pages; `there`: the numbers of pages in this one."""
    if accepted is None:
        return False
    return bool(np.isin(pages, accepted if there is None else there[accepted]).all())


def check(
    effective: EffectiveModel,
    published: Callable[[], Published | None] | None = None,
    today: datetime.date | None = None,
    pages: Mask | None = None,
) -> Report:
    """Every finding of a site, the worst first; within a level in the order of `KINDS`, the widest first.

    `published`: gives the sitemap that was written last, or None where that is not known. `today`: the date to go by
    (default: the clock's). `pages`: bool[pages]: only findings about these pages, and ways to mend them there.
    """
    context = FindingContext(effective, published=published, today=today, asked=pages)
    found = _search(context)
    return _report(context, found if pages is None else found._replace(unmatched=()))


class _Found(NamedTuple):
    """What a search found: findings, open and accepted, and the entries of `accept`, by number, that match none."""

    told: list[Finding]
    accepted: list[Finding]
    unmatched: tuple[int, ...]


def _search(context: FindingContext) -> _Found:
    """Look for every kind of finding."""
    accepts = context.site.accepts
    told: list[Finding] = []
    by_declaration: list[Finding] = []
    for one in _all(context, KINDS, accepted=False):
        (by_declaration if any(_names_declaration(accept, one) for accept in accepts) else told).append(one)
    kinds = [kind for kind in KINDS if any(not a.declaration and a.kind in ("", kind.name) for a in accepts)]
    accepted = [*(_all(context, kinds, accepted=True) if kinds else []), *by_declaration]
    matched = (any(_silences(context, accept, one) for one in accepted) for accept in accepts)
    return _Found(told, accepted, tuple(number for number, is_matched in enumerate(matched) if not is_matched))


def _with_all_matches(contexts: Sequence[FindingContext], *searches: _Found) -> list[_Found]:
    """Two searches that left out what is the same, with the entries of `accept` that match nothing in one state alone.

    Where the same entries match nothing in what differs, each matches something else in both states or in none.
    """
    if searches[0].unmatched == searches[1].unmatched:
        return [search._replace(unmatched=()) for search in searches]
    whole = [_search(FindingContext(context.effective)).unmatched for context in contexts]
    return [search._replace(unmatched=unmatched) for search, unmatched in zip(searches, whole, strict=True)]


def _report(context: FindingContext, found: _Found) -> Report:
    """What a search found, in order and with names."""
    return Report(tuple(named(_opened(context, found))), tuple(named(found.accepted)))


def _opened(context: FindingContext, found: _Found) -> list[Finding]:
    """The findings of a search that nothing silences, in order, with entries of `accept` that match none."""
    stray = [stray_accept(context, context.site.accepts[number]) for number in found.unmatched]
    return _sorted([*found.told, *stray])


def _silences(context: FindingContext, accept: Accept, finding: Finding) -> bool:
    """Whether an entry of `accept` is about a finding that was accepted."""
    if accept.declaration:
        return _names_declaration(accept, finding)
    if accept.kind not in ("", finding.kind) or accept.setting not in ("", finding.setting):
        return False
    return accept.when is None or bool(context.meant_by(accept)[finding.pages.numbers].any())


def _sorted(findings: Sequence[Finding]) -> list[Finding]:
    return sorted(findings, key=lambda finding: LEVELS.index(finding.level))


def _all(context: FindingContext, kinds: Sequence[Kind], accepted: bool) -> list[Finding]:
    """The findings of these kinds; setting kinds look at one setting after the other."""
    found: dict[str, list[Finding]] = {kind.name: [] for kind in kinds}
    left_out = {kind.name for kind in kinds if kind.is_the_same(context.is_same)}
    of_site = [(kind.bound(context, accepted), kind.find) for kind in kinds if kind.find and kind.name not in left_out]
    noted = frozenset() if context.effects.filled else context.settings_to_note
    looked_at = {}
    for setting in context.settings_said():
        asked = [
            kind
            for kind in kinds
            if kind.of_setting and kind.looks_at(context.site.catalogue[setting].family)
            if kind.name not in left_out or not context.has_same(setting)
        ]
        if asked or setting in noted:
            looked_at[setting] = asked
    is_large = len(context.site.tree) >= MANY and not accepted
    titled = None
    if is_large and not (context.is_same(PAGE_LIST) and context.is_same(PATTERN)):
        context.source(PATTERN)  # resolved before, so that two threads do not
        titled = in_background(lambda: context.titles, takes_long=True)
    with work("looking for conflicts", len(looked_at) + len(of_site)) as step:
        for (setting, asked), after in zip_longest(looked_at.items(), [*looked_at][1:]):
            name = context.site.catalogue[setting].name
            step(name)
            folded = context.folded(setting)
            if setting in noted:
                _ = folded.steps  # folded before the next is begun, so that no three are held
            if after in noted and is_large:
                context.fold_ahead(after)
            uses_effects = any(kind.name in OF_EFFECTS for kind in asked)
            if not context.effects.filled and (setting in noted or uses_effects):
                context.effects.note(folded)
            for kind in asked:
                assert kind.of_setting
                found[kind.name] += kind.of_setting(context, kind.bound(context, accepted).of(name), folded)
        context.effects.filled = True
        if titled is not None:
            titled()
        if is_large:
            context.begin_drift()
        for bound, find in of_site:
            step(bound.name)
            found[bound.name] += find(context, bound)
    told = [one for some in found.values() for one in sorted(some, key=lambda finding: -len(finding.pages))]
    return _sorted(told)


def _names_declaration(accept: Accept, finding: Finding) -> bool:
    """Whether an `accept` with a declaration silences a finding: a statement of it names the declaration."""
    return (
        bool(accept.declaration)
        and accept.kind in ("", finding.kind)
        and accept.setting in ("", finding.setting)
        and any(accept.declaration in said.value.split("; ") for said in finding.statements)
    )
