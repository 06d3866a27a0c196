"""Findings about the structure: the menu, and what links to a page."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import distinct_numbers
from ...change.steps.change import CHANGED, Change, Declare, Say, SetDetail, SetSite
from ...outcomes.menus.menu import is_yes
from ...outcomes.shown_things import OF_SHOWN
from ...outcomes.sitemap.sitemap_reasons import OF_SITEMAP
from ...site.declarations import Block
from ...site.model import SiteModel
from ...site.settings.scopes import Scope, ScopeKind
from ...wording import count
from ..bound_kind import BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import ALL, site_kind
from ..mending import MOST_STEPS, Remedy

MENU = "menu.show"
DRAFT = -2
"""Stands for what hides a draft."""
FEW = 3
"""The most pages hidden one by one."""
MOST_LEFT_OUT = 20
"""The most pages that are added to what a list leaves out."""


@site_kind(
    "cut-off-in-menu",
    "warning",
    "structure",
    depends_on=("menu.show",),
    setting=MENU,
    meaning="a page shows in the menu, but one above it does not",
    why="The page is not in the menu, whatever it says: a menu leads to a page through those above it.",
    mend="Hide what is below too (`here_and_below`), or show the page above.",
    takes_away=(("what hides the page above", ALL),),
)
def cut_off_in_menu(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`menu.show` is yes on a live page, but an ancestor (the home page aside) is hidden or a draft."""
    effective, site = context.effective, context.site
    if len(site.tree) == 0:
        return
    sources, live = context.source(MENU), site.details.live | site.details.folder
    cutter = context.outcomes.menu.cutter
    cut = np.flatnonzero(is_yes(effective, MENU) & site.details.readable & (cutter >= 0))
    hides = np.where(live[cutter], sources[cutter], DRAFT)
    for (by,), at in kind.grouped(cut, hides):
        above = distinct_numbers(cutter[at])
        path = site.tree.paths[above[0]]
        told = path if len(above) == 1 else f"{path} and {count(len(above) - 1, 'other page')}"
        is_one = len(above) == 1
        hidden = (
            f"{'is a draft' if is_one else 'are drafts'}" if by == DRAFT else f"hidden from the menu {context.by(by)}"
        )
        hidden = hidden if by == DRAFT else f"{'is' if is_one else 'are'} {hidden}"
        yield kind.finding(
            at,
            [] if by == DRAFT else [by],
            f"{count(len(at), 'page')} should show in the menu, but {told} above {'it' if len(at) == 1 else 'them'} "
            f"{hidden}",
            f"hide what is below too (pages: {path}: below: {{menu.show: no}}), or show {path}",
            *_hidden_too(context, at, above),
            about=["drafts"] if by == DRAFT else None,
        )


def _hidden_too(context: FindingContext, pages: NDArray[np.int64], above: list[int]) -> Iterator[Remedy]:
    """The way that hides what is below a hidden page too; none where something stronger shows it, or a lock does."""
    site, statements = context.site, context.statements
    number, sources = site.setting_number(MENU), context.source(MENU)[pages]
    weak = (sources < 0) | (statements.scope[sources] < ScopeKind.BELOW) & ~statements.locked[sources]
    if len(above) > FEW or not weak.all():
        return
    if all(statements.find(number, ScopeKind.BELOW, page) < 0 for page in above):
        steps = tuple(Say(Scope.below(site.tree.paths[page]), MENU, False) for page in above)
        yield Remedy("hide what is below too", Change(steps))


