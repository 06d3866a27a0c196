"""Findings about access."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...change.steps.change import Change, Say
from ...site.people import OWNING, VISITOR
from ...site.settings.scopes import Scope, ScopeKind
from ...wording import count, some_of
from ..bound_kind import BoundKind
from ..context import FindingContext
from ..finding import Finding
from ..finding_kind import ALL, site_kind
from ..mending import Remedy, changed, without


@site_kind(
    "open-below-closed",
    "error",
    "access",
    depends_on=("access",),
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
    depends_on=("access",),
    meaning="someone may view or edit a page, and may not view one above it",
    why="No menu leads them there; they need the address.",
    mend="Let them view the page above, or take the grant away.",
    takes_away=(("the grant", ALL),),
    example=Change((Say(Scope.here("/staff/handbook"), "access.members", ("view",)),)),
)
def unreachable_grant(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Someone may view or edit a page, and may not view one above it; another kind reports what anyone may view."""
    site, tree, classes = context.site, context.site.tree, context.access.classes
    anyone = context.access.allowed(VISITOR, "view")
    told = anyone & (tree.nearest_above(~anyone) >= 0)
    alike: dict[tuple[bytes, bytes, bytes], list[str]] = {}
    for person in site.people.names:
        view = classes.allowed(person, "view")
        if not view.all():
            acts = view | classes.allowed(person, "edit")
            key = view.tobytes(), acts.tobytes(), _granting(context, person).tobytes()
            alike.setdefault(key, []).append(person)
    found: dict[tuple[int, int, bytes], list[str]] = {}
    for (can_view, can_act, given), people in alike.items():
        above = tree.nearest_above(~np.frombuffer(can_view, dtype=bool)[classes.of])
        pages = np.flatnonzero(np.frombuffer(can_act, dtype=bool)[classes.of] & (above >= 0) & ~told)
        for (by, closed), at in kind.grouped(pages, np.frombuffer(given, dtype=np.int64)[classes.of], above):
            found.setdefault((by, closed, at.tobytes()), []).extend(people)
    for (by, closed, packed), people in found.items():
        pages = np.frombuffer(packed, dtype=np.int64)
        yield kind.finding(
            pages,
            [by],
            f"{some_of(people)} may see or edit {count(len(pages), 'page')} {context.by(by)}, but may not view "
            f"{tree.paths[closed]} above, so no menu leads there",
            f"let them view {tree.paths[closed]}, or take the grant away",
            about=[by, tree.paths[closed]],
        )


def _granting(context: FindingContext, person: str) -> NDArray[np.int64]:
    """The strongest statement that gives a person view or edit, or -1. int64[classes]"""
    classes, statements = context.access.classes, context.statements
    found, strength = np.full((2, len(classes)), -1, dtype=np.int64)
    for subject in context.site.people.covering(person):
        for action in ("view", "edit"):
            given = classes.states("access", subject, action) & classes.covered(person, subject)
            if given.any():
                source = classes.giving("access", subject, action)
                mine = np.where(given, statements.strength(source), -1)
                found = np.where(mine > strength, source, found)
                strength = np.maximum(strength, mine)
    return found


