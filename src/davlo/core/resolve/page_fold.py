"""The fold of one page, candidate by candidate: what `why` shows, and what a page would have without a statement."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ..site.settings.scopes import ScopeKind
from ..site.statements.new_statements import BUILT_IN
from ..site.statements.statement_table import Statements
from .fold import SettingWords
from .locks import counted

KEPT = ("everywhere", "type", "below")
"""The scopes that a value may refer to, weakest first: `ScopeKind.EVERYWHERE` and the next two."""


class PageStep(NamedTuple):
    """One candidate of a page."""

    statement: int
    gives: int  # the code of the value after it was folded in, or would have been
    fate: str  # `counts`, `overruled` (by a lock), or `left out` (of a setting whose default is for new pages)


class PageFold(NamedTuple):
    """What a page ends up with."""

    value: int  # a code of the words
    source: int  # `source`, `lock`: the statement that won, and the one that ended the fold; -1: none
    lock: int
    steps: tuple[PageStep, ...]  # weakest first


def fold_page(
    statements: Statements, words: SettingWords, candidates: Sequence[int], depth: int, for_new_pages: bool
) -> PageFold:
    """Fold the statements that apply to one page.

    `words`: those of the setting. `candidates`: the statements that apply to the page, weakest first. `depth`: how many
    ancestors the page has. `for_new_pages`: whether its default is for new pages: then an existing page keeps its
    stamp, and of the live fold only a locked default still applies.
    """
    live = [one for one in candidates if statements.scope[one] < ScopeKind.STAMP]
    ends = counted([bool(statements.locked[one]) for one in live])
    lock = live[ends - 1] if ends and bool(statements.locked[live[ends - 1]]) else BUILT_IN
    kept = dict.fromkeys(KEPT, 0)
    state, source, steps = 0, BUILT_IN, []
    for place, statement in enumerate(live):
        gives = _folded(statements, words, statement, state, kept)
        steps.append(PageStep(statement, words.plain(gives, depth), "counts" if place < ends else "overruled"))
        if place < ends:
            state, source = gives, statement
            weakest = max(int(statements.scope[statement]) - ScopeKind.EVERYWHERE, 0)
            kept.update(dict.fromkeys(KEPT[weakest:], state))
    if for_new_pages and lock < 0:
        steps = [step._replace(fate="left out") for step in steps]
        state, source = 0, BUILT_IN
    for statement in candidates[len(live) :]:
        gives = _folded(statements, words, statement, state, kept)
        steps.append(PageStep(statement, words.plain(gives, depth), "counts" if lock < 0 else "overruled"))
        if lock < 0:
            state, source = gives, statement
    return PageFold(words.plain(state, depth), source, lock, tuple(steps))


def _folded(statements: Statements, words: SettingWords, statement: int, state: int, kept: dict[str, int]) -> int:
    said = int(statements.value[statement])
    said = kept[words.references[said]] if said in words.references else said
    return words.fold_one(state, said)
