"""`davlo check`: what contradicts what."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.faults import UnknownName
from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.findings.kinds.every_kind import TOPICS
from davlo.core.progress import work
from davlo.core.wording import count
from davlo.words.findings import csv_row, summary

from ..command_list import answers
from ..completion.offers import complete_finding, complete_finding_kind, complete_page, complete_revision
from ..findings import (
    CSV_COLUMNS,
    Mends,
    fail_on_option,
    print_briefly,
    print_finding,
    print_findings,
    print_rows,
    print_what_to_type,
    ways_record,
)
from ..options import asked_pages, format_option, open_named_site, site_option, today_option, typed, when_option
from ..screen import as_csv, as_json, say
from .explain import NAMES, known_kind
from .explain import explain as explain_kind
from .guarantees import print_guarantees

if TYPE_CHECKING:
    from davlo.core.findings.check import Report
    from davlo.files.rewrite.ways import Way
    from davlo.site import Site

FEW_FINDINGS = 200
"""Up to this many, SARIF has each finding's edits; for more, only with --edits."""


@answers(
    "check",
    "davlo check",
    "davlo check --page /visit/maps",
    "davlo check --topic access",
    "davlo check --fail-on warning",
    "davlo check --explain lock-overrules",
)
@click.argument("name", required=False, shell_complete=complete_finding)
@click.option(
    "--kind",
    "kinds",
    multiple=True,
    metavar="KIND",
    shell_complete=complete_finding_kind,
    help="Only findings of this kind.",
)
@click.option("--level", type=click.Choice(LEVELS), help="Only findings of this level or worse.")
@click.option("--topic", "topics", multiple=True, type=click.Choice(TOPICS), help="Only findings of this topic.")
@click.option(
    "--page",
    "pages",
    multiple=True,
    metavar="PAGE",
    shell_complete=complete_page,
    help="Only findings about this page.",
)
@when_option
@click.option("--accepted", is_flag=True, help="Show accepted findings instead of open ones.")
@click.option("--long", "is_long", is_flag=True, help="Print a row for each page.")
@click.option("--all", "everything", is_flag=True, help="Show all findings, notes too.")
@click.option("--edits", is_flag=True, help="Show each finding whole, with the edits that mend it.")
@click.option(
    "--since",
    metavar="FOLDER-OR-REVISION",
    shell_complete=complete_revision,
    help="Only findings that another folder, or a git revision, does not have.",
)
@click.option("--guarantees", is_flag=True, help="List every guarantee, and whether it holds.")
@click.option(
    "--explain",
    metavar="KIND",
    shell_complete=complete_finding_kind,
    help="Explain a kind of finding, and how people mend it.",
)
@fail_on_option
@today_option
@format_option("text", "csv", "json", "sarif")
@site_option
def command(
    name: str | None,
    kinds: tuple[str, ...],
    level: str | None,
    topics: tuple[str, ...],
    pages: tuple[str, ...],
    when: tuple[str, ...],
    accepted: bool,
    is_long: bool,
    everything: bool,
    edits: bool,
    since: str | None,
    guarantees: bool,
    explain: str | None,
    fail_on: str,
    today: datetime.date,
    form: str,
    site: str | None,
) -> int:
    """Lists the worst first, each with a short name. With NAME: that finding whole, with the edits that mend it. An
    error is a setting that cannot take effect, or that lets someone in; a warning will surprise someone; a note is
    worth knowing.
    """
    if explain is not None:
        explain_kind(explain)
        return 0
    chooses = bool(kinds or level or topics or pages or when or accepted or is_long or edits or since)
    _check_words(name, chooses, chooses or everything, guarantees, is_long, edits, form)
    for kind in kinds:
        known_kind(kind)
    opened = open_named_site(site, tells_notes=True)
    if guarantees:
        return print_guarantees(opened, form)
    if name:
        return _one(opened, name, today, form, fail_on)
    asked = _asked(opened, pages, when)
    whole = opened.check(today, asked)
    report = whole.chosen(kinds, topics, level)
    every, chosen = (whole.accepted, report.accepted) if accepted else (whole.findings, report.findings)
    left = [(len(every) - len(chosen), "filtered out")]
    if since is not None:
        before = len(report.findings)
        try:
            report = report.since(opened.open_state(since).check(today))
        except ValueError as error:
            raise click.UsageError(f"--since: {error}") from None
        left.append((before - len(report.findings), f"there since {since}"))
    told = report.accepted if accepted else report.findings
    if is_long:
        rows = ([f.level, f.kind, f.setting or "", page, f.message] for f in told for page in (f.pages or [""]))
        print_rows(form, rows)
    elif form != "text":
        _print_for_programs(opened, report, told, form, edits, today)
    else:
        if edits:
            print_findings(told, everything, _mending(opened, today))
        else:
            print_briefly(told, everything, notes_too=chooses or everything)
        summed = f"{count(len(told), 'accepted finding')}" if accepted else summary(report)
        say("; ".join([summed, *(f"{count(number, 'other')} {why}" for number, why in left if number)]))
        if told and not edits:
            print_what_to_type(told, notes_too=chooses or everything)
    return 1 if report.reaches(fail_on) else 0


