"""Findings on a screen and in files: how `davlo check` shows them."""

from __future__ import annotations

import textwrap
from collections.abc import Callable, Iterable, Sequence
from itertools import groupby
from typing import TYPE_CHECKING, TypeAlias

import click

from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.letters import visible
from davlo.core.wording import count, shortened, shortened_in_the_middle
from davlo.words.findings import changes_of

from .edits import print_edits
from .options import typed
from .screen import Part, Styled, listing, paragraph, say, screen_size

if TYPE_CHECKING:
    from davlo.files.rewrite.ways import Way

Mends: TypeAlias = "Callable[[Finding], Sequence[Way]]"

COLORS = {"error": "red", "warning": "magenta", "note": None}  # those that can be read on light and on dark
CSV_COLUMNS = ("level", "kind", "name", "setting", "pages", "statements", "message", "fix")
LONG_COLUMNS = ("level", "kind", "setting", "page", "message")
MOST_PAGES, MOST_EDITED, MOST_WHOLE, MOST_LETTERS = 4, 6, 30, 90
MOST_STATEMENTS = 5
MOST_OF_KIND = 8
"""The most findings of a kind that are shown whole without --all."""
MOST_ALIKE = 3
"""The most findings of a kind in the brief list without --all."""
LEAST_ROWS, FOOTER = 12, 14
"""The least lines of the brief list, and how many lines of a screen it leaves free for what follows."""
BRIEF_INDENT, WIDEST, MOST_PATH = 19, 112, 36

fail_on_option = click.option(
    "--fail-on",
    type=click.Choice(LEVELS),
    default="error",
    show_default=True,
    help="Exit with status 1 if there is a finding of this level or worse.",
)


def print_rows(form: str, rows: Iterable[Sequence[str]]) -> None:
    if form != "text":
        listing(form, LONG_COLUMNS, rows)
        return
    for level, kind, setting, page, message in rows:
        say(f"{page or '-'}  {level}  {kind}{f'  {setting}' if setting else ''}  {visible(message)}")


def ways_record(ways: Sequence[Way]) -> dict[str, object]:
    """The ways to mend a finding, as JSON holds them."""
    return {
        "ways": [
            {
                "words": way.words,
                "changes": way.changes,
                "elsewhere": way.elsewhere,
                "gains": [{"who": row.who, "action": row.action, "pages": row.gained} for row in way.gains],
                "edits": [edit._asdict() for edit in way.edits],
            }
            for way in ways
        ]
    }


def _print_ways(ways: Sequence[Way], whole: bool) -> None:
    """The ways to mend a finding, each with the lines that it changes."""
    for way in ways:
        paragraph(f"{way.words}{changes_of(way)}:", "  edit:  ", " " * 9)
        print_edits(way.edits, " " * 9, MOST_WHOLE if whole else MOST_EDITED, "davlo check --edits --format json")


def print_findings(findings: Sequence[Finding], everything: bool, mends: Mends) -> None:
    """The findings whole, one after the other. If a kind has very many, only those with the most pages."""
    for some in _by_kind(findings):
        shown = some if everything else some[:MOST_OF_KIND]
        for finding in shown:
            print_finding(finding, mends(finding), whole=True)
        if len(some) > len(shown):
            level, kind = some[0].level, some[0].kind
            say(f"{level}  {kind}  {len(some) - len(shown):,} more like these:")
            say(f"  {typed('check', '--kind', kind, '--edits', '--all')}")
            say()


def _by_kind(findings: Sequence[Finding]) -> list[list[Finding]]:
    """The findings of each level and kind together, in their order."""
    return [list(some) for _, some in groupby(findings, key=lambda one: (one.level, one.kind))]