@site_kind(
    "menu-too-long",
    "warning",
    "structure",
    depends_on=("menu.show", "access"),
    setting=MENU,
    meaning="the top menu has more entries than fit",
    why="The entries that do not fit wrap, or are cut, on every page of the site.",
    mend="Hide some, move them under another page, or raise `menu: {max_entries: …}` if more fit.",
)
def menu_too_long(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """More top-level entries in one language's menu than `menu.max_entries`, as a visitor sees it; names the others."""
    site, most = context.site, context.site.max_entries
    menu = context.outcomes.menu
    if not most or not len(site.tree):
        return
    alike: dict[tuple[int, ...], list[str]] = {}  # menus that list the same pages
    for language in site.languages or ("",):
        entries = menu.entries(site, language, context.visible)
        alike.setdefault(tuple(entries.pages[entries.level == 0].tolist()), []).append(language)
    for top, languages in alike.items():
        past = np.array(top[most:], dtype=np.int64)
        if len(past) and kind.reports(past):
            whose = f" in {' and '.join(languages)}" if len(alike) > 1 else ""
            yield kind.finding(
                past,
                (),
                f"the top menu{whose} has {len(top)} entries, and {most} fit",
                "set menu.show to no on some, put them under another page, or raise menu.max_entries",
                Remedy("say that all fit", Change((SetSite("max_entries", len(top)),)))
                if len(past) <= max(FEW, most // 2)
                else None,
                about=languages,
            )


@site_kind(
    "links-to-closed",
    "warning",
    "structure",
    depends_on=("menu.show", "access", *OF_SHOWN),
    meaning="a list of links that a visitor sees names pages that a visitor may not view",
    why="Visitors follow the link and are refused. A menu leaves such pages out by itself; other lists do not.",
    mend="Leave the pages out of the list, open them, or show the list only where members see it.",
    example=Change(
        (
            Declare(
                Block("quick-links", CHANGED, kind="links", links={"Tickets": "/visit/tickets", "Members": "/members"})
            ),
        )
    ),
)
def links_to_closed(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A list of links that a visitor sees names pages that a visitor may not view."""
    site, visible = context.site, context.outcomes.visible
    closed = ~visible & ~site.details.folder
    for name in context.block_links.blocks():
        shown = context.block_links.shown_to(name, visible & site.details.readable)
        listed = context.block_links.of(name, shown)
        pages = np.sort(listed[closed[listed]])
        if not len(pages) or not kind.reports(pages):
            continue
        block = site.declarations.blocks[name]
        yield kind.finding(
            pages,
            (Said(f"block {name}", block.place.file, block.place.line, ""),),
            f"visitors see the list {name} ({block.place}) on {count(int(np.count_nonzero(shown)), 'page')}; "
            f"it links to {count(len(pages), 'page')} that they may not view",
            "leave the pages out of the list, or show it where members see it",
            _without_closed(site, block, pages),
        )


def _without_closed(site: SiteModel, block: Block, pages: NDArray[np.int64]) -> Remedy | None:
    """The way that takes closed pages out of a list; none if they are many, or if nothing would be left of it."""
    if block.kind == "links":
        numbers = set(pages.tolist())
        links = {
            text: address
            for text, address in block.links.items()
            if site.tree.find(site.page_names.path(address)) not in numbers
        }
        changed = block._replace(links=links) if links else None
    else:
        outermost = [page for page in pages.tolist() if not set(site.tree.ancestors(page)) & set(pages.tolist())]
        left_out = (*block.leave_out, *site.tree.paths.take(np.array(outermost)).tolist())
        changed = block._replace(leave_out=left_out) if len(outermost) <= MOST_LEFT_OUT else None
    return changed and Remedy("leave the pages out of the list", Change((Declare(changed),)))


@site_kind(
    "language-breaks-off",
    "warning",
    "structure",
    depends_on=(),
    meaning="a page without a language lies below one that has a language",
    why="Readers come from pages in one language to a page that shows the menu of the site's first language.",
    mend="Give the page the language of the page above it.",
    example=Change((SetDetail("/fr/visiter/billets", "language", ""),)),
)
def language_breaks_off(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The site lists languages, and a page without one lies below a page that has one."""
    site, language = context.site, context.site.details.language
    if not site.languages or not len(site.tree):
        return
    has = language.where([bool(word) for word in language.words])
    above = site.tree.nearest_above(has)
    of_above = np.where(above >= 0, language.codes[above], -1)
    for (code,), at in kind.grouped(np.flatnonzero(~has & (above >= 0)), of_above):
        word, pages = language.words[code], count(len(at), "page")
        some = site.tree.paths.take(at[: MOST_STEPS + 1]).tolist()
        change = Change(tuple(SetDetail(path, "language", word) for path in some))
        yield kind.finding(
            at,
            (Said("page_list", site.page_list, int(site.tree.line[at[0]]), word),),
            f"{pages} without a language {'lies' if len(at) == 1 else 'lie'} below pages in {word}: readers see the "
            f"menu of {site.languages[0]} there",
            f"write {word} into the page list's column language",
            *([Remedy(f"give {pages} the language {word}", change)] if len(some) <= MOST_STEPS else ()),
        )


@site_kind(
    "unlinked-page",
    "note",
    "structure",
    depends_on=("menu.show", *OF_SITEMAP, *OF_SHOWN),
    setting=MENU,
    meaning="a live page that no menu and no block of links leads to",
    why="Readers can only come from elsewhere. Sometimes that is meant, as for a page of thanks.",
    mend="Show it in the menu or in a block of links; or accept it.",
    takes_away=(("what hides the pages", ALL),),
)
def unlinked_page(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A live page in no menu and in no block of links on any page; another kind reports those in the sitemap."""
    yield from _unlinked(context, kind, in_sitemap=False)


@site_kind(
    "listed-but-unlinked",
    "note",
    "sitemap",
    depends_on=("menu.show", *OF_SITEMAP, *OF_SHOWN),
    setting=MENU,
    meaning="a page is in the sitemap, and nothing on the site leads to it",
    why="Search engines are sent to a page that readers cannot find. Sometimes that is meant, as for a campaign.",
    mend="Link it, leave it out (`sitemap.include: no`), or accept it.",
    takes_away=(("what hides the pages", ALL),),
)
def listed_but_unlinked(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A page that the sitemap lists, in no menu and in no block of links on any page."""
    yield from _unlinked(context, kind, in_sitemap=True)


def _unlinked(context: FindingContext, kind: BoundKind, in_sitemap: bool) -> Iterator[Finding]:
    site = context.site
    if not len(site.tree):
        return
    listed, source = context.outcomes.sitemap == 0, context.source(MENU)
    hidden = ~is_yes(context.effective, MENU)  # another kind reports what a page above cuts off
    pages = np.flatnonzero(site.details.readable & hidden & ~context.linked & (listed == in_sitemap))
    for (by,), at in kind.grouped(pages, source):
        verb = ("stands" if len(at) == 1 else "stand") if in_sitemap else ("is" if len(at) == 1 else "are")
        yield kind.finding(
            at,
            [by],
            f"{count(len(at), 'page')} {verb} {'in the sitemap' if in_sitemap else 'live'}, hidden from the menu "
            f"{context.by(by)}, and no block of links leads there",
            "show it in the menu, list it in a block of links, or leave it if people come another way",
        )
