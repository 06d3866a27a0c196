"""Findings about the sitemap."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import distinct
from ...arrays.grouping import distinct_numbers
from ...arrays.texts import Texts
from ...change.steps.change import Change, Say, SetDetail, TakeAway
from ...change.steps.statement_reach import reach_without
from ...outcomes.menus.menu import is_yes
from ...outcomes.sitemap.sitemap_marks import Drift, Published
from ...outcomes.sitemap.sitemap_reasons import OF_SITEMAP, SITEMAP_REASONS
from ...resolve.effective import EffectiveModel
from ...site.people import VISITOR
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import ByDepth, Value, format_value, shown
from ...wording import count
from ..bound_kind import MOST_SAID, BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import ALL, FIRST, REST, site_kind
from ..mending import FEW, Remedy, changed, without

PRIORITY = "sitemap.priority"
TOO_LOW = len(SITEMAP_REASONS) - 1
"""The code of the last reason: a page that has it would be listed but for its priority."""


@site_kind(
    "private-with-priority",
    "warning",
    "sitemap",
    depends_on=OF_SITEMAP,
    setting=PRIORITY,
    meaning="a page that no visitor may view has a priority of its own",
    why="Somebody means it to be found; no search engine can.",
    mend="Take the priority away, or open the page.",
    takes_away=(("the priority", ALL),),
)
def private_with_priority(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A page no visitor may view has a priority set at least as closely as what closes it; a draft's access counts."""
    classes = context.access.classes
    hidden = classes.pages(~classes.allowed(VISITOR, "view"))
    closes = context.effective.column("access.everyone").source[hidden]
    if context.site.catalogue.find("deny.everyone") is not None:
        denied = classes.states("deny", "everyone", "view")[classes.of[hidden]]
        closes = np.where(denied, context.effective.column("deny.everyone").source[hidden], closes)
    for source, pages, priority in _as_close(context, kind, hidden, closes):
        yield kind.finding(
            pages,
            [source],
            f"{context.where(source)} gives a sitemap priority ({priority}) to {count(len(pages), 'page')} "
            "that no visitor may view, so no search engine will see it",
            "take the priority away there, or let everyone view the pages if they should be found",
        )


