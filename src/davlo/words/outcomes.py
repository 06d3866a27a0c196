"""What readers and search engines meet in one state of a site and not in another, in sentences gathered by cause."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.texts import Texts
from davlo.core.change.differences.difference_rows import OutcomeChange
from davlo.core.outcomes.shown_things import ShownBlock, ShownThing
from davlo.core.site.declarations import LOOK_PARTS, Look
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.values import format_value
from davlo.core.wording import count, shortened, some_of

Pages = NDArray[np.int64]
TEXTS = {"title": "title", "heading": "heading", "menu.label": "menu label", "address": "address"}
"""Fields that are texts, and what their sentences call them."""
VALUES = {"width": "width", "theme.name": "theme", "phone": "order on a phone"}
"""Fields with few values."""
DETAILS = "details."
"""What the names of the fields begin with that say what the page list says."""
LISTS = {"menu.shown": "menu", "sitemap.listed": "sitemap"}
"""Fields that say whether a page is in a list."""
MOST_CHANGES = 3
"""The most properties of a look in a sentence."""
_PARTS = {"whole": "", "each_block": " of each block", "headings": " of headings"}
MOST_LETTERS = 40
"""The most letters of a text in a sentence."""


def outcome_sentences(changes: Sequence[OutcomeChange], paths: Texts, viewer: str = VISITOR) -> Iterator[str]:
    """What differs for a viewer, what most people look at first; `paths` are those of the first state.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> reach = site.reach(davlo.Change().say("menu.show", False, below="/press").say("title.pattern", "X", here="/"))
    >>> list(outcome_sentences(reach.outcome_changes, site.tree.paths))[:1]
    ['title: 1 page gets another, /: X (before: Quillmere Botanic Garden)']
    """
    by_field = {one.field: one for one in changes if one.viewer == viewer}
    in_areas = _areas([one for field, one in by_field.items() if field.startswith("shows.")])
    in_areas |= _looks([one for field, one in by_field.items() if field.startswith("looks.")])
    for sentence, pages in sorted(in_areas.items(), key=lambda one: -len(one[1])):
        yield f"{sentence}: {count(len(pages), 'page')}: {some_paths(paths, pages)}"
    for field, word in TEXTS.items():
        if field in by_field:
            yield _text(word, by_field[field], paths)
    if "headings" in by_field and "heading" not in by_field:
        pages = by_field["headings"].pages
        yield f"headings: something else provides them on {count(len(pages), 'page')}: {some_paths(paths, pages)}"
    for field, word in VALUES.items():
        for before, after, pages in by_field[field].by_values() if field in by_field else ():
            told = f"{_plain(after)} (before: {_plain(before)})"
            who = f"{count(len(pages), 'page')} {_verb(pages, 'gets', 'get')}"
            yield f"{word}: {who} {told}: {some_paths(paths, pages)}"
    for field, word in LISTS.items():
        for before, _, pages in by_field[field].by_values() if field in by_field else ():
            verb = _verb(pages, "leaves", "leave") if before else _verb(pages, "enters", "enter")
            yield f"{word}: {count(len(pages), 'page')} {verb} it: {some_paths(paths, pages)}"
    if "alternates" in by_field:
        pages = by_field["alternates"].pages
        told = f"{count(len(pages), 'page')} {_verb(pages, 'has', 'have')} other alternates"
        yield f"sitemap: {told}: {some_paths(paths, pages)}"
    if "head" in by_field:
        yield from _tags(by_field["head"], paths)
    yield from _places(by_field, paths, "a visitor" if viewer == VISITOR else viewer)


def detail_sentences(
    changes: Sequence[OutcomeChange], paths: Texts, moved: Sequence[tuple[str, str]] = ()
) -> Iterator[str]:
    """The details of pages that differ, from `Difference.detail_changes`; `paths` are those of the first state.

    `moved`: the paths of pages that moved, before and after: a page that only names one of them anew is left out.
    """
    now = dict(moved)
    for one in changes:
        kept = np.array([now.get(row.before) != row.after for row in one.rows(paths)] if now else [True])
        if kept.any():
            yield _text(one.field.removeprefix(DETAILS), one.only(kept) if now else one, paths)


def _text(word: str, one: OutcomeChange, paths: Texts) -> str:
    """The pages with another text, and the first of them."""
    first = next(one.rows(paths))
    told = f"{first.path}: {_plain(first.after)} (before: {_plain(first.before)})"
    more = f" and {len(one.pages) - 1:,} more" if len(one.pages) > 1 else ""
    return f"{word}: {count(len(one.pages), 'page')} {_verb(one.pages, 'gets', 'get')} another, {told}{more}"


def _tags(one: OutcomeChange, paths: Texts) -> Iterator[str]:
    """The tags that the head of pages gets or loses."""
    for before, after, pages in one.by_values():
        was, now = before or (), after or ()
        for tags, told in (
            ([tag for tag in now if tag not in was], _verb(pages, "gets", "get")),
            ([tag for tag in was if tag not in now], _verb(pages, "loses", "lose")),
        ):
            if tags:
                yield f"head: {count(len(pages), 'page')} {told} {', '.join(tags)}: {some_paths(paths, pages)}"


def _places(by_field: dict[str, OutcomeChange], paths: Texts, who: str) -> Iterator[str]:
    """Entries that a viewer meets no longer, or now, or elsewhere in the menu; what enters or leaves it aside."""
    done = by_field["menu.shown"].pages if "menu.shown" in by_field else np.zeros(0, dtype=np.int64)
    met = by_field.get("menu.position")
    both = done[:0]
    if met is not None:
        was, now = met.before.codes >= 0, met.after.codes >= 0
        both = met.pages[was & now]
        for some, verb in ((was & ~now, "no longer meets"), (now & ~was, "meets")):
            pages = np.setdiff1d(met.pages[some], done)
            if len(pages):
                yield f"menu: {who} {verb} {count(len(pages), 'entry', 'entries')}: {some_paths(paths, pages)}"
        done = np.union1d(done, met.pages[~(was & now)])
    above = [by_field[field].pages for field in ("menu.above", "menu.level") if field in by_field]
    elsewhere = np.setdiff1d(np.concatenate(above), done) if above else done[:0]
    for pages, told in (
        (elsewhere, "under another entry"),
        (np.setdiff1d(both, np.union1d(done, elsewhere)), "at another place among their neighbours"),
    ):
        if len(pages):
            stand = f"{count(len(pages), 'page')} {_verb(pages, 'stands', 'stand')} {told}"
            yield f"menu: {stand}: {some_paths(paths, pages)}"


def _areas(changes: Iterable[OutcomeChange]) -> dict[str, Pages]:
    """What shows in areas now and did not, or no longer shows: each difference once, with all its pages."""
    found: dict[str, list[Pages]] = {}
    for one in changes:
        for before, after, pages in one.by_values():
            for told in dict.fromkeys(things_changed(before or (), after or ())):
                found.setdefault(told, []).append(pages)
    return {told: np.unique(np.concatenate(pages)) for told, pages in found.items()}


def _looks(changes: Iterable[OutcomeChange]) -> dict[str, Pages]:
    """How areas look now and did before: each difference once, with all its pages."""
    found: dict[str, list[Pages]] = {}
    for one in changes:
        for before, after, pages in one.by_values():
            if before is not None and after is not None and before.name == after.name:
                told = f"the look {after.name}: {some_of([*_css_changes(before, after)], MOST_CHANGES)}"
            elif after is None:
                told = f"no look in {one.field.removeprefix('looks.')} (before: {before.name})"
            else:
                was = before.name if before is not None else "none"
                told = f"the look {after.name} in {one.field.removeprefix('looks.')} (before: {was})"
            found.setdefault(told, []).append(pages)
    return {told: np.unique(np.concatenate(pages)) for told, pages in found.items()}


def _css_changes(before: Look, after: Look) -> Iterator[str]:
    """The CSS of a look that differs: `width is 30% (before: 28%)`."""
    for part in LOOK_PARTS:
        was, now = getattr(before, part), getattr(after, part)
        for name in dict.fromkeys([*was, *now]):
            if was.get(name) != now.get(name):
                yield f"{name}{_PARTS[part]} is {now.get(name, 'not set')} (before: {was.get(name, 'not set')})"


def things_changed(before: Sequence[ShownThing], after: Sequence[ShownThing]) -> Iterator[str]:
    """What differs between the things in an area, each in a few words.

    Example
    -------
    >>> was = ShownThing("sidebar", "main", (ShownBlock("hours", "9 to 5"), ShownBlock("offer", "Tea")))
    >>> list(things_changed([was], [ShownThing("sidebar", "main", (ShownBlock("hours", "10 to 4"),))]))
    ['the sidebar main lacks offer', 'the block hours says "10 to 4" (before: "9 to 5")']
    """
    was, now = ({(one.kind, one.name): one for one in some} for some in (before, after))
    gone = [one for key, one in was.items() if key not in now]
    new = [one for key, one in now.items() if key not in was]
    for one in [*gone]:
        instead = next((other for other in new if other.kind == one.kind), None)
        if instead is not None and one.name:
            gone.remove(one)
            new.remove(instead)
            yield f"{instead.words} in place of {one.words}"
    yield from (f"{one.words} is not there any more" for one in gone)
    yield from (f"{one.words} is there now" for one in new)
    for key in was:
        if key in now and was[key] != now[key]:
            yield from _thing_changed(was[key], now[key])
    if was == now and [*was] != [*now]:
        yield f"the order is {', '.join(one.words for one in after)} now"


def _thing_changed(was: ShownThing, now: ShownThing) -> Iterator[str]:
    name = f"the {now.kind} {now.name}".rstrip()
    if was.why != now.why:
        yield f"{name} shows {'something again' if not now.why else f'nothing now ({now.why})'}"
    if was.screens != now.screens and not (was.why or now.why):
        yield f"{name} shows on {' and '.join(now.screens)} now (before: {' and '.join(was.screens)})"
    one, other = ({block.block: block for block in some.blocks} for some in (was, now))
    gone, new = ([block for block in some if block not in rest] for some, rest in ((one, other), (other, one)))
    if gone and not now.why:
        yield f"{name} lacks {', '.join(gone)}"
    if new and not was.why:
        yield f"{name} shows {', '.join(new)} too"
    if set(one) == set(other) and [*one] != [*other]:
        yield f"{name} shows its blocks in another order"
    for block in one:
        if block in other and one[block] != other[block]:
            yield from _block_changed(one[block], other[block])


def _block_changed(was: ShownBlock, now: ShownBlock) -> Iterator[str]:
    if was.text != now.text:
        yield f"the block {now.block} says {_quoted(now.text)} (before: {_quoted(was.text)})"
    if was.links != now.links:
        one, other = ({link.to: link for link in some.links} for some in (was, now))
        lost = [to for to in one if to not in other]
        come = [to for to in other if to not in one]
        said = [to for to in one if to in other and one[to].label != other[to].label]
        parts = [f"no longer lists {some_of(lost)}"] if lost else []
        parts += [f"lists {some_of(come)} too"] if come else []
        parts += [f"calls {some_of(said)} otherwise"] if said else []
        yield f"the block {now.block} {' and '.join(parts) or 'lists its links in another order'}"
    if was.one_of != now.one_of:
        for inner, other_block in zip(was.one_of, now.one_of, strict=False):
            if inner.block == other_block.block and inner != other_block:
                yield from _block_changed(inner, other_block)
        if [one.block for one in was.one_of] != [one.block for one in now.one_of]:
            yield f"the block {now.block} is one of {', '.join(one.block for one in now.one_of)} now"


def _quoted(text: str) -> str:
    return f'"{shortened(text, MOST_LETTERS)}"'


def _plain(value: object) -> str:
    if value is None:
        return "none"
    return ", ".join(map(str, value)) if isinstance(value, tuple | list) else str(value)


def _verb(pages: Pages, one: str, several: str) -> str:
    return one if len(pages) == 1 else several


def some_paths(paths: Texts, pages: Pages) -> str:
    """The first of some pages, and how many more there are."""
    return ", ".join(paths.take(pages[:3])) + (f" and {len(pages) - 3:,} more" if len(pages) > 3 else "")


def value_words(value: Any) -> str:
    """The value of a field of the page record, as JSON holds it, in words for people's tables.

    Example
    -------
    >>> value_words([{"kind": "sidebar", "name": "main", "blocks": [{"block": "hours", "text": "10 to 17"}]}])
    'sidebar main (hours)'
    >>> value_words({"whole": {"width": "28%"}}), value_words([]), value_words(True)
    ('whole: width: 28%', '', 'yes')
    """
    if isinstance(value, list | tuple):
        return "; ".join(map(value_words, value))
    if not isinstance(value, dict):
        return "" if value is None else format_value(value)
    if "kind" in value and "name" in value:
        name = f"{value['kind']} {value['name']}".strip()
        within = value.get("shows nothing") or ", ".join(one["block"] for one in value.get("blocks", ()))
        return name + (f" ({within})" if within else "")
    return "; ".join(f"{key}: {value_words(inner)}" for key, inner in value.items())
