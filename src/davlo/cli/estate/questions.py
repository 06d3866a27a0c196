"""What one asks all sites of an estate: their numbers, findings, values, differences, and a report of each."""

from __future__ import annotations

import datetime
import os
import shlex
from collections.abc import Callable, Iterator
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import click

from davlo.core.findings.finding import LEVELS
from davlo.core.letters import visible
from davlo.core.wording import count, some_of

from ..command_list import answers
from ..completion.offers import complete_revision
from ..findings import LONG_COLUMNS, fail_on_option
from ..options import format_option, today_option
from ..outputs.export import NEEDS_PYARROW
from ..screen import Columns, as_csv, as_json, as_json_list, note, say, table
from .estate import estate_options, print_lines, read_ones, status_after, typed_estate

if TYPE_CHECKING:
    from davlo.estate.estate import Estate, EstateFinding
    from davlo.estate.site_answers import SiteChange, SiteFindings, Told

MOST_ROWS, MOST_LINES = 40, 8


class _Gathered(NamedTuple):
    """Findings of one kind and setting in all sites."""

    level: str
    kind: str
    setting: str
    sites: dict[str, int]  # the pages that they are about, by site

    @property
    def row(self) -> list[str]:
        """A row of the table."""
        pages = sum(self.sites.values())
        return [self.level, self.kind, self.setting, f"{len(self.sites):,}", f"{pages:,}", some_of([*self.sites], 2)]


@answers("estate sites", "davlo estate sites", "davlo estate sites --estate gardens", "davlo estate sites --format csv")
@today_option
@format_option("text", "csv", "json")
@estate_options
def sites(estate: Estate, today: datetime.date, form: str) -> int:
    """A row for each site: its pages, its findings, how many pages are exceptions on some setting, and which settings
    of the house style have another value on some page.
    """
    unread: list[Told] = []
    read = [(one.name, one.answer) for one in read_ones(estate.overview(today), unread)]
    header = ("site", "pages", "errors", "warnings", "exceptions", "differs")
    if form == "json":
        rows = [dict(zip(header, (name, *one[:4], list(one.differs)), strict=True)) for name, one in read]
        as_json([*rows, *({"site": one.name, "faults": list(one.faults)} for one in unread)])
    elif form == "csv":
        as_csv(header, ([name, *map(str, one[:4]), "; ".join(one.differs)] for name, one in read))
    else:
        cells = [[name, *(f"{number:,}" for number in one[:4]), some_of([*one.differs], 3)] for name, one in read]
        table(("site", "pages", "errors", "warnings", "exceptions", "differs from the house style"), cells)
        pages = sum(one.pages for _, one in read)
        say(f"{count(len(read), 'site')} of {visible(estate.name)}, {count(pages, 'page')}")
    return status_after(unread)


@answers("estate check", "davlo estate check", "davlo estate check --level error", "davlo estate check --format csv")
@click.option(
    "--level", type=click.Choice(LEVELS), default="warning", show_default=True, help="Findings of this level or worse."
)
@fail_on_option
@today_option
@format_option("text", "csv", "json")
@estate_options
def check(estate: Estate, today: datetime.date, level: str, fail_on: str, form: str) -> int:
    """The findings of all sites, those of one kind and setting together; and what only shows across sites: a default
    that every site overrides in the same way, and a shared declaration that no site uses.
    """
    unread: list[Told] = []
    levels = LEVELS[: LEVELS.index(level) + 1]
    together: list[SiteFindings] = []
    found = _chosen(estate, today, levels, unread, together)
    if form == "text":
        worst = _print_gathered(estate, found)
        _print_across(_across(estate, together, unread, level))
    else:
        worst = set[str]()
        records = _with_across(found, worst, lambda: _across(estate, together, unread, level))
        if form == "json":
            as_json_list(records)
        else:
            as_csv(("site", *LONG_COLUMNS), (row for one in records for row in _rows(one)))
    failing = LEVELS[: LEVELS.index(fail_on) + 1]
    return status_after(unread, 1 if worst & {*failing} else 0)


def _chosen(
    estate: Estate, today: datetime.date, levels: tuple[str, ...], unread: list[Told], together: list[SiteFindings]
) -> Iterator[dict[str, Any]]:
    """The findings of all sites, site by site; `together` gets what counts across sites, without the findings."""
    for one in read_ones(estate.check(today), unread):
        together.append(one.answer._replace(findings=[]))
        for finding in one.answer.findings:
            if finding["level"] in levels:
                yield {"site": one.name, **finding}


def _with_across(
    found: Iterator[dict[str, Any]], worst: set[str], across: Callable[[], list[EstateFinding]]
) -> Iterator[dict[str, Any]]:
    """The findings of all sites, then what shows across them; `worst` gets the levels of those of sites."""
    for one in found:
        worst.add(str(one["level"]))
        yield one
    yield from ({"site": None, **one.as_json()} for one in across())


def _across(estate: Estate, together: list[SiteFindings], unread: list[Told], level: str) -> list[EstateFinding]:
    """What shows across sites; nothing if some cannot be read, or errors alone are asked for."""
    return [] if unread or level == "error" else estate.across(together)


def _rows(one: dict[str, Any]) -> Iterator[list[str]]:
    """A row of CSV for each page of a finding, or one if it has none."""
    for page in one["pages"] or ("",):
        yield [one["site"] or "", one["level"], one["kind"], one["setting"] or "", page, one["message"]]


def _print_across(found: list[EstateFinding]) -> None:
    if found:
        say()
        say("Across sites")
    for finding in found:
        say(f"  {finding.level}  {visible(finding.message)}")
        say(f"        {visible(finding.fix)}")


