"""The menu, or a list of links, as readers see it: what it lists in order, and what it leaves out and why."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Column, Mask
from ..arrays.texts import Texts
from ..faults import Place, UnknownName
from ..resolve.effective import EffectiveModel
from ..site.declarations import Block
from ..site.people import VISITOR
from .menus.block_links import branch_links, chosen_blocks, chosen_links, menu_links
from .menus.menu import Pages, entries_above, of_language
from .page_outcomes import Outcomes
from .placeholders import filled

MENU = ""
"""Stands for the site's menu in place of a block."""
EVERY_LEVEL = 1 << 30
LISTING = ("menu", "branch-links", "links")
"""The kinds of blocks that list links."""


class ListedLink(NamedTuple):
    """One link of a list.

    Attributes
    ----------
    label : str
    level : int
        1 for the outermost.
    page : str
        The path of the page that it leads to; empty for an address of another site, or for a page that is gone.
    address : str
        What a block of chosen links says; empty in other lists, whose links lead to their pages.
    is_heading : bool
        Whether it is a folder: a heading without a link.
    is_closed : bool
        Whether it leads to a page that the viewer may not view.
    does_not_fit : bool
        Whether it is past the entries that fit the top menu, or under such an entry.
    """

    label: str
    level: int
    page: str
    address: str
    is_heading: bool
    is_closed: bool
    does_not_fit: bool


class LinkList(NamedTuple):
    """The menu, or a list of links, in one language.

    Attributes
    ----------
    block : str
        The block that lists; empty for the site's menu.
    kind : str
        `menu`, `branch-links` or `links`.
    language : str
        The language of the readers; empty where the site lists none.
    viewer : str
        Who looks. The menu leaves out what a viewer may not view; other lists do not, so a link may be closed.
    max_entries : int
        How many entries fit the top menu; 0: no limit.
    pages : int64[n]
        The page that each link leads to, in order; -1: none of the site.
    level : int64[n]
        1 for the outermost.
    labels : sequence of str, or Column
    heading : bool[n]
        Whether the page is a folder: a heading without a link.
    addresses : sequence of str
        What a block of chosen links says; empty in other lists.
    closed, does_not_fit : bool[n]
        Whether the viewer may not view the page; whether the entry does not fit the top menu.
    left_out : int64[m]
        Pages that the list leaves out, in the order of the tree.
    why : Column
        Why each of them is left out.
    effective : EffectiveModel
    """

    block: str
    kind: str
    language: str
    viewer: str
    max_entries: int
    pages: Pages
    level: Pages
    labels: Sequence[str] | Column
    heading: Mask
    addresses: Sequence[str]
    closed: Mask
    does_not_fit: Mask
    left_out: Pages
    why: Column
    effective: EffectiveModel

    def __repr__(self) -> str:
        of = self.block or "the menu"
        return f"<LinkList of {of}: {len(self.pages)} links, {len(self.left_out)} pages left out>"

    def links(self, chosen: Pages | None = None) -> Iterator[ListedLink]:
        """The links in order; or those at some places of the list."""
        places = np.arange(len(self.pages)) if chosen is None else chosen
        there = self.pages[places] >= 0
        paths = self.effective.site.tree.paths.take(self.pages[places][there])
        of_page = iter(paths)
        columns = (
            np.arange(len(self.pages)),
            self.level,
            self.pages >= 0,
            self.heading,
            self.closed,
            self.does_not_fit,
        )
        for at, level, is_page, heading, closed, past in zip(*(c[places].tolist() for c in columns), strict=True):
            address = self.addresses[at] if self.addresses else ""
            yield ListedLink(self.labels[at], level, next(of_page) if is_page else "", address, heading, closed, past)

    def omitted(self) -> Iterator[tuple[str, str]]:
        """The path of each page that is left out, and why."""
        paths = self.effective.site.tree.paths
        return ((paths[page], self.why[at]) for at, page in enumerate(self.left_out.tolist()))


