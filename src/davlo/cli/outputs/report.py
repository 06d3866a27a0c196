"""`davlo report`: one HTML file for colleagues who want to look rather than read."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click

from ..command_list import answers
from ..completion.offers import complete_page, complete_revision
from ..options import find_viewer, open_named_site, site_option, today_option, typed, viewer_option, write_file
from ..screen import note

if TYPE_CHECKING:
    from davlo.site import Site


@answers(
    "report",
    "davlo report --to report.html",
    "davlo report --to report.html --since HEAD~5",
    "davlo report --to visitors.html --as visitor",
)
@click.option("--to", type=click.Path(dir_okay=False), metavar="FILE", required=True, help="The file to write: .html.")
@click.option(
    "--in-branch", "branch", metavar="PAGE", shell_complete=complete_page, help="Only this page and the pages below it."
)
@viewer_option("Only what this person, `visitor`, `signed-in` or group may view: nothing else is in the file.")
@click.option(
    "--since",
    metavar="FOLDER-OR-REVISION",
    shell_complete=complete_revision,
    help="Also what changed since another folder, or a git revision.",
)
@today_option
@site_option
def command(
    to: str, branch: str | None, who: str | None, since: str | None, today: datetime.date, site: str | None
) -> None:
    """It holds the tree with what each page gets, each page drawn as its layout, with its settings, where they come
    from and what they beat, who may do what, the findings, declarations, exceptions and menus. It fetches nothing. With
    --as it holds what that viewer may view and nothing else: pages, their values and drawings, and the menu.
    """
    if not to.lower().endswith((".html", ".htm")):
        raise click.UsageError(f"a report is a file that ends in .html, not {to!r}")
    if who and since:
        raise click.UsageError("--since tells of pages that the viewer may not know of: leave out --as or --since")
    opened = open_named_site(site)
    content = _html(opened, branch, find_viewer(opened, who) if who else "", since, today)
    write_file(opened, Path(to), content)
    note("open it in a browser: it needs no network")


def _html(opened: Site, branch: str | None, who: str, since: str | None, today: datetime.date) -> bytes:
    from davlo.report.report_data import TooManyPages

    try:
        return opened.report(branch=branch, viewer=who, since=since, today=today).encode()
    except TooManyPages as error:
        branches = "".join(
            f"\n  {typed('report', '--to', 'report.html', '--in-branch', one)}" for one in error.branches
        )
        raise click.UsageError(f"{error}; write a branch at a time, as:{branches}") from None
    except ValueError as error:
        raise click.UsageError(f"--since: {error}") from None