def _check_words(
    name: str | None, chooses: bool, is_more: bool, guarantees: bool, is_long: bool, edits: bool, form: str
) -> None:
    """Refuse options that do not go together."""
    if guarantees and (chooses or name or form == "sarif"):
        raise click.UsageError("--guarantees takes no other option but --format csv or json")
    if name and (is_more or form == "sarif"):
        raise click.UsageError("a finding's name shows that finding whole: it takes no option but --format csv or json")
    if is_long and (edits or form == "sarif"):
        raise click.UsageError("--long prints a row for each page: leave out --edits and --format sarif")
    if edits and form == "csv":
        raise click.UsageError("--edits does not fit into a row: use --format json or sarif, or leave --format out")


def _print_for_programs(
    site: Site, report: Report, told: Sequence[Finding], form: str, edits: bool, today: datetime.date
) -> None:
    """The findings as CSV, JSON or SARIF."""
    if form == "sarif":
        from davlo import __version__
        from davlo.files.output.sarif import folder_in_repository, sarif

        mends = _mending(site, today) if edits or len(told) <= FEW_FINDINGS else _no_ways
        inside = folder_in_repository(Path(site.folder))
        as_json(sarif(report, __version__, _all_at_once(report.findings, mends), inside, partial(_place_of, site)))
    elif form == "json":
        known = _all_at_once(told, _mending(site, today)) if edits else None
        as_json([{**finding.as_json(), **(ways_record(known(finding)) if known else {})} for finding in told])
    else:
        as_csv(CSV_COLUMNS, [csv_row(finding) for finding in told])


def _asked(site: Site, pages: Sequence[str], when: Sequence[str]) -> list[str] | None:
    """The pages that --page and --when ask about; None if they ask about all."""
    if not pages and not when:
        return None
    mask = np.ones(len(site.tree), dtype=bool)
    if pages:
        mask[:] = False
        mask[[site.find_page(words) for words in pages]] = True
    asked = asked_pages(site, when)
    return site.tree.paths.take(np.flatnonzero(mask if asked is None else mask & asked)).tolist()


def _one(site: Site, name: str, today: datetime.date, form: str, fail_on: str) -> int:
    """One finding whole, with the edits that mend it; by a rare chance several have one name."""
    report = site.check(today)
    try:
        found = report.named(name)
    except UnknownName as error:
        if name in NAMES:
            raise click.UsageError(f"{name} is a kind of finding: {typed('check', '--kind', name)}") from None
        raise error from None
    mends = _mending(site, today)
    if form == "json":
        records = [{**one.as_json(), **ways_record(mends(one))} for one in found]
        as_json(records[0] if len(records) == 1 else records)
    elif form == "csv":
        as_csv(CSV_COLUMNS, [csv_row(one) for one in found])
    else:
        for one in found:
            _print_one(one, mends(one))
    return int(any(one in report.findings and LEVELS.index(one.level) <= LEVELS.index(fail_on) for one in found))


def _print_one(finding: Finding, ways: Sequence[Way]) -> None:
    """A finding whole, and what to type next."""
    print_finding(finding, ways, whole=True)
    if ways:
        say("What each way would change:")
        say(f"  {typed('mend', finding.name)}")
    say("What this kind means:")
    say(f"  {typed('check', '--explain', finding.kind)}")


def _all_at_once(findings: Sequence[Finding], mends: Mends) -> Mends:
    """Works out the ways to mend all these findings at once, with progress: for many it takes a while."""
    known: dict[int, Sequence[Way]] = {}
    with work("working the edits out", len(findings)) as step:
        for finding in findings:
            step(finding.kind)
            known[id(finding)] = mends(finding)
    return lambda finding: known.get(id(finding), ())


def _place_of(site: Site, finding: Finding) -> tuple[str, int]:
    """The file and line of a finding that no statement brings about: a guarantee, or the row of its first page."""
    for guarantee in site.guarantees if finding.kind.startswith("guarantee-") else ():
        if f'"{guarantee.name}"' in finding.message:
            return guarantee.place.file, guarantee.place.line
    numbers = finding.pages.numbers
    return (site.page_list, int(site.tree.line[numbers[0]])) if len(numbers) else ("davlo.yaml", 0)


def _no_ways(finding: Finding) -> Sequence[Way]:
    return ()


def _mending(site: Site, today: datetime.date) -> Mends:
    """A function that gives the ways to mend a finding."""
    from davlo.files.rewrite.ways import Mender

    return Mender(site.resolve(), Path(site.folder), today).ways  # one for all findings: it reads each file once