def link_list(
    outcomes: Outcomes, block: str = MENU, language: str = "", viewer: str = VISITOR, visible: Mask | None = None
) -> LinkList:
    """The menu, or what a block lists. `Site.links` is the call to use.

    `block`: the name of a block of the kind `menu`, `branch-links` or `links`; empty: the site's menu, all levels.
    `language`: the language of the page on which it stands; empty: the site's first. `viewer`: a person, `visitor`,
    `signed-in` or a group. `visible`: bool[pages]: what the viewer may view, if it is known.

    Example
    -------
    >>> import davlo
    >>> found = link_list(davlo.open_demo().resolve().outcomes, "next-events")
    >>> [link.page for link in found.links()][:2], list(found.omitted())[0]
    (['/events/2026', '/events/2026/apple-day'], ('/events/2027', 'the block leaves it out (declared.yaml:58)'))
    """
    effective, site = outcomes.effective, outcomes.site
    visible = outcomes.access.may(viewer, "view") if visible is None else visible
    language = language if language in site.languages else (*site.languages, "")[0]
    if block == MENU or (declared := _listing(effective, block)).kind == "menu":
        return _menu(outcomes, None if block == MENU else declared, language, viewer, visible)
    if declared.kind == "branch-links":
        listed = branch_links(site, declared, language)
        pages, level, left_out, why = listed
        labels: Sequence[str] | Column = site.details.title.take(pages)
        addresses: Sequence[str] = ()
    else:
        chosen = chosen_links(site, declared)
        pages, level = np.array([link.page for link in chosen], dtype=np.int64), np.ones(len(chosen), dtype=np.int64)
        labels, addresses = [link.label for link in chosen], [link.address for link in chosen]
        left_out, why = pages[:0], Column(np.zeros(0, dtype=np.int32), [""])
    heading = np.append(site.details.folder, False)[pages]
    closed = (pages >= 0) & ~np.append(visible, True)[pages] & ~heading
    fits = np.zeros(len(pages), dtype=bool)
    names = (declared.name, declared.kind, language, viewer)
    return LinkList(*names, 0, pages, level, labels, heading, addresses, closed, fits, left_out, why, effective)


def same_links(one: LinkList, other: LinkList, number_after: Pages | None = None) -> bool:
    """Whether lists of two sites hold the same links: pages, levels, labels and addresses.

    `number_after`: int64[pages]: for each page of the first site the number in the second of the page with its path;
    -1: there is none. None: the sites have the same pages.
    """
    pages = one.pages
    if number_after is not None:
        pages = np.where(pages < 0, -1, np.where(number_after < 0, -2, number_after)[pages])
    if not np.array_equal(pages, other.pages) or not np.array_equal(one.level, other.level):
        return False
    if list(one.addresses) != list(other.addresses):
        return False
    labels = [found.labels if isinstance(found.labels, Column) else Column.of(found.labels) for found in (one, other)]
    return not bool(Texts.of_column(labels[0]).differ(Texts.of_column(labels[1])).any())


def lists_of(effective: EffectiveModel, block: str) -> tuple[str, ...]:
    """The blocks with links that a block shows: itself, or of a `one-of` those among which it chooses."""
    blocks = effective.site.declarations.blocks
    shown = chosen_blocks(effective.site, block) if block in blocks else ()
    return tuple(one for one in shown if blocks[one].kind in LISTING) or (_listing(effective, block).name,)


def _listing(effective: EffectiveModel, name: str) -> Block:
    blocks = effective.site.declarations.blocks
    lists = [one for one, block in blocks.items() if block.kind in LISTING]
    if name in lists:
        return blocks[name]
    hint = f"the block {name} is of the kind {blocks[name].kind}, and lists no links" if name in blocks else ""
    raise UnknownName("list of links", name, lists, hint)


def _menu(outcomes: Outcomes, block: Block | None, language: str, viewer: str, visible: Mask) -> LinkList:
    """The menu, or a block of it, without what the viewer may not view."""
    effective, site = outcomes.effective, outcomes.site
    whole = block or Block(MENU, Place(""), kind="menu", levels=EVERY_LEVEL)
    listed = menu_links(site, outcomes.menu, whole, language, order=outcomes.order)
    shows = visible[listed.pages]
    pages, level = listed.pages[shows], listed.level[shows] + 1
    most = site.max_entries if not whole.under else 0
    top = np.cumsum(level == 1)
    near, not_in_menu = _within_levels(effective, whole, language), outcomes.not_in_menu
    hidden = near[~outcomes.menu.shown[near]]
    closed = listed.pages[~shows]
    left_out = np.sort(np.concatenate([hidden, closed]))
    words = [*not_in_menu.words, f"{site.people.in_words(viewer)} may not view it"]
    codes = np.where(outcomes.menu.shown[left_out], len(words) - 1, not_in_menu.codes[left_out]).astype(np.int32)
    return LinkList(
        whole.name,
        "menu",
        language,
        viewer,
        most,
        pages,
        level,
        filled(effective, "menu.label", pages),
        site.details.folder[pages],
        (),
        np.zeros(len(pages), dtype=bool),
        (top > most) if most else np.zeros(len(pages), dtype=bool),
        left_out,
        Column(codes, words),
        effective,
    )


def _within_levels(effective: EffectiveModel, block: Block, language: str) -> Pages:
    """The pages that a menu would list if each showed itself: those of its language, branch and levels. int64[n]"""
    site = effective.site
    listed = of_language(site, language)
    level, inside = entries_above(site, np.flatnonzero(listed)), slice(0, len(site.tree))
    if block.under:
        top = site.tree.find(block.under)
        inside = slice(top + 1, int(site.tree.end[top])) if top >= 0 else slice(0, 0)
        level = level - (int(level[top]) + bool(listed[top] and top != site.details.home) if top >= 0 else 0)
    found: Pages = np.flatnonzero(listed[inside] & (level[inside] < block.levels)) + inside.start
    return found
