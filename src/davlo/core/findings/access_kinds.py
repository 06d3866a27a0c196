"""Findings about access."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ..change.steps import Change, Say
from ..outcomes.access import OWNING, VISITOR
from ..site.scopes import Scope, ScopeKind
from ..wording import count, some_of
from .bound_kind import BoundKind
from .context import FindingContext
from .finding import Finding
from .finding_kind import ALL, site_kind
from .mending import Remedy, changed, without


@site_kind(
    "open-below-closed",
    "error",
    "access",
    setting="access.everyone",
    meaning="anyone may view a page below a closed one",
    why="Whoever closed the branch believes that all of it is closed.",
    mend="Take view from everyone there, or open the page above.",
)
def open_below_closed(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A visitor may view a page, and may not view one above it; drafts count as their access says."""
    tree, name = context.site.tree, "access.everyone"
    view = context.access.allowed(VISITOR, "view")
    above = tree.nearest_above(~view)
    sources = context.source(name)
    pages = np.flatnonzero(view & (above >= 0))
    for (opens, closed), at in kind.grouped(pages, sources, above):
        yield kind.finding(
            at,
            [opens, int(sources[closed])],
            f"anyone may view {count(len(at), 'page')}, {context.by(opens)}, but not {tree.paths[closed]} above",
            f"take view from everyone there, or open {tree.paths[closed]} if it was closed by mistake",
            without(context.site, "what opens it", [opens]),
            _closed_too(context, opens, closed),
        )


def _closed_too(context: FindingContext, opens: int, closed: int) -> Remedy | None:
    """The way that closes what is below a closed page too; none where something stronger opens it, or it is set."""
    site, statements = context.site, context.statements
    number = site.setting_number("access.everyone")
    is_stronger = opens >= 0 and (statements.scope[opens] >= ScopeKind.BELOW or bool(statements.locked[opens]))
    if is_stronger or statements.find(number, ScopeKind.BELOW, closed) >= 0:
        return None
    return Remedy(
        "close what is below too", Change((Say(Scope.below(site.tree.paths[closed]), "access.everyone", ()),))
    )


