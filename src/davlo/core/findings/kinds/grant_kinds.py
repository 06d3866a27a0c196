"""Findings about what access statements give and drop, and to whom."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import distinct_numbers, groups
from ...change.steps.change import CHANGED, Change, Declare, Say, Step
from ...change.steps.statement_steps import target_of
from ...site.declarations import Group
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import ListChange, format_value
from ...site.source import source_of
from ...site.statements.new_statements import Form
from ...wording import count
from ..bound_kind import MOST_SAID, NO_PAGES, BoundKind
from ..context import FindingContext
from ..finding import Finding
from ..finding_kind import ALL, setting_kind, site_kind
from ..folded_setting import FoldedSetting
from ..mending import Remedy, changed, scope_of_line, without


@site_kind(
    "access-dropped",
    "note",
    "access",
    depends_on=("access",),
    meaning="a fresh_access drops what people or groups had (a warning where it drops a deny)",
    why="`fresh_access` lets nothing from weaker scopes through. What its own scope does not set again is gone.",
    mend="Say it again in that scope, or leave it if it should be gone.",
    takes_away=(("the fresh_access", ALL),),
)
def access_dropped(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A `fresh_access` drops a grant to people or groups that its own scope does not give again, or drops a deny."""
    site, statements = context.site, context.statements
    fresh = np.flatnonzero(statements.form == Form.FRESH)
    lost: dict[tuple[str, int, bool], list[_Dropped]] = {}
    for (setting,), _ in groups(statements.setting[fresh]):
        declared = site.catalogue[setting]
        if declared.family == "access" and declared.member in ("everyone", "signed-in"):
            continue  # keeping strangers out is its purpose
        folded = context.folded(setting)
        for dropped in _dropped(folded):
            place = statements.place(dropped.statement)
            key = (place.file, place.line, declared.family == "deny")
            lost.setdefault(key, []).append(dropped)
    for (_, _, is_deny), parts in lost.items():
        pages = np.unique(np.concatenate([one.pages for one in parts]))
        if not kind.reports(pages):
            continue
        listed = "; ".join(dict.fromkeys(f"{one.name} ({format_value(one.actions)})" for one in parts))
        yield kind.finding(
            pages,
            sorted({one.statement for one in parts})[:MOST_SAID],
            f"fresh_access {context.by(parts[0].statement)} drops what weaker scopes {'deny' if is_deny else 'give'} "
            f"on {count(len(pages), 'page')}: {listed}",
            "set it again in that scope if it should hold, or leave it if it should not",
            _given_again(context, parts),
            level="warning" if is_deny else "note",
        )


class _Dropped(NamedTuple):
    """What a `fresh_access` drops from one setting and its scope does not give again."""

    statement: int
    name: str
    actions: tuple[str, ...]
    gives_others: bool
    """Whether its scope gives other actions, by a preset or by itself."""
    pages: NDArray[np.int64]


def _given_again(context: FindingContext, parts: Sequence[_Dropped]) -> Remedy | None:
    """The way that sets again what a `fresh_access` drops; none where that differs from page to page, or is set."""
    site, steps = context.site, list[Step]()
    for name in dict.fromkeys(one.name for one in parts):
        some = [one for one in parts if one.name == name]
        scope = scope_of_line(site, some[0].statement)
        number = site.setting_number(name)
        says = [site.statements.find(number, part.kind, target_of(site, part)) for part in scope.parts]
        if len({one.actions for one in some}) > 1 or max(says) >= 0:
            return None
        actions = some[0].actions
        adds = any(one.gives_others for one in some)  # a plain list would replace what a preset gives
        steps.append(Say(scope, name, ListChange(add=actions) if adds else actions))
    return Remedy("set it again in that scope", Change(tuple(steps)))


