"""Outcomes and details: titles, the menu, areas, conditions, values and the tree, each a detail of the contract."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo.core.arrays import path_finder as finder
from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.texts import Texts
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.areas import composition, standing
from davlo.core.outcomes.menus.block_links import branch_links, chosen_blocks, chosen_links
from davlo.core.outcomes.menus.menu import menu_of
from davlo.core.outcomes.menus.menu_order import menu_order
from davlo.core.outcomes.placeholders import document_titles, menu_labels
from davlo.core.outcomes.sitemap.sitemap_reasons import SITEMAP_REASONS, sitemap_codes
from davlo.core.site.declarations import Block
from davlo.core.site.pages import repeated_rows
from davlo.core.site.pages.conditions import glob_pattern
from davlo.core.site.pages.tree import build_tree
from davlo.core.site.settings.values import ByDepth, ListChange, format_number
from tests.core.resolve.test_fold import open_made_up
from tests.plain import outcomes as plain
from tests.plain import resolution as reference
from tests.plain.outcomes import LAYOUTS
from tests.plain.resolution import matches_glob
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


@of_made_up_sites(7)
def test_what_readers_meet_is_what_the_reference_tells(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, values = opened.resolve(), {key: value for key, (value, *_) in reference.long_table(site).items()}
    paths = opened.tree.paths.tolist()
    for setting, told in (("title.pattern", document_titles(effective)), ("menu.label", menu_labels(effective))):
        assert told.texts() == [plain.fill(values[path, setting], plain.words_of(site, path)) for path in paths]
    for language in ("en", "fr", "", "de"):
        menu = menu_of(effective).entries(opened, language)
        listed = [(paths[p], level) for p, level in zip(menu.pages.tolist(), menu.level.tolist(), strict=True)]
        assert listed == plain.menu(site, values, language)
    for page, path in enumerate(paths):
        provided = {name for name in opened.page(path)["headings"] if name != "heading.text"}
        assert provided == plain.showing(values, path) & {"clock", "map"}
        found = composition(effective, page)
        stands = {area.area: list(area.stands) for area in found.areas}
        assert (stands, list(found.phone)) == plain.areas(values, path)
        for area in LAYOUTS["wide"]:
            columns = standing(effective, area)
            assert bool(columns.there[page]) == (area in stands)
            word = opened.statements.words[opened.setting_number(f"sidebar.{area}")].items
            code = int(columns.sidebar[page])
            assert [word[code]] * (code >= 0) == [name for kind, name in stands.get(area, []) if kind == "sidebar"] or (
                word[code] is None
            )


@of_made_up_sites(5)
def test_a_list_of_a_branch_is_what_the_reference_tells(site: SiteDict) -> None:
    opened = open_made_up(site)
    random, paths = Random(str(site["rows"])), opened.tree.paths.tolist()
    for sort in ("order", "title", "path"):
        under, levels, left = random.choice(paths), random.randint(1, 3), random.sample(paths, min(2, len(paths)))
        block = Block("b", davlo.Place(""), kind="branch-links", under=under, levels=levels, sort=sort)
        language = random.choice(["en", "fr", "", None])
        block = block._replace(leave_out=tuple(left), languages="all" if language is None else "")
        found = branch_links(opened, block, language or "")
        told = [paths[p] for p in found.pages.tolist()]
        assert told == plain.branch_links(site, under, levels, sort, left, language)
        assert found.level.tolist() == [
            opened.tree.depth[opened.tree.find(p)] - opened.tree.depth[opened.tree.find(under)] for p in told
        ]
        near = {p for p in range(len(paths)) if under in [paths[q] for q in opened.tree.ancestors(p)]}
        near = {p for p in near if opened.tree.depth[p] - opened.tree.depth[opened.tree.find(under)] <= levels}
        assert set(found.left_out.tolist()) == near - set(found.pages.tolist())


def test_lists_of_news_are_newest_first(small: Small) -> None:
    pages = "path,modified\n/,\n/a,\n/b,2026-01-01\n/c,2026-03-01\n/c/d,\n/e,2025-12-31\n"
    folder = small("blocks: {news: {kind: branch-links, under: /, levels: 2, sort: modified}}\n", pages)
    site = davlo.open_site(folder)
    found = branch_links(site, site.declarations.blocks["news"])
    assert [site.tree.paths[p] for p in found.pages.tolist()] == ["/c", "/c/d", "/b", "/e", "/a"]
    gone = site.declarations.blocks["news"]._replace(under="/gone")
    assert [len(column) for column in branch_links(site, gone)] == [0, 0, 0, 0]


def test_blocks_that_show_one_of_several_and_links(garden: Path) -> None:
    site = davlo.open_site(garden)
    assert chosen_blocks(site, "donate") == ("donate-tree", "donate-bulbs")
    links = chosen_links(site, site.declarations.blocks["quick-links"])
    assert [(link.label, link.page >= 0) for link in links] == [("Tickets", True), ("Shop", False)]


@of_made_up_sites(5)
def test_a_page_is_in_the_sitemap_or_out_for_the_first_reason(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, access = opened.resolve(), AccessModel(opened.resolve())
    for page, code in enumerate(sitemap_codes(effective).tolist()):
        path = opened.tree.paths[page]
        reasons = [
            opened.details.status[page] == "draft",
            opened.details.status[page] == "folder",
            bool(opened.details.column("leads_to")[page]),
            "view" not in access.actions("visitor", page) and opened.details.status[page] != "draft",
            effective[path]["sitemap.include"] is False,
            effective[path]["robots.index"] is False,
        ]
        assert code == (reasons.index(True) + 1 if True in reasons else 0)


def test_titles_fill_placeholders(small: Small) -> None:
    pages = "path,title,type,language,season\n/,Home,,en,\n/a,Trees,,en,\n/a/b,Oak & co,note,fr,autumn\n"
    pattern = "{title}|{site}|{branch}|{parent}|{type}|{language}|{season}|{{x}}|{unknown}"
    folder = small(f'types: {{note: {{label: A note}}}}\neverywhere: {{title.pattern: "{pattern}"}}\n', pages)
    titles = document_titles(davlo.open_site(folder).resolve())
    assert titles[2] == "Oak & co|Small|Trees|Trees|A note|fr|autumn|{x}|{unknown}"
    assert titles[1].startswith("Trees|Small|Trees|Home|")
    assert titles[0].startswith("Home|Small|Home||")


def test_the_menu_is_ordered_by_order_then_path(small: Small) -> None:
    pages = "path,order\n/,\n/b,\n/a,\n/c,1\n/c/y,\n/c/x,\n"
    site = davlo.open_site(small(pages=pages))
    assert [site.tree.paths[p] for p in menu_order(site).tolist()] == ["/", "/c", "/c/x", "/c/y", "/a", "/b"]


def test_siblings_whose_paths_lie_elsewhere_are_sorted_by_their_whole_paths(small: Small) -> None:
    pages = "path,parent\n/,\n/z,/long\n/long,\n/long/a,\n/c,/long\n/long/a-b,\n"
    site = davlo.open_site(small(pages=pages))
    told = [site.tree.paths[p] for p in menu_order(site, site.tree.number("/long")).tolist()]
    assert told == ["/long", "/c", "/long/a", "/long/a-b", "/z"]


def test_areas_hold_band_sidebar_layout_blocks_and_blocks_in_that_order(garden: Path) -> None:
    effective = davlo.open_site(garden).resolve()
    record = effective.site.tree.number("/plants/roses/dog-rose")
    found = {area.area: area.stands for area in composition(effective, record).areas}
    assert found == {
        "masthead": (("band", "masthead-main"),),
        "menu": (("band", "menu-main"),),
        "content": (("layout block", "plate"), ("layout block", "facts-box")),
        "right": (("sidebar", "plant-finder"),),
        "footer": (("band", "footer-legal"),),
    }
    night = effective.site.tree.number("/campaigns/spring")
    assert {a.area: a.theme_name for a in composition(effective, night).areas} == {
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
    tree, order, _, faults, _ = build_tree(
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
            patch.setattr(
                repeated_rows, "path_marks", lambda t: finder.path_marks(t)._replace(whole=alike, before=alike)
            )
        tree, _, _, faults, _ = build_tree(
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
        (ListChange(add=("c", "a")), ("a", "b"), ("a", "b", "c")),
        (ListChange(first=("c", "a")), ("a", "b"), ("c", "a", "b")),
        (ListChange(remove=("a",), first=("a",)), ("b", "a"), ("a", "b")),
        (ListChange(remove=("x",)), ("a",), ("a",)),
    ],
)
def test_a_change_removes_then_puts_first_then_adds(
    change: ListChange, items: tuple[str, ...], expected: tuple[str, ...]
) -> None:
    assert change.apply(items) == expected


def test_numbers_by_depth_and_as_texts() -> None:
    by_depth = ByDepth(1.0, 0.15, 0.3)
    assert [format_number(by_depth.at(depth)) for depth in (0, 1, 4, 9)] == ["1", "0.85", "0.4", "0.3"]
    assert [format_number(n) for n in (1.0, 0.5, 100.0, -0.0, 1e-7)] == ["1", "0.5", "100", "0", "0.0000001"]
