"""Findings and edits in words."""

from __future__ import annotations

from typing import Protocol

from davlo.core.change.differences.difference_rows import AccessRow
from davlo.core.findings.check import Report
from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.wording import count, some_of


class WayLike(Protocol):
    """A way to mend a finding, as far as words describe it."""

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