def _dropped(folded: FoldedSetting) -> Iterator[_Dropped]:
    """What each `fresh_access` drops and its scope does not give again."""
    statements, steps = folded.statements, folded.steps
    words = folded.words
    order = np.argsort(steps.samples, kind="stable")
    forms, scopes = statements.form[steps.statements[order]], statements.scope[steps.statements[order]]
    targets, samples = statements.target[steps.statements[order]], steps.samples[order]
    found: dict[tuple[int, tuple[str, ...], bool], list[int]] = {}
    for at in np.flatnonzero((forms == Form.FRESH) & ~steps.blocked[order]).tolist():
        sample, end = int(samples[at]), at
        if not folded.has[sample]:
            continue
        while end + 1 < len(order) and (samples[end + 1], scopes[end + 1], targets[end + 1]) == (
            sample,
            scopes[at],
            targets[at],
        ):
            end += 1
        before, after = words[int(steps.before[order[at]])], words[int(steps.after[order[end]])]
        assert isinstance(before, tuple)
        assert isinstance(after, tuple)
        gone = tuple(action for action in before if action not in after)
        if gone:
            found.setdefault((int(steps.statements[order[at]]), gone, bool(after)), []).append(sample)
    for (statement, gone, gives_others), some in found.items():
        marked = np.zeros(len(folded.groups.sample), dtype=bool)
        marked[some] = True
        yield _Dropped(statement, folded.name, gone, gives_others, folded.groups.pages(marked))


