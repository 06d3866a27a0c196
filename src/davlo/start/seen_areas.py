"""The areas of built pages as declarations: equal contents on many pages become one sidebar, band or block.

Only their content tells which pieces are the same: their heading, their words and where their links lead.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple, TypeAlias

from davlo.core.outcomes.areas import CONTENT
from davlo.core.site.settings.values import Raw
from davlo.files.built.built_page import BuiltArea, BuiltBlock, Link

from .seen_site import Remark, Seen, in_order, kind_of_area, name_from

MENU = "site-menu"
BANDS = ("masthead", "menu", "footer")
"""Areas of these names, and those with a number after them, hold bands; all others hold sidebars."""
FEW = 12
"""Pieces on single pages are declared if an area has no more than this, and if it is on twice as many pages."""
MOST_PAGES_FOR_TWO = 1000
"""On larger sites a piece must stand on one page in 500 to be declared."""
LONGEST_TEXT = 300
PAGES_A_STATEMENT = 4
"""On larger sites an area is declared if there are as many pages for each statement about it, on average."""
DEEPEST = 100
"""How far up pages are searched for the contents of an area."""
_PAGE_ENDINGS = ("html", "htm", "xhtml", "php", "aspx", "asp", "jsp", "")


class SeenAreas(NamedTuple):
    """The contents of the areas of pages."""

    # `layout.name`, `sidebar.AREA` and `band.AREA` for each page; None where nothing was recovered
    values: dict[str, list[Seen]]
    declared: dict[str, dict[str, Raw]]  # layouts, sidebars, bands and blocks, by section
    lost: tuple[Remark, ...]  # what could not be recovered


def seen_areas(
    pages: Sequence[Sequence[BuiltArea]],
    menus: Mapping[BuiltBlock, int],
    addresses: Sequence[str],
    shown: Sequence[bool],
    parent: Sequence[int],
    types: Sequence[str],
) -> SeenAreas:
    """The contents of the areas of pages, as declarations and values.

    An area whose contents few statements explain is declared; any other is left to the site's program.

    `pages`: the areas of each page; links lead to paths of pages. `menus`: the blocks that are the site's menu, and how
    many levels of the tree they show. `addresses`: what each page is called in remarks. `shown`: whether a page shows
    anything, and does not only lead elsewhere. `parent`: the number of the page above; -1 where there is none.
    `types`: the type of each page; may be empty.
    """
    found, contents, lost = _Pieces(menus), _contents(pages), list[Remark]()
    elsewhere = list[str]()
    for name, column in contents.items():
        there = [page for page, content in enumerate(column) if content is not None]
        statements = _changes(column, shown, parent, types)
        few = max(FEW, sum(shown) // PAGES_A_STATEMENT)
        if statements > few or not any(column[page] for page in there):
            elsewhere.append(name)
            what = f"what the area {name} holds: it differs from page to page (filled_elsewhere)"
            lost.append(Remark(what, len(there), addresses[there[0]], True))
            continue
        partly = [page for page in there if len(_blocks_of(pages[page], name)) > len(column[page] or ())]
        if partly:
            what = f"parts of the area {name} that stand on few pages"
            lost.append(Remark(what, len(partly), addresses[partly[0]], True))
    names = [[area.name for area in areas] for areas in pages]
    values: dict[str, list[Seen]] = {"layout.name": found.layouts(names, elsewhere, shown)}
    bare = [page for page, areas in enumerate(names) if not areas and shown[page]]
    if bare:
        what = "the areas of pages without landmarks (name them by CSS selectors: --areas FILE)"
        lost.append(Remark(what, len(bare), addresses[bare[0]], True))
    for name, column in contents.items():
        if name in elsewhere:
            continue
        family = "band" if kind_of_area(name) in BANDS else "sidebar"
        known = dict.fromkeys(content for content in column if content)
        rank = Counter(block for content in known for block in {*content})
        labels = _labels(pages, name, column)
        given = {content: found.holder(family, name, content, labels[content], rank) for content in known}
        is_rare = sum(content is not None for content in column) * 2 < sum(shown)
        lacking = "none" if is_rare else None  # so that no statement reaches many pages whose layout lacks the area
        values[f"{family}.{name}"] = [
            lacking if content is None else given[content] if content else "none" for content in column
        ]
    if found.files:
        lost.append(Remark("links in blocks that lead to files that are no pages", 0, found.files[0], True))
    return SeenAreas(values, found.declared, tuple(lost))


_Content: TypeAlias = "tuple[BuiltBlock, ...] | None"
"""The blocks of an area that several pages share; None on a page that has no such area."""


def _contents(pages: Sequence[Sequence[BuiltArea]]) -> dict[str, list[_Content]]:
    """For each area and page, the blocks that several pages share; where few are on single pages, those too."""
    least = 2 if len(pages) <= MOST_PAGES_FOR_TWO else len(pages) // 500
    counts = Counter(block for areas in pages for block in {block for area in areas for block in area.blocks})
    uses = Counter(area.name for areas in pages for area in areas)
    singles = Counter(area.name for areas in pages for area in areas for block in area.blocks if counts[block] < least)
    few = {name for name in uses if singles[name] <= min(FEW, uses[name] // 2)}
    found: dict[str, list[_Content]] = {}
    for page, areas in enumerate(pages):
        for area in areas:
            if area.name != CONTENT:
                some = tuple(block for block in area.blocks if counts[block] >= least or area.name in few)
                found.setdefault(area.name, [None] * len(pages))[page] = some
    return found


def _changes(column: Sequence[_Content], shown: Sequence[bool], parent: Sequence[int], types: Sequence[str]) -> int:
    """On how many pages an area holds neither what the page above has nor what most pages of its type have.

    It takes about as many statements to say so. At the top, what most pages have comes down from everywhere.
    """
    everywhere = Counter(itertools.compress(column, shown)).most_common(1)
    counts: dict[str, Counter[_Content]] = {}
    for kind, content, is_shown in zip(types, column, shown, strict=True):
        if is_shown:
            counts.setdefault(kind, Counter())[content] += 1
    usual = {kind: some.most_common(1)[0][0] for kind, some in counts.items()} if len(counts) > 1 else {}
    return len(usual) + sum(
        is_shown
        and content != _above(column, shown, parent, page, everywhere[0][0])
        and content != usual.get(types[page], False)
        for page, (content, is_shown) in enumerate(zip(column, shown, strict=True))
    )


def _above(
    column: Sequence[_Content], shown: Sequence[bool], parent: Sequence[int], page: int, everywhere: _Content
) -> _Content:
    """What the nearest page above that shows something has in an area; `everywhere` where there is none."""
    for _ in range(DEEPEST):
        page = parent[page]
        if page < 0:
            break
        if shown[page]:
            return column[page]
    return everywhere


def _blocks_of(areas: Sequence[BuiltArea], name: str) -> tuple[BuiltBlock, ...]:
    return next((area.blocks for area in areas if area.name == name), ())


def _labels(pages: Sequence[Sequence[BuiltArea]], name: str, column: Sequence[_Content]) -> dict[_Content, str]:
    """What pages call an area, by what they share of it."""
    found: dict[_Content, str] = {}
    for areas, content in zip(pages, column, strict=True):
        for area in areas:
            if area.name == name and area.label:
                found.setdefault(content, area.label)
    return {content: found.get(content, "") for content in column}


class _Pieces:
    """Declares pieces, each once."""

    def __init__(self, menus: Mapping[BuiltBlock, int]) -> None:
        self.declared: dict[str, dict[str, Raw]] = {}
        self.files: list[str] = []
        self._menus = menus
        self._blocks: dict[BuiltBlock, str] = {}
        self._holders: dict[tuple[str, tuple[str, ...]], str] = {}

    def layouts(self, pages: Sequence[Sequence[str]], elsewhere: Sequence[str], shown: Sequence[bool]) -> list[Seen]:
        """The layout of each page: pages with the same areas have the same; None if no page has any.

        `elsewhere`: areas that the site's program fills; every layout leaves them to it. `shown`: whether a page shows
        anything.
        """
        order = in_order(name for areas in pages for name in areas if name not in elsewhere)
        if not any(pages):
            return [None] * len(pages)
        sets = [tuple(area for area in order if area in {*areas, CONTENT}) for areas in pages]
        counts = Counter(areas for areas, is_shown in zip(sets, shown, strict=True) if is_shown)
        names: dict[tuple[str, ...], str] = {}
        usual: tuple[str, ...] = ()
        for areas, _ in counts.most_common():
            more = [area for area in areas if area not in usual]
            fewer = [area for area in usual if area not in areas]
            words = [*(["with", *more] if more else []), *(["without", *fewer] if fewer else [])]
            names[areas] = name_from(" ".join(words) if usual else "standard", names.values(), "layout")
            usual = usual or areas
        filled: dict[str, Raw] = {"filled_elsewhere": [*elsewhere]} if elsewhere else {}
        self.declared["layouts"] = {name: {"areas": [*areas], **filled} for areas, name in names.items()}
        return [names.get(areas) for areas in sets]

    def holder(
        self, family: str, area: str, content: tuple[BuiltBlock, ...], label: str, rank: Mapping[BuiltBlock, int]
    ) -> str:
        """The sidebar or band that holds these blocks; named for the block that fewest others hold."""
        blocks = tuple(dict.fromkeys(self.block(block) for block in content))
        entries = self.declared.setdefault(f"{family}s", {})
        known = self._holders.get((family, blocks))
        if known is None:
            own = min(content, key=lambda block: rank[block])
            known = name_from(label or self.block(own), entries, family)
            self._holders[family, blocks] = known
            fits: dict[str, Raw] = {"fits": []} if family == "band" else {}
            entries[known] = {**fits, "blocks": [*blocks]}
        entry = entries[known]
        assert isinstance(entry, dict)
        fits_in = entry.get("fits")
        if isinstance(fits_in, list) and area not in fits_in:
            fits_in.append(area)
        return known

    def block(self, block: BuiltBlock) -> str:
        """The name of a block, which is declared."""
        if block in self._blocks:
            return self._blocks[block]
        entries = self.declared.setdefault("blocks", {})
        if block in self._menus:
            entries.setdefault(MENU, {"kind": "menu", "levels": str(self._menus[block])})
            self._blocks[block] = MENU
            return MENU
        words = block.heading or " ".join(block.text.split()[:4]) or " ".join(text for text, _ in block.links[:2])
        name = name_from(words, entries, "block")
        links = self._links(block) if block.is_list else {}
        text = block.text if len(block.text) <= LONGEST_TEXT else f"{block.text[: LONGEST_TEXT - 1]}…"
        shown: dict[str, Raw] = {"kind": "text", "text": text or words}
        if links:
            shown = {"kind": "links", "links": {**links}}
        entries[name] = {**shown, "label": block.heading} if block.heading not in ("", name) else shown
        self._blocks[block] = name
        return name

    def _links(self, block: BuiltBlock) -> dict[str, str]:
        """The links by their words; those to files that are no pages are left out."""
        found: dict[str, str] = {}
        for text, target in block.links:
            last = target.partition("?")[0].rpartition("/")[2]
            ending = last.rpartition(".")[2].lower() if "." in last else ""
            if target.startswith("/") and ending not in _PAGE_ENDINGS:
                self.files.append(target)
                continue
            label, number = text or target, 1
            while label in found and found[label] != target:
                number += 1
                label = f"{text or target} ({number})"
            found[label] = target
        return found


def with_links(pages: Iterable[Iterable[BuiltArea]], meant: Callable[[str], str]) -> Iterator[tuple[BuiltArea, ...]]:
    """The areas of pages, whose links lead to what `meant` gives; equal blocks stay one."""
    links = _MeantLinks(meant)
    blocks = dict[int, tuple[BuiltBlock, BuiltBlock]]()  # by the `id` of a block, which is kept beside what it becomes

    def changed(block: BuiltBlock) -> BuiltBlock:
        if id(block) not in blocks:
            blocks[id(block)] = block, block._replace(links=tuple(map(links.__getitem__, block.links)))
        return blocks[id(block)][1]

    made = dict[int, tuple[Iterable[BuiltArea], tuple[BuiltArea, ...]]]()  # by `id`, in the same way
    for areas in pages:
        if id(areas) not in made:
            made[id(areas)] = areas, tuple(area._replace(blocks=tuple(map(changed, area.blocks))) for area in areas)
        yield made[id(areas)][1]


class _MeantLinks(dict[Link, Link]):
    """Links, and what becomes of them."""

    def __init__(self, meant: Callable[[str], str]) -> None:
        super().__init__()
        self._meant = meant

    def __missing__(self, link: Link) -> Link:
        found = self[link] = (link[0], self._meant(link[1]))
        return found
