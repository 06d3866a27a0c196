"""Findings about decisions: statements that contradict, or do nothing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..columns import Codes
from ..resolve import Stations
from ..source import source_of
from ..statements import Form, Scope
from ..wording import count
from .record import Finding, Inquiry, groups


def lock_overrules(inquiry: Inquiry) -> Iterator[Finding]:
    """A lock overrules a stronger-scoped statement that would have changed the value."""
    statements = inquiry.statements
    for setting in inquiry.settings_said():
        if not statements.locked[list(statements.of_setting(setting))].any():
            continue
        steps, value = inquiry.steps(setting), inquiry.effective.resolved(setting)
        has = inquiry.site.has(setting)
        clash = np.flatnonzero(steps.blocked & (steps.before != steps.after) & has[steps.pages])
        name = inquiry.site.catalogue[setting].name
        clash = clash[inquiry.looked_at("lock-overrules", name, steps.pages[clash])]
        locks = value.source[steps.pages[clash]]
        for (lock,), rows in groups(locks):
            at = clash[rows]
            overruled = np.unique(steps.statements[at]).tolist()
            pages = inquiry.paths(steps.pages[at].tolist())
            wanted = inquiry.said(overruled)
            held = inquiry.word(setting, int(value.value[steps.pages[at[0]]]))
            listed = "; ".join(str(s.place) for s in wanted[:3]) + ("; …" if len(wanted) > 3 else "")
            yield Finding(
                "lock-overrules",
                "error",
                name,
                pages,
                (*inquiry.said([lock]), *wanted),
                f"{name} is locked to {held} by {inquiry.where(lock)}, "
                f"so {count(len(overruled), 'stronger statement')} cannot hold on {count(len(pages), 'page')}",
                f"take away what is overruled ({listed}), or lift the lock at {statements.place(lock)}",
            )


def type_below_clash(inquiry: Inquiry) -> Iterator[Finding]:
    """A page's type and a branch it is in both speak, differ, and nothing closer settles it."""
    statements = inquiry.statements
    for setting in inquiry.settings_said():
        found = inquiry.effective.stations(setting)
        scope = np.append(statements.scope, Scope.BUILT_IN)
        locked = np.append(statements.locked, False)
        clash = (
            (scope[found.type_source] == Scope.TYPE)
            & (scope[found.source] == Scope.BELOW)
            & ~locked[found.type_source]
            & ~locked[found.source]
            & (found.type_value != found.value)
            & inquiry.site.has(setting)
        )
        pages = np.flatnonzero(clash)
        name = inquiry.site.catalogue[setting].name
        pages = pages[inquiry.looked_at("type-below-clash", name, pages)]
        pages = pages[statements.replaces(setting)[statements.value[found.source[pages]]]]
        for (said_type, said_below), rows in groups(found.type_source[pages], found.source[pages]):
            at = pages[rows]
            by_type = inquiry.word(setting, int(found.type_value[at[0]]))
            by_branch = inquiry.word(setting, int(found.value[at[0]]))
            yield Finding(
                "type-below-clash",
                "warning",
                name,
                inquiry.paths(at.tolist()),
                inquiry.said([said_type, said_below]),
                f"{inquiry.where(said_type)} says {name} is {by_type}, {inquiry.where(said_below)} says {by_branch}; "
                f"the branch wins on {count(len(at), 'page')}",
                f"settle it with a rule that says which holds: when: {{type: {_target(inquiry, said_type)}, "
                f"below: {_target(inquiry, said_below)}}}, give: {{{name}: {by_type} or {by_branch}}}",
            )


def _target(inquiry: Inquiry, statement: int) -> str:
    """The type or the branch that a statement is for."""
    return source_of(inquiry.site, statement).scope.partition(" ")[2]


def rules_overlap(inquiry: Inquiry) -> Iterator[Finding]:
    """Two rules that meet a page differ, and one of them is the source."""
    statements = inquiry.statements
    for setting in inquiry.settings_said():
        if len(statements.of_setting(setting, Scope.RULE)) < 2:
            continue
        steps, found = inquiry.steps(setting), inquiry.effective.resolved(setting)
        winner = found.source[steps.pages]
        differs = (
            (statements.scope[steps.statements] == Scope.RULE)
            & ~steps.blocked
            & (winner >= 0)
            & (statements.scope[winner] == Scope.RULE)
            & (statements.target[winner] != statements.target[steps.statements])
            & (steps.after != found.value[steps.pages])
            & inquiry.site.has(setting)[steps.pages]
        )
        at = np.flatnonzero(differs)
        at = at[statements.replaces(setting)[statements.value[winner[at]]]]
        name = inquiry.site.catalogue[setting].name
        at = at[inquiry.looked_at("rules-overlap", name, steps.pages[at])]
        for (wins, loses), rows in groups(winner[at], steps.statements[at]):
            pages = inquiry.paths(steps.pages[at[rows]].tolist())
            upper = inquiry.word(setting, int(found.value[steps.pages[at[rows[0]]]]))
            lower = inquiry.word(setting, int(steps.after[at[rows[0]]]))
            yield Finding(
                "rules-overlap",
                "warning",
                name,
                pages,
                inquiry.said([wins, loses]),
                f"two rules meet {count(len(pages), 'page')} and differ on {name}: "
                f"{inquiry.where(wins)} gives {upper} and wins; {inquiry.where(loses)} gives {lower}",
                f"give the rule at {statements.place(loses)} an except for these pages, or move it above the other",
            )


