"""Findings about the structure: the menu, and what links to a page."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..arrays.grouping import distinct_numbers
from ..change.reach import Edit
from ..outcomes.menu import is_yes
from ..site.statements import Scope
from ..wording import count
from .context import Inquiry
from .finding import Finding
from .mending import Put, Remedy

MENU = "menu.show"
DRAFT = -2
"""Stands for what hides a draft."""
FEW = 3
"""So many pages are hidden one by one."""


def cut_off_in_menu(inquiry: Inquiry) -> Iterator[Finding]:
    """`menu.show` is yes on a live page, but an ancestor (the home page aside) is hidden or a draft."""
    effective, site = inquiry.effective, inquiry.site
    if len(site.tree) == 0:
        return
    sources, live = inquiry.source(MENU), site.facts.live
    cutter = inquiry.outcomes.menu.cutter
    cut = np.flatnonzero(is_yes(effective, MENU) & live & (cutter >= 0))
    hides = np.where(live[cutter], sources[cutter], DRAFT)
    for (by,), at in inquiry.causes("cut-off-in-menu", MENU, cut, hides):
        above = distinct_numbers(cutter[at])
        path = site.tree.paths[above[0]]
        told = path if len(above) == 1 else f"{path} and {count(len(above) - 1, 'other page')}"
        is_one = len(above) == 1
        hidden = (
            f"{'is a draft' if is_one else 'are drafts'}" if by == DRAFT else f"hidden from the menu {inquiry.by(by)}"
        )
        hidden = hidden if by == DRAFT else f"{'is' if is_one else 'are'} {hidden}"
        yield Finding(
            "cut-off-in-menu",
            "warning",
            MENU,
            inquiry.paths(at),
            inquiry.said([] if by == DRAFT else [by]),
            f"{count(len(at), 'page')} should show in the menu, but {told} above {'it' if len(at) == 1 else 'them'} "
            f"{hidden}",
            f"hide what is below too (pages: {path}: below: {{menu.show: no}}), or show {path}",
            tuple(_hidden_too(inquiry, at, above)),
        )


def _hidden_too(inquiry: Inquiry, pages: NDArray[np.int64], above: list[int]) -> Iterator[Remedy]:
    """The way that hides what is below a hidden page too; none where something stronger shows it, or a lock does."""
    site, statements = inquiry.site, inquiry.statements
    number, sources = site.setting_number(MENU), inquiry.source(MENU)[pages]
    weak = (sources < 0) | (statements.scope[sources] < Scope.BELOW) & ~statements.locked[sources]
    if len(above) > FEW or not weak.all():
        return
    if all(statements.find(number, Scope.BELOW, page) < 0 for page in above):
        steps = tuple(Put(("pages", site.tree.paths[page], "below", MENU), "no") for page in above)
        effects = tuple(Edit(number, Scope.BELOW, page, False) for page in above)
        yield Remedy("hide what is below too", steps, effects)


def menu_too_long(inquiry: Inquiry) -> Iterator[Finding]:
    """More top-level entries than `menu.room`; it names those past it."""
    site, room = inquiry.site, inquiry.site.menu_room
    menu = inquiry.outcomes.menu
    if not room or not len(site.tree):
        return
    entries = menu.entries(site)
    top = entries[menu.level[entries] == 0]
    past = top[room:]
    if len(past) and inquiry.any_looked_at("menu-too-long", MENU, past):
        yield Finding(
            "menu-too-long",
            "warning",
            MENU,
            inquiry.paths(past),
            (),
            f"the top menu has {len(top)} entries and room for {room}; past it are "
            f"{', '.join(site.tree.paths[page] for page in past[:4].tolist())}{' …' if len(past) > 4 else ''}",
            "set menu.show to no on some, put them under another page, or raise menu.room",
            (Remedy("say that there is room for all", (Put(("menu", "room"), str(len(top))),)),),
        )


def unlinked_page(inquiry: Inquiry) -> Iterator[Finding]:
    """A live page in no menu and in no block of links that stands on any page; those in the sitemap are told there."""
    yield from _unlinked(inquiry, "unlinked-page", in_sitemap=False)


def listed_but_unlinked(inquiry: Inquiry) -> Iterator[Finding]:
    """The same of pages that the sitemap lists."""
    yield from _unlinked(inquiry, "listed-but-unlinked", in_sitemap=True)


def _unlinked(inquiry: Inquiry, kind: str, in_sitemap: bool) -> Iterator[Finding]:
    site = inquiry.site
    if not len(site.tree):
        return
    listed, source = inquiry.outcomes.sitemap == 0, inquiry.source(MENU)
    hidden = ~is_yes(inquiry.effective, MENU)  # what is cut off by a page above is told of that page
    pages = np.flatnonzero(site.facts.live & hidden & ~inquiry.linked & (listed == in_sitemap))
    for (by,), at in inquiry.causes(kind, MENU, pages, source):
        verb = ("stands" if len(at) == 1 else "stand") if in_sitemap else ("is" if len(at) == 1 else "are")
        yield Finding(
            kind,
            "note",
            MENU,
            inquiry.paths(at),
            inquiry.said([by]),
            f"{count(len(at), 'page')} {verb} {'in the sitemap' if in_sitemap else 'live'}, hidden from the menu "
            f"{inquiry.by(by)}, and no block of links leads there",
            "show it in the menu, list it in a block of links, or leave it if people come another way",
        )
