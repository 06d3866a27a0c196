"""Findings on a screen and in files: how `davlo check` shows them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, TypeAlias

from davlo.core.arrays.lines import lines_of
from davlo.core.findings.finding import Finding
from davlo.core.wording import count
from davlo.words.findings import brief_edit, changes_of
from davlo.words.letters import visible

from .screen import Styled, listing, paragraph, say

if TYPE_CHECKING:
    from davlo.files.rewrite.line_edits import Edit
    from davlo.files.rewrite.ways import Way

Mends: TypeAlias = "Callable[[Finding], Sequence[Way]]"

COLORS = {"error": "red", "warning": "magenta", "note": None}  # those that can be read on light and on dark
CSV_COLUMNS = ("level", "kind", "setting", "pages", "statements", "message", "fix")
LONG_COLUMNS = ("level", "kind", "setting", "page", "message")
MOST_PAGES, MOST_EDITS, MOST_LETTERS = 4, 3, 90
MOST_STATEMENTS = 5
MOST_OF_KIND = 8
"""The most findings of a kind on a screen without --all."""


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
            {"words": way.words, "changes": way.changes, "edits": [edit._asdict() for edit in way.edits]}
            for way in ways
        ]
    }


def _print_ways(ways: Sequence[Way], whole: bool) -> None:
    """The ways to mend a finding, each with its first edits: their whole lines, or what differs in them."""
    for way in ways:
        told = f"{way.words}{changes_of(way.changes)}:"
        if not whole and len(way.edits) == 1:
            paragraph(f"{told} {brief_edit(*way.edits[0])}", "  edit:  ", " " * 9)
            continue
        paragraph(told, "  edit:  ", " " * 9)
        for edit in way.edits[:MOST_EDITS]:
            (_print_whole if whole else print_edit)(edit)
        if len(way.edits) > MOST_EDITS:
            say(f"{' ' * 11}and {count(len(way.edits) - MOST_EDITS, 'more edit')}: davlo check --edits --format json")


def print_edit(edit: Edit) -> None:
    """What differs in an edit, in a line."""
    paragraph(brief_edit(*edit), " " * 11, " " * 13)


def _print_whole(edit: Edit) -> None:
    """An edit as lines that go and lines that come."""
    say(f"{' ' * 11}{edit.file}:{edit.line}")
    for sign, text in (("-", edit.old), ("+", edit.new)):
        for line in lines_of(text):
            bare = line.rstrip("\r\n")
            say(f"{' ' * 13}{sign} {visible(bare)}")


def print_findings(findings: Sequence[Finding], everything: bool, mends: Mends, whole: bool) -> None:
    """The findings one after the other; of very many of a kind the first, which are about the most pages."""
    shown: dict[tuple[str, str], int] = {}
    for i, finding in enumerate(findings):
        key = finding.level, finding.kind
        shown[key] = shown.get(key, 0) + 1
        if everything or shown[key] <= MOST_OF_KIND:
            print_finding(finding, mends(finding), whole)
        following = findings[i + 1] if i + 1 < len(findings) else None
        more = shown[key] - MOST_OF_KIND
        if not everything and more > 0 and (following is None or (following.level, following.kind) != key):
            say(f"{finding.level}  {finding.kind}  {more:,} more like these: davlo check --kind {finding.kind} --all")
            say()


def print_finding(finding: Finding, ways: Sequence[Way] = (), whole: bool = False) -> None:
    about = f"  {finding.setting}" if finding.setting else ""
    say(Styled(finding.level, COLORS[finding.level]), "  ", Styled(finding.kind), about)
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
    paragraph(visible(finding.fix), "  fix:   ", "         ")
    _print_ways(ways, whole)
    say()
