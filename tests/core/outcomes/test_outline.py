"""Outlines and departures: what is shown of a tree, and which pages have another value than they would inherit."""

from __future__ import annotations

from random import Random

import numpy as np

from davlo.core.outcomes.menu_order import menu_order
from davlo.core.outcomes.outline import outline
from tests.core.resolve.test_fold import open_made_up
from tests.plain import resolution as reference
from tests.sites import WORDS, SiteDict, of_made_up_sites


@of_made_up_sites(40)
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


@of_made_up_sites(40)
def test_departures_are_what_the_reference_tells(site: SiteDict) -> None:
    """A page departs where it has another value than in the same site without rules, stamps and what pages say."""
    opened = open_made_up(site)
    effective = opened.resolve()
    plain = {
        **site,
        "rows": [{key: cell for key, cell in row.items() if key not in site["columns"]} for row in site["rows"]],
        "rules": [],
        "stamps": [],
        "columns": [],
        "values": [row for row in site["values"] if not row["where"].startswith("here")],
        "pages": {
            path: {scope: body for scope, body in scopes.items() if scope != "here"}
            for path, scopes in site["pages"].items()
        },
    }
    whole, tree = reference.long_table(site), reference.Tree(plain)
    settings = reference.catalogue(site)
    for name in WORDS:
        if settings[name]["flow"] == "stamped":
            continue  # of those nothing comes down to a page that is there
        told = {one.path for one in effective.departures(name).records()}
        for path in tree.rows:
            if (path, name) not in whole:
                assert path not in told
                continue
            own = {scope: body for scope, body in plain["pages"].get(path, {}).items() if scope == "below"}
            without = {**plain, "pages": {**plain["pages"], path: own}}
            inherited = reference.resolve(without, tree, settings, path, name)[0]
            assert (path in told) == (whole[path, name][0] != inherited)
    order = np.arange(len(opened.tree))[::-1]
    found = effective.departures("title.show")
    assert found.among(order).pages.tolist() == found.pages.tolist()[::-1]
