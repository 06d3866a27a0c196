"""`davlo why`: why a page has a value, and what that overrode."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.change.ways_to_change import Way, WayReach, ways_to_change
from davlo.core.resolve.trace import Candidate, Trace
from davlo.core.site.settings.scopes import Scope, ScopeKind
from davlo.core.site.settings.values import format_value, json_value, marked
from davlo.core.wording import count

from ..changes.scope_options import exception_words, scope_words
from ..command_list import answers
from ..completion.offers import complete_setting
from ..options import find_setting, format_option, open_named_site, page_argument, site_option, typed
from ..screen import Columns, Styled, as_csv, as_json, fits, heading, paragraph, say, table

if TYPE_CHECKING:
    from davlo.site import Site

WAY_COLUMNS = ("for", "type", "changes")
COLUMNS = ("", "scope", "value", "where", "result")


@answers(
    "why",
    "davlo why /visit/tickets sidebar.right",
    "davlo why /staff access.everyone",
    'davlo why "Opening times" title.pattern',
)
@page_argument(required=False)
@click.argument("setting", required=False, shell_complete=complete_setting)
@format_option("text", "csv", "json")
@site_option
def command(page: str | None, setting: str | None, form: str, site: str | None) -> None:
    """Lists every candidate from the weakest to the strongest, with its file and line, whether it counted, and why not.
    Then lists the places where you could set another value, and how many pages that would change.
    """
    if page is None or setting is None:
        raise click.UsageError("name a page and a setting; what sets a setting anywhere: davlo list sidebar.right")
    opened = open_named_site(site)
    number, setting = opened.find_page(page), find_setting(opened, setting)
    effective = opened.resolve()
    trace = effective.why(opened.tree.paths[number], setting)
    not_shown = effective.shown.reason(number, setting)
    if form == "json":
        ways = ways_to_change(effective, number, opened.setting_number(setting))
        as_json(_record(trace, not_shown, ways, _exception(opened, trace)))
    elif form == "csv":
        as_csv(("verdict", *COLUMNS[1:]), [[c.verdict, *_cells(c)[1:]] for c in trace.candidates])
    else:
        value = format_value(trace.value) or "empty"
        say(f"{trace.setting} of {trace.path} is ", Styled(value), "" if not not_shown else ", but is not shown")
        if not_shown:
            paragraph(not_shown, "Not shown: ", "  ")
        declared = opened.catalogue[opened.setting_number(setting)]
        about = ": ".join(words for words in (declared.label, declared.help) if words) if declared.own else ""
        if about:
            say(about)
        say("Weakest first; the one that wins is marked with >")
        say()
        table(COLUMNS, [_cells(candidate) for candidate in trace.candidates], columns=Columns(names=(2, 3)))
        ways = ways_to_change(effective, number, opened.setting_number(setting))
        _print_ways([_way(trace, way) for way in ways])
        exception = _exception(opened, trace)
        if exception:
            say("To make an exception to the lock, and then set another value here:")
            say(f"  {exception}")
        if any(candidate.scope.kind == ScopeKind.ESTATE for candidate in trace.candidates):
            say("The estate says it for every site. To change it there:")
            say(f"  davlo estate set {setting}=VALUE")


def _exception(site: Site, trace: Trace) -> str:
    """What to type so that the lock that wins lets this page through; empty if no lock wins, or a page's own."""
    winner = trace.winner
    excepts = [
        word for some in exception_words(site, Scope.here(trace.path), [trace.path]) for word in ("--except", some)
    ]
    if not winner.locked or not excepts or winner.scope.kind == ScopeKind.ESTATE:
        return ""  # the estate's lock is for all sites
    return typed("set", trace.setting, "--lock", *scope_words(winner.scope), *excepts)


def _print_ways(rows: Sequence[Sequence[str]]) -> None:
    """A row for each way; on a narrow screen, what to type has a line of its own."""
    if fits(WAY_COLUMNS, rows, "  "):
        heading("To change it")
        table(WAY_COLUMNS, rows, indent="  ")
        say("Without --write, each shows first what it would do.")
        return
    heading("To change it, type")
    for whom, command, changes in rows:
        paragraph(f"{whom}: {changes}", "  ", "    ")
        say(f"    {command}")
    say("Without --write, each shows first what it would do.")


