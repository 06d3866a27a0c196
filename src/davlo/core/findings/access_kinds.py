"""Findings about access."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..arrays.grouping import groups
from ..outcomes.access import VISITOR
from ..site.source import source_of
from ..site.statements import Form, Scope
from ..site.values import Change, format_value
from ..wording import count, some_of
from .context import Inquiry
from .finding import Finding
from .folded_setting import Folded
from .mending import changed, without


def open_below_closed(inquiry: Inquiry) -> Iterator[Finding]:
    """A visitor may view a page, and may not view one above it; drafts count as their access says."""
    tree, name = inquiry.site.tree, "access.everyone"
    view = inquiry.access.allowed(VISITOR, "view")
    above = tree.nearest_above(~view)
    sources = inquiry.source(name)
    pages = np.flatnonzero(view & (above >= 0))
    for (opens, closed), at in inquiry.causes("open-below-closed", name, pages, sources, above):
        ways = [without(inquiry.site, "what opens it", [opens])]
        ways += [without(inquiry.site, "what closes the page above", [int(sources[closed])])]
        yield Finding(
            "open-below-closed",
            "error",
            name,
            inquiry.paths(at),
            inquiry.said([opens, int(sources[closed])]),
            f"anyone may view {count(len(at), 'page')}, {inquiry.by(opens)}, but not {tree.paths[closed]} above",
            f"take view from everyone there, or open {tree.paths[closed]} if it was closed by mistake",
            tuple(filter(None, ways)),
        )


def unreachable_grant(inquiry: Inquiry) -> Iterator[Finding]:
    """Someone may view or edit a page, and may not view one above it; what anyone may view is told elsewhere."""
    site, access, tree = inquiry.site, inquiry.access, inquiry.site.tree
    anyone = access.allowed(VISITOR, "view")
    told = anyone & (tree.nearest_above(~anyone) >= 0)
    found: dict[tuple[int, int, bytes], list[str]] = {}
    for person in site.people.names:
        if access.is_admin(person):
            continue
        view = access.allowed(person, "view")
        above = tree.nearest_above(~view)
        pages = np.flatnonzero((view | access.allowed(person, "edit")) & (above >= 0) & ~told)
        opens = _granting(inquiry, person, pages)
        for (by, closed), at in inquiry.causes("unreachable-grant", None, pages, opens, above):
            found.setdefault((by, closed, at.tobytes()), []).append(person)
    for (by, closed, packed), people in found.items():
        pages = np.frombuffer(packed, dtype=np.int64)
        yield Finding(
            "unreachable-grant",
            "warning",
            None,
            inquiry.paths(pages),
            inquiry.said([by]),
            f"{some_of(people)} may see or edit {count(len(pages), 'page')} {inquiry.by(by)}, but may not view "
            f"{tree.paths[closed]} above, so no menu leads there",
            f"let them view {tree.paths[closed]}, or take the grant away",
        )


def _granting(inquiry: Inquiry, person: str, pages: NDArray[np.int64]) -> NDArray[np.int64]:
    """The strongest statement that gives a person view or edit on each page, among these. int64[all pages]"""
    access, statements = inquiry.access, inquiry.statements
    found = np.full(len(inquiry.site.tree), -1, dtype=np.int64)
    strength = np.full(len(pages), -1, dtype=np.int64)
    for subject in access.covering(person):
        number = inquiry.site.catalogue.find(f"access.{subject}")
        if number is None:
            continue
        given = access.states("access", subject, "view") | access.states("access", subject, "edit")
        given &= access.covered(person, subject)
        source = inquiry.effective.resolved(number).source[pages]
        mine = np.where(given[pages], statements.strength(source), -1)
        found[pages] = np.where(mine > strength, source, found[pages])
        strength = np.maximum(strength, mine)
    return found


def nobody_may_edit(inquiry: Inquiry) -> Iterator[Finding]:
    """No person but admins may edit the page."""
    site, statements = inquiry.site, inquiry.statements
    stuck = np.ones(len(site.tree), dtype=bool)
    for person in site.people.names:
        if not inquiry.access.is_admin(person):
            stuck &= ~inquiry.access.may(person, "edit")
    at = np.flatnonzero(stuck)
    closest = np.full(len(site.tree), -1, dtype=np.int64)
    strength = np.zeros(len(at), dtype=np.int64)
    for number in site.catalogue.access_numbers():
        source = inquiry.effective.resolved(number).source[at]
        mine = statements.strength(source)
        closest[at] = np.where(mine > strength, source, closest[at])
        strength = np.maximum(strength, mine)
    for (source_number,), pages in inquiry.causes("nobody-may-edit", None, at, closest):
        named = (
            "nobody is given edit anywhere"
            if source_number < 0
            else f"the closest access statement is {inquiry.where(source_number)}"
        )
        yield Finding(
            "nobody-may-edit",
            "error",
            None,
            inquiry.paths(pages),
            inquiry.said([source_number]),
            f"no one but an admin may edit {count(len(pages), 'page')}; {named}",
            "no one edit mends it: decide who should, and give them edit there, as in access: {editors: [view, edit]}",
        )


def edit_without_view(inquiry: Inquiry) -> Iterator[Finding]:
    """A subject has edit, and someone it covers may not view; drafts count as their access says."""
    access = inquiry.access
    for subject in access.subjects():
        edits = access.states("access", subject, "edit")
        if not edits.any():
            continue
        lost, denied, people = np.zeros(len(edits), dtype=bool), np.zeros(len(edits), dtype=bool), []
        for person in access.people_ever_covered(subject):
            if not (person in inquiry.site.people.names and access.is_admin(person)):
                mine = edits & access.covered(person, subject) & ~access.allowed(person, "view")
                people += [person] if mine.any() else []
                denied |= mine & access.denied(person, "view")
                lost |= mine
        name = f"access.{subject}"
        for (source,), at in inquiry.causes("edit-without-view", name, np.flatnonzero(lost), inquiry.source(name)):
            who = some_of(["a visitor" if one == VISITOR else one for one in people])
            given = ["view", *_said_plainly(inquiry, source)]
            suits = len(given) > 1 and given.count("view") == 1 and not denied[at].any()
            way = changed(inquiry.site, "give view too", source, [*given], tuple(given)) if suits else None
            yield Finding(
                "edit-without-view",
                "warning",
                name,
                inquiry.paths(at),
                inquiry.said([source]),
                f"{name} holds edit on {count(len(at), 'page')}, {inquiry.by(source)}, but {who} may not view "
                f"{'it' if len(at) == 1 else 'them'}: no action brings another with it",
                f"give view too: access: {{{subject}: [view, edit]}}, or take edit away",
                (way,) if way else (),
            )


def reset_by_fresh(inquiry: Inquiry) -> Iterator[Finding]:
    """A `fresh_access` drops a grant to people or groups that its own scope does not give again, or a deny."""
    site, statements = inquiry.site, inquiry.statements
    fresh = np.flatnonzero(statements.form == Form.FRESH)
    lost: dict[tuple[str, int, bool], list[tuple[int, str, NDArray[np.int64]]]] = {}
    for (setting,), _ in groups(statements.setting[fresh]):
        declared = site.catalogue[setting]
        if declared.family == "access" and declared.member in ("everyone", "signed-in"):
            continue  # that strangers do not come in is what it is there for
        folded = inquiry.folded(setting)
        for statement, what, pages in _dropped(folded):
            place = statements.place(statement)
            key = (place.file, place.line, declared.family == "deny")
            lost.setdefault(key, []).append((statement, f"{declared.name} ({what})", pages))
    for (_, _, is_deny), parts in lost.items():
        pages = np.unique(np.concatenate([at for _, _, at in parts]))
        if not inquiry.any_looked_at("reset-by-fresh", None, pages):
            continue
        listed = "; ".join(dict.fromkeys(words for _, words, _ in parts))
        yield Finding(
            "reset-by-fresh",
            "warning" if is_deny else "note",
            None,
            inquiry.paths(pages),
            inquiry.said(sorted({statement for statement, _, _ in parts})[:8]),
            f"fresh_access {inquiry.by(parts[0][0])} drops what weaker scopes {'deny' if is_deny else 'give'} on "
            f"{count(len(pages), 'page')}: {listed}",
            "say it again in that scope if it should hold, or leave it if it should not",
        )


def _dropped(folded: Folded) -> Iterator[tuple[int, str, NDArray[np.int64]]]:
    """What each `fresh_access` takes away and its scope does not give again: the statement, the actions, the pages."""
    statements, steps = folded.statements, folded.steps
    words = statements.words[folded.setting].items
    order = np.argsort(steps.samples, kind="stable")
    forms, scopes = statements.form[steps.statements[order]], statements.scope[steps.statements[order]]
    targets, samples = statements.target[steps.statements[order]], steps.samples[order]
    found: dict[tuple[int, tuple[str, ...]], list[int]] = {}
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
            found.setdefault((int(steps.statements[order[at]]), gone), []).append(sample)
    for (statement, gone), some in found.items():
        marked = np.zeros(len(folded.alike.sample), dtype=bool)
        marked[some] = True
        yield statement, format_value(gone), folded.alike.pages(marked)


def drops_actions(inquiry: Inquiry, folded: Folded) -> Iterator[Finding]:
    """A plain list takes away an action that weaker scopes gave the same subject."""
    statements, steps, name = folded.statements, folded.steps, folded.name
    if inquiry.site.catalogue[folded.setting].family != "access":
        return
    words = statements.words[folded.setting].items
    plain = statements.replaces(folded.setting)[statements.value[steps.statements]]
    plain &= (statements.form[steps.statements] != Form.FRESH) & ~steps.blocked & folded.has[steps.samples]
    at = np.flatnonzero(plain & (steps.before != steps.after))
    pairs = list(zip(steps.before[at].tolist(), steps.after[at].tolist(), strict=True))
    drops = {pair for pair in set(pairs) if set(_actions(words[pair[0]])) - set(_actions(words[pair[1]]))}
    at = at[np.array([pair in drops for pair in pairs], dtype=bool)]
    keys = steps.statements[at], steps.before[at], steps.after[at]
    keep = inquiry.looking("drops-actions", name)
    for (statement, before, after), _, pages in folded.gathered(steps.samples[at], *keys, keep=keep):
        gone = [action for action in _actions(words[before]) if action not in _actions(words[after])]
        given = _said_plainly(inquiry, statement)
        adds = "add to what weaker scopes give"
        way = changed(inquiry.site, adds, statement, {"add": [*given]}, Change(add=tuple(given))) if given else None
        yield Finding(
            "drops-actions",
            "note",
            name,
            inquiry.paths(pages),
            inquiry.said([statement]),
            f"{inquiry.where(statement)} gives {name} {format_value(words[after]) or 'nothing'}, which takes "
            f"{', '.join(gone)} away from what weaker scopes give on {count(len(pages), 'page')}",
            f"write {{add: […]}} to add to what is there, or leave it if {', '.join(gone)} should go",
            (way,) if way else (),
        )


def _said_plainly(inquiry: Inquiry, number: int) -> list[str]:
    """The actions that a statement gives with a plain list; none where it says something else."""
    said = inquiry.statements.said(number) if number >= 0 else None
    return [*said] if isinstance(said, tuple) else []


def _actions(word: object) -> tuple[str, ...]:
    return word if isinstance(word, tuple) else ()


def owner_gone(inquiry: Inquiry, folded: Folded) -> Iterator[Finding]:
    """An owner or group in a cell or stamp is not known."""
    people, statements = inquiry.site.people, inquiry.statements
    known = {"page.owner": people.names, "page.group": tuple(people.groups)}.get(folded.name)
    if known is None:
        return
    found = inquiry.effective.resolved(folded.setting)
    words = statements.words[folded.setting].items
    gone = np.array([isinstance(word, str) and word not in known for word in words], dtype=bool)
    pages = np.flatnonzero(gone[found.value] & inquiry.site.has(folded.setting))
    for (code,), at in inquiry.causes("owner-gone", folded.name, pages, found.value):
        said = sorted(set(found.source[at].tolist()))
        what = "person" if folded.name == "page.owner" else "group"
        yield Finding(
            "owner-gone",
            "warning",
            folded.name,
            inquiry.paths(at),
            inquiry.said(said),
            f"{folded.name} of {count(len(at), 'page')} is {words[code]} ({statements.place(said[0])}), "
            f"and there is no such {what}",
            f"name another {what} there, or declare {words[code]} under people",
        )


def group_empty(inquiry: Inquiry) -> Iterator[Finding]:
    """A group that covers nobody is named in an access statement."""
    site, statements = inquiry.site, inquiry.statements
    for group in site.people.groups:
        if site.people.members_of(group):
            continue
        for family in ("access", "deny"):
            number = site.catalogue.find(f"{family}.{group}")
            said = [
                s
                for s in (statements.of_setting(number) if number is not None else ())
                if int(statements.form[s]) != Form.FRESH
            ]
            if said and inquiry.tells_of_no_page("group-empty", f"{family}.{group}"):
                yield Finding(
                    "group-empty",
                    "note",
                    f"{family}.{group}",
                    inquiry.paths(np.zeros(0, dtype=np.int64)),
                    inquiry.said(said),
                    f"{family}.{group} is said by {count(len(said), 'statement')} ({statements.place(said[0])}), "
                    f"but the group {group} covers nobody",
                    f"put people into {group} ({site.people.places[group]}), or take the group away",
                )


def person_beside_group(inquiry: Inquiry) -> Iterator[Finding]:
    """One scope names a person and a group they are in, with different actions; alike on pages: together."""
    people = inquiry.site.people
    for family in ("access", "deny"):
        for person in people.names:
            own = _said_plainly_of(inquiry, f"{family}.{person}")
            for group in people.groups_of(person) if len(own) else ():
                others = _said_plainly_of(inquiry, f"{family}.{group}")
                mine, theirs = _in_one_scope(inquiry, own, others)
                yield from _beside(inquiry, f"{family}.{person}", group, mine, theirs)


def _said_plainly_of(inquiry: Inquiry, name: str) -> NDArray[np.int64]:
    """What scopes say of a setting themselves, stamps aside. int64[n]"""
    number, statements = inquiry.site.catalogue.find(name), inquiry.statements
    span = statements.of_setting(number) if number is not None else range(0)
    some = np.arange(span.start, span.stop)
    keep = (statements.form[some] == Form.SAID) & (statements.scope[some] != Scope.STAMP)
    found: NDArray[np.int64] = some[keep]
    return found


def _in_one_scope(
    inquiry: Inquiry, one: NDArray[np.int64], other: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The statements of two settings that stand in the same scopes, pair by pair. Each int64[n]"""
    statements = inquiry.statements

    def scopes(some: NDArray[np.int64]) -> NDArray[np.int64]:
        packed: NDArray[np.int64] = (statements.scope[some].astype(np.int64) << 32) + statements.target[some]
        return packed

    _, first, second = np.intersect1d(scopes(one), scopes(other), return_indices=True)
    return one[first], other[second]


