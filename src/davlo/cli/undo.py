"""`davlo undo`: take the last write back."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from .change_options import HowToChange, change_options, print_record, say_how_to_write, say_written
from .command_list import answers
from .options import open_named_site, typed
from .reach import print_reach
from .screen import listing, say

if TYPE_CHECKING:
    from davlo.site import Site

COLUMNS = ("number", "when", "by", "files", "what")


@answers("undo", "davlo undo", "davlo undo --list", "davlo undo --write")
@click.option("--list", "is_list", is_flag=True, help="List the writes that can be taken back, the latest first.")
@change_options
def command(is_list: bool, how: HowToChange) -> int:
    """The writes are taken back one by one, the latest first."""
    if how.even_so:
        raise click.UsageError("what was there before can always come back: leave out --even-so")
    if is_list and (how.write or how.picture is not None or how.by is not None or how.is_brief or how.everything):
        raise click.UsageError("--list lists the writes: it takes no other option but --format csv or json")
    site = open_named_site(how.site)
    if is_list:
        _print_list(site, how.form)
        return 0
    if how.by is not None:
        site.check_may_undo(how.by)
    undoing = site.undoing()
    if how.picture is not None:
        from .reach_picture import draw_reach

        draw_reach(site, undoing.reach, Path(how.picture))
    if how.form != "text":
        print_record(undoing.reach, how.form)
    else:
        record = undoing.record
        by = f" by {record.by}" if record.by else ""
        print_reach(
            undoing.reach,
            f"taking back write {record.number} ({record.at[:16]}{by}): {record.sentence}",
            undoing.edits,
            how.everything,
            how.is_brief,
        )
    if not how.write:
        say_how_to_write(how, False)
        return 0
    say_written(how.form, site.undo(by=how.by or "").record, "took back what was written to")
    return 0


def _print_list(site: Site, form: str) -> None:
    writes = site.writes()
    rows = [
        [one.number, one.at[:16].replace("T", " "), one.by, "; ".join(f.name for f in one.files), one.sentence]
        for one in writes
    ]
    if form != "text" or rows:
        listing(form, COLUMNS, rows)
    if form == "text":
        say(f"{count(len(rows), 'write')} can be taken back" + (f": {typed('undo')}" if rows else ""))