def _cells(candidate: Candidate) -> list[str]:
    scope = str(candidate.scope)
    where = str(candidate.place) if candidate.place else ""
    if candidate.preset:
        scope += f", preset {candidate.preset}"
        where += f" (preset: {candidate.preset_place})"
    if candidate.fresh:
        scope += ", fresh_access"
    said = marked(candidate.says)
    reason = candidate.reason + (f'; because "{candidate.because}"' if candidate.because else "")
    return [">" if candidate.verdict == "wins" else "", scope, said, where, reason]


def _way(trace: Trace, way: Way) -> list[str]:
    """For which pages one could set another value, what to type, and how many pages change."""
    kind, name = "here_and_below" if way.scope.both else way.scope.kind.word, way.scope.name
    whom = {
        "here": "this page alone",
        "here_and_below": "this page and all below it",
        "everywhere": "every page",
        "below": f"all below {name}",
        "type": f"the type {name}",
        "rule": f'the rule "{name}"',
    }[kind]
    return [whom, typed(*_command(trace, way)), _changes(trace, way)]


def _command(trace: Trace, way: Way) -> list[str]:
    """The words that set another value: for a flag the other one, else `VALUE`, to be replaced."""
    value = {True: "no", False: "yes"}.get(trace.value, "VALUE") if isinstance(trace.value, bool) else "VALUE"
    return ["set", f"{trace.setting}={value}", *scope_words(way.scope)]


def _changes(trace: Trace, way: Way) -> str:
    """How many pages change; for a flag, for yes and for no if these differ."""
    told = [_reached(trace, way, one) for one in way.reaches]
    if len(set(told)) > 1:
        named = {True: "yes", False: "no"}
        told = [
            f"{named[one.value]}: {words}"
            for one, words in zip(way.reaches, told, strict=True)
            if one.value is not None
        ]
    return "; ".join(dict.fromkeys(told))


def _reached(trace: Trace, way: Way, one: WayReach) -> str:
    """How many pages change with one value, and why this page does not, if so."""
    told = count(one.pages, "page") if one.pages else "no page"
    if one.this_too or one.value is trace.value:
        return told
    if trace.for_new_pages and way.scope.kind != ScopeKind.HERE and not way.scope.both and not trace.winner.locked:
        return f"{told} that is there: its default is for new pages"
    winner = trace.winner
    where = f" ({winner.place})" if winner.place else ""
    why = f"{winner.scope} {'locks it' if winner.locked else 'is stronger'}{where}"
    return f"{told}; not this one: {why}" if one.pages else f"{told}: {why}"


def _record(trace: Trace, not_shown: str, ways: tuple[Way, ...], exception: str) -> dict[str, object]:
    return {
        "path": trace.path,
        "setting": trace.setting,
        "value": json_value(trace.value),
        "shown": not not_shown,
        "not shown because": not_shown or None,
        "ways to change it": [
            {
                "scope": way.scope.sentence if way.scope.both else str(way.scope),
                "file": way.place.file if way.place else None,
                "line": way.place.line if way.place else None,
                "type": typed(*_command(trace, way)),
                "changes": [
                    {
                        "value": None if one.value is None else json_value(one.value),
                        "pages": one.pages,
                        "this page too": one.this_too,
                    }
                    for one in way.reaches
                ],
            }
            for way in ways
        ],
        "exception to the lock": exception or None,
        "candidates": [
            {
                "scope": str(c.scope),
                "value": format_value(c.says),
                "gives": json_value(c.gives),
                "file": c.place.file if c.place else None,
                "line": c.place.line if c.place else None,
                "locked": c.locked,
                "preset": c.preset or None,
                "because": c.because or None,
                "verdict": c.verdict,
                "reason": c.reason,
            }
            for c in trace.candidates
        ],
    }