@site_kind(
    "nobody-may-edit",
    "error",
    "access",
    depends_on=("access",),
    meaning="no one but an admin may edit a page",
    why="Mistakes on it stay until an admin has time.",
    mend="Give edit to someone there.",
    needs_decision=True,
)
def nobody_may_edit(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """No person but admins may edit the page; other kinds report an owner who is gone, and a group that is empty."""
    people = [person for person in context.site.people.names if not context.site.people.is_admin(person)]
    if not people:
        return
    classes = context.access.classes
    stuck = np.ones(len(classes), dtype=bool)
    for person in people:
        stuck &= ~classes.may(person, "edit")
        if not stuck.any():
            return
    cause, source = _why_nobody(context, people)
    pages = classes.pages(stuck & (cause > 0))
    for (why, by), at in kind.grouped(pages, cause[classes.of], source[classes.of]):
        told = _NOBODY[why].format(where=context.where(by)) if by >= 0 else "no access statement gives edit there"
        yield kind.finding(
            at,
            [by],
            f"no one but an admin may edit {count(len(at), 'page')}: {told}",
            "no single edit mends it: decide who should, and let them edit there: access: {editors: [view, edit]}",
            about=[by] if by >= 0 else ["unsaid"],
        )


DENIED, NO_OWNER, NO_GROUP, ADMINS, UNSAID, EMPTY_GROUP = range(1, 7)
"""Why nobody may edit a page; 0: another kind reports it."""
_NOBODY = {
    DENIED: "{where} takes it from everyone who is given it",
    NO_OWNER: "{where} gives it to the owner, and none of these pages has an owner",
    NO_GROUP: "{where} gives it to the page's group, and none of these pages has a group",
    EMPTY_GROUP: "{where} gives it to the page's group, and nobody is in the group of these pages",
    ADMINS: "{where} gives it to admins alone",
    UNSAID: "no access statement gives edit there; the closest is {where}",
}


def _why_nobody(context: FindingContext, people: Sequence[str]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Why none of these people may edit the pages of a class, if that is so, and the statement to name. Each
    int64[classes]"""
    classes, catalogue, people_of = context.access.classes, context.site.catalogue, context.site.people
    cause, source = np.full(len(classes), UNSAID, dtype=np.int64), classes.closest(catalogue.access_numbers())
    told_elsewhere = np.zeros(len(classes), dtype=bool)
    for subject in classes.subjects():
        gives = classes.states("access", subject, "edit")
        if not gives.any():
            continue
        somebody = classes.covers_somebody(subject)
        because: NDArray[np.int64] = np.full(len(classes), ADMINS)
        is_gone = gives & ~somebody
        if subject in OWNING:  # one that is not known is reported as such
            known = people_of.names if subject == "owner" else people_of.groups
            is_gone &= ~classes.owned_where(subject, frozenset((None, *known)).__contains__)
            is_known = classes.owned_where(subject, frozenset(known).__contains__)
            because = np.where(is_known, EMPTY_GROUP, NO_OWNER if subject == "owner" else NO_GROUP)
        cause = np.where(gives, np.where(somebody, ADMINS, because), cause)
        source = np.where(gives, classes.giving("access", subject, "edit"), source)
        told_elsewhere |= is_gone
    granted = np.zeros(len(classes), dtype=bool)
    for subject in dict.fromkeys(one for person in people for one in context.site.people.covering(person)):
        if subject not in OWNING:
            granted |= classes.states("access", subject, "edit")
    for subject in OWNING:
        for person in people if classes.states("access", subject, "edit").any() else ():
            granted |= classes.states("access", subject, "edit") & classes.covered(person, subject)
    denials = classes.closest([n for n in catalogue.access_numbers() if catalogue[n].family == "deny"])
    told_here = np.where(told_elsewhere, 0, cause)
    return np.where(granted, DENIED, told_here), np.where(granted, denials, source)


@site_kind(
    "edit-without-view",
    "warning",
    "access",
    depends_on=("access",),
    meaning="someone may edit a page that they may not view",
    why="Edit does not include view: they cannot open what they are to change.",
    mend="Give view too, or take edit away.",
    takes_away=(("the grant", ALL),),
    example=Change((Say(Scope.here("/staff/handbook"), "access.members", ("edit",)),)),
)
def edit_without_view(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A subject has edit, and someone it covers may not view; drafts count as their access says."""
    classes, is_admin = context.access.classes, context.site.people.is_admin
    for subject in classes.subjects():
        edits = classes.states("access", subject, "edit")
        if not edits.any():
            continue
        lost, denied, people = np.zeros(len(classes), dtype=bool), np.zeros(len(classes), dtype=bool), []
        for person in context.site.people.ever_covered(subject):
            mine = edits & classes.covered(person, subject) & ~classes.allowed(person, "view")
            if mine.any() and not is_admin(person):
                people.append(person)
                denied |= mine & classes.denied(person, "view")
                lost |= mine
        if not people:
            continue
        name = f"access.{subject}"
        sources = context.as_written(classes.resolved(context.site.setting_number(name)).source)[classes.of]
        for (source,), at in kind.of(name).grouped(classes.pages(lost), sources):
            who = some_of(["a visitor" if one == VISITOR else one for one in people])
            given = ["view", *context.plain_list(source)]
            suits = len(given) > 1 and given.count("view") == 1 and not denied[classes.of[at]].any()
            way = changed(context.site, "give view too", source, tuple(given)) if suits else None
            yield kind.of(name).finding(
                at,
                [source],
                f"{name} holds edit on {count(len(at), 'page')}, {context.by(source)}, but {who} may not view "
                f"{'it' if len(at) == 1 else 'them'}: edit does not include view",
                f"give view too: access: {{{subject}: [view, edit]}}, or take edit away",
                way,
            )
