"""The links that blocks show: lists of a branch's pages, and chosen links."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ...arrays.codebooks import Column, Mask, distinct
from ...arrays.texts import Texts
from ...site.declarations import Block
from ...site.model import SiteModel
from .menu import Menu, MenuEntries, of_language
from .menu_order import Key, Pages, menu_order, text_keys


class BranchLinks(NamedTuple):
    """The links of a `branch-links` block."""

    pages: Pages  # int64[n]: the pages it lists, as it lists them: each branch under its parent
    level: Pages  # int64[n]: 1 for those right under the block's page
    # int64[m]: the pages within its levels that it does not list: drafts, those it leaves out, and all below them
    left_out: Pages
    why: Column  # why each of them is left out


def branch_links(site: SiteModel, block: Block, language: str = "") -> BranchLinks:
    """What a `branch-links` block lists: the live pages under its page, down to its levels, whatever `menu.show` is.

    A page that is left out takes its branch with it, and so does a draft, also if it is the block's own page. A folder
    is listed as a heading. A page that only leads elsewhere is left out, and so are pages in another language than
    that of the page on which the block stands, unless the block says `languages: all`; their branches are not. If the
    block's page is gone, nothing is listed.

    `language`: the language of the page on which the block stands; empty: the site's first.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> found = branch_links(site, site.declarations.blocks["next-events"])
    >>> [site.tree.paths[page] for page in found.left_out.tolist()][:1]
    ['/events/2027']
    """
    tree, top = site.tree, site.tree.find(block.under)
    nothing = np.zeros(0, dtype=np.int64)
    if top < 0:
        return BranchLinks(nothing, nothing, nothing, Column(nothing.astype(np.int32), [""]))
    pages = np.arange(top + 1, int(tree.end[top]))
    level = tree.depth[pages].astype(np.int64) - int(tree.depth[top])
    near = level <= block.levels
    why = _why_left_out(site, block, top, pages, language)
    ordered = menu_order(site, top, _sort_keys(site, block.sort, np.arange(top, int(tree.end[top]))))[1:]
    listed = ordered[(near & (why.codes == 0))[ordered - top - 1]]
    left_out = np.flatnonzero(near & (why.codes != 0))
    return BranchLinks(listed, level[listed - top - 1], pages[left_out], why.take(left_out))


def _why_left_out(site: SiteModel, block: Block, top: int, pages: Pages, language: str) -> Column:
    """For each page below a block's page why it is not listed; code 0, and empty, where it is."""
    tree, details = site.tree, site.details
    words = ["", "it is a draft", f"the block leaves it out ({block.place})", "it only leads elsewhere (leads_to)"]
    words += ["it is in another language", f"{block.under} is a draft"]
    left = np.zeros(len(pages), dtype=bool)
    for page in (tree.find(path) for path in block.leave_out):
        if top < page < int(tree.end[top]):
            left[page - top - 1] = True
    draft = details.draft[pages]
    codes = np.select([left, draft], [2, 1], 0)
    above = np.full(len(pages), -1, dtype=np.int64)  # the outermost page above each that takes its branch with it
    done = top
    for page in pages[left | draft].tolist():
        if page >= done:
            done = int(tree.end[page])
            above[page - top : done - top - 1] = page
    first, which = distinct(above)
    words += [f"{path} above it is left out" for path in tree.paths.take(np.maximum(above[first], 0)).tolist()]
    codes = np.where(above >= 0, which + 6, codes)
    codes = np.where((codes == 0) & details.leads_away[pages], 3, codes)
    if block.languages != "all":
        codes = np.where((codes == 0) & ~of_language(site, language)[pages], 4, codes)
    return Column((np.full_like(codes, 5) if details.draft[top] else codes).astype(np.int32), words)


def menu_links(
    site: SiteModel,
    menu: Menu,
    block: Block,
    language: str = "",
    visible: Mask | None = None,
    order: Pages | None = None,
) -> MenuEntries:
    """What a `menu` block lists: the entries of the menu, or of the branch of its page, down to its levels.

    `language`: the language of the page on which the block stands; empty: the site's first. `visible`: bool[pages]: the
    pages that whoever reads it may view; all of them unless given. `order`: int64[pages]: `menu_order` of the site, if
    it is known.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> found = menu_links(site, site.resolve().outcomes.menu, site.declarations.blocks["top-menu"])
    >>> site.tree.paths.take(found.pages).tolist()[:3]
    ['/', '/visit', '/plants']
    """
    pages, level = menu.entries(site, language, visible, order)
    if block.under:
        top = site.tree.find(block.under)
        if top < 0:
            return MenuEntries(pages[:0], level[:0])
        inside = (pages > top) & (pages < site.tree.end[top])
        above = sorted({*site.tree.ancestors(top), top} - {site.details.home})
        listed = menu.shown & of_language(site, language)
        pages, level = pages[inside], level[inside] - int(np.count_nonzero(listed[above]))
    near = level < block.levels
    return MenuEntries(pages[near], level[near])


def _sort_keys(site: SiteModel, sort: str, pages: Pages) -> list[Key] | None:
    """The sort keys of siblings in a list, before their paths, the most important first; None: as in the menu.

    Titles sort whatever their letter case; dates the newest first, those that are blank last.
    """
    if sort == "order":
        return None
    if sort == "path":
        return []
    cells = Texts.of_column(site.details.column(sort)).take(pages).tolist()
    if sort == "title":
        return [*text_keys(Texts.of(cell.casefold() for cell in cells))]
    return [np.array([not cell for cell in cells]), *(~key for key in text_keys(Texts.of(cells)))]


def chosen_blocks(site: SiteModel, name: str) -> tuple[str, ...]:
    """The blocks that a block may show: those of a `one-of` and of those it names; else itself.

    Example
    -------
    >>> import davlo
    >>> chosen_blocks(davlo.open_demo(), "donate")
    ('donate-tree', 'donate-bulbs')
    """
    seen: dict[str, bool] = {}  # whether it shows itself
    seek = [name]
    while seek:
        one = seek.pop()
        if one not in seen:
            block = site.declarations.blocks.get(one)
            seen[one] = block is None or block.kind != "one-of"
            seek += reversed(block.blocks if block and not seen[one] else ())
    return tuple(one for one, shows_itself in seen.items() if shows_itself)


class Link(NamedTuple):
    """A link of a block: what it is called, its address, and the page of the site it leads to, or -1."""

    label: str
    address: str
    page: int


def chosen_links(site: SiteModel, block: Block) -> tuple[Link, ...]:
    """The links of a `links` block, in order."""
    return tuple(
        Link(label, address, site.tree.find(site.page_names.path(address))) for label, address in block.links.items()
    )
