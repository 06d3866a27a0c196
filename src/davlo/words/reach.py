"""What a change would do, in sentences."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from davlo.core.arrays.texts import Texts
from davlo.core.change.change_reach import ChangeReach
from davlo.core.change.differences.difference_rows import (
    AccessRow,
    DeclarationChange,
    FindingChange,
    LockChange,
    Pages,
    ReachNumbers,
)
from davlo.core.change.no_effect import ALREADY, KEEPS_STAMP, LOCKED, NoEffect
from davlo.core.outcomes.declaration_contents import PLACE_IN_LIST, Content
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.wording import count, shortened, some_of

from .contents import on_one_line
from .outcomes import some_paths


def reach_sentence(numbers: ReachNumbers) -> str:
    """What a change would do: pages that look different first, then those with other values, then people.

    Example
    -------
    >>> reach_sentence(ReachNumbers(43, 0, 0, 2, 1, 0, 0, 0, 0))
    '43 pages change, 2 keep what a stronger statement says, 1 is locked; nobody gains or loses anything'
    >>> reach_sentence(ReachNumbers(1, 1, 0, 0, 0, 0, 0, 1, 3))
    '1 page changes, 1 page is new; 1 person gains something, 3 people lose something'
    >>> reach_sentence(ReachNumbers(3, 0, 0, 0, 0, 0, 0, 0, 0, looking=52, addresses=2, entries=1))
    '52 pages look different, 3 pages change; nobody gains or loses anything; 2 addresses change; 1 menu entry changes'
    >>> reach_sentence(ReachNumbers(0, 0, 0, 0, 0, 2, 5, 0, 0))
    'no page changes, 2 keep what they got when they were made, 5 have it already; nobody gains or loses anything'
    >>> reach_sentence(ReachNumbers(0, 0, 0, 0, 0, 0, 4, 0, 2, False, True, 4))
    'no value changes, on 4 pages a lock does, 4 have it already; a visitor and 2 people lose something'
    >>> reach_sentence(ReachNumbers(0, 0, 0, 0, 0, 0, 0, 0, 0, listed=6, headed=1))
    'no value changes; nobody gains or loses anything; 6 sitemap entries change; the head of 1 page changes'
    """
    met = (numbers.relocked, numbers.looking, numbers.detailed, numbers.addresses, numbers.entries)
    is_met = any((*met, numbers.listed, numbers.headed))
    nothing = "no value changes" if is_met else "no page changes"
    told = [_verb(numbers.looking, "looks different", "look different")] if numbers.looking else []
    told += [_verb(numbers.changed, "changes", "change") if numbers.changed else nothing]
    told += (
        [f"on {count(numbers.relocked, 'page')} a lock {'changes' if numbers.changed else 'does'}"]
        if numbers.relocked
        else []
    )
    if numbers.detailed and not numbers.changed and not numbers.looking:
        told += [_verb(numbers.detailed, "gets other details", "get other details")]
    told += [_verb(numbers.new, "is new", "are new")] if numbers.new else []
    told += [_verb(numbers.gone, "goes", "go")] if numbers.gone else []
    for number, one, several in (
        (numbers.own, "keeps what a stronger statement says", "keep what a stronger statement says"),
        (numbers.locked, "is locked", "are locked"),
        (numbers.keep_stamp, "keeps what it got when it was made", "keep what they got when they were made"),
        (numbers.already, "has it already", "have it already"),
    ):
        told += [f"{number:,} {one if number == 1 else several}"] if number else []
    people = [
        f"{who} {several if people > 1 or (people and visitor) else one} something"
        for people, visitor, one, several in (
            (numbers.gaining, numbers.visitor_gains, "gains", "gain"),
            (numbers.losing, numbers.visitor_loses, "loses", "lose"),
        )
        if (who := _people(people, visitor))
    ]
    last = [", ".join(people) or "nobody gains or loses anything"]
    for number, one, several in (
        (numbers.addresses, "address", "addresses"),
        (numbers.entries, "menu entry", "menu entries"),
        (numbers.listed, "sitemap entry", "sitemap entries"),
    ):
        last += [f"{count(number, one, several)} {'changes' if number == 1 else 'change'}"] if number else []
    last += [f"the head of {count(numbers.headed, 'page')} changes"] if numbers.headed else []
    return f"{', '.join(told)}; {'; '.join(last)}"


def _people(people: int, visitor: bool) -> str:
    told = [*(["a visitor"] if visitor else []), *([count(people, "person", "people")] if people else [])]
    return " and ".join(told)


def lock_sentences(changes: Sequence[LockChange], paths: Texts) -> Iterator[str]:
    """Which values stay and are locked now, or no longer locked; `paths` are those of the first state."""
    for one in changes:
        verb = "is locked now" if one.is_locked else "is no longer locked"
        yield f"{one.setting}: {verb} on {count(len(one.pages), 'page')}: {some_paths(paths, one.pages)}"


def _verb(number: int, one: str, several: str) -> str:
    return f"{count(number, 'page')} {one if number == 1 else several}"


def access_sentences(rows: Sequence[AccessRow]) -> Iterator[str]:
    """Who gains or loses what, people with the same together; a visitor first.

    Example
    -------
    >>> rows = [AccessRow("ida", "view", 2, 0, "/a", ""), AccessRow("bo", "view", 2, 0, "/a", "")]
    >>> list(access_sentences([*rows, AccessRow("visitor", "view", 0, 1, "", "/b")]))
    ['a visitor loses view on 1 page: /b', 'ida, bo gain view on 2 pages: /a and 1 more']
    """
    told: dict[tuple[bool, int, str], dict[str, list[str]]] = {}
    for row in rows:
        for is_gain, pages, first in ((False, row.lost, row.lost_first), (True, row.gained, row.gained_first)):
            if pages:
                told.setdefault((is_gain, pages, first), {}).setdefault(row.who, []).append(row.action)
    found: list[tuple[bool, str]] = []
    for (is_gain, pages, first), actions in told.items():
        alike: dict[str, list[str]] = {}
        for who, some in actions.items():
            alike.setdefault(", ".join(some), []).append("a visitor" if who == VISITOR else who)
        for what, people in alike.items():
            verb = {True: ("gain", "gains"), False: ("lose", "loses")}[is_gain][len(people) == 1]
            more = f" and {pages - 1:,} more" if pages > 1 else ""
            sentence = f"{some_of(people)} {verb} {what} on {count(pages, 'page')}: {first}{more}"
            found.append(("a visitor" not in people, sentence))
    yield from (sentence for _, sentence in sorted(found, key=lambda one: one[0]))


def no_effect_sentences(found: Sequence[NoEffect], paths: Texts) -> Iterator[str]:
    """On which pages a change has no effect, why, and the reason of the statement in its way.

    Statements of single pages with one reason share a sentence.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> reach = site.reach(davlo.Change().say("band.footer", "none", below="/press"))
    >>> next(no_effect_sentences(reach.no_effect, site.tree.paths)).partition(":")[2].partition(" (")[0]
    ' 5 pages are locked'
    """
    together: dict[tuple[object, ...], list[NoEffect]] = {}
    for one in found:
        of_pages = one.by.scope.kind in (ScopeKind.HERE, ScopeKind.STAMP)
        by = (
            () if one.reason in (ALREADY, KEEPS_STAMP) else (one.by.scope.kind, "" if of_pages else one.by, one.because)
        )
        together.setdefault((one.setting, one.reason, *by), []).append(one)
    for some in together.values():
        pages = np.sort(np.concatenate([one.pages for one in some]))
        yield f"{some[0].setting}: {_why_no_effect(some, len(pages))}: {some_paths(paths, pages)}"


def _why_no_effect(some: Sequence[NoEffect], pages: int) -> str:
    one, many = some[0], pages > 1
    told = count(pages, "page")
    if one.reason == ALREADY:
        return f"{told} {'have' if many else 'has'} the value already"
    if one.reason == KEEPS_STAMP:
        return f"{told} {'keep what they got when they were' if many else 'keeps what it got when it was'} made"
    scope = "the built-in value" if one.by.scope.kind == ScopeKind.BUILT_IN else one.by.scope.sentence
    if len(some) > 1:
        scope = {ScopeKind.HERE: "the pages themselves", ScopeKind.STAMP: "their stamps"}[one.by.scope.kind]
    place = f" ({'first at ' if len(some) > 1 else ''}{one.by.file}:{one.by.line})" if one.by.line else ""
    because = f', because "{one.because}"' if one.because else ""
    if one.reason == LOCKED:
        place = f", {one.by.file}:{one.by.line}" if one.by.line else ""
        return f"{told} {'are' if many else 'is'} locked ({scope}{place}{because})"
    return f"{told} {'get theirs' if many else 'gets its own'} from {scope}{place}{because}"


def declaration_sentences(changes: Sequence[DeclarationChange], is_met: bool) -> Iterator[str]:
    """What is declared, no longer declared, or holds something else; `is_met`: whether anybody meets that."""
    others_come_or_go = any(one.kind == "rule" and one.what != "changed" for one in changes)
    for one in changes:
        if one.what != "changed":
            yield f"the {one.kind} {one.name} is {one.what}"
            continue
        for key, (before, after) in one.keys.items():
            if key == PLACE_IN_LIST and others_come_or_go:
                continue
            yield f"the {one.kind} {one.name}".rstrip() + f": {key} {_becomes(before, after)}"
    if not is_met and any(one.kind not in _NEVER_SHOWN for one in changes):
        yield "this shows on no page"


def rule_sentences(reach: ChangeReach) -> Iterator[str]:
    """Which other rules a new rule overrides, and on how many pages."""
    names_before, names = ([rule.name for rule in state.site.rules] for state in (reach.before, reach.after))
    said, said_before = reach.after.site.statements, reach.before.site.statements
    for new in [name for name in names if name not in names_before]:
        pages: dict[str, list[Pages]] = {}
        for one in reach.settings:
            there = (one.source_after >= 0) & (one.source_before >= 0)
            at = np.flatnonzero(there)
            after, before = one.source_after[at], one.source_before[at]
            is_new = (said.scope[after] == ScopeKind.RULE) & (said.target[after] == names.index(new))
            is_new &= said_before.scope[before] == ScopeKind.RULE
            for rule in np.unique(said_before.target[before[is_new]]).tolist():
                some = at[is_new & (said_before.target[before] == rule)]
                pages.setdefault(names_before[rule], []).append(one.pages[some])
        for rule, found in pages.items():
            some = count(len(np.unique(np.concatenate(found))), "page")
            yield f'the rule "{new}" overrides the rule "{rule}" on {some}'


_NEVER_SHOWN = ("person", "group", "role", "guarantee", "rule", "type", "setting", "viewpoint", "site")
"""The kinds of declarations that no page shows by themselves."""
MOST_HELD = 60
"""The most letters of what a declaration holds in a sentence."""


def _becomes(before: Content | None, after: Content | None) -> str:
    """What a key of a declaration holds in both states; of long lists, what they gain and lose."""
    was, now = map(_held, (before, after))
    if isinstance(before, tuple) and isinstance(after, tuple) and max(len(was), len(now)) > MOST_HELD:
        more, less = [one for one in after if one not in before], [one for one in before if one not in after]
        parts = (f"{verb} {', '.join(words)}" for verb, words in (("gains", more), ("loses", less)) if words)
        return "; ".join(parts) or "has another order"
    return f"is {shortened(now, MOST_HELD)} (before: {shortened(was, MOST_HELD)})"


def _held(content: Content | None) -> str:
    return on_one_line(content) if content else "nothing"


def finding_change_sentences(changes: Sequence[FindingChange]) -> Iterator[str]:
    """Which findings are there on more or fewer pages."""
    for one in changes:
        told = [f"on {one.more:,} more" if one.more else "", f"on {one.fewer:,} fewer" if one.fewer else ""]
        where = " and ".join(filter(None, told))
        pages = "page" if one.more + one.fewer == 1 else "pages"
        what = f"{one.after.level} {one.after.name} ({one.after.kind})"
        yield f"{what}: {where} {pages}, {count(len(one.after.pages), 'page')} now"
