"""Findings about decisions: statements that contradict, or do nothing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes
from ...arrays.grouping import distinct_numbers
from ...change.steps.change import Change, LockExcept, Say
from ...change.steps.lock_exceptions import condition_of
from ...resolve.effective import EffectiveModel
from ...site.pages.conditions import Condition
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import ByDepth, ListChange, Reference
from ...site.source import source_of
from ...site.statements.new_statements import Form
from ...wording import count
from ..bound_kind import BoundKind
from ..context import FindingContext
from ..finding import Finding, Statements
from ..finding_kind import ALL, FIRST, LAST, REST, setting_kind
from ..folded_setting import FoldedSetting
from ..mending import FEW, Remedy, scope_of_line


def _excepted(effective: EffectiveModel, finding: Finding) -> Iterator[Remedy]:
    """The way that lets what a lock overrules be an exception to it; none if a rule with exceptions is among that."""
    told, site = finding.statements, effective.site
    if not isinstance(told, Statements) or finding.setting is None or len(told.numbers) > FEW:
        return
    lock, *overruled = told.numbers
    scope, excepts, paths = scope_of_line(site, lock), list[Condition](), list[str]()
    if site.statements.form[lock] != Form.SAID:
        return
    for other in dict.fromkeys(scope_of_line(site, number) for number in overruled):
        if other.kind == ScopeKind.STAMP:
            return
        if other.kind == ScopeKind.HERE and not other.both:
            paths.append(other.name)
            continue
        when, left_out = condition_of(site, other)
        if left_out:
            return
        excepts.append(when)
    excepts += [Condition(path=tuple(paths))] if paths else []
    if any("*" in path for path in paths):
        return
    step = LockExcept(scope, finding.setting, site.statements.said(lock), tuple(excepts))
    yield Remedy("let what is overruled be an exception to the lock", Change((step,)))


@setting_kind(
    "lock-overrules",
    "error",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="a lock overrules a stronger statement",
    why="Somebody wrote an exception and believes that it holds. It does not.",
    mend="Take the exceptions away. If they were right, let them be exceptions to the lock, or lift the lock.",
    takes_away=(("what is overruled", REST),),
    lifts_lock=True,
    more_ways=_excepted,
)
def lock_overrules(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A lock overrules a stronger-scoped statement that would have changed the value, and is no lock itself."""
    yield from _overruled(context, kind, folded, locks=False)


