"""Outlines and exceptions: what is shown of a tree, and which pages have another value than they would inherit."""

from __future__ import annotations

from random import Random

import numpy as np

from davlo.core.outcomes.menus.menu_order import menu_order
from davlo.core.outcomes.menus.outline import outline
from tests.core.resolve.test_fold import open_made_up
from tests.plain import findings
from tests.plain import resolution as reference
from tests.sites import WORDS, SiteDict, of_made_up_sites


@of_made_up_sites(5)
def test_every_chosen_page_is_shown_or_counted(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    tree, order = opened.tree, menu_order(opened)
    chosen = order[[random.random() < 0.7 for _ in order]]
    for depth, most in ((None, None), (0, None), (1, None), (None, 3), (2, 2)):
        found = outline(tree, chosen, depth, most)
        pages = found.pages.tolist()
        above = [sum(q in chosen for q in tree.ancestors(page)) for page in pages]
        assert found.level.tolist() == above
        assert pages == [page for page in chosen.tolist() if page in pages]
        assert len(pages) + int(found.hidden.sum()) + found.rest == len(chosen)
        assert depth is None or max(above, default=0) <= depth
        assert most is None or len(pages) <= most
        for page, count in zip(pages, found.hidden.tolist(), strict=True):
            hidden = [p for p in chosen.tolist() if page in tree.ancestors(p) and p not in pages]
            assert count in (0, len(hidden))
        if most is None:
            assert found.rest == 0


@of_made_up_sites(5)
def test_departures_are_what_the_reference_tells(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, tree, settings = opened.resolve(), reference.Tree(site), reference.catalogue(site)
    for name in (*WORDS, "blocks.content", "topics"):
        told = {one.path for one in effective.exceptions(name).records()}
        pages = [
            path for path, row in tree.rows.items() if reference.page_has(site, settings, row["type"] or "page", name)
        ]
        expected = {path for path in pages if findings.Fold(site, tree, settings, path, name).is_exception()}
        assert (name, told) == (name, expected)
    order = np.arange(len(opened.tree))[::-1]
    found = effective.exceptions("heading.show")
    assert found.among(order).pages.tolist() == found.pages.tolist()[::-1]
