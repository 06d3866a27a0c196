"""Findings and edits in words."""

from __future__ import annotations

from typing import Protocol

from davlo.core.change.difference_rows import AccessRow
from davlo.core.findings.check import Report
from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.wording import count, shortened, some_of

from .letters import visible

MOST_LETTERS = 90


class WayLike(Protocol):
    """A way to mend a finding, as far as it is told in words."""

    @property
    def changes(self) -> int: ...

    @property
    def elsewhere(self) -> int: ...

    @property
    def gains(self) -> tuple[AccessRow, ...]: ...


def summary(report: Report) -> str:
    """All findings in a line."""
    told = [count(report.count(level), level) for level in LEVELS if report.count(level)]
    accepted = f" ({len(report.accepted)} accepted)" if report.accepted else ""
    return (", ".join(told) or "nothing to report") + accepted


def changes_of(way: WayLike) -> str:
    """How many pages a way changes, how many of them elsewhere, and who could do more, in words."""
    told = f", changes {count(way.changes, 'page')}" if way.changes else ", changes no page"
    if way.elsewhere and way.elsewhere < way.changes:
        told += f", {way.elsewhere:,} of them elsewhere"
    elif way.elsewhere:
        told += " elsewhere"
    gains = [f"{row.who} may {row.action} {count(row.gained, 'page')} more" for row in way.gains]
    return told + (f"; {some_of(gains)}" if gains else "")


def brief_edit(file: str, line: int, old: str, new: str) -> str:
    """What differs in an edit of a file, in a line; for a sheet also the row."""
    row = old.partition(",")[0] if file.endswith(".csv") and line > 1 and new else ""
    return visible(f"{file}:{line} {f'({row}) ' if row else ''}{brief(old, new)}")


def brief(old: str, new: str) -> str:
    """What differs between two texts, in a line: - what goes, + what comes; long parts are cut.

    Example
    -------
    >>> brief("give: {heading.show: no, menu.show: no}", "give: {menu.show: no}")
    '- heading.show: no'
    >>> brief("menu: {max_entries: 7}", "menu: {max_entries: 13}")
    '- 7 + 13'
    >>> brief("lock:\\n  heading.show: no\\n", "heading.show: no\\n")
    '- lock: heading.show: no + heading.show: no'
    """
    is_rewritten = bool(old and new) and old.count("\n") != new.count("\n")
    old, new = (" ".join(text.split()) for text in (old, new))
    head = 0 if is_rewritten else _alike(old, new)
    tail = 0 if is_rewritten else _alike(old[head:][::-1], new[head:][::-1])
    parts = [(sign, text[head : len(text) - tail].strip(" ,")) for sign, text in (("-", old), ("+", new))]
    return " ".join(f"{sign} {shortened(text, MOST_LETTERS)}" for sign, text in parts if text)


def _alike(one: str, other: str) -> int:
    """How many letters two texts begin with alike; no word is cut."""
    head = next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
    while head and _is_of_word(one[head - 1]) and any(_is_of_word(text[head : head + 1]) for text in (one, other)):
        head -= 1
    return head


def _is_of_word(letter: str) -> bool:
    return letter.isalnum() or letter in tuple("-._/")


def csv_row(finding: Finding) -> list[str]:
    """A finding as the cells of a row."""
    statements = "; ".join(f"{said.place} {said.scope}" for said in finding.statements)
    return [
        finding.level,
        finding.kind,
        finding.name,
        finding.setting or "",
        "; ".join(finding.pages),
        statements,
        finding.message,
        finding.fix,
    ]
