"""What blocks show that lead elsewhere: lists of a branch's pages, chosen links, one of several."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Mask
from ..arrays.texts import Texts
from ..site.declarations import Block
from ..site.model import SiteModel
from .menu import Menu, MenuEntries, of_language
from .menu_order import Key, Pages, menu_order, text_keys
from .uses import Uses


class BranchLinks(NamedTuple):
    """The links of a `branch-links` block.

    Attributes
    ----------
    pages : int64[n]
        The pages it lists, as it lists them: each branch under its parent.
    level : int64[n]
        1 for those right under the block's page.
    left_out : int64[m]
        The pages within its levels that it does not list: drafts, those it leaves out, and all below them.
    """

    pages: Pages
    level: Pages
    left_out: Pages


def branch_links(site: SiteModel, block: Block, language: str = "") -> BranchLinks:
    """What a `branch-links` block lists: the live pages under its page, down to its levels, whatever `menu.show` is.

    A page that is left out takes its branch with it, and so does a draft, also if it is the block's own page. A folder
    is listed as a heading. A page that only leads elsewhere is left out, and so are pages in another language than
    that of the page on which the block stands, unless the block says `languages: all`; their branches are not. If the
    block's page is gone, nothing is listed.

    Parameters
    ----------
    site : SiteModel
    block : Block
    language : str
        The language of the page on which the block stands; empty: the site's first.

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
        return BranchLinks(nothing, nothing, nothing)
    pages = np.arange(top + 1, int(tree.end[top]))
    level = tree.depth[pages].astype(np.int64) - int(tree.depth[top])
    draft = site.facts.draft
    out = draft[pages]
    for page in (tree.find(path) for path in block.leave_out):
        if top < page < int(tree.end[top]):
            out[page - top - 1] = True
    for page in pages[out].tolist():
        out[page - top - 1 : int(tree.end[page]) - top - 1] = True
    out |= site.facts.leads_away[pages] | bool(draft[top])
    if block.languages != "all":
        out |= ~of_language(site, language)[pages]
    near = level <= block.levels
    ordered = menu_order(site, top, _sort_keys(site, block.sort, np.arange(top, int(tree.end[top]))))[1:]
    listed = ordered[(near & ~out)[ordered - top - 1]]
    return BranchLinks(listed, level[listed - top - 1], pages[near & out])


def menu_links(
    site: SiteModel, menu: Menu, block: Block, language: str = "", visible: Mask | None = None
) -> MenuEntries:
    """What a `menu` block lists: the entries of the menu, or of the branch of its page, down to its levels.

    Parameters
    ----------
    site : SiteModel
    menu : Menu
    block : Block
    language : str
        The language of the page on which the block stands; empty: the site's first.
    visible : bool[pages], optional
        The pages that whoever reads it may view; all of them unless given.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> found = menu_links(site, site.resolve().outcomes.menu, site.declarations.blocks["top-menu"])
    >>> site.tree.paths.take(found.pages).tolist()[:3]
    ['/', '/visit', '/plants']
    """
    pages, level = menu.entries(site, language, visible)
    if block.under:
        top = site.tree.find(block.under)
        if top < 0:
            return MenuEntries(pages[:0], level[:0])
        inside = (pages > top) & (pages < site.tree.end[top])
        above = {*site.tree.ancestors(top), top} - {site.facts.home}
        pages, level = pages[inside], level[inside] - len(above & set(menu.entries(site, language).pages.tolist()))
    near = level < block.levels
    return MenuEntries(pages[near], level[near])


def _sort_keys(site: SiteModel, sort: str, pages: Pages) -> list[Key] | None:
    """What sorts siblings in a list before their paths, the weightiest first; None: as in the menu.

    Titles sort whatever their letter case; dates the newest first, those that are blank last.
    """
    if sort == "order":
        return None
    if sort == "path":
        return []
    cells = Texts.of_column(site.facts.column(sort)).take(pages).tolist()
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


def linked(uses: Uses, shown: Mask) -> Mask:
    """The pages that a menu leads to (`shown`), or a block of links that stands on any page. bool[pages]"""
    site, found = uses.site, shown.copy()
    for name, block in site.declarations.blocks.items():
        if block.kind not in ("branch-links", "links") or not uses.pages("block", name).any():
            continue
        if block.kind == "links":
            found[[link.page for link in chosen_links(site, block) if link.page >= 0]] = True
        else:
            standing = np.bincount(site.facts.language.codes[uses.pages("block", name)])
            for code in np.flatnonzero(standing).tolist():
                found[branch_links(site, block, site.facts.language.words[code]).pages] = True
    return found
