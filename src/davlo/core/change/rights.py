"""Rights that a change needs on pages, and other answers to who may do what."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..outcomes.access.access_model import AccessModel
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.people import SIGNED_IN, VISITOR
from .differences.difference import Difference
from .differences.page_pairs import PagePairs
from .steps.new_page import with_plain_pages
from .steps.replant import NewRow

Pages = NDArray[np.int64]
GRANT = "grant"
ADMIN = ""
"""What only admins may do."""


class MissingRight(NamedTuple):
    """What a person may not do."""

    who: str
    action: str  # empty if only admins may do it
    pages: tuple[str, ...]  # where it would be needed
    reason: str  # what is missing, in a sentence


class Needs:
    """The actions that a change needs on pages of one state."""

    def __init__(self, effective: EffectiveModel) -> None:
        self.access = effective.shared(AccessModel)
        self.site = effective.site
        self._pages: dict[str, Mask] = {}

    def add(self, action: str, pages: NDArray[np.integer] | Sequence[int]) -> None:
        """Note that an action is needed on some pages."""
        mask = self._pages.setdefault(action, np.zeros(len(self.site.tree), dtype=bool))
        mask[pages] = True

    def missing(self, who: str) -> Iterator[MissingRight]:
        """What a person lacks of them."""
        for action, mask in self._pages.items():
            if action in self.site.actions:
                lacking = np.flatnonzero(mask & ~self.access.may(who, action))
            else:
                lacking = np.flatnonzero(mask)
            if len(lacking):
                paths = tuple(self.site.tree.paths.take(lacking).tolist())
                may_not = f"{who} may not {action} {paths[0]}"
                if action not in self.site.actions:
                    told = f"{may_not}: the site has no action {action}, so only admins may do that"
                    yield MissingRight(who, ADMIN, paths, told)
                else:
                    reason = self.access.why(who, action, int(lacking[0])).reason
                    yield MissingRight(who, action, paths, f"{may_not}: {reason}")


def other_answers(difference: Difference, first: Pages, second: Pages, who: str) -> Iterator[MissingRight]:
    """Other answers to who may do what need `grant`, and nobody gains an action that the giver lacks there.

    Pages are taken by their classes of access in both states, of which there are few.
    """
    was, now = (model.shared(AccessModel) for model in (difference.before, difference.after))
    size = len(now.classes)
    kinds, kind_of = np.unique(was.classes.of[first] * size + now.classes.of[second], return_inverse=True)
    one, other = kinds // size, kinds % size
    differs, gained = np.zeros(len(kinds), dtype=bool), dict[str, Mask]()
    people = was.site.people
    viewers = [one for one in (VISITOR, SIGNED_IN, *people.groups, *people.names) if _is_known(now.site, one)]
    to: dict[str, str] = {}
    for viewer in viewers:
        for action in was.site.actions:
            could, can = was.classes.may(viewer, action)[one], now.classes.may(viewer, action)[other]
            differs |= could != can
            gains = can & ~could & ~was.classes.may(who, action)[one]
            if gains.any():
                to.setdefault(action, viewer)
                gained[action] = gained.get(action, False) | gains
    needs = Needs(difference.before)
    needs.add(GRANT, first[differs[kind_of]])
    yield from needs.missing(who)
    for action, mask in gained.items():
        pages = first[mask[kind_of]]
        paths = tuple(was.site.tree.paths.take(pages).tolist())
        reason = was.why(who, action, int(pages[0])).reason
        told = f"{who} may not give {action} on {paths[0]} to {people.in_words(to[action])}, lacking it there: {reason}"
        yield MissingRight(who, action, paths, told)


def _is_known(site: SiteModel, viewer: str) -> bool:
    people = site.people
    return viewer in (VISITOR, SIGNED_IN) or viewer in people.groups or people.has(viewer)


def answers_to_come(planted: Difference, below: Sequence[str], who: str) -> Iterator[MissingRight]:
    """Other answers on a plain page that comes below each of some pages, in both states."""
    names, sides = dict(planted.moved), []
    for site in (planted.before.site, planted.after.site):
        here = below if site is planted.before.site else [names.get(path, path) for path in below]
        rows = [(_to_come(site, path), "") for path in here if site.tree.find(path) >= 0]  # made by nobody yet
        grown = with_plain_pages(site, rows)
        sides.append((EffectiveModel(grown), [grown.tree.number(row.path) for row, _ in rows]))
    (before, first), (after, second) = sides
    if len(first) == len(second):  # otherwise a page goes, and what is said below it goes with it
        pages = np.array(first, dtype=np.int64), np.array(second, dtype=np.int64)
        yield from other_answers(Difference(before, after, pairs=PagePairs(*pages)), *pages, who)


def _to_come(site: SiteModel, above: str) -> NewRow:
    path = f"{above.rstrip('/')}/a-page-to-come"
    while site.tree.find(path) >= 0:
        path += "-"
    return NewRow(path, {"parent": above})
