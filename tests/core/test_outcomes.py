"""Outcomes and facts: titles, the menu, areas, conditions, values and the tree, each a fact of the contract."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo.core import finder
from davlo.core import tree as module
from davlo.core.columns import Column
from davlo.core.conditions import glob_pattern
from davlo.core.outcomes import (
    SITEMAP_REASONS,
    areas_of,
    document_titles,
    in_menu,
    is_yes,
    sibling_order,
    sitemap_codes,
)
from davlo.core.texts import Texts
from davlo.core.tree import build_tree
from davlo.core.values import ByDepth, Change, format_number
from tests.core.test_resolve import open_made_up
from tests.reference import matches_glob
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


@of_made_up_sites(40)
def test_a_page_in_the_menu_has_all_its_ancestors_in_it(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective = opened.resolve()
    shown, wants = in_menu(effective), is_yes(effective, "menu.show") & opened.facts.live
    for page in range(len(opened.tree)):
        above = [p for p in opened.tree.ancestors(page) if p != opened.facts.home]
        assert shown[page] == (wants[page] and all(wants[p] for p in above))


@of_made_up_sites(25)
def test_a_page_is_in_the_sitemap_or_out_for_the_first_reason(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, access = opened.resolve(), opened.access()
    for page, code in enumerate(sitemap_codes(effective).tolist()):
        path = opened.tree.paths[page]
        reasons = [
            opened.facts.status[page] == "draft",
            "view" not in access.actions("visitor", page) and opened.facts.status[page] == "live",
            effective[path]["sitemap.include"] is False,
            effective[path]["robots.index"] is False,
        ]
        assert code == (reasons.index(True) + 1 if True in reasons else 0)


def test_titles_fill_placeholders(small: Small) -> None:
    pages = "path,title,type,language,season\n/,Home,,en,\n/a,Trees,,en,\n/a/b,Oak & co,note,fr,autumn\n"
    pattern = "{title}|{site}|{section}|{parent}|{type}|{language}|{season}|{{x}}|{unknown}"
    folder = small(f'types: {{note: {{label: A note}}}}\neverywhere: {{title.pattern: "{pattern}"}}\n', pages)
    titles = document_titles(davlo.open_site(folder).resolve())
    assert titles[2] == "Oak & co|Small|Trees|Trees|A note|fr|autumn|{x}|{unknown}"
    assert titles[1].startswith("Trees|Small|Trees|Home|")
    assert titles[0].startswith("Home|Small|Home||")


def test_the_menu_is_ordered_by_order_then_path(small: Small) -> None:
    pages = "path,order\n/,\n/b,\n/a,\n/c,1\n/c/y,\n/c/x,\n"
    site = davlo.open_site(small(pages=pages))
    assert [site.tree.paths[p] for p in sibling_order(site)] == ["/", "/c", "/c/x", "/c/y", "/a", "/b"]


def test_areas_hold_band_sidebar_layout_blocks_and_blocks_in_that_order(garden: Path) -> None:
    effective = davlo.open_site(garden).resolve()
    record = effective.site.tree.number("/plants/roses/dog-rose")
    found = {area.area: area.stands for area in areas_of(effective, record)}
    assert found == {
        "masthead": (("band", "masthead-main"),),
        "menu": (),
        "content": (("layout block", "plate"), ("layout block", "facts-box")),
        "right": (("sidebar", "plant-finder"),),
        "footer": (("band", "footer-legal"),),
    }
    night = effective.site.tree.number("/campaigns/spring")
    assert {a.area: a.theme_name for a in areas_of(effective, night)} == {
        "masthead": "masthead",
        "menu": "top-links",
        "content": "content",
        "footer": "",
    }


def test_why_the_sitemap_leaves_pages_out(small: Small) -> None:
    pages = (
        "path,status,menu.show,sitemap.priority,sitemap.include\n/,,,,\n/a,draft,no,,\n/b,,no,,\n/c,,,0.1,\n/d,,,,no\n"
    )
    site = davlo.open_site(small("sitemap: {leave_out: {menu_hidden: yes, priority_under: 0.2}}\n", pages))
    codes = sitemap_codes(site.resolve())
    assert [SITEMAP_REASONS[code].split(",")[0] for code in codes.tolist()] == [
        "",
        "it is a draft",
        "menu.show is no",
        "its priority is under sitemap.leave_out's priority_under",
        "sitemap.include is no",
    ]


@given(st.text("/ab*", max_size=7), st.text("/ab", max_size=7))
def test_globs_match_as_the_reference_does(glob: str, path: str) -> None:
    assert bool(glob_pattern(glob).fullmatch("/" + path)) == matches_glob(glob, "/" + path)


@given(st.lists(st.integers(0, 30), min_size=1, max_size=40))
def test_a_branch_is_a_slice(choices: list[int]) -> None:
    paths = [f"/{i}" for i in range(len(choices))]
    parents = [paths[choice] if choice < i else "" for i, choice in enumerate(choices)]
    lines = np.arange(len(paths), dtype=np.int32)
    tree, order, _, faults = build_tree(
        Texts.of(paths), Column.of(parents), lines, lambda line, column: davlo.Place("pages.csv", line, column)
    )
    assert faults == []
    assert tree.paths.tolist() == [paths[row] for row in order.tolist()]
    for page in range(len(tree)):
        said = parents[int(order[page])]
        assert tree.parent[page] == (tree.find(said) if said else -1)
        inside = [p for p in range(len(tree)) if page in tree.ancestors(p)]
        assert inside == list(range(page + 1, int(tree.end[page])))
        assert tree.depth[page] == len(tree.ancestors(page))


SEGMENTS = st.sampled_from(["a", "b", "ab", "x" * 40, "é"])


@given(st.sets(st.lists(SEGMENTS, max_size=4).map(lambda words: "/" + "/".join(words))), st.booleans())
def test_a_page_hangs_under_its_longest_prefix_also_where_fingerprints_collide(paths: set[str], collide: bool) -> None:
    given_paths = sorted(paths, key=len, reverse=True)
    lines = np.arange(len(paths), dtype=np.int32)
    with pytest.MonkeyPatch.context() as patch:
        if collide:
            alike = np.zeros(len(paths), np.uint64)
            patch.setattr(finder, "fingerprints", lambda texts, end=None: np.zeros(len(texts), np.uint64))
            patch.setattr(module, "path_marks", lambda t: finder.path_marks(t)._replace(whole=alike, before=alike))
        tree, _, _, faults = build_tree(
            Texts.of(given_paths), Column.blank(len(paths)), lines, lambda line, column: davlo.Place("", line, column)
        )
    assert faults == []
    for page, path in enumerate(tree.paths):
        cuts = [cut for cut in range(len(path)) if path[cut] == "/"]
        prefixes = [path[:cut] or "/" for cut in cuts if (path[:cut] or "/") != path]
        known = [prefix for prefix in prefixes if prefix in paths]
        above = int(tree.parent[page])
        assert (tree.paths[above] if above >= 0 else "") == max(known, key=len, default="")


@pytest.mark.parametrize(
    ("change", "items", "expected"),
    [
        (Change(add=("c", "a")), ("a", "b"), ("a", "b", "c")),
        (Change(first=("c", "a")), ("a", "b"), ("c", "a", "b")),
        (Change(remove=("a",), first=("a",)), ("b", "a"), ("a", "b")),
        (Change(remove=("x",)), ("a",), ("a",)),
    ],
)
def test_a_change_removes_then_puts_first_then_adds(
    change: Change, items: tuple[str, ...], expected: tuple[str, ...]
) -> None:
    assert change.apply(items) == expected


def test_numbers_by_depth_and_as_texts() -> None:
    by_depth = ByDepth(1.0, 0.15, 0.3)
    assert [format_number(by_depth.at(depth)) for depth in (0, 1, 4, 9)] == ["1", "0.85", "0.4", "0.3"]
    assert [format_number(n) for n in (1.0, 0.5, 100.0, -0.0, 1e-7)] == ["1", "0.5", "100", "0", "0.0000001"]