def no_effect(inquiry: Inquiry) -> Iterator[Finding]:
    """Taking a `here` statement away would change nothing."""
    statements, tree = inquiry.statements, inquiry.site.tree
    leaf = tree.end == np.arange(1, len(tree) + 1)
    for setting in inquiry.settings_said():
        if not len(statements.of_setting(setting, Scope.HERE)):
            continue
        steps, found = inquiry.steps(setting), inquiry.effective.stations(setting)
        idle = (
            (statements.scope[steps.statements] == Scope.HERE)
            & (statements.form[steps.statements] == Form.SAID)
            & (~statements.both[steps.statements] | leaf[steps.pages])
            & (steps.before == steps.after)
            & inquiry.site.has(setting)[steps.pages]
        )
        at = np.flatnonzero(idle)
        name = inquiry.site.catalogue[setting].name
        at = at[inquiry.looked_at("no-effect", name, steps.pages[at])]
        would = _source_without(inquiry, setting, steps.statements[at], steps.pages[at], found)
        for (source, _), rows in groups(would, steps.after[at]):
            here = at[rows]
            pages = inquiry.paths(steps.pages[here].tolist())
            told = inquiry.said(sorted(steps.statements[here].tolist()))
            get = "as it is built in" if source < 0 else f"from {inquiry.where(source)}"
            verb = "says" if len(pages) == 1 else "say"
            yield Finding(
                "no-effect",
                "note",
                name,
                pages,
                told,
                f"{count(len(pages), 'page')} {verb} {name}: {inquiry.word(setting, int(steps.after[here[0]]))} "
                f"and would get the same {get}",
                "take it away, or leave it if the page must keep this value when the default changes",
            )


def _source_without(inquiry: Inquiry, setting: int, said: Codes, pages: NDArray[np.int64], found: Stations) -> Codes:
    """The source each page would have without what it says itself: its own presets, or what comes from outside."""
    span = inquiry.statements.of_setting(setting, Scope.HERE)
    ids = np.arange(span.start, span.stop)
    target = inquiry.statements.target[ids]
    order = np.lexsort((ids, target))
    before = np.full(len(ids), -1, dtype=np.int32)  # what the same page says before, as a preset or fresh_access
    follows = np.flatnonzero(target[order][1:] == target[order][:-1]) + 1
    before[order[follows]] = ids[order[follows - 1]]
    own = before[said - span.start]
    return np.where((own >= 0) & ~found.closed[pages], own, found.base_source[pages]).astype(np.int32)


def behind_default(inquiry: Inquiry) -> Iterator[Finding]:
    """A stamped setting whose stamp, or lack of one, differs from what a new page would get.

    Where nobody states a default there is none to be behind: an owner's stamp alone is no finding.
    """
    statements, site = inquiry.statements, inquiry.site
    for setting in inquiry.settings_said():
        declared = site.catalogue[setting]
        if declared.flow != "stamped":
            continue
        found = inquiry.effective.stations(setting)
        behind = ~found.closed & (found.live_source >= 0) & (found.base_value != found.live_value) & site.has(setting)
        replaces = statements.replaces(setting)
        for statement in statements.of_setting(setting, Scope.HERE):
            page = int(statements.target[statement])
            if page >= 0 and replaces[int(statements.value[statement])]:
                behind[page] = False
        at = np.flatnonzero(behind)
        at = at[inquiry.looked_at("behind-default", declared.name, at)]
        for (live, _), rows in groups(found.live_source[at], found.live_value[at]):
            pages = at[rows]
            paths = inquiry.paths(pages.tolist())
            stamps = [s for s in np.unique(found.base_source[pages]).tolist() if s >= 0]
            bare = sum(int(found.base_source[p]) < 0 for p in pages.tolist())
            now = inquiry.word(setting, int(found.live_value[pages[0]]))
            told = [(len(paths) - bare, "an older stamp"), (bare, "no stamp")]
            have = " and ".join(f"{count(n, 'page')} {'has' if n == 1 else 'have'} {what}" for n, what in told if n)
            yield Finding(
                "behind-default",
                "note",
                declared.name,
                paths,
                inquiry.said([live, *stamps]),
                f"a new page would get {declared.name}: {now} from {inquiry.where(live)}; {have}",
                "write the new value onto these pages, or leave them: a stamp is meant to stay",
            )
