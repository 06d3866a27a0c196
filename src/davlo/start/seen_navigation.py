"""Blocks that differ from page to page in their links alone, and are one and the same.

Navigation shows more links in the open section: the block is what nearly all pages show of it. A logo, or another link
of the same words everywhere, leads elsewhere in each section: the block is its words.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TypeVar

from davlo.files.built.built_page import BuiltArea, BuiltBlock, Link

SHARE = 0.9
"""A link belongs to a navigation if it stands in this share of its copies."""
LEAST_LINKS, LEAST_PAGES = 2, 4

_T = TypeVar("_T")
_Slot = tuple[str, str, str, int]
"""Where a navigation stands: the area, the language of the page, its heading, and how many with it stand above."""


def with_one_navigation(
    pages: Sequence[Sequence[BuiltArea]], language: Sequence[str]
) -> tuple[list[tuple[BuiltArea, ...]], list[int]]:
    """The areas of pages, in which a navigation holds the links that nearly all of its copies have.

    `pages`: the areas of each page; links lead to paths of pages. `language`: the language of each page. Gives the
    areas, and the pages whose navigation has more links.
    """
    copies: dict[_Slot, Counter[BuiltBlock]] = {}
    for areas, code in zip(pages, language, strict=True):
        for slot, block in _slots(areas, code):
            copies.setdefault(slot, Counter())[block] += 1
    common = {slot: found for slot, blocks in copies.items() if (found := _common(blocks)) is not None}
    targets = {slot: _targets(block) for slot, block in common.items()}
    made, opened = list[tuple[BuiltArea, ...]](), list[int]()
    known = dict[tuple[int, str], tuple[tuple[BuiltArea, ...], int]]()  # pages of a section have the same areas
    for page, (areas, code) in enumerate(zip(pages, language, strict=True)):
        key = (id(areas), code)
        if key not in known:
            known[key] = _with_common(areas, code, common, targets)
        made.append(known[key][0])
        opened += [page] * known[key][1]
    return made, opened


def _with_common(
    areas: Sequence[BuiltArea], code: str, common: Mapping[_Slot, BuiltBlock], targets: Mapping[_Slot, set[str]]
) -> tuple[tuple[BuiltArea, ...], int]:
    """The areas of a page with what all copies of its navigations have, and how many of these show more."""
    instead, opened = dict[int, BuiltBlock](), 0
    for slot, block in _slots(areas, code):
        whole = common.get(slot)
        if whole is None or not (whole.links or whole.text == block.text):
            continue
        mine = _targets(block)
        if targets[slot] <= mine:
            instead[id(block)] = whole
            opened += bool(whole.links) and len(mine) > len(targets[slot])
    if not instead:
        return tuple(areas), opened
    return tuple(
        area._replace(blocks=tuple(instead.get(id(one), one) for one in area.blocks)) for area in areas
    ), opened


def _slots(areas: Sequence[BuiltArea], language: str) -> Iterator[tuple[_Slot, BuiltBlock]]:
    """The navigations of a page, each with its place."""
    for area in areas:
        seen: Counter[str] = Counter()
        for block in area.blocks:
            if block.links and (block.is_navigation or block.is_list):
                yield (area.name, language, block.heading, seen[block.heading]), block
                seen[block.heading] += 1


def _common(copies: Counter[BuiltBlock]) -> BuiltBlock | None:
    """The links that nearly all copies have, in the order of the most common copy; None where there are too few."""
    number = sum(copies.values())
    if len(copies) == 1 or number < LEAST_PAGES:
        return None
    first = copies.most_common(1)[0][0]
    counts = _weighted((_targets(block), pages) for block, pages in copies.items())
    label: dict[str, str] = {}
    for (words, target), _ in _weighted((block.links, pages) for block, pages in copies.items()).most_common():
        label.setdefault(target, words)
    order = dict.fromkeys(target for _, target in first.links)
    links: list[Link] = [(label[target], target) for target in order if counts[target] >= SHARE * number]
    with_its_words = sum(pages for block, pages in copies.items() if block.text == first.text)
    if len(links) * 2 < len(first.links) and with_its_words >= SHARE * number:
        return first._replace(words=first.text, links=(), is_list=False)
    if len(links) < LEAST_LINKS:
        return None
    return BuiltBlock(first.heading, "", tuple(links), True, first.is_navigation)


def _weighted(some: Iterable[tuple[Iterable[_T], int]]) -> Counter[_T]:
    """How often things occur in groups, each of which counts a number of times."""
    by_weight: dict[int, Counter[_T]] = {}
    for things, weight in some:
        by_weight.setdefault(weight, Counter()).update(things)
    found: Counter[_T] = Counter()
    for weight, counts in by_weight.items():
        for thing, count in counts.items():
            found[thing] += weight * count
    return found


def _targets(block: BuiltBlock) -> set[str]:
    return {target for _, target in block.links}