def print_briefly(findings: Sequence[Finding], everything: bool, notes_too: bool) -> None:
    """The findings in a line or two each, the worst first; at most a screen, unless `everything` is asked for.

    Notes are counted by kind, unless `notes_too`.
    """
    told = [one for one in findings if notes_too or one.level != "note"]
    room = None if everything else max(LEAST_ROWS, screen_size().lines - FOOTER)
    printed = 0
    for some in _by_kind(told):
        shown = some if everything else some[:MOST_ALIKE]
        for finding in shown:
            lines = brief_lines(finding)
            if room is not None and len(lines) > room:
                _say_more(told[printed:])
                return
            for line in lines:
                say(*line)
            printed += 1
            room = None if room is None else room - len(lines)
        if len(some) > len(shown):
            more = f"{len(some) - len(shown):,} more like {'this' if len(shown) == 1 else 'these'}"
            say(f"{'':{BRIEF_INDENT}}{more}: {typed('check', '--kind', some[0].kind, '--all')}")
            printed += len(some) - len(shown)
            room = None if room is None else room - 1


def _say_more(findings: Sequence[Finding]) -> None:
    levels = [(level, sum(one.level == level for one in findings)) for level in LEVELS]
    say(f"and {' and '.join(count(number, f'more {level}') for level, number in levels if number)}:")
    say(f"  {typed('check', '--all')}")


def brief_lines(finding: Finding) -> list[tuple[Part, ...]]:
    """One finding in a line or two: its level, its short name, what is wrong, and the first page."""
    room = min(screen_size().columns, WIDEST) - BRIEF_INDENT
    where = shortened_in_the_middle(visible(finding.pages[0]), MOST_PATH) if len(finding.pages) else ""
    where += f" and {len(finding.pages) - 1:,} more" if len(finding.pages) > 1 else ""
    where = f" [{where}]" if where else ""
    text = visible(finding.message)
    lines = textwrap.wrap(text + where, room, break_on_hyphens=False)
    if len(lines) > 2:
        text = shortened(text, 2 * room - len(where) - room // 5)
        lines = textwrap.wrap(text + where, room, break_on_hyphens=False)
    first = (Styled(f"{finding.level:9}", COLORS[finding.level]), f"{finding.name}  ", lines[0])
    return [first, *((f"{'':{BRIEF_INDENT}}{line}",) for line in lines[1:])]


def print_what_to_type(findings: Sequence[Finding], notes_too: bool) -> None:
    """What to type next to see one finding whole, or the notes that are only counted."""
    shown = [one for one in findings if notes_too or one.level != "note"]
    notes = [] if notes_too else [one for one in findings if one.level == "note"]
    if shown:
        say()
        say("One of them whole:")
        say(f"  {typed('check', shown[0].name)}")
        say("The ways to mend it, each with what it would change:")
        say(f"  {typed('mend', shown[0].name)}")
    if notes:
        kinds = [f"{some[0].kind} ({len(some)})" for some in sorted(_by_kind(notes), key=len, reverse=True)]
        say()
        paragraph(", ".join(kinds), "Notes: ", "  ")
        say(f"  {typed('check', '--level', 'note', '--all')}")


def print_finding(finding: Finding, ways: Sequence[Way] = (), whole: bool = False) -> None:
    """A finding whole: what is wrong, on which pages, the statements, and the ways to mend it."""
    print_statement_of(finding)
    paragraph(visible(finding.fix), "  fix:   ", "         ")
    _print_ways(ways, whole)
    say()


def print_statement_of(finding: Finding) -> None:
    """What is wrong, on which pages, and by which statements."""
    about = f"  {finding.setting}" if finding.setting else ""
    named = f"  {finding.name}" if finding.name else ""
    say(Styled(finding.level, COLORS[finding.level]), "  ", Styled(finding.kind), about, named)
    paragraph(visible(finding.message), "  ", "  ")
    shown = ", ".join(finding.pages[:MOST_PAGES])
    more = f" and {len(finding.pages) - MOST_PAGES:,} more" if len(finding.pages) > MOST_PAGES else ""
    if shown:
        paragraph(visible(shown) + more, "  pages: ", "         ")
    untold = [said for said in finding.statements if f"{said.place})" not in finding.message]
    if untold:
        places = ", ".join(f"{said.place} ({said.scope}: {visible(said.value)})" for said in untold[:MOST_STATEMENTS])
        rest = f" and {len(untold) - MOST_STATEMENTS} more" if len(untold) > MOST_STATEMENTS else ""
        paragraph(places + rest, "  where: ", "         ")
