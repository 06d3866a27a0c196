"""Findings about the structure: the menu, and what links to a page."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..columns import Mask
from ..outcomes.links import branch_links, chosen_links
from ..outcomes.menu import is_yes
from ..wording import count
from .record import Finding, Inquiry

MENU = "menu.show"


def cut_off_in_menu(inquiry: Inquiry) -> Iterator[Finding]:
    """`menu.show` is yes on a live page, but an ancestor (the home page aside) is hidden or a draft."""
    effective, site = inquiry.effective, inquiry.site
    if len(site.tree) == 0:
        return
    sources, live = inquiry.source(MENU), site.facts.live
    cutter = inquiry.outcomes.menu.cutter
    cut = np.flatnonzero(is_yes(effective, MENU) & live & (cutter >= 0))
    for (by,), at in inquiry.causes("cut-off-in-menu", MENU, cut, cutter):
        path, draft, source = site.tree.paths[by], not live[by], int(sources[by])
        hidden = "is a draft" if draft else f"is hidden from the menu {inquiry.by(source)}"
        yield Finding(
            "cut-off-in-menu",
            "warning",
            MENU,
            inquiry.paths(at),
            inquiry.said([] if draft else [source]),
            f"{count(len(at), 'page')} should show in the menu, but {path} above {'it' if len(at) == 1 else 'them'} "
            f"{hidden}",
            f"hide what is below too (pages: {path}: here_and_below: {{menu.show: no}}), or show {path}",
        )


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
        )


def linked(inquiry: Inquiry) -> Mask:
    """The pages that a menu leads to, or a `branch-links` or `links` block that stands on any page. bool[pages]"""
    site = inquiry.site
    found = inquiry.outcomes.menu.shown.copy()
    for name, block in site.declared.blocks.items():
        if block.kind not in ("branch-links", "links") or not inquiry.uses.pages("block", name).any():
            continue
        if block.kind == "links":
            found[[link.page for link in chosen_links(site, block) if link.page >= 0]] = True
        elif site.tree.find(block.under) >= 0:
            found[branch_links(site, block).pages] = True
    return found


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
