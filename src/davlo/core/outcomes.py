"""Outcomes: what readers and search engines meet, worked out from effective values."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from .access import VISITOR, Access
from .columns import Codes, Column, Mask
from .effective import EffectiveModel
from .model import SiteModel
from .pieces import Layout

PLACEHOLDER = re.compile(r"\{\{|\}\}|\{([^{}]*)\}")
SITEMAP_REASONS = (
    "",
    "it is a draft",
    "a visitor may not view it",
    "sitemap.include is no",
    "robots.index is no",
    "menu.show is no, and sitemap.leave_out leaves out what the menu hides",
    "its priority is under sitemap.leave_out's priority_under",
)
"""Why a page is not in the sitemap, by code; 0: it is."""


def page_words(site: SiteModel, page: int, name: str) -> str | None:
    """What a placeholder stands for on a page; None where it is no word of ours and no fact."""
    facts, tree = site.facts, site.tree
    if name == "site":
        return site.name
    if name == "section":
        return facts.title[next(p for p in (*tree.ancestors(page), page) if p != facts.home or p == page)]
    if name == "parent":
        parent = int(tree.parent[page])
        return facts.title[parent] if parent >= 0 else ""
    if name == "type":
        return site.types.label(int(facts.type_of[page]))
    if name == "path":
        return tree.paths[page]
    if name in facts.columns:
        return facts.columns[name][page]
    return None


def fill(site: SiteModel, page: int, pattern: str) -> str:
    """A pattern with its placeholders filled; `{{` and `}}` are braces; an unknown one stays as it is written."""

    def word(match: re.Match[str]) -> str:
        if match[0] in ("{{", "}}"):
            return match[0][0]
        filled = page_words(site, page, match[1])
        return match[0] if filled is None else filled

    return PLACEHOLDER.sub(word, pattern)


def document_titles(effective: EffectiveModel) -> Column:
    """The document title of every page: `title.pattern` with its placeholders filled."""
    return _filled(effective, "title.pattern")


def menu_labels(effective: EffectiveModel) -> Column:
    """What the menu calls every page."""
    return _filled(effective, "menu.label")


def filled_on(effective: EffectiveModel, setting: str, page: int) -> str:
    """A text setting of one page, with its placeholders filled; empty where the page does not have it."""
    pattern = PageValue(effective, page)(setting)
    return fill(effective.site, page, pattern) if isinstance(pattern, str) else ""


def _filled(effective: EffectiveModel, setting: str) -> Column:
    site = effective.site
    codes, words = effective.codes(setting)
    has = site.has(site.setting_number(setting))
    return Column.of(
        fill(site, page, str(words[code])) if there else ""
        for page, (code, there) in enumerate(zip(codes.tolist(), has.tolist(), strict=True))
    )


def is_yes(effective: EffectiveModel, setting: str) -> Mask:
    """Where a yes-no setting is yes. bool[pages]"""
    codes, words = effective.codes(setting)
    number = effective.site.setting_number(setting)
    return np.array([word is True for word in words], dtype=bool)[codes] & effective.site.has(number)


def menu_cutters(effective: EffectiveModel) -> Codes:
    """For each page the nearest ancestor, the home page aside, that is hidden or a draft; -1: none. int32[pages]"""
    site = effective.site
    stands = is_yes(effective, "menu.show") & site.facts.live
    cutter = np.full(len(site.tree), -1, dtype=np.int32)
    for page in np.flatnonzero(~stands).tolist():
        if page != site.facts.home:
            cutter[page + 1 : int(site.tree.end[page])] = page
    return cutter


def in_menu(effective: EffectiveModel) -> Mask:
    """Which pages stand in the menu: live, `menu.show`, and so all ancestors but the home page. bool[pages]"""
    return is_yes(effective, "menu.show") & effective.site.facts.live & (menu_cutters(effective) < 0)


def sitemap_codes(effective: EffectiveModel, access: Access | None = None) -> Codes:
    """For each page a code into `SITEMAP_REASONS`: 0 in the sitemap, else the first reason it is out. int32[pages]"""
    site = effective.site
    access = access or Access(effective)
    codes, words = effective.codes("sitemap.priority")
    table = np.array([0.0 if not isinstance(w, int | float) else float(w) for w in words])
    tests: list[Callable[[], Mask]] = [
        lambda: ~site.facts.live,
        lambda: ~access.allowed(VISITOR, "view"),
        lambda: ~is_yes(effective, "sitemap.include"),
        lambda: ~is_yes(effective, "robots.index"),
        lambda: ~is_yes(effective, "menu.show") & site.sitemap.menu_hidden,
        lambda: table[codes] < site.sitemap.priority_under,
    ]
    reason = np.zeros(len(site.tree), dtype=np.int32)
    for code, test in enumerate(tests, start=1):
        reason[(reason == 0) & test()] = code
    return reason


def sibling_order(site: SiteModel) -> list[int]:
    """The pages as the menu sorts them: each branch under its parent, siblings by `order`, then path."""
    order, tree = site.facts.order, site.tree
    found: list[int] = []
    ahead = sorted(tree.children(-1), key=lambda p: (order[p], tree.paths[p]), reverse=True)
    while ahead:
        page = ahead.pop()
        found.append(page)
        ahead += sorted(tree.children(page), key=lambda p: (order[p], tree.paths[p]), reverse=True)
    return found


class AreaContent(NamedTuple):
    """What stands in one area of a page, in order, as (kind, name): band, sidebar, layout block, block."""

    area: str
    theme_name: str
    stands: tuple[tuple[str, str], ...]


def layout_of(effective: EffectiveModel, page: int) -> Layout | None:
    """The page's layout, or None."""
    name = PageValue(effective, page)("layout.name")
    return effective.site.pieces.layouts.get(str(name)) if name is not None else None


def areas_of(effective: EffectiveModel, page: int) -> list[AreaContent]:
    """What stands in each area of the page's layout; empty where `layout.name` is none."""
    layout = layout_of(effective, page)
    if layout is None:
        return []
    value = PageValue(effective, page)
    theme = effective.site.pieces.themes.get(str(value("layout.theme")))
    found = []
    for area in layout.areas:
        stands: list[tuple[str, str]] = []
        for kind in ("band", "sidebar"):
            piece = value(f"{kind}.{area}")
            if piece is not None:
                stands.append((kind, str(piece)))
        stands += [("layout block", block) for block in layout.blocks.get(area, ())]
        blocks = value(f"blocks.{area}")
        stands += [("block", block) for block in blocks] if isinstance(blocks, tuple) else []
        found.append(AreaContent(area, theme.name_of(area) if theme else area, tuple(stands)))
    return found


class PageValue:
    """The values of one page by name; None also where the page lacks the setting."""

    def __init__(self, effective: EffectiveModel, page: int) -> None:
        self._effective = effective
        self._page = page

    def __call__(self, name: str) -> object:
        site = self._effective.site
        number = site.catalogue.find(name)
        if number is None or not site.has_by_type[number, int(site.facts.type_of[self._page])]:
            return None
        return self._effective.value(self._page, number)
