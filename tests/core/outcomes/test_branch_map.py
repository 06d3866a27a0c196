"""The map of a setting: every page stands in one box, boxes tell what is in them, and exceptions are not gathered."""

from __future__ import annotations

import pytest

import davlo
from davlo.core.outcomes.branch_map import Box, BranchMap, branch_map
from davlo.core.outcomes.menus.menu_order import menu_order
from davlo.site import Site
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites


def pages_of(site: Site, found: BranchMap, at: int) -> list[int]:
    """The pages that a box stands for, told plainly."""
    box = found.boxes[at]
    tree = site.tree
    if box.branches == 0:
        return [box.page]
    if box.branches == 1 and not _is_rest(found, at):
        return list(range(box.page, int(tree.end[box.page])))
    own = {one.page for i, one in enumerate(found.boxes) if not _is_rest(found, i)}
    children = tree.children(box.page) if found.top < 0 or box.page >= 0 else [found.top]
    gathered = [child for child in children if child not in own]
    assert len(gathered) == box.branches
    return [page for child in gathered for page in range(child, int(tree.end[child]))]


def _is_rest(found: BranchMap, at: int) -> bool:
    """Whether a box is what is left of the children of a page that has a box of its own before."""
    box = found.boxes[at]
    return box.page < 0 or any(one.page == box.page for one in found.boxes[:at])


def enclosing(boxes: tuple[Box, ...], at: int) -> int:
    """The page whose box one stands in; -1: none."""
    return next((boxes[i].page for i in range(at - 1, -1, -1) if boxes[i].level < boxes[at].level), -1)


@of_made_up_sites(7)
def test_boxes_hold_every_page_once_and_tell_what_is_in_them(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, tree = opened.resolve(), opened.tree
    rank = {page: i for i, page in enumerate(menu_order(opened).tolist())}
    for setting in ("sidebar.right", "weight", "title.pattern"):
        number = opened.setting_number(setting)
        exceptions = set(effective.exceptions(setting).pages.tolist())
        for top, most in ((-1, 200), (-1, 4), (-1, 7), (0, 3), (len(tree) // 2, 5)):
            found = branch_map(effective, setting, top, most)
            expected = list(range(len(tree))) if top < 0 else list(range(top, int(tree.end[top])))
            assert len(found.boxes) <= most or most < 2
            held = [pages_of(opened, found, i) for i in range(len(found.boxes))]
            assert sorted(page for pages in held for page in pages) == expected
            for i, (box, pages) in enumerate(zip(found.boxes, held, strict=True)):
                assert (box.pages, sum(box.counts)) == (len(pages), len(pages))
                assert box.exceptions == len(exceptions & set(pages))
                assert box.not_shown == int((~effective.shown.pages(setting))[pages].sum())
                values = [
                    effective.value(page, number) if bool(opened.has(number)[page]) else "lacks" for page in pages
                ]
                for group, counted in zip(found.groups, box.counts, strict=True):
                    if group.kind == "value":
                        assert counted == values.count(group.value)
                    elif group.kind == "lacks":
                        assert counted == values.count("lacks")
                is_rest = _is_rest(found, i)
                assert (
                    enclosing(found.boxes, i) == (box.page if is_rest else int(tree.parent[box.page])) or box.level == 0
                )
            shown = [box.page for i, box in enumerate(found.boxes) if not _is_rest(found, i)]
            assert shown == sorted(shown, key=rank.__getitem__)
            assert [sum(box.counts[i] for box in found.boxes) for i in range(len(found.groups))] == [
                group.pages for group in found.groups
            ]


def wide_site(exceptional: str) -> Site:
    """Three thousand pages that have one value, and one that has another."""
    paths = ["/", *(f"/s{i}" for i in range(30)), *(f"/s{i}/p{j}" for i in range(30) for j in range(99))]
    decisions = {
        "davlo": 1,
        "site": {"name": "Wide", "url": "https://wide.example"},
        "pages": {exceptional: {"here": {"title.limit": 9}}},
    }
    return Site.from_frames({"path": paths}, decisions)


@pytest.mark.parametrize("exceptional", ["/s7/p61", "/s0/p98", "/s29"])
def test_an_exception_stands_in_a_box_of_its_own_however_many_pages_there_are(exceptional: str) -> None:
    site = wide_site(exceptional)
    found = branch_map(site.resolve(), "title.limit", most=45)
    assert [(group.value, group.pages) for group in found.groups] == [(60, 3000), (9, 1)]
    alone = [box for box in found.boxes if box.counts == (0, 1)]
    assert [(site.tree.paths[box.page], box.pages, box.exceptions) for box in alone] == [(exceptional, 1, 1)]
    assert 40 <= len(found.boxes) <= 45


def test_few_values_have_groups_of_their_own_and_the_rest_is_counted() -> None:
    paths = ["/", *(f"/p{i}" for i in range(40))]
    limits = [str(i % 12 + 20) for i in range(41)]
    decisions = {"davlo": 1, "site": {"name": "Many", "url": "https://many.example"}}
    site = Site.from_frames({"path": paths, "title.limit": limits}, decisions)
    groups = branch_map(site.resolve(), "title.limit").groups
    assert [(group.kind, group.values, group.pages) for group in groups] == [
        *[("value", 1, 4)] * 5,
        *[("value", 1, 3)] * 2,
        ("other", 5, 15),
    ]
    assert branch_map(davlo.open_demo().resolve(), "audio-guide").groups[-1].kind == "lacks"