@site_kind(
    "unreachable-grant",
    "warning",
    "access",
    meaning="someone may view or edit a page, and may not view one above it",
    why="No menu leads them there; they need the address.",
    mend="Let them view the page above, or take the grant away.",
    takes_away=(("the grant", ALL),),
    example=Change((Say(Scope.here("/staff/handbook"), "access.members", ("view",)),)),
)
def unreachable_grant(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Someone may view or edit a page, and may not view one above it; another kind reports what anyone may view."""
    site, access, tree = context.site, context.access, context.site.tree
    anyone = access.allowed(VISITOR, "view")
    told = anyone & (tree.nearest_above(~anyone) >= 0)
    found: dict[tuple[int, int, bytes], list[str]] = {}
    for person in site.people.names:
        if access.is_admin(person):
            continue
        view = access.allowed(person, "view")
        if view.all():
            continue
        above = tree.nearest_above(~view)
        pages = np.flatnonzero((view | access.allowed(person, "edit")) & (above >= 0) & ~told)
        opens = _granting(context, person, pages)
        for (by, closed), at in kind.grouped(pages, opens, above):
            found.setdefault((by, closed, at.tobytes()), []).append(person)
    for (by, closed, packed), people in found.items():
        pages = np.frombuffer(packed, dtype=np.int64)
        yield kind.finding(
            pages,
            [by],
            f"{some_of(people)} may see or edit {count(len(pages), 'page')} {context.by(by)}, but may not view "
            f"{tree.paths[closed]} above, so no menu leads there",
            f"let them view {tree.paths[closed]}, or take the grant away",
        )


def _granting(context: FindingContext, person: str, pages: NDArray[np.int64]) -> NDArray[np.int64]:
    """The strongest statement that gives a person view or edit on each page, among these. int64[all pages]"""
    access, statements = context.access, context.statements
    found = np.full(len(context.site.tree), -1, dtype=np.int64)
    strength = np.full(len(pages), -1, dtype=np.int64)
    for subject in access.covering(person):
        number = context.site.catalogue.find(f"access.{subject}")
        if number is None:
            continue
        for action in ("view", "edit"):
            given = access.states("access", subject, action) & access.covered(person, subject)
            source = access.giving("access", subject, action)[pages]
            mine = np.where(given[pages], statements.strength(source), -1)
            found[pages] = np.where(mine > strength, source, found[pages])
            strength = np.maximum(strength, mine)
    return found


@site_kind(
    "nobody-may-edit",
    "error",
    "access",
    meaning="no one but an admin may edit a page",
    why="Mistakes on it stay until an admin has time.",
    mend="Give edit to someone there.",
    needs_decision=True,
)
def nobody_may_edit(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """No person but admins may edit the page; other kinds report an owner who is gone, and a group that is empty."""
    site, access = context.site, context.access
    people = [person for person in site.people.names if not access.is_admin(person)]
    if not people:
        return
    stuck, granted = np.ones(len(site.tree), dtype=bool), np.zeros(len(site.tree), dtype=bool)
    for person in people:
        stuck &= ~access.may(person, "edit")
        if not stuck.any():
            return
    for subject in {one for person in people for one in access.covering(person)}.difference(OWNING):
        granted |= access.states("access", subject, "edit")
    for person in people:
        for subject in OWNING:
            granted |= access.states("access", subject, "edit") & access.covered(person, subject)
    cause, source = _why_nobody(context, np.flatnonzero(stuck), granted)
    for (why, by), pages in kind.grouped(np.flatnonzero(stuck & (cause > 0)), cause, source):
        told = _NOBODY[why].format(where=context.where(by)) if by >= 0 else "no access statement gives edit there"
        yield kind.finding(
            pages,
            [by],
            f"no one but an admin may edit {count(len(pages), 'page')}: {told}",
            "no one edit mends it: decide who should, and give them edit there, as in access: {editors: [view, edit]}",
        )


DENIED, NO_OWNER, NO_GROUP, ADMINS, UNSAID = range(1, 6)
"""Why nobody may edit a page; 0: another kind reports it."""
_NOBODY = {
    DENIED: "{where} takes it from everyone who is given it",
    NO_OWNER: "{where} gives it to the owner, and no page of these has one",
    NO_GROUP: "{where} gives it to the page's group, and no page of these has one",
    ADMINS: "{where} gives it to admins alone",
    UNSAID: "no access statement gives edit there; the closest is {where}",
}


def _why_nobody(
    context: FindingContext, stuck: NDArray[np.int64], granted: NDArray[np.bool_]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """For each page that nobody may edit the cause, and the statement to name. Each int64[pages]"""
    site, access = context.site, context.access
    cause = np.full(len(site.tree), UNSAID, dtype=np.int64)
    source = np.full(len(site.tree), -1, dtype=np.int64)
    source[stuck] = _closest(context, stuck, site.catalogue.access_numbers())
    told_elsewhere = np.zeros(len(site.tree), dtype=bool)
    for subject in access.subjects():
        gives = access.states("access", subject, "edit")[stuck]
        at = stuck[gives]
        if not len(at):
            continue
        by = access.giving("access", subject, "edit")[at]
        somebody = access.covers_somebody(subject)[at]
        if subject in OWNING:
            value = context.effective.column("page.owner" if subject == "owner" else "page.group")
            is_gone = value.where(lambda word: isinstance(word, str))[at] & ~somebody
            cause[at] = np.where(somebody, ADMINS, NO_OWNER if subject == "owner" else NO_GROUP)
        else:
            is_gone = ~somebody
            cause[at] = ADMINS
        source[at] = by
        told_elsewhere[at[is_gone]] = True
    denied = stuck[granted[stuck]]
    cause[denied] = DENIED
    numbers = [n for n in site.catalogue.access_numbers() if site.catalogue[n].family == "deny"]
    source[denied] = _closest(context, denied, numbers)
    cause[told_elsewhere & (cause != DENIED)] = 0
    return cause, source


def _closest(context: FindingContext, pages: NDArray[np.int64], settings: Sequence[int]) -> NDArray[np.int64]:
    """The strongest statement that gave these pages their value of one of these settings, or -1. int64[n]"""
    closest, strength = np.full(len(pages), -1, dtype=np.int64), np.zeros(len(pages), dtype=np.int64)
    for number in settings:
        source = context.effective.resolved(number).source[pages]
        mine = context.statements.strength(source)
        closest = np.where(mine > strength, source, closest)
        strength = np.maximum(strength, mine)
    return closest


@site_kind(
    "edit-without-view",
    "warning",
    "access",
    meaning="someone may edit a page that they may not view",
    why="No action brings another with it: they cannot open what they are to change.",
    mend="Give view too, or take edit away.",
    takes_away=(("the grant", ALL),),
    example=Change((Say(Scope.here("/staff/handbook"), "access.members", ("edit",)),)),
)
def edit_without_view(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A subject has edit, and someone it covers may not view; drafts count as their access says."""
    access = context.access
    for subject in access.subjects():
        edits = access.states("access", subject, "edit")
        if not edits.any():
            continue
        lost, denied, people = np.zeros(len(edits), dtype=bool), np.zeros(len(edits), dtype=bool), []
        for person in access.people_ever_covered(subject):
            if not (context.site.people.has(person) and access.is_admin(person)):
                mine = edits & access.covered(person, subject) & ~access.allowed(person, "view")
                if not mine.any():
                    continue
                people.append(person)
                denied |= mine & access.denied(person, "view")
                lost |= mine
        name = f"access.{subject}"
        for (source,), at in kind.of(name).grouped(np.flatnonzero(lost), context.source(name)):
            who = some_of(["a visitor" if one == VISITOR else one for one in people])
            given = ["view", *context.plain_list(source)]
            suits = len(given) > 1 and given.count("view") == 1 and not denied[at].any()
            way = changed(context.site, "give view too", source, tuple(given)) if suits else None
            yield kind.of(name).finding(
                at,
                [source],
                f"{name} holds edit on {count(len(at), 'page')}, {context.by(source)}, but {who} may not view "
                f"{'it' if len(at) == 1 else 'them'}: no action brings another with it",
                f"give view too: access: {{{subject}: [view, edit]}}, or take edit away",
                way,
            )