def _print_gathered(estate: Estate, found: Iterator[dict[str, Any]]) -> set[str]:
    """Print the findings of all sites by kind and setting; gives the levels that there are."""
    gathered: dict[tuple[str, str], _Gathered] = {}
    for one in found:
        kind, setting = str(one["kind"]), str(one["setting"] or "")
        of_kind = gathered.setdefault((kind, setting), _Gathered(str(one["level"]), kind, setting, {}))
        of_kind.sites[one["site"]] = of_kind.sites.get(one["site"], 0) + len(one["pages"])
    rows = sorted(gathered.values(), key=lambda one: (LEVELS.index(one.level), -len(one.sites), one.kind, one.setting))
    if rows:
        columns = Columns(names=(1, 2, 5))
        table(
            ("level", "finding", "setting", "sites", "pages", "in"), [one.row for one in rows[:MOST_ROWS]], "", columns
        )
        if len(rows) > MOST_ROWS:
            say(f"and {count(len(rows) - MOST_ROWS, 'more row')}: {typed_estate('check', '--format', 'csv')}")
    else:
        say("no site has a finding of this level or worse")
    if rows:
        say()
        say("The findings of one site:")
        say(f"  {shlex.join(['davlo', 'check', '--site', os.path.relpath(estate.folder / next(iter(rows[0].sites)))])}")
    return {one.level for one in rows}


@answers(
    "estate export",
    "davlo estate export --to values",
    "davlo estate export --to values --estate gardens",
    "davlo estate export --to values --scheduler tcp://host:8786",
)
@click.option(
    "--to", type=click.Path(file_okay=False), metavar="DIR", required=True, help="The folder for the dataset."
)
@estate_options
def export(estate: Estate, to: str) -> int:
    """Writes the values and sources of all pages as a Parquet dataset: a file for each site, named as its folder, with
    a column `site`.
    """
    if find_spec("pyarrow") is None:
        raise click.UsageError(NEEDS_PYARROW)
    _check_outside(estate, to)
    unread: list[Told] = []
    pages = [int(one.answer) for one in read_ones(estate.export(to), unread)]
    note(f"wrote {count(len(pages), 'file')}, {count(sum(pages), 'page')}, into {to}")
    return status_after(unread)


def _check_outside(estate: Estate, to: str) -> None:
    """Make sure that a folder to write into is no site's: a file of it could be written over."""
    folder = Path(to).resolve()
    inside = next((one for one in estate.sites if folder.is_relative_to((estate.folder / one).resolve())), None)
    if inside is not None:
        raise click.UsageError(f"{to} lies in the site {inside}: name a folder of its own")


@answers(
    "estate compare",
    "davlo estate compare HEAD~1",
    "davlo estate compare main --all",
    "davlo estate compare HEAD --format json",
)
@click.argument("state", metavar="REVISION", shell_complete=complete_revision)
@click.option("--all", "everything", is_flag=True, help="Print every line, and the sites in which nothing differs.")
@click.option("--fail-on", type=click.Choice(("any",)), help="Exit with status 1 if anything differs.")
@format_option("text", "csv", "json")
@estate_options
def compare(estate: Estate, state: str, everything: bool, fail_on: str | None, form: str) -> int:
    """What differs in each site from a revision of git, the shared files of that time included."""
    unread: list[Told] = []
    told = read_ones(estate.compare(state, form), unread)
    changed = print_changes(told, form, everything, typed_estate("compare", state, "--all"))
    return status_after(unread, 1 if fail_on and changed else 0)


def print_changes(told: Iterator[Told], form: str, everything: bool, more: str) -> int:
    """Print how sites differ; gives in how many something does."""
    changed = sites = 0

    def counted() -> Iterator[Told]:
        nonlocal changed, sites
        for one in told:
            changed, sites = changed + one.answer.changes, sites + 1
            yield one

    if form == "json":
        as_json_list({"site": one.name, **one.answer.record} for one in counted())
        return changed
    if form == "csv":
        from davlo.frames.difference_tables import COLUMNS

        as_csv(("site", *COLUMNS), ([one.name, *row] for one in counted() for row in one.answer.record))
        return changed
    for one in counted():
        change: SiteChange = one.answer
        if change.changes or everything:
            say(f"{one.name}: {change.sentence}")
            print_lines([*change.lines], None if everything else MOST_LINES, more)
    say(f"{changed:,} of {count(sites, 'site')} {'differs' if changed == 1 else 'differ'}")
    return changed


@answers(
    "estate report",
    "davlo estate report --to reports",
    "davlo estate report --to reports --estate gardens",
    "davlo estate report --to reports --scheduler tcp://host:8786",
)
@click.option("--to", type=click.Path(file_okay=False), metavar="DIR", required=True, help="The folder for the pages.")
@today_option
@estate_options
def report(estate: Estate, to: str, today: datetime.date) -> int:
    """Writes a report for each site, as davlo report does, and index.html, which lists them."""
    from davlo.estate.index_page import index_page
    from davlo.files.store.whole_files import write_whole

    _check_outside(estate, to)
    unread: list[Told] = []
    read = [(one.name, *one.answer) for one in read_ones(estate.report(to, today), unread)]
    Path(to).mkdir(parents=True, exist_ok=True)
    write_whole(Path(to) / "index.html", index_page(estate.name, read, unread, today).encode())
    note(f"wrote index.html and {count(len(read), 'report')} into {to}")
    note("open index.html in a browser: it needs no network")
    return status_after(unread)


COMMANDS = {one.name: one for one in (sites, check, export, compare, report)}
