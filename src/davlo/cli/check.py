"""`davlo check`: what contradicts what."""

from __future__ import annotations

import click

from davlo.core.findings import LEVELS, Finding, Report
from davlo.core.wording import count

from .options import format_option, open_named_site, site_option
from .screen import as_csv, as_json, paragraph, say, visible

COLORS = {"error": "red", "warning": "magenta", "note": None}  # those that can be read on light and on dark
CSV_COLUMNS = ("level", "kind", "setting", "pages", "statements", "message", "fix")
MOST_PAGES = 4
MOST_STATEMENTS = 5


@click.command("check", epilog="Example: davlo check --fail-on warning")
@click.option(
    "--fail-on",
    type=click.Choice(LEVELS),
    default="error",
    show_default=True,
    help="Leave with status 1 from this level on.",
)
@format_option("text", "csv", "json")
@site_option
def command(fail_on: str, form: str, site: str | None) -> int:
    """What contradicts what.

    The worst first. An error cannot be as set, or lets someone in; a warning will surprise someone; a note is worth
    knowing.
    """
    report = open_named_site(site).check()
    if form == "json":
        as_json([finding.as_json() for finding in report.findings])
    elif form == "csv":
        as_csv(CSV_COLUMNS, [_csv_row(finding) for finding in report.findings])
    else:
        for finding in report.findings:
            _print(finding)
        say(summary(report))
    return 1 if report.reaches(fail_on) else 0


def summary(report: Report) -> str:
    """All findings in a line."""
    told = [count(report.count(level), level) for level in LEVELS if report.count(level)]
    accepted = f" ({len(report.accepted)} accepted)" if report.accepted else ""
    return (", ".join(told) or "nothing to report") + accepted


def _print(finding: Finding) -> None:
    level = click.style(finding.level, fg=COLORS[finding.level], bold=True)
    about = f"  {finding.setting}" if finding.setting else ""
    say(f"{level}  {click.style(finding.kind, bold=True)}{about}")
    paragraph(visible(finding.message), "  ", "  ")
    shown = ", ".join(finding.pages[:MOST_PAGES])
    more = f" and {len(finding.pages) - MOST_PAGES} more" if len(finding.pages) > MOST_PAGES else ""
    if shown:
        paragraph(visible(shown) + more, "  pages: ", "         ")
    untold = [said for said in finding.statements if f"{said.place})" not in finding.message]
    if untold:
        places = ", ".join(f"{said.place} ({said.scope}: {visible(said.value)})" for said in untold[:MOST_STATEMENTS])
        rest = f" and {len(untold) - MOST_STATEMENTS} more" if len(untold) > MOST_STATEMENTS else ""
        paragraph(places + rest, "  where: ", "         ")
    paragraph(visible(finding.fix), "  fix:   ", "         ")
    say()


def _csv_row(finding: Finding) -> list[str]:
    statements = "; ".join(f"{said.place} {said.scope}" for said in finding.statements)
    return [
        finding.level,
        finding.kind,
        finding.setting or "",
        "; ".join(finding.pages),
        statements,
        finding.message,
        finding.fix,
    ]
