"""Findings about what has no effect: rules, statements and types that no page would miss."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import groups
from ...change.steps.change import CHANGED, AddRule, Change, Declare, DropRule, Say, Undeclare
from ...faults import Place
from ...site.pages.conditions import Condition
from ...site.pages.types import Type
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import shown
from ...site.statements.new_statements import Form
from ...wording import count
from ..bound_kind import NO_PAGES, BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import ALL, site_kind
from ..mending import Remedy
from ..statement_effects import NOBODY, SEVERAL


@site_kind(
    "rule-without-pages",
    "warning",
    "structure",
    depends_on=("rules",),
    meaning="a rule matches no page",
    why="Somebody believes that the rule takes care of something.",
    mend="Mend its `when` or its `except`, or take it away.",
    example=Change((AddRule("Ferns are narrow", Condition(path=("/fern/**",)), (("layout.width", "narrow"),)),)),
)
def rule_without_pages(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A rule matches no page, or all that it matches are excluded."""
    site = context.site
    for number, rule in enumerate(site.rules):
        if len(site.scope_pages.rule_pages[number]) or not kind.reports(NO_PAGES):
            continue
        excluded = rule.excepts and site.pages(rule.when).any()
        why = "all pages that it matches are excluded" if excluded else "it matches no page"
        yield kind.finding(
            NO_PAGES,
            (_of_rule(context, number),),
            f'the rule "{rule.name}" ({rule.place}) does nothing: {why}',
            "change its except, or take it away" if excluded else "change its when, or take it away",
            _without_rule(context, number),
        )