def _beside(
    inquiry: Inquiry, name: str, group: str, mine: NDArray[np.int64], theirs: NDArray[np.int64]
) -> Iterator[Finding]:
    """The findings of a person and a group that scopes name, pair by pair, with different actions."""
    statements, person = inquiry.statements, name.partition(".")[2]
    single = statements.scope[mine] == Scope.HERE
    alone = np.where(single, -1, np.arange(len(mine)))
    for _, rows in groups(statements.value[mine], statements.value[theirs], alone):
        said = [int(mine[rows[0]]), int(theirs[rows[0]])]
        pages = inquiry.cells(mine[rows])
        if _same(inquiry, *said) or not inquiry.any_looked_at("person-beside-group", name, pages):
            continue
        told = [format_value(statements.said(one)) or "nothing" for one in said]
        both = (("the person's", mine), ("the group's", theirs))
        ways = [without(inquiry.site, words, some[rows].tolist()) for words, some in both]
        yield Finding(
            "person-beside-group",
            "note",
            name,
            inquiry.paths(pages),
            inquiry.said([*mine[rows].tolist(), *theirs[rows].tolist()]),
            f"{source_of(inquiry.site, said[0]).scope} gives {person} {told[0]} and the group {group}, which {person} "
            f"is in, {told[1]}: both hold, so the person has what either gives",
            f"take the person's away if the group's is enough, or take {person} out of {group}",
            tuple(filter(None, ways)),
        )


def _same(inquiry: Inquiry, one: int, other: int) -> bool:
    first, second = inquiry.statements.said(one), inquiry.statements.said(other)
    return first == second or (isinstance(first, tuple) and isinstance(second, tuple) and set(first) == set(second))
