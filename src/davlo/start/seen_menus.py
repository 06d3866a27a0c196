"""The menu of a built site: the navigation that most pages show, if it follows the tree."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from davlo.files.built.built_page import BuiltArea, BuiltBlock

from .seen_areas import BANDS
from .seen_site import UNSAID, Seen, kind_of_area

DEEPEST = 100
LEAST = 3
"""No navigation with fewer links is taken for the menu of the site."""


class SeenMenus(NamedTuple):
    """The menu of a site, one for each language."""

    # the blocks that are a menu, and how many levels of the tree they show; empty if none is
    blocks: Mapping[BuiltBlock, int]
    show: list[Seen]  # `show`, `label`: values of `menu.show` and `menu.label` for each page
    label: list[Seen]
    order: list[str]  # the place of each page among its neighbours; empty where the menu does not tell


def seen_menus(
    areas: Sequence[Sequence[BuiltArea]],
    language: Sequence[str],
    place: Mapping[str, int],
    parent: Sequence[int],
    titles: Sequence[str],
) -> SeenMenus:
    """The menu of a site, if there is a navigation whose links are pages and follow the tree.

    `areas`: the areas of each page; links lead to paths of pages. `language`: the language of each page; pages of one
    language have one menu. `place`: the number of the page of each path. `parent`: the number of the page above; -1
    where there is none.
    """
    nothing = SeenMenus({}, [None] * len(areas), [None] * len(areas), [""] * len(areas))
    show, label, order = [*nothing.show], [*nothing.label], [*nothing.order]
    level = [_level(page, parent) for page in range(len(parent))]
    found: dict[BuiltBlock, int] = {}
    for code in dict.fromkeys(language):
        pages = [page for page, other in enumerate(language) if other == code]
        counts = Counter(
            block
            for page in pages
            for area in areas[page]
            if kind_of_area(area.name) in BANDS[:2]
            for block in area.blocks
            if block.is_navigation and block.is_list
        )
        menus = [block for block, number in counts.most_common(3) if number * 2 > len(pages)]
        menu = next((block for block in menus if _follows_tree(block, place, parent)), None)
        if menu is None:
            return nothing
        targets = {place[path]: text for text, path in menu.links}
        levels = max(level[page] for page in targets)
        found[menu] = max(levels, 1)
        for page in pages:
            show[page] = UNSAID if level[page] > levels else "yes" if page in targets else "no"
        hidden = {page for page in pages if show[page] == "no" and parent[page] >= 0}
        for page in sorted(pages, key=level.__getitem__):
            if parent[page] in hidden:  # it is cut off with the page above it
                show[page] = "no"
                hidden.add(page)
        for at, (page, text) in enumerate(targets.items(), 1):
            order[page] = str(at)
            if text and "{" not in text:
                label[page] = "{title}" if text == titles[page] else text
    if max((len(block.links) for block in found), default=0) < LEAST:
        return nothing
    levels = max(found.values())
    return SeenMenus(dict.fromkeys(found, levels), show, label, order)


def _level(page: int, parent: Sequence[int]) -> int:
    """How deep a page stands in the menu: 0 for the home page, 1 for those below it."""
    level = 0
    while parent[page] >= 0 and level < DEEPEST:
        page, level = parent[page], level + 1
    return level


def _follows_tree(block: BuiltBlock, place: Mapping[str, int], parent: Sequence[int]) -> bool:
    """Whether all links of a block are pages, in the order of the tree, each below the link of the page above it.

    The home page aside: it is above the others, and a link of its own.
    """
    pages = [place.get(path, -1) for _, path in block.links]
    if -1 in pages:
        return False
    opened = list[int]()
    for page in pages:
        above = parent[page]
        while opened and opened[-1] != above:
            opened.pop()
        if not opened and above >= 0 and parent[above] >= 0:
            return False
        opened.append(page)
    return True
