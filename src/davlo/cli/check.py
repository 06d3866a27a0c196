"""`davlo check`: what contradicts what."""

from __future__ import annotations

import datetime
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np
from click.shell_completion import CompletionItem

from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.findings.kinds import KINDS, TOPICS
from davlo.core.progress import work
from davlo.core.wording import count
from davlo.words.findings import csv_row, summary
from davlo.words.letters import visible

from .findings import (
    CSV_COLUMNS,
    MOST_OF_KIND,
    MOST_PAGES,
    Mends,
    print_edit,
    print_finding,
    print_findings,
    print_rows,
    ways_record,
)
from .options import (
    asked_pages,
    complete_page,
    format_option,
    open_named_site,
    site_option,
    today_option,
    when_option,
)
from .screen import Styled, as_csv, as_json, listing, note, paragraph, say

if TYPE_CHECKING:
    from davlo.files.rewrite.ways import Way
    from davlo.site import Site

FEW_FINDINGS = 200
"""Up to this many, a screen and SARIF show each finding's edits; for more, only with --edits."""
NAMES = tuple(sorted(kind.name for kind in KINDS))


def _complete_kind(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    return [CompletionItem(name) for name in NAMES if name.startswith(incomplete)]


@click.command(
    "check",
    epilog="Example: davlo check --fail-on warning.  Also: davlo check --topic access; davlo check --page /visit/maps; "
    "davlo check --explain lock-overrules",
)
@click.option(
    "--kind", "kinds", multiple=True, metavar="KIND", shell_complete=_complete_kind, help="Only findings of this kind."
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
@click.option("--all", "everything", is_flag=True, help=f"Show all findings, even more than {MOST_OF_KIND} of a kind.")
@click.option(
    "--edits",
    is_flag=True,
    help="Show the edits that mend each finding, with whole lines, however many findings there are.",
)
@click.option(
    "--since", metavar="FOLDER-OR-REVISION", help="Only findings that another folder, or a git revision, does not have."
)
@click.option("--promises", is_flag=True, help="List every promise, and whether it holds.")
@click.option(
    "--explain",
    metavar="KIND",
    shell_complete=_complete_kind,
    help="Explain a kind of finding, and how people mend it.",
)
@click.option(
    "--fail-on",
    type=click.Choice(LEVELS),
    default="error",
    show_default=True,
    help="Exit with status 1 if there is a finding of this level or worse.",
)
@today_option
@format_option("text", "csv", "json", "sarif")
@site_option
def command(
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
    promises: bool,
    explain: str | None,
    fail_on: str,
    today: datetime.date,
    form: str,
    site: str | None,
) -> int:
    """Report what contradicts what.

    Lists the worst first. An error cannot hold as it is set, or lets someone in; a warning will surprise someone; a
    note is worth knowing.
    """
    if explain is not None:
        _explain(explain)
        return 0
    chooses = bool(kinds or level or topics or pages or when or accepted or is_long or edits or since)
    if promises and (chooses or form == "sarif"):
        raise click.UsageError("--promises takes no other option but --format csv or json")
    if is_long and (edits or form == "sarif"):
        raise click.UsageError("--long prints a row for each page: leave out --edits and --format sarif")
    if edits and form == "csv":
        raise click.UsageError("--edits does not fit into a row: use --format json or sarif, or leave --format out")
    for kind in kinds:
        _known(kind)
    opened = open_named_site(site)
    if promises:
        return _promises(opened, form)
    whole = opened.check(today)
    named = np.zeros(len(opened.tree), dtype=bool)
    named[[opened.find_page(words) for words in pages]] = True
    masks = [mask for mask in (named if pages else None, asked_pages(opened, when)) if mask is not None]
    report = whole.chosen(kinds, topics, level, masks)
    left = [(len(whole.findings) - len(report.findings), "filtered out")]
    if since is not None:
        asked = len(report.findings)
        try:
            report = report.since(opened.check_earlier(since, today))
        except ValueError as error:
            raise click.UsageError(f"--since: {error}") from None
        left.append((asked - len(report.findings), f"there since {since}"))
    told = report.accepted if accepted else report.findings
    with_ways = edits or (form in ("text", "sarif") and not is_long)
    if with_ways and not edits and len(told) > FEW_FINDINGS:
        note(f"{len(told):,} findings: the edits that mend each are left out; use --edits to see them")
        with_ways = False
    mends = _mending(opened) if with_ways else _no_ways
    if is_long:
        rows = ([f.level, f.kind, f.setting or "", page, f.message] for f in told for page in (f.pages or [""]))
        print_rows(form, rows)
    elif form == "sarif":
        from davlo import __version__
        from davlo.files.publish.sarif import sarif

        as_json(sarif(report, __version__, _all_at_once(report.findings, mends)))
    elif form == "json":
        known = _all_at_once(told, mends) if edits else None
        as_json([{**finding.as_json(), **(ways_record(known(finding)) if known else {})} for finding in told])
    elif form == "csv":
        as_csv(CSV_COLUMNS, [csv_row(finding) for finding in told])
    else:
        print_findings(told, everything, mends, edits)
        say("; ".join([summary(report), *(f"{count(number, 'other')} {why}" for number, why in left if number)]))
    return 1 if report.reaches(fail_on) else 0


def _known(name: str) -> None:
    from davlo.core.faults import UnknownName

    if name not in NAMES:
        raise UnknownName("kind of finding", name, NAMES)


def _explain(name: str) -> None:
    """What a kind means, with an example from the demo."""
    from davlo.demo.finding_examples import example

    _known(name)
    kind = next(kind for kind in KINDS if kind.name == name)
    say(Styled(kind.name), f": {kind.level}, of the topic {kind.topic}")
    for head, words in (("what", kind.meaning), ("why", kind.why), ("mend", kind.mend)):
        paragraph(words, f"  {head + ':':6}", " " * 8)
    with tempfile.TemporaryDirectory() as folder:
        found = example(name, Path(folder))
        told = "accepted" if found.is_accepted else "for example"
        say()
        say(f"In the garden that davlo demo writes, {'with this change' if found.changes else told}:")
        say()
        for edit in found.changes:
            print_edit(edit)
        if found.changes:
            say()
        print_finding(found.finding)
    say(f"Those of your site: davlo check --kind {kind.name}")


def _promises(site: Site, form: str) -> int:
    """Every promise; 1 where one is broken."""
    from davlo.core.findings.promise_kinds import promises_kept

    found = promises_kept(site.resolve())
    if form != "text":
        rows = []
        for one in found:
            count_broken, why = one.broken_pages(), "; ".join(broken.finding.message for broken in one.broken)
            rows.append([one.promise.name, str(one.promise.place), str(one.pages), str(count_broken), why])
        listing(form, ("promise", "where", "pages", "broken on", "because"), rows)
        return int(not all(one.holds for one in found))
    for one in found:
        broken = one.broken_pages()
        held = f"holds on {count(one.pages, 'page')}" if one.pages else "is about no page, and proves nothing"
        told = f"is broken on {broken:,} of {count(one.pages, 'page')}" if broken else held
        say(Styled(one.promise.name), f" ({one.promise.place}) {told}")
        for finding, why in one.broken:
            paragraph(visible(why), "  ", "    ")
            shown = ", ".join(finding.pages[:MOST_PAGES])
            more = f" and {len(finding.pages) - MOST_PAGES:,} more" if len(finding.pages) > MOST_PAGES else ""
            paragraph(visible(shown) + more, "    ", "    ")
    kept = sum(one.holds for one in found)
    hold = "holds" if len(found) == 1 else "hold"
    if not found:
        say("no promise is made: promises in davlo.yaml")
        return 0
    say()
    say(f"{kept} of {count(len(found), 'promise')} {hold}")
    return int(kept < len(found))


def _all_at_once(findings: Sequence[Finding], mends: Mends) -> Mends:
    """Works out the ways to mend all these findings at once, with progress: for many it takes a while."""
    known: dict[int, Sequence[Way]] = {}
    with work("working the edits out", len(findings)) as step:
        for finding in findings:
            step(finding.kind)
            known[id(finding)] = mends(finding)
    return lambda finding: known.get(id(finding), ())


def _no_ways(finding: Finding) -> Sequence[Way]:
    return ()


def _mending(site: Site) -> Mends:
    """A function that gives the ways to mend a finding."""
    from davlo.files.rewrite.ways import Mender

    return Mender(site.resolve(), Path(site.folder)).ways