@site_kind(
    "hidden-rule",
    "warning",
    "structure",
    meaning="a rule changes none of the pages that it matches",
    why="Something stronger overrides it everywhere, or the pages have these values anyway.",
    mend="Take it away, or move it above the rule that overrides it.",
    example=Change((AddRule("Campaigns are dark", Condition(below=("/campaigns",)), (("layout.theme", "evening"),)),)),
)
def hidden_rule(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A rule matches pages, and taking it away would change nothing on any of them."""
    site = context.site
    for number in np.flatnonzero(~context.effects.rule_matters & context.rules_noted).tolist():
        pages = site.scope_pages.rule_pages[number]
        if not len(pages) or not kind.reports(pages):
            continue
        rule = site.rules[number]
        yield kind.finding(
            pages,
            (_of_rule(context, number),),
            f'the rule "{rule.name}" ({rule.place}) matches {count(len(pages), "page")} and changes none: '
            "each has the same without it",
            "take it away, or move it above what is stronger",
            _without_rule(context, number),
        )


def _without_rule(context: FindingContext, number: int) -> Remedy:
    return Remedy("take away the rule", Change((DropRule(context.site.rules[number].name),)))


def _of_rule(context: FindingContext, number: int) -> Said:
    rule = context.site.rules[number]
    return Said(f"rule {rule.name}", rule.place.file, rule.place.line, "")


@site_kind(
    "type-without-pages",
    "note",
    "structure",
    meaning="a declared type has no page",
    why="It sets nothing for any page. Often a type was renamed in the page list and not here.",
    mend="Take the type away, or give it to pages.",
    example=Change((Declare(Type("brochure", CHANGED, label="Brochure")),)),
)
def type_without_pages(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A declared type has no page, of its own or of types based on it."""
    site = context.site
    with_pages = site.types.with_pages(site.details.type_of)
    for name, declared in site.types.declared.items():
        if not len(site.tree) or not declared.is_declared or declared.place.file in site.file_notes.shared:
            continue  # a type of the estate may have pages in another site
        if not with_pages[site.types.find(name)] and kind.reports(NO_PAGES):
            yield kind.finding(
                NO_PAGES,
                (Said(f"type {name}", declared.place.file, declared.place.line, ""),),
                f"the type {name} ({declared.place}) has no page, nor has any type based on it",
                "take it away, or give it to pages in the page list's column type",
                *_without_type(context, declared),
            )


def _without_type(context: FindingContext, declared: Type) -> Iterator[Remedy]:
    """The way that takes a type away; none if it is named elsewhere, since that name would be undeclared."""
    site, statements, name = context.site, context.statements, declared.name
    said = np.flatnonzero((statements.scope == ScopeKind.TYPE) & (statements.target == site.types.find(name)))
    others = [one for one in context.mentions.of("type", name) if one.by != "a statement"]
    if not others and {statements.place(int(one)).file for one in said} <= {declared.place.file}:
        yield Remedy("take away the type, and what is set for it", Change((Undeclare("type", name),)))


@site_kind(
    "below-without-pages",
    "note",
    "structure",
    meaning="a default is set below a page that has no pages below it",
    why="It does nothing until there are some. Often the page itself was meant.",
    mend="Say it `here`, or leave it for pages that are still to come.",
    takes_away=(("the statements", ALL),),
    is_redundant=True,
    example=Change((Say(Scope.below("/visit/maps"), "title.limit", 40),)),
)
def below_without_pages(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A `below` of a page with no pages below it."""
    statements, tree = context.statements, context.site.tree
    at = _nothing_beneath(context)
    for (page,), rows in groups(statements.target[at]):
        if kind.reports(np.array([page])):
            yield kind.finding(
                np.array([page]),
                sorted(at[rows].tolist()),
                f"{count(len(rows), 'statement')} below {tree.paths[page]} ({statements.place(int(at[rows[0]]))}): "
                "there is no page below it",
                f"set it on the page itself (here), or take it away until there are pages below {tree.paths[page]}",
            )


def _nothing_beneath(context: FindingContext) -> NDArray[np.int64]:
    """Statements of a `below` whose page has none below it; a `here_and_below` also sets the page itself."""
    statements, tree = context.statements, context.site.tree
    target = statements.target
    below = np.flatnonzero((statements.scope == ScopeKind.BELOW) & (target >= 0) & ~statements.both)
    found: NDArray[np.int64] = below[tree.end[target[below]] == target[below] + 1]
    return found


@site_kind(
    "not-applicable",
    "note",
    "decisions",
    meaning="a statement reaches only pages that do not have the setting",
    why="It cannot do anything: the pages' types go without the setting, or it is for other types.",
    mend="Take it away, or set it where pages have the setting.",
    takes_away=(("the statements", ALL),),
    is_redundant=True,
    example=Change((Say(Scope.type("article"), "audio-guide", "12"),)),
)
def not_applicable(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A statement reaches only pages that do not have the setting."""
    statements, effects = context.statements, context.effects
    at = np.flatnonzero(effects.meets & ~effects.reaches & (statements.form == Form.SAID))
    for (setting,), rows in groups(statements.setting[at]):
        declared, said = context.site.catalogue[setting], sorted(at[rows].tolist())
        pages = context.cells(at[rows])
        of_setting = kind.of(declared.name)
        if not of_setting.reports(pages):
            continue
        told = "it is for " + ", ".join(declared.for_types) if declared.for_types else "their type goes without it"
        yield of_setting.finding(
            pages,
            said,
            f"{count(len(said), 'statement')} of {declared.name} ({statements.place(said[0])}) "
            f"{'reaches' if len(said) == 1 else 'reach'} only pages that do not have it: {told}",
            "take it away, or set it where pages have the setting",
            about=(),
        )


@site_kind(
    "redundant-default",
    "note",
    "structure",
    meaning="a default changes nothing on any page",
    why="It is noise: whoever reads it believes that something hangs on it.",
    mend="Take it away; or leave it if it must hold when weaker defaults change.",
    takes_away=(("the statements", ALL),),
    is_redundant=True,
    example=Change((Say(Scope.everywhere(), "title.limit", 60),)),
)
def redundant_default(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Taking a default away would change nothing on any page.

    This leaves out what other kinds report, locks (they are for pages still to come), and presets' values. A
    `here_and_below` counts only if both halves do nothing.
    """
    statements, effects, site = context.statements, context.effects, context.site
    redundant = (
        effects.reaches & ~effects.matters & ~effects.overruled & ~statements.locked & (statements.form == Form.SAID)
    )
    redundant &= (statements.scope >= ScopeKind.EVERYWHERE) & (statements.scope <= ScopeKind.RULE)
    of_rule = np.flatnonzero(redundant & (statements.scope == ScopeKind.RULE))
    redundant[of_rule[~effects.rule_matters[statements.target[of_rule]]]] = False
    for twin in np.flatnonzero(redundant & statements.both).tolist():
        redundant[twin] = not effects.changes[_other_half(context, twin)].any()
    at = np.flatnonzero(redundant)
    alone = np.where(effects.wins[at] & (effects.beats[at] != SEVERAL), -1, at)
    for (setting, value, _, beaten), rows in groups(
        statements.setting[at], statements.value[at], alone, effects.beats[at]
    ):
        said, name = sorted(at[rows].tolist()), site.catalogue[setting].name
        pages = context.cells(at[rows])
        pages, of_setting = pages[site.has(setting)[pages]], kind.of(name)
        if not of_setting.reports(pages):
            continue
        if not effects.wins[said].any():
            why = "something stronger sets every page that it reaches"
        elif beaten == SEVERAL:
            why = "its pages have the same value without it"
        else:
            same = "the built-in value" if beaten == NOBODY else f"this value from {context.where(beaten)}"
            why = f"{'its' if len(said) == 1 else 'their'} pages have {same} anyway"
        verb = "sets" if len(said) == 1 else "set"
        places = ", ".join(str(place) for place in _places(context, said)[:3]) + (", …" if len(said) > 3 else "")
        yield of_setting.finding(
            pages,
            said,
            f"{count(len(said), 'statement')} ({places}) {verb} {name}: {shown(statements.words[setting][value])} "
            f"and {'changes' if len(said) == 1 else 'change'} nothing: {why}",
            "take it away, or leave it if it must hold when weaker defaults change",
            about=said if alone[rows[0]] >= 0 else ["built-in" if beaten == NOBODY else beaten],
        )


def _places(context: FindingContext, said: list[int]) -> list[Place]:
    return [context.statements.place(one) for one in said]


def _other_half(context: FindingContext, statement: int) -> NDArray[np.int64]:
    """What the `here_and_below` of a `below` statement says of the page itself."""
    statements = context.statements
    span = statements.of_setting(int(statements.setting[statement]), ScopeKind.HERE)
    here = np.arange(span.start, span.stop)
    found: NDArray[np.int64] = here[statements.both[here] & (statements.target[here] == statements.target[statement])]
    return found