@setting_kind(
    "lock-clash",
    "error",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="two locks meet on a page with different values",
    why="Both say that nothing may change the value, and only one can hold: the one of the weaker scope.",
    mend="Agree on who decides. Take one of the locks away, or let both set the same value.",
    takes_away=(("the other locks", REST),),
    lifts_lock=True,
    example=Change((Say(Scope.below("/fr"), "band.footer", "footer-press", lock=True),)),
)
def lock_clash(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """Two locks meet on a page with different values; the weaker scope's wins."""
    yield from _overruled(context, kind, folded, locks=True)


def _overruled(context: FindingContext, kind: BoundKind, folded: FoldedSetting, locks: bool) -> Iterator[Finding]:
    if not folded.locks:
        return
    statements, steps, name = context.statements, folded.steps, folded.name
    clash = steps.blocked & (steps.before != steps.after) & folded.has[steps.samples]
    at = np.flatnonzero(clash & (statements.locked[steps.statements] == locks))
    source, value = folded.fold_stages.source[steps.samples[at]], folded.fold_stages.value[steps.samples[at]]
    for (lock, held), rows, pages in folded.gathered(steps.samples[at], source, value, keep=kind.keep):
        overruled = distinct_numbers(steps.statements[at[rows]])
        listed = "; ".join(str(statements.place(s)) for s in overruled[:3]) + ("; …" if len(overruled) > 3 else "")
        what = "other lock" if locks else "stronger statement"
        yield kind.finding(
            pages,
            [lock, *overruled],
            f"{name} is locked to {folded.word(held)} by {context.where(lock)}, "
            f"so {count(len(overruled), what)} {'has' if len(overruled) == 1 else 'have'} no effect on "
            f"{count(len(pages), 'page')}",
            f"take away what is overruled ({listed}), or lift the lock at {statements.place(lock)}",
            about=[lock],
        )


@setting_kind(
    "type-below-clash",
    "warning",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="a page's type and its branch set different values",
    why="The branch wins. Whoever wrote the default of the type will wonder where it went.",
    mend="Write a rule that says which holds for pages of that type in that branch; or take one of the two away.",
    takes_away=(("what the branch sets", LAST), ("what the type sets", FIRST)),
)
def type_below_clash(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A page's type and a branch it is in set different values, and nothing closer settles it."""
    statements, found, name = context.statements, folded.fold_stages, folded.name
    locked = np.append(statements.locked, False)
    clash = (
        (folded.scope_of(found.type_source) == ScopeKind.TYPE)
        & (folded.scope_of(found.source) == ScopeKind.BELOW)
        & ~locked[found.type_source]
        & ~locked[found.source]
        & (found.type_value != found.value)
        & folded.has
    )
    at = np.flatnonzero(clash)
    at = at[folded.replaces(found.source[at])]
    keys = found.type_source[at], found.source[at]
    for (said_type, said_below), rows, pages in folded.gathered(at, *keys, keep=kind.keep):
        by_type = folded.word(int(found.type_value[at[rows[0]]]))
        by_branch = folded.word(int(found.value[at[rows[0]]]))
        yield kind.finding(
            pages,
            [said_type, said_below],
            f"{context.where(said_type)} sets {name} to {by_type}, {context.where(said_below)} to {by_branch}; "
            f"the branch wins on {count(len(pages), 'page')}",
            f"settle it with a rule that says which holds: when: {{type: {_target(context, said_type)}, "
            f"below: {_target(context, said_below)}}}, give: {{{name}: {by_type} or {by_branch}}}",
        )


def _target(context: FindingContext, statement: int) -> str:
    """The type or the branch that a statement is for."""
    return source_of(context.site, statement).scope.name


@setting_kind(
    "rules-overlap",
    "warning",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="two rules that match a page differ",
    why="The rule nearer the top wins. Moving a rule changes these pages, though nothing else was changed.",
    mend="Give the weaker rule an `except` for these pages, or move it above the other if it should win.",
    takes_away=(("what the weaker rule gives", LAST), ("what the stronger rule gives", FIRST)),
)
def rules_overlap(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """Two rules that match a page differ, and one of them is the source."""
    statements, steps, found, name = context.statements, folded.steps, folded.fold_stages, folded.name
    winner = found.source[steps.samples]
    differs = (
        (folded.scope == ScopeKind.RULE)
        & ~steps.blocked
        & (folded.scope_of(winner) == ScopeKind.RULE)
        & (statements.target[winner] != statements.target[steps.statements])
        & (steps.after != found.value[steps.samples])
        & folded.has[steps.samples]
    )
    at = np.flatnonzero(differs)
    at = at[folded.replaces(winner[at])]
    keys = winner[at], steps.statements[at]
    keep = kind.keep
    for (wins, loses), rows, pages in folded.gathered(steps.samples[at], *keys, keep=keep):
        upper = folded.word(int(found.value[steps.samples[at[rows[0]]]]))
        lower = folded.word(int(steps.after[at[rows[0]]]))
        yield kind.finding(
            pages,
            [wins, loses],
            f"two rules match {count(len(pages), 'page')} and differ on {name}: "
            f"{context.where(wins)} gives {upper} and wins; {context.where(loses)} gives {lower}",
            f"give the rule at {statements.place(loses)} an except for these pages, or move it above the other",
        )


@setting_kind(
    "repeats-inherited",
    "note",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="a page sets what it would get anyway",
    why="It does nothing today; when the default changes, this page alone will not follow.",
    mend="Take it away; or leave it if the page is meant to stay as it is, and say why in `because`.",
    takes_away=(("what the pages set", ALL),),
    is_redundant=True,
)
def no_effect(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """Taking a `here` statement away would change nothing."""
    statements, steps, name = context.statements, folded.steps, folded.name
    sample = folded.groups.sample[steps.samples]
    leaf = context.site.tree.end[sample] == sample + 1
    redundant = (
        (folded.scope == ScopeKind.HERE)
        & (statements.form[steps.statements] == Form.SAID)
        & (~statements.both[steps.statements] | leaf)
        & (steps.before == steps.after)
        & folded.has[steps.samples]
    )
    at = np.flatnonzero(redundant)
    would = _source_without(folded, steps.statements[at], steps.samples[at])
    keep = kind.keep
    for (source, _), rows, pages in folded.gathered(steps.samples[at], would, steps.after[at], keep=keep):
        here = at[rows]
        told = sorted(steps.statements[here].tolist())
        same = "the built-in value" if source < 0 else f"the same from {context.where(source)}"
        verb = "sets" if len(pages) == 1 else "set"
        yield kind.finding(
            pages,
            told,
            f"{count(len(pages), 'page')} {verb} {name}: {folded.word(int(steps.after[here[0]]))} "
            f"and would get {same} anyway",
            "take it away, or leave it if the page must keep this value when the default changes",
            about=[source if source >= 0 else "built-in"],
        )


def _source_without(folded: FoldedSetting, said: Codes, samples: NDArray[np.int64]) -> Codes:
    """The source each page would have without its own statement: its presets, or what it inherits."""
    statements = folded.statements
    span = statements.of_setting(folded.setting, ScopeKind.HERE)
    ids = np.arange(span.start, span.stop)
    target = statements.target[ids]
    order = np.lexsort((ids, target))
    before = np.full(len(ids), -1, dtype=np.int32)  # what the same page says before it: a preset or fresh_access
    follows = np.flatnonzero(target[order][1:] == target[order][:-1]) + 1
    before[order[follows]] = ids[order[follows - 1]]
    own = before[said - span.start]
    found = folded.fold_stages
    return np.where((own >= 0) & ~found.closed[samples], own, found.base_source[samples]).astype(np.int32)


@setting_kind(
    "outdated-stamp",
    "note",
    "decisions",
    depends_on=(),
    of_values=True,
    meaning="a stamp, or the lack of one, differs from what a new page would get",
    why="Settings whose default is for new pages stay as they were when a page was made. What became the "
    "default since has not come to these.",
    mend="Bring the pages up to date if the new default suits them. Otherwise leave it: a stamp is meant to stay.",
)
def outdated_stamp(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A setting whose default is for new pages whose stamp, or lack of one, differs from what a new page would get.

    Where nobody states a default no stamp is outdated: an owner's stamp alone is no finding.
    """
    if not folded.for_new_pages:
        return
    found, name = folded.fold_stages, folded.name
    outdated = ~found.closed & (found.live_source >= 0) & (found.base_value != found.live_value) & folded.has
    steps = folded.steps
    replaced = (folded.scope == ScopeKind.HERE) & folded.replaces(steps.statements)
    outdated[steps.samples[replaced]] = False
    at = np.flatnonzero(outdated)
    keys = found.live_source[at], found.live_value[at]
    for (live, value), _, pages in folded.gathered(at, *keys, keep=kind.keep):
        base = found.base_source[folded.groups.group[pages]]
        bare = int(np.count_nonzero(base < 0))
        now = folded.word(value)
        told = [(len(pages) - bare, "an older stamp"), (bare, "no stamp")]
        have = " and ".join(f"{count(n, 'page')} {'has' if n == 1 else 'have'} {what}" for n, what in told if n)
        yield kind.finding(
            pages,
            [live, *distinct_numbers(base[base >= 0])],
            f"a new page would get {name}: {now} from {context.where(live)}; {have}",
            "write the new value onto these pages, or leave them: a stamp is meant to stay",
            *_restamped(context, folded, pages, value),
            about=[live],
        )


def _restamped(context: FindingContext, folded: FoldedSetting, pages: NDArray[np.int64], code: int) -> Iterator[Remedy]:
    """The way that writes a value onto pages as their stamps; none if there are many pages, or a stamp is no row."""
    value = folded.words[code]
    if len(pages) > FEW or isinstance(value, Reference | ListChange | ByDepth):
        return
    paths = context.site.tree.paths.take(pages).tolist()
    steps = tuple(Say(Scope.stamp(path), folded.name, value) for path in paths)
    yield Remedy("write the new value onto these pages", Change(steps))
