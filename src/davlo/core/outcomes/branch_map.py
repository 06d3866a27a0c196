"""A map of one setting: the branches of the tree gathered into few boxes, each with how many pages have which value."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from heapq import heappop, heappush
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..site.model import SiteModel
from ..site.pages.tree import Tree
from ..site.settings.values import Plain, Value
from .access.who_may_act import who_may_act
from .menus.menu_order import sorted_siblings
from .shown_values import ShownValues

if TYPE_CHECKING:
    from ..resolve.effective import EffectiveModel

MAY = "may:"
"""What begins the name of a map that shows who may do an action."""
MOST_BOXES = 200
MOST_VALUES = 8
FEW = 12
"""If a page has more children than there is room for, this many get boxes of their own at a time."""
Pages = NDArray[np.int64]


class Group(NamedTuple):
    """Pages that a map shows alike."""

    # `value`: they have one value; `other`: they have one of the rarer values, which have no colour of their own;
    # `lacks`: their type does not have the setting
    kind: str
    value: Plain  # of `value`; else None
    values: int  # how many different values they have
    pages: int


class Box(NamedTuple):
    """A part of the tree."""

    # the page that it begins with; where several branches are gathered, the page that they are under, -1 at the top
    page: int
    level: int  # how many boxes it stands in
    # 0: the page alone, what is below it has boxes of its own. 1: its whole branch. More: that many branches.
    branches: int
    pages: int  # how many pages it covers
    counts: tuple[int, ...]  # how many of them are of each group
    exceptions: int  # how many of them are exceptions
    not_shown: int  # on how many of them the value is not shown


class BranchMap(NamedTuple):
    """One setting over the tree."""

    setting: str
    top: int  # the page whose branch it is; -1: all pages
    groups: tuple[Group, ...]  # those with the most pages first; `other` and `lacks` last
    boxes: tuple[Box, ...]  # as the menu sorts them, each before those in it. Every page is in one.


def branch_map(effective: EffectiveModel, setting: str, top: int = -1, most: int = MOST_BOXES) -> BranchMap:
    """One setting, or who may do an action (`may:edit`), over the tree or a branch, in a limited number of boxes.

    What differs most within is opened first, so that exceptions have boxes of their own. A branch that is all alike
    stays closed.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> found = branch_map(effective, "layout.theme")
    >>> [(group.value, group.pages) for group in found.groups], len(found.boxes)
    ([('day', 149), ('evening', 9)], 43)
    >>> small = branch_map(effective, "layout.theme", most=20)
    >>> len(small.boxes), sum(box.pages for box in small.boxes)
    (19, 158)
    """
    site = effective.site
    pages = slice(0, len(site.tree)) if top < 0 else slice(top, int(site.tree.end[top]))
    is_exception: Mask = np.zeros(len(site.tree), dtype=bool)
    if setting.startswith(MAY):
        found = who_may_act(effective, setting.removeprefix(MAY))
        groups, of = _groups(found.codes, found.words, ~is_exception, pages)
        marks = (is_exception, is_exception)
    else:
        value, _, words = effective.resolved(site.setting_number(setting))
        groups, of = _groups(value, words, site.has(site.setting_number(setting)), pages)
        is_exception[effective.exceptions(setting).pages] = True
        marks = (is_exception, ~effective.shared(ShownValues).pages(setting))
    return BranchMap(setting, top, groups, tuple(_gathered(site, of, len(groups), marks, top, most)))


def _groups(value: Codes, words: Sequence[Value], has: Mask, pages: slice) -> tuple[tuple[Group, ...], Codes]:
    """The groups of some pages, and for each page of the site its group (of those pages alone it counts)."""
    counts = np.bincount(value[pages][has[pages]], minlength=len(words))
    there = np.flatnonzero(counts)
    by_count = there[np.argsort(-counts[there], kind="stable")]
    told = by_count if len(by_count) <= MOST_VALUES else by_count[: MOST_VALUES - 1]
    others = by_count[len(told) :]
    groups = [Group("value", words[code], 1, int(counts[code])) for code in told.tolist()]
    group_of_code = np.zeros(len(words), dtype=np.int32)
    group_of_code[told] = np.arange(len(told))
    if len(others):
        group_of_code[others] = len(groups)
        groups.append(Group("other", None, len(others), int(counts[others].sum())))
    of = group_of_code[value]
    lacking = int(np.count_nonzero(~has[pages]))
    if lacking:
        of = np.where(has, of, len(groups)).astype(np.int32)
        groups.append(Group("lacks", None, 0, lacking))
    return tuple(groups), of


@dataclass(slots=True)
class _Opened:
    """A page whose branch is open: the children with boxes of their own, and the others, the most important first."""

    shown: list[int] = field(default_factory=list)
    rest: Pages = field(default_factory=lambda: np.zeros(0, dtype=np.int64))


class _Sums:
    """For each branch: how many pages of each group, how many exceptions, and on how many the value is not shown."""

    def __init__(self, tree: Tree, of: Codes, groups: int, marks: tuple[Mask, Mask]) -> None:
        self.end = tree.end
        self._before = np.zeros((groups + len(marks), len(tree) + 1), dtype=np.int32)
        for group in range(groups):
            np.cumsum(of == group, out=self._before[group, 1:])
        for i, mark in enumerate(marks):
            np.cumsum(mark, out=self._before[groups + i, 1:])

    def of_branches(self, pages: Pages) -> NDArray[np.int64]:
        """For each page: its branch, by group, then the exceptions and those on which the value is not shown.

        int64[groups + 2, pages]
        """
        return (self._before[:, self.end[pages]] - self._before[:, pages]).astype(np.int64)

    def of_page(self, page: int) -> NDArray[np.int64]:
        """The page alone, in the same way. int64[groups + 2]"""
        return (self._before[:, page + 1] - self._before[:, page]).astype(np.int64)

    def area_text(self, pages: Pages) -> NDArray[np.int64]:
        """How much each branch has to show: the pages that differ from the majority, and the exceptions."""
        found = self.of_branches(pages)
        return _odd(found)


def _odd(sums: NDArray[np.int64]) -> NDArray[np.int64]:
    groups, marks = sums[:-2], sums[-2:]
    found: NDArray[np.int64] = groups.sum(axis=0) - groups.max(axis=0) + marks.sum(axis=0)
    return found


def _is_mixed(sums: NDArray[np.int64]) -> Mask:
    """Whether the pages of each branch are not all alike. bool[pages]"""
    pages = sums[:-2].sum(axis=0)
    mixed: Mask = ((sums > 0) & (sums < pages)).any(axis=0)
    return mixed


def _gathered(site: SiteModel, of: Codes, groups: int, marks: tuple[Mask, Mask], top: int, most: int) -> Iterator[Box]:
    """The boxes, in the order of the menu."""
    tree = site.tree
    sums = _Sums(tree, of, groups, marks)
    roots = np.flatnonzero(tree.parent == -1) if top < 0 else np.array([top], dtype=np.int64)
    opened = _open_most_telling(tree, sums, roots, most)

    def boxes(above: int, level: int) -> Iterator[Box]:
        here = opened[above]
        for page in sorted_siblings(site, here.shown):
            found = sums.of_page(page) if page in opened else sums.of_branches(np.array([page]))[:, 0]
            yield _box(page, level, int(page not in opened), found)
            if page in opened:
                yield from boxes(page, level + 1)
        if len(here.rest):
            yield _box(above, level, len(here.rest), sums.of_branches(here.rest).sum(axis=1))

    yield from boxes(-1, 0)


def _box(page: int, level: int, branches: int, sums: NDArray[np.int64]) -> Box:
    *counts, exceptions, not_shown = sums.tolist()
    return Box(page, level, branches, sum(counts), tuple(counts), exceptions, not_shown)


def _open_most_telling(tree: Tree, sums: _Sums, roots: Pages, most: int) -> dict[int, _Opened]:
    """The pages to open while boxes are left: each time the branch, or the gathered rest, with the most to show."""
    opened: dict[int, _Opened] = {}
    heap: list[tuple[int, int, int, bool]] = []
    room = most

    def put(page: int, area_text: int, size: int, is_rest: bool) -> None:
        heappush(heap, (-area_text, -size, page, is_rest))

    def take(above: int, children: Pages) -> int:
        """Some of these get boxes; how many boxes more there are."""
        here = opened[above]
        some = children if len(children) <= room else children[: min(FEW, room - 1)]
        here.shown += some.tolist()
        mixed = some[_is_mixed(sums.of_branches(some))]  # a branch that is all alike stays closed
        sizes = (tree.end[mixed] - mixed).tolist()
        for page, area_text, size in zip(mixed.tolist(), sums.area_text(mixed).tolist(), sizes, strict=True):
            put(page, area_text, size, False)
        here.rest = children[len(some) :]
        if len(here.rest):
            found = sums.of_branches(here.rest).sum(axis=1, keepdims=True)
            if _is_mixed(found)[0]:
                put(above, int(_odd(found)[0]), int(found[:-2].sum()), True)
        return len(some) + int(len(here.rest) > 0)

    opened[-1] = _Opened()
    room -= take(-1, _most_telling_first(tree, sums, roots))
    while heap and room > 0:
        _, _, page, is_rest = heappop(heap)
        if is_rest:
            children = opened[page].rest
            room += 1
        else:
            children = page + 1 + np.flatnonzero(tree.parent[page + 1 : tree.end[page]] == page)
            children = _most_telling_first(tree, sums, children)
        if len(children) > room and room < 2:
            room -= int(is_rest)
            continue
        if not is_rest:
            opened[page] = _Opened()
        room -= take(page, children)
    return opened


def _most_telling_first(tree: Tree, sums: _Sums, pages: Pages) -> Pages:
    found: Pages = pages[np.lexsort((pages, pages - tree.end[pages], -sums.area_text(pages)))]
    return found
