"""What one viewer meets and another does not, in sentences gathered by cause."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from davlo.core.change.differences.difference_rows import Pages
from davlo.core.change.differences.viewer_difference import SEEN_FIELDS, ViewerDifference
from davlo.core.outcomes.shown_things import ShownBlock, ShownThing
from davlo.core.site.people import VISITOR
from davlo.core.wording import count, some_of

from .comparison import Section
from .outcomes import some_paths

VIEWER_PARTS = ("access", "areas", "menu")
"""The parts of what differs between viewers, by the names that the parts of a comparison have."""


def viewer_title(found: ViewerDifference, parts: Sequence[str] = VIEWER_PARTS) -> tuple[str, str]:
    """Who is compared, and what differs in numbers.

    Example
    -------
    >>> import davlo
    >>> viewer_title(davlo.open_demo().viewer_difference("visitor", "tomas.vell"))[1]
    'of 158 pages, 7 only for tomas.vell; on 7 pages they may do different things'
    """
    people = found.site.people
    alone = [
        f"{len(pages):,} only for {_short(who)}"
        for who, pages in ((found.one, found.seen_by_one), (found.other, found.seen_by_other))
        if len(pages)
    ]
    told = f"of {count(len(found.pages), 'page')}, {' and '.join(alone)}" if alone else "both see the same pages"
    acting = sum(len(one.pages) for one in found.rights)
    if acting:
        told += f"; on {count(acting, 'page')} they may do different things"
    outcomes = found.outcome_changes if {*parts} & {*SEEN_FIELDS} else ()
    changed = np.unique(np.concatenate([found.pages[:0], *(one.pages for one in outcomes)]))
    if len(changed):
        told += f"; {count(len(changed), 'page')} that both see {'looks' if len(changed) == 1 else 'look'} different"
    return f"What {people.in_words(found.one)} and {people.in_words(found.other)} meet", told


def viewer_sections(found: ViewerDifference, parts: Sequence[str] = VIEWER_PARTS) -> list[Section]:
    """What differs between two viewers, in words; parts that do not differ are left out."""
    paths = found.site.tree.paths
    sections = []
    for who, pages in ((found.one, found.seen_by_one), (found.other, found.seen_by_other)):
        if len(pages):
            title = f"Pages only for {_short(who)} ({len(pages):,})"
            sections.append(Section("access", title, tuple(paths.take(pages))))
    rights = tuple(rights_sentences(found))
    sections.append(Section("access", "What they may do", rights))
    sections.append(Section("areas", "What shows in areas on pages that both see", tuple(_links(found))))
    sections.append(Section("menu", "Where entries stand in the menu that both meet", tuple(_places(found))))
    return [one for one in sections if one.lines and one.part in parts]


def _short(who: str) -> str:
    return "a visitor" if who == VISITOR else who


def rights_sentences(found: ViewerDifference) -> Iterator[str]:
    """What each of the two may do, on the pages where that differs."""
    for one in found.rights:
        sides = ((found.one, one.one), (found.other, one.other))
        told = [f"{_short(who)} may {', '.join(may) or 'do nothing'}" for who, may in sides]
        yield f"{'; '.join(told)}: {count(len(one.pages), 'page')}: {some_paths(found.site.tree.paths, one.pages)}"


def _links(found: ViewerDifference) -> Iterator[str]:
    """The links and things that areas show to one of the two alone; each difference once, with all its pages."""
    told: dict[str, list[Pages]] = {}
    for one in found.outcome_changes:
        for before, after, pages in one.by_values() if one.field.startswith("shows.") else ():
            for sentence in things_for_one(before or (), after or (), (found.one, found.other)):
                told.setdefault(sentence, []).append(pages)
    joined = {sentence: np.unique(np.concatenate(pages)) for sentence, pages in told.items()}
    for sentence, pages in sorted(joined.items(), key=lambda one: -len(one[1])):
        yield f"{sentence}: {count(len(pages), 'page')}: {some_paths(found.site.tree.paths, pages)}"


def things_for_one(one: Sequence[ShownThing], other: Sequence[ShownThing], who: tuple[str, str]) -> Iterator[str]:
    """What an area shows to one of two viewers alone, each in a few words.

    Example
    -------
    >>> from davlo.core.outcomes.shown_things import ShownLink
    >>> def menu(*pages): return (ShownBlock("top", "", tuple(ShownLink(page, page, 1) for page in pages)),)
    >>> mine, yours = (ShownThing("band", "main", menu(*pages)) for pages in (("/a",), ("/a", "/b")))
    >>> list(things_for_one([mine], [yours], ("visitor", "ida")))
    ['the block top lists /b only for ida']
    """
    sides = [{(thing.kind, thing.name): thing for thing in side} for side in (one, other)]
    for key in dict.fromkeys([*sides[0], *sides[1]]):
        blocks = [_blocks(side[key].blocks) if key in side else {} for side in sides]
        for name in dict.fromkeys([*blocks[0], *blocks[1]]):
            links = [{link.to: link for link in some[name].links} if name in some else {} for some in blocks]
            for mine, theirs, viewer in ((links[0], links[1], who[0]), (links[1], links[0], who[1])):
                alone = [to or mine[to].label for to in mine if to not in theirs]
                if alone:
                    yield f"the block {name} lists {some_of(alone)} only for {_short(viewer)}"
        whys = [side[key].why if key in side else "" for side in sides]
        if whys[0] != whys[1]:
            nothing = who[0] if whys[0] else who[1]
            yield f"the {key[0]} {key[1]} shows nothing to {_short(nothing)}"


def _blocks(blocks: Sequence[ShownBlock]) -> Mapping[str, ShownBlock]:
    """Blocks by their names, with those of which they show one."""
    found: dict[str, ShownBlock] = {}
    for block in blocks:
        found |= {block.block: block, **_blocks(block.one_of)}
    return found


def _places(found: ViewerDifference) -> Iterator[str]:
    """Pages that both see whose entry one of them meets alone, or elsewhere in the menu."""
    by_field = {one.field: one for one in found.outcome_changes}
    met, paths = by_field.get("menu.position"), found.site.tree.paths
    if met is None:
        return
    mine, theirs = met.before.codes >= 0, met.after.codes >= 0
    for some, who in ((mine & ~theirs, found.one), (theirs & ~mine, found.other)):
        if some.any():
            told = f"only {_short(who)} meets {count(int(some.sum()), 'entry', 'entries')}"
            yield f"{told}: {some_paths(paths, met.pages[some])}"
    above = [by_field[name].pages for name in ("menu.above", "menu.level") if name in by_field]
    elsewhere = np.intersect1d(np.concatenate(above), met.pages[mine & theirs]) if above else met.pages[:0]
    rest = np.setdiff1d(met.pages[mine & theirs], elsewhere)
    for pages, told in ((elsewhere, "stand under different entries"), (rest, "stand at different places among others")):
        if len(pages):
            yield f"{count(len(pages), 'page')} {told}: {some_paths(paths, pages)}"
