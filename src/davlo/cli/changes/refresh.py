"""`davlo page refresh`: bring the page list up to date with what somebody has of the pages now."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count, some_of

from ..command_list import answers
from ..machine import TYPED
from ..options import open_named_site, typed
from ..screen import as_json, heading, note, paragraph, say
from ..source_options import Sources, source_options
from .change_options import HowToChange, change_options
from .page import show_or_write_pages

if TYPE_CHECKING:
    from davlo.site import Site
    from davlo.start.refresh import Refresh

MOST_LISTED = 12


@answers(
    "page refresh",
    "davlo page refresh --from pages-of-today.csv",
    "davlo page refresh --from public --drop-missing",
    "davlo page refresh --from export.xlsx --column 'Page title=title' --write",
)
@source_options
@click.option("--drop-missing", is_flag=True, help="Drop the pages that the sources lack.")
@change_options
def command(sources: Sources, drop_missing: bool, how: HowToChange) -> int:
    """Adds the pages that are new in what you have, sets the details that differ, and lists the pages that are missing
    there. Decisions stay as they are. A blank cell of a table blanks the detail.
    """
    from davlo.start.refresh import refresh_change

    sources.check()
    if not sources.names:
        raise click.UsageError(
            "name what you have of the pages: --from pages.csv, or a sitemap, or a folder of HTML pages"
        )
    site = open_named_site(how.site)
    meanings = sources.meanings
    found = refresh_change(
        site, sources.names, meanings=meanings, areas=sources.areas, query=sources.query, drop_missing=drop_missing
    )
    beside = {"missing": list(found.missing), "moved": [list(pair) for pair in found.moved]}
    if found.change.steps:
        status = show_or_write_pages(site, found.change, how, beside)
    else:
        status = 0
        if how.form == "text":
            verb = "says" if len(sources.names) == 1 else "say"
            say(f"The page list says all that {some_of(sources.names, 3)} {verb}.")
        elif how.form == "json":
            as_json(beside)
    if how.form == "text":
        _print_left(found, drop_missing)
        _print_stamps(site, found)
    elif found.missing and not drop_missing:
        note(f"note: {count(len(found.missing), 'page')} of the site are not in {some_of(sources.names, 3)}")
    return status


def _print_left(found: Refresh, drop_missing: bool) -> None:
    """What is left to somebody: pages that are missing or may have moved, columns of settings, remarks."""
    if found.missing and not drop_missing:
        heading(f"Missing there ({count(len(found.missing), 'page')})")
        _print_paths(found.missing)
        words = click.get_current_context().meta.get(TYPED, ())
        say("To drop them:")
        say(f"  {shlex.join(['davlo', *(word for word in words if word != '--write'), '--drop-missing'])}")
    if found.above:
        heading(f"Missing there, but with pages below that stay ({count(len(found.above), 'page')}): not dropped")
        _print_paths(found.above)
    if found.moved:
        heading("These may have moved: first move them, then refresh again")
        for old, new in found.moved[:MOST_LISTED]:
            say(f"  {typed('page', 'move', old, new)}")
    if found.decisions:
        paragraph(f"Left alone, since they are settings: {', '.join(found.decisions)}", "", "  ")
    for remark in found.remarks[:MOST_LISTED]:
        example = f", such as {remark.example}" if remark.example else ""
        pages = f" ({count(remark.pages, 'page')}{example})" if remark.pages else ""
        paragraph(f"note: {remark.what}{pages}", "", "  ")


def _print_paths(paths: Sequence[str]) -> None:
    for path in paths[:MOST_LISTED]:
        say(f"  {path}")
    if len(paths) > MOST_LISTED:
        say(f"  and {len(paths) - MOST_LISTED:,} more")


def _print_stamps(site: Site, found: Refresh) -> None:
    """How to stamp pages that came into the page list without a stamp, and so lack the defaults for new pages."""
    from davlo.core.change.steps.restamp import restamp_change

    bare = [one for one in restamp_change(site).counts if one.without_stamp]
    if bare:
        say(f"Pages without a stamp lack the default for new pages of {', '.join(one.setting for one in bare)}:")
        say(f"  {typed('page', 'restamp', '--new')}")