@site_kind(
    "noindex-with-priority",
    "warning",
    "sitemap",
    depends_on=OF_SITEMAP,
    setting=PRIORITY,
    meaning="a page that search engines may not index has a priority of its own",
    why="One of the two was forgotten.",
    mend="Take the priority away, or set `robots.index` to yes.",
    takes_away=(("the priority", FIRST), ("what forbids indexing", REST)),
)
def noindex_with_priority(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`robots.index` is no, and the priority is set at least as closely."""
    number = context.site.setting_number("robots.index")
    off = ~is_yes(context.effective, "robots.index") & context.site.has(number)
    off &= context.access.allowed(VISITOR, "view")  # another kind reports those that no visitor may view
    some = np.flatnonzero(off)
    closes = context.effective.column("robots.index").source[some]
    for source, pages, priority in _as_close(context, kind, some, closes):
        yield kind.finding(
            pages,
            [source, *distinct_numbers(context.source("robots.index")[pages])[:4]],
            f"{context.where(source)} gives a sitemap priority ({priority}) to {count(len(pages), 'page')} "
            "that search engines may not index",
            "take the priority away there, or set robots.index to yes if the pages should be found",
            about=[source],
        )


def _as_close(
    context: FindingContext, kind: BoundKind, pages: NDArray[np.int64], others: NDArray[np.integer]
) -> Iterator[tuple[int, NDArray[np.int64], str]]:
    """Those of some pages whose priority is set in a scope at least as close as another statement's, by what sets it.

    `others: int[pages]` are those statements, one for each page.
    """
    number = context.site.setting_number(PRIORITY)
    source, strength = context.effective.resolved(number).source[pages], context.statements.strength
    pages = pages[(source >= 0) & (strength(source) >= strength(others))]
    for (by,), at in kind.grouped(pages, context.source(PRIORITY)):
        yield by, at, shown(context.effective.value(int(at[0]), number))


@site_kind(
    "left-out-by-priority",
    "note",
    "sitemap",
    depends_on=OF_SITEMAP,
    setting=PRIORITY,
    meaning="the priority alone keeps a page out of the sitemap",
    why="A page that is worth little is still listed by default; under `priority_under` it is not.",
    mend="Raise the priority, or say `sitemap.include: no` if it should not be found.",
    takes_away=(("the priority", ALL),),
    example=Change((Say(Scope.here("/visit/maps"), "sitemap.priority", 0.1),)),
    has_exception=True,
)
def left_out_by_priority(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The priority alone keeps a page out."""
    pages = np.flatnonzero(context.outcomes.sitemap == TOO_LOW)
    for (source,), at in kind.grouped(pages, context.source(PRIORITY)):
        yield kind.finding(
            at,
            [source],
            f"{count(len(at), 'page')} {'is' if len(at) == 1 else 'are'} left out of the sitemap by priority alone, "
            f"set {context.by(source)}: it is under {format_value(context.site.sitemap.priority_under)}",
            "raise the priority if the pages should be found, or set sitemap.include to no if they should not",
        )


@site_kind(
    "one-priority",
    "note",
    "sitemap",
    depends_on=OF_SITEMAP,
    setting=PRIORITY,
    meaning="all pages in the sitemap have the same priority",
    why="Priorities rank the pages of one site. If all are the same, they distinguish nothing.",
    mend="Let them fall with depth, or set them to none.",
    takes_away=(("the priority", ALL),),
    example=Change(
        (TakeAway(Scope.everywhere(), "sitemap.priority"), Say(Scope.everywhere(), "sitemap.priority", 0.5, lock=True))
    ),
)
def one_priority(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """All pages in the sitemap have the same priority, so it distinguishes none of them; where somebody has set one."""
    number = context.site.setting_number(PRIORITY)
    found = context.effective.resolved(number)
    listed = np.flatnonzero(context.outcomes.sitemap == 0)
    values = set(found.value[listed].tolist())
    is_said = bool((found.source[listed] >= 0).any())
    if is_said and len(listed) > 1 and len(values) == 1 and kind.reports(listed):
        shown_value = shown(found.words[values.pop()])
        said = distinct_numbers(found.source[listed])
        yield kind.finding(
            listed,
            said[:MOST_SAID],
            f"all {count(len(listed), 'page')} in the sitemap have the priority {shown_value}, "
            "so it distinguishes none of them",
            "let it fall with depth: sitemap.priority: {by_depth: {top: 1.0, step: 0.15, floor: 0.3}}",
            *_falling(context, said),
            about=(),
        )


def _falling(context: FindingContext, said: list[int]) -> tuple[Remedy, ...]:
    """The way that lets the priority fall with depth, if one statement gives it."""
    if len(said) != 1:
        return ()
    way = changed(context.site, "let it fall with depth", said[0], ByDepth(1.0, 0.15, 0.3))
    return (way,) if way else ()


def _levelling(effective: EffectiveModel, finding: Finding) -> Iterator[Remedy]:
    """The ways to take away what lowers the page above, or what raises these pages; only ways that level them."""
    site, pages = effective.site, finding.pages.numbers
    above, number = site.tree.parent[pages], site.setting_number("sitemap.priority")
    found = effective.resolved(number)
    for words, which in (("the value of the page above", above), ("the priority", pages)):
        said = distinct_numbers(found.source[which])
        if len(said) > 1 or said[0] < 0 or site.statements.scope[said[0]] < ScopeKind.TYPE:
            continue  # a default of all pages is not taken away for the sake of some
        way = without(site, words, said)
        if way is None:
            continue
        gone = reach_without(effective, number, said)
        size = _sizes(found.words)[found.value]
        size[gone.pages] = _sizes(gone.words)[gone.after]
        if not (size[pages] > size[above]).any():
            yield way


def _sizes(words: Sequence[Value]) -> NDArray[np.float64]:
    """Numbers among values; NaN where a value is none. float64[words]"""
    return np.array([float(word) if isinstance(word, int | float) else np.nan for word in words])


@site_kind(
    "child-above-parent",
    "note",
    "sitemap",
    depends_on=OF_SITEMAP,
    setting=PRIORITY,
    meaning="a page's priority is higher than that of the page above",
    why="Often it is meant. Often the page above was forgotten.",
    mend="Raise the page above, or leave it.",
    more_ways=_levelling,
)
def child_above_parent(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The priority of a page in the sitemap is higher than its parent's."""
    site, number = context.site, context.site.setting_number(PRIORITY)
    found = context.effective.resolved(number)
    size = _sizes(found.words)[found.value]
    size = np.where(site.has(number), size, np.nan)
    above = site.tree.parent
    listed = context.outcomes.sitemap == 0
    pages = np.flatnonzero(listed & (above >= 0) & (size > size[above])) if len(size) else np.zeros(0, dtype=np.int64)
    for (source,), at in kind.grouped(pages, context.source(PRIORITY)):
        page = int(at[0])
        yield kind.finding(
            at,
            [source],
            f"{count(len(at), 'page')} {'has' if len(at) == 1 else 'have'} a higher sitemap priority, set "
            f"{context.by(source)}, than the page above: {site.tree.paths[page]} {format_value(float(size[page]))}, "
            f"{site.tree.paths[int(above[page])]} {format_value(float(size[above[page]]))}",
            "raise the page above, or leave it if visitors look for these pages first",
        )


@site_kind(
    "sitemap-stale",
    "warning",
    "sitemap",
    meaning="the sitemap written last is not what would be written now, or is older than sitemap.stale_after_days",
    why="Search engines go by what they are given: they miss what is new, and look for what is gone.",
    mend="Write it again, each time the site is published: `davlo sitemap --to FILE`.",
    example=Change((SetDetail("/visit/tickets", "status", "draft"),)),
)
def sitemap_stale(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The sitemap written last differs from what would be written now, or is older than `stale_after_days`."""
    last, stale_after_days = context.published, context.site.sitemap.stale_after_days
    since = context.drift
    if last is None or since is None:
        return
    age, pages = (context.today - last.written).days, np.flatnonzero(since.new | since.changed | since.gone)
    reasons = [*_drifted(since, last), *([f"it is {age} days old"] if 0 < stale_after_days < age else [])]
    if not reasons:
        return
    told = f"the sitemap {last.file}, written on {last.written}, is stale: {', '.join(reasons)}"
    told += f", and sitemap.stale_after_days is {stale_after_days}" if 0 < stale_after_days < age else ""
    if kind.reports(pages):
        fix = f"write it again: {last.again}"
        yield kind.finding(pages, (), told, fix, about=())


def _drifted(since: Drift, last: Published) -> Iterator[str]:
    """What would be listed differently than in the sitemap written last, in words."""
    counts = [int(np.count_nonzero(mask)) for mask in (since.new, since.changed, since.gone)]
    words = ("would be new", "would be listed differently", "would go")
    for number, what in zip(counts, words, strict=True):
        if number:
            yield f"{count(number, 'page')} {what}"
    if since.lost:
        listed = "1 page that it lists is" if since.lost == 1 else f"{since.lost:,} pages that it lists are"
        yield f"{listed} no longer in the page list"
    if last.added:
        yield f"{' and '.join(last.added)} changed since then"
    if last.altered:
        yield "something else has changed the file"


@site_kind(
    "bad-alternate",
    "warning",
    "sitemap",
    depends_on=(),
    meaning="a translation names a page that is not there, not in the first language, or translated already",
    why="Search engines get the wrong page, or none, for readers of a language.",
    mend="Mend the column `translates`.",
    example=Change((SetDetail("/visit/tickets", "translates", "/fr"),)),
)
def bad_alternate(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`translates` names a page that is missing or not in the first language, or two of one language translate one."""
    site = context.site
    column, language = site.details.column("translates"), site.details.language
    says = np.flatnonzero(column.where([bool(word.strip()) for word in column.words]))
    if not len(says):
        return
    target = site.tree.find_all(Texts.of(column.words))[column.codes]
    leading = ("", *site.languages[:1]) if site.languages else tuple(language.words)
    first = np.array([word in leading for word in language.words], dtype=bool)
    wrong = np.zeros(len(site.tree), dtype=np.int64)
    wrong[says[target[says] < 0]] = 1
    there = says[target[says] >= 0]
    pairs = target[there].astype(np.int64) * len(language.words) + language.codes[there]
    earliest, same = distinct(pairs)
    other = np.full(len(site.tree), -1, dtype=np.int64)  # the first that translates the same into the same language
    other[there] = there[earliest[same]]
    wrong[there[other[there] != there]] = 3
    wrong[there[~first[language.codes[target[there]]]]] = 2
    for (what, code), at in kind.grouped(np.flatnonzero(wrong), wrong, column.codes):
        named = column.words[code]
        told = {
            1: "which is not in the page list",
            2: f"which is not in the site's first language ({site.languages[0] if site.languages else ''})",
            3: f"which {site.tree.paths[int(other[at[0]])]} translates into the same language",
        }[what]
        yield kind.finding(
            at,
            (Said("page_list", site.page_list, int(site.tree.line[at[0]]), named),),
            f"{count(len(at), 'page')} {'says' if len(at) == 1 else 'say'} in the column translates {named}, {told}: "
            "search engines get no alternate, or a wrong one",
            "mend the column translates: it holds the path of the page in the first language, once for each language",
            Remedy("leave translates blank there", Change(_blank(context, at))) if len(at) <= FEW else None,
        )


def _blank(context: FindingContext, pages: NDArray[np.int64]) -> tuple[SetDetail, ...]:
    """The steps that leave pages' cells of the column translates blank."""
    return tuple(SetDetail(path, "translates", "") for path in context.site.tree.paths.take(pages).tolist())
