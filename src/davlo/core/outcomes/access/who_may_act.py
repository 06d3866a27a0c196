"""Who may do an action on each page, in a few words: everybody, some groups, the owner, or only admins."""

from __future__ import annotations

from functools import partial
from operator import eq
from typing import NamedTuple

import numpy as np

from ...arrays.codebooks import Codebook, Codes
from ...resolve.effective import EffectiveModel
from ...site.people import SIGNED_IN, VISITOR
from .access_model import AccessModel

EVERYBODY, ANYONE_SIGNED_IN, NOBODY, OWNER = "everybody", "anyone signed in", "nobody but admins", "its owner"
MOST_WORDS = 8
"""With more different groups of people than this, people are counted instead."""


class WhoMayAct(NamedTuple):
    """Who may do an action."""

    codes: Codes  # int32[pages]
    # who may, in words; if they are too many different ones, how many people may, admins aside
    words: list[str] | list[int]


def who_may_act(effective: EffectiveModel, action: str, most: int = MOST_WORDS) -> WhoMayAct:
    """Who may do an action on each page.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> found = who_may_act(effective, "edit")
    >>> page = effective.page_number("/press/pictures")
    >>> found.words[found.codes[page]]
    'editors, press-office'
    >>> counted = who_may_act(effective, "edit", most=2)
    >>> counted.words[counted.codes[page]]
    3
    """
    access = effective.shared(AccessModel)
    access.check_action(action)
    classes, people = access.classes, effective.site.people
    may = {who: classes.may(who, action) for who in (VISITOR, SIGNED_IN, *people.groups, *people.names)}
    named: list[list[str]] = [[] for _ in range(len(classes))]
    for group in people.groups:
        for at in np.flatnonzero(may[group]).tolist():
            named[at].append(group)
    owners = effective.column("page.owner").words
    for who in people.names:
        alone = may[who] & ~may[SIGNED_IN] & (not people.is_admin(who))
        for group in people.groups_of(who):
            alone &= ~may[group]
        owned = classes.owned_where("owner", partial(eq, who)) if who in owners else np.zeros_like(alone)
        for at in np.flatnonzero(alone).tolist():
            named[at].append(OWNER if owned[at] else who)
    words: Codebook[str] = Codebook()
    codes = np.zeros(len(classes), dtype=np.int32)
    for at, told in enumerate(named):
        shown = ANYONE_SIGNED_IN if may[SIGNED_IN][at] else ", ".join(told) or NOBODY
        codes[at] = words.code(EVERYBODY if may[VISITOR][at] else shown)
    if len(words) <= most:
        return WhoMayAct(codes[classes.of], list(words.items))
    numbers: Codebook[int] = Codebook()
    counts = sum(
        (may[who].astype(np.int64) for who in people.names if not people.is_admin(who)), np.zeros(len(classes))
    )
    codes = np.array([numbers.code(int(count)) for count in counts.tolist()], dtype=np.int32)
    return WhoMayAct(codes[classes.of], list(numbers.items))
