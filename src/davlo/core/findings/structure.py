"""Findings about the structure: the menu."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..outcomes.menu import is_yes, menu_of
from ..wording import count
from .record import Finding, Inquiry, groups


def cut_off_in_menu(inquiry: Inquiry) -> Iterator[Finding]:
    """`menu.show` is yes on a live page, but an ancestor (the home page aside) is hidden or a draft."""
    effective, site = inquiry.effective, inquiry.site
    if len(site.tree) == 0:
        return
    number = site.setting_number("menu.show")
    sources = effective.resolved(number).source
    cutter = menu_of(effective).cutter
    cut = np.flatnonzero(is_yes(effective, "menu.show") & site.facts.live & (cutter >= 0))
    live = site.facts.live
    cut = cut[inquiry.looked_at("cut-off-in-menu", "menu.show", cut)]
    for (by,), rows in groups(cutter[cut]):
        pages = inquiry.paths(cut[rows])
        source = int(sources[by])
        path = site.tree.paths[by]
        them = "it" if len(pages) == 1 else "them"
        draft = not live[by]
        hidden = "is a draft" if draft else f"is hidden from the menu by {inquiry.where(source)}"
        yield Finding(
            "cut-off-in-menu",
            "warning",
            "menu.show",
            pages,
            inquiry.said([] if draft else [source]),
            f"{count(len(pages), 'page')} should show in the menu, but {path} above {them} {hidden}",
            f"hide what is below too (pages: {path}: here_and_below: {{menu.show: no}}), or show {path}",
        )
