"""`davlo why`: why a page gets that, and what it beat."""

from __future__ import annotations

import click

from davlo.core.trace import Candidate, Trace
from davlo.core.values import format_value, json_value

from .options import complete_setting, format_option, open_named_site, page_argument, site_option
from .screen import as_csv, as_json, say, table

COLUMNS = ("", "scope", "says", "where", "what became of it")


@click.command("why", epilog="Example: davlo why /visit/tickets sidebar.right")
@page_argument(required=True)
@click.argument("setting", shell_complete=complete_setting)
@format_option("text", "csv", "json")
@site_option
def command(page: str, setting: str, form: str, site: str | None) -> None:
    """Why a page gets that, and what it beat.

    Every candidate from the weakest to the strongest, with its file and line, whether it counted, and why not.
    """
    opened = open_named_site(site)
    path = opened.tree.paths[opened.find_page(page)]
    trace = opened.resolve().why(path, setting)
    if form == "json":
        as_json(_record(trace))
    elif form == "csv":
        as_csv(("verdict", *COLUMNS[1:]), [[c.verdict, *_cells(c)[1:]] for c in trace.candidates])
    else:
        value = format_value(trace.value) or "empty"
        say(f"{trace.setting} of {path} is {click.style(value, bold=True)}")
        say("Weakest first; the one that wins is marked with >\n")
        table(COLUMNS, [_cells(candidate) for candidate in trace.candidates])


def _cells(candidate: Candidate) -> list[str]:
    scope = candidate.scope
    where = str(candidate.place) if candidate.place else ""
    if candidate.preset:
        scope += f", preset {candidate.preset}"
        where += f" (preset: {candidate.preset_place})"
    if candidate.fresh:
        scope += ", fresh_access"
    said = format_value(candidate.says) or "(empty)"
    reason = candidate.reason + (f'; because "{candidate.because}"' if candidate.because else "")
    return [">" if candidate.verdict == "wins" else "", scope, said, where, reason]


def _record(trace: Trace) -> dict[str, object]:
    return {
        "path": trace.path,
        "setting": trace.setting,
        "value": json_value(trace.value),
        "candidates": [
            {
                "scope": c.scope,
                "says": format_value(c.says),
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
