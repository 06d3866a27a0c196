"""Who may do what on the pages of a branch: pages on which the same viewers may do the same are one row."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...site.people import SIGNED_IN, VISITOR
from ...site.source import Source, source_of
from .access_changes import OWNER
from .access_model import AccessModel


class PageRights(NamedTuple):
    """Pages on which the same viewers may do the same.

    Attributes
    ----------
    pages : int64[n]
    rights : tuple of (who, actions)
        `visitor`, `signed-in`, a group, a person, or `owner`, whoever owns the page. Admins are left out, as are people
        who may do what a group of theirs may, or anyone who is signed in.
    source : Source
        The strongest access statement on these pages.
    """

    pages: NDArray[np.int64]
    rights: tuple[tuple[str, tuple[str, ...]], ...]
    source: Source


def rights_by_page(access: AccessModel, pages: NDArray[np.int64]) -> list[PageRights]:
    """Who may do what on some pages, the fewest pages first: exceptions come before the rule.

    `pages`: int64[n].

    Example
    -------
    >>> import davlo
    >>> access = AccessModel(davlo.open_demo().resolve())
    >>> site = access.site
    >>> members = site.page_number("/members/pages")
    >>> for one in rights_by_page(access, np.arange(members, site.tree.end[members]))[-1:]:
    ...     print(len(one.pages), one.rights)
    3 (('members', ('view',)), ('owner', ('view', 'edit')))
    """
    site, classes, people = access.site, access.classes, access.site.people
    bits = 1 << np.arange(len(site.actions), dtype=np.int64)

    def code_of(who: str) -> NDArray[np.int64]:
        """What a viewer may do, a bit for each action. int64[classes]"""
        return bits @ np.stack([classes.may(who, action) for action in site.actions])

    there = np.unique(classes.of[pages]).tolist()
    codes = {who: code_of(who) for who in (VISITOR, SIGNED_IN, *people.groups)}
    owners = [access.effective.column("page.owner").at(int(classes.sample[one])) for one in there]
    told: dict[int, list[tuple[str, int]]] = {one: [] for one in there}
    for who, code in codes.items():
        beyond = code if who == VISITOR else np.where(code == codes[VISITOR], 0, code)
        for one in there:
            told[one] += [(who, int(beyond[one]))] if beyond[one] else []
    for who in people.names:
        if people.is_admin(who):
            continue
        code = code_of(who)
        alike = np.any([code == codes[other] for other in (*people.groups_of(who), SIGNED_IN)], axis=0)
        for one, owner in zip(there, owners, strict=True):
            if not alike[one]:
                told[one].append((OWNER if who == owner else who, int(code[one])))
    closest = classes.closest(site.catalogue.access_numbers())
    found: dict[tuple[tuple[str, int], ...], list[int]] = {}
    for one, rights in told.items():
        found.setdefault(tuple(rights), []).append(one)
    rows = []
    for key, some in found.items():
        mine = pages[np.isin(classes.of[pages], some)]
        actions = [
            (who, tuple(action for action, bit in zip(site.actions, bits.tolist(), strict=True) if code & bit))
            for who, code in key
        ]
        rows.append(PageRights(mine, tuple(actions), source_of(site, int(closest[classes.of[mine[0]]]))))
    return sorted(rows, key=lambda row: len(row.pages))