@setting_kind(
    "drops-actions",
    "note",
    "access",
    families=("access",),
    depends_on=("access",),
    of_values=True,
    meaning="a plain list takes away an action that weaker scopes gave",
    why="A plain list replaces. Often `{add: […]}` was meant.",
    mend="Write `{add: […]}`, or leave it if the action should go.",
    takes_away=(("the list", ALL),),
    example=Change((Say(Scope.here("/visit/maps"), "access.editors", ("view",)),)),
)
def drops_actions(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A plain list takes away an action that weaker scopes gave the same subject."""
    statements, steps, name = folded.statements, folded.steps, folded.name
    words = folded.words
    plain = folded.replaces(steps.statements)
    plain &= (statements.form[steps.statements] != Form.FRESH) & ~steps.blocked & folded.has[steps.samples]
    at = np.flatnonzero(plain & (steps.before != steps.after))
    pairs = list(zip(steps.before[at].tolist(), steps.after[at].tolist(), strict=True))
    drops = {pair for pair in set(pairs) if set(_actions(words[pair[0]])) - set(_actions(words[pair[1]]))}
    at = at[np.array([pair in drops for pair in pairs], dtype=bool)]
    keys = steps.statements[at], steps.before[at], steps.after[at]
    keep = kind.keep
    for (statement, before, after), _, pages in folded.gathered(steps.samples[at], *keys, keep=keep):
        gone = [action for action in _actions(words[before]) if action not in _actions(words[after])]
        given = context.plain_list(statement)
        adds = "add to what weaker scopes give"
        way = changed(context.site, adds, statement, ListChange(add=tuple(given))) if given else None
        yield kind.finding(
            pages,
            [statement],
            f"{context.where(statement)} gives {name} {format_value(words[after]) or 'nothing'}, which takes "
            f"{', '.join(gone)} away from what weaker scopes give on {count(len(pages), 'page')}",
            f"write {{add: […]}} to add to what is there, or leave it if {', '.join(gone)} should go",
            way,
        )


def _actions(word: object) -> tuple[str, ...]:
    return word if isinstance(word, tuple) else ()


@setting_kind(
    "owner-gone",
    "warning",
    "access",
    depends_on=("access",),
    of_values=True,
    meaning="a page's owner or group is not known",
    why="What is given to `owner` is given to nobody there.",
    mend="Name another owner, or declare the person.",
    takes_away=(("the owner", ALL),),
)
def owner_gone(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """An owner or group in a cell or stamp is not known."""
    people, statements = context.site.people, context.statements
    known = {"page.owner": people.names, "page.group": tuple(people.groups)}.get(folded.name)
    if known is None:
        return
    found = context.effective.resolved(folded.setting)
    gone = found.where(lambda word: isinstance(word, str) and word not in known)
    pages = np.flatnonzero(gone & context.site.has(folded.setting))
    for (code,), at in kind.grouped(pages, found.value):
        said = distinct_numbers(found.source[at])
        what = "person" if folded.name == "page.owner" else "group"
        yield kind.finding(
            at,
            said,
            f"{folded.name} of {count(len(at), 'page')} is {found.words[code]} ({statements.place(said[0])}), "
            f"and there is no such {what}",
            f"name another {what} there, or declare {found.words[code]} under people",
        )


@site_kind(
    "group-empty",
    "warning",
    "access",
    depends_on=("access",),
    meaning="a group that covers nobody is named in an access statement",
    why="The statement gives nothing to anyone.",
    mend="Put people into the group, or take it away.",
    takes_away=(("the statements", ALL),),
    example=Change((Declare(Group("volunteers", CHANGED)), Say(Scope.everywhere(), "access.volunteers", ("view",)))),
)
def group_empty(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A group that covers nobody is named in an access statement."""
    site, statements = context.site, context.statements
    for group in site.people.groups:
        if site.people.members_of(group):
            continue
        for family in ("access", "deny"):
            of_group = kind.of(f"{family}.{group}")
            number = site.catalogue.find(f"{family}.{group}")
            said = [
                s
                for s in (statements.of_setting(number) if number is not None else ())
                if int(statements.form[s]) != Form.FRESH
            ]
            if said and of_group.reports(NO_PAGES):
                yield of_group.finding(
                    NO_PAGES,
                    said,
                    f"{family}.{group} is said by {count(len(said), 'statement')} ({statements.place(said[0])}), "
                    f"but the group {group} covers nobody",
                    f"put people into {group} ({site.people.places[group]}), or take the group away",
                )


@site_kind(
    "person-beside-group",
    "note",
    "access",
    depends_on=("access",),
    meaning="one scope names a person and a group they are in, with different actions",
    why="Both hold together, which is seldom what the shorter of the two was meant for.",
    mend="Take the person's away, or take the person out of the group.",
    example=Change((Say(Scope.everywhere(), "access.ida.marsh", ("view",)),)),
)
def person_beside_group(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """One scope names a person and a group of theirs, with different actions; equal cases become one finding."""
    people = context.site.people
    for family in ("access", "deny"):
        for person in people.names:
            own = _said_plainly_of(context, f"{family}.{person}")
            for group in people.groups_of(person) if len(own) else ():
                others = _said_plainly_of(context, f"{family}.{group}")
                mine, theirs = _in_one_scope(context, own, others)
                yield from _beside(context, kind.of(f"{family}.{person}"), person, group, mine, theirs)


def _said_plainly_of(context: FindingContext, name: str) -> NDArray[np.int64]:
    """What scopes say of a setting themselves, stamps aside. int64[n]"""
    number, statements = context.site.catalogue.find(name), context.statements
    span = statements.of_setting(number) if number is not None else range(0)
    some = np.arange(span.start, span.stop)
    keep = (statements.form[some] == Form.SAID) & (statements.scope[some] != ScopeKind.STAMP)
    found: NDArray[np.int64] = some[keep]
    return found


def _in_one_scope(
    context: FindingContext, one: NDArray[np.int64], other: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The statements of two settings that stand in the same scopes, pair by pair. Each int64[n]"""
    statements = context.statements

    def scopes(some: NDArray[np.int64]) -> NDArray[np.int64]:
        packed: NDArray[np.int64] = (statements.scope[some].astype(np.int64) << 32) + statements.target[some]
        return packed

    _, first, second = np.intersect1d(scopes(one), scopes(other), return_indices=True)
    return one[first], other[second]


def _beside(
    context: FindingContext,
    kind: BoundKind,
    person: str,
    group: str,
    mine: NDArray[np.int64],
    theirs: NDArray[np.int64],
) -> Iterator[Finding]:
    """The findings of a person and a group that scopes name, pair by pair, with different actions."""
    statements = context.statements
    single = statements.scope[mine] == ScopeKind.HERE
    alone = np.where(single, -1, np.arange(len(mine)))
    for _, rows in groups(statements.value[mine], statements.value[theirs], alone):
        said = [int(mine[rows[0]]), int(theirs[rows[0]])]
        pages = context.cells(mine[rows])
        if _same(context, *said) or not kind.reports(pages):
            continue
        told = [format_value(statements.said(one)) or "nothing" for one in said]
        both = (("the person's", mine), ("the group's", theirs))
        ways = [without(context.site, words, some[rows].tolist()) for words, some in both]
        yield kind.finding(
            pages,
            [*mine[rows].tolist(), *theirs[rows].tolist()],
            f"{source_of(context.site, said[0]).scope} gives {person} {told[0]} and the group {group}, which {person} "
            f"is in, {told[1]}: both hold, so the person has what either gives",
            f"take the person's away if the group's is enough, or take {person} out of {group}",
            *ways,
            about=[f"person {person}", f"group {group}", *([] if single[rows[0]] else said)],
        )


def _same(context: FindingContext, one: int, other: int) -> bool:
    first, second = context.statements.said(one), context.statements.said(other)
    return first == second or (isinstance(first, tuple) and isinstance(second, tuple) and set(first) == set(second))
