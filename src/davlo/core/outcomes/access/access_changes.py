"""Where access changes in the tree: pages on which somebody may do more or less than on the page above."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, distinct
from ...site.people import SIGNED_IN, VISITOR
from ...site.source import Source, source_of
from .access_model import AccessModel

OWNER = "owner"
NONE = -2
DRAFT, BELOW_DRAFT, OWNED = "it is a draft", "the page above is a draft", "its owner or its group is another"


class ViewerChange(NamedTuple):
    """What a viewer gains and loses: `visitor`, `signed-in`, a group, a person, or `owner`, whoever owns the page."""

    who: str
    gains: tuple[str, ...]
    loses: tuple[str, ...]


class AccessChange(NamedTuple):
    """Pages on which the same viewers gain and lose the same, for the same reason.

    Attributes
    ----------
    pages : int64[n]
    source : Source, or None
        The strongest access statement whose value differs from that of the page above; None if none does.
    reason : str
        What else makes the change, where no statement does; else empty.
    changes : tuple of ViewerChange
        A person who gains and loses what a group of theirs does, or anyone who is signed in, is not named again.
    """

    pages: NDArray[np.int64]
    source: Source | None
    reason: str
    changes: tuple[ViewerChange, ...]


def access_changes(access: AccessModel, pages: NDArray[np.int64]) -> list[AccessChange]:
    """Where somebody's actions differ from those on the page above, among some pages.

    The order is that of the tree, drafts last. Pages at the top have no page above, and are left out.

    `pages`: int64[n].

    Example
    -------
    >>> import davlo
    >>> access = AccessModel(davlo.open_demo().resolve())
    >>> found = access_changes(access, np.array([access.site.page_number("/staff/noticeboard")]))
    >>> [(one.who, one.gains, one.loses) for one in found[0].changes][:2], str(found[0].source)
    ([('visitor', ('view',), ()), ('signed-in', ('view',), ())], 'here, davlo.yaml:112')
    """
    site, classes = access.site, access.classes
    pages = np.sort(pages[site.tree.parent[pages] >= 0])
    above, here = classes.of[site.tree.parent[pages]], classes.of[pages]
    differs = above != here
    pages, above, here = pages[differs], above[differs], here[differs]
    first, which = distinct(above * np.int64(len(classes)) + here)
    above, here = above[first], here[first]
    told: list[list[ViewerChange]] = [[] for _ in first]
    actions = site.actions
    for who, change in _viewers(access, above, here):
        for at in np.flatnonzero(change.any(axis=0)).tolist():
            gains, loses = (tuple(itertools.compress(actions, side)) for side in change[:, at].reshape(2, -1).tolist())
            told[at].append(ViewerChange(who, gains, loses))
    owners = access.effective.column("page.owner")
    sources = _sources(access, above, here).tolist()
    above_draft, draft = site.details.draft[classes.sample[[above, here]]]
    alike: dict[tuple[int, str, tuple[ViewerChange, ...]], list[int]] = {}
    for at, changes in enumerate(told):
        owner = owners.at(int(pages[first[at]]))
        named = tuple(one._replace(who=OWNER) if one.who == owner else one for one in changes)
        if named:
            reason = "" if sources[at] != NONE else OWNED if above_draft[at] == draft[at] else BELOW_DRAFT
            reason = DRAFT if reason == BELOW_DRAFT and draft[at] else reason
            alike.setdefault((sources[at], reason, named), []).append(at)
    order = np.argsort(which, kind="stable")
    edges = np.searchsorted(which[order], np.arange(len(first) + 1)).tolist()
    found = []
    for (source, reason, named), pairs in alike.items():
        some = np.sort(np.concatenate([order[edges[at] : edges[at + 1]] for at in pairs]))
        found.append(AccessChange(pages[some], None if source == NONE else source_of(site, source), reason, named))
    return sorted(found, key=lambda one: (one.reason in (DRAFT, BELOW_DRAFT), int(one.pages[0])))


def _viewers(access: AccessModel, above: Codes, here: Codes) -> Iterator[tuple[str, NDArray[np.bool_]]]:
    """For each viewer which actions they gain, then which they lose, by pairs of classes. bool[2 x actions, pairs]

    A person's change is left out where it is that of a group of theirs, or of anyone who is signed in.
    """
    people = access.site.people

    def change_of(who: str) -> NDArray[np.bool_]:
        may = np.stack([access.classes.may(who, action) for action in access.site.actions])
        return np.concatenate([may[:, here] & ~may[:, above], may[:, above] & ~may[:, here]])

    others = {who: change_of(who) for who in (VISITOR, SIGNED_IN, *people.groups)}
    yield from others.items()
    for who in people.names:
        change = change_of(who)
        for other in (*people.groups_of(who), SIGNED_IN):
            change = change & ~(change == others[other]).all(axis=0)
        yield who, change


def _sources(access: AccessModel, above: Codes, here: Codes) -> NDArray[np.int64]:
    """For each pair of classes the strongest access statement whose value differs there; NONE if none differs.
    int64[pairs]"""
    statements = access.site.statements
    found = np.full(len(here), NONE, dtype=np.int64)
    strongest = np.full(len(here), -2, dtype=np.int64)
    for number in access.site.catalogue.access_numbers():
        resolved = access.classes.resolved(number)
        source = resolved.source[here]
        strength = statements.strength(source)
        stronger = (resolved.value[above] != resolved.value[here]) & (strength > strongest)
        found, strongest = np.where(stronger, source, found), np.where(stronger, strength, strongest)
    return found
