"""`davlo undo`: take the last write back."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..command_list import answers
from ..options import find_person, open_named_site, typed
from ..screen import listing, say
from ..site_folder import site_folder
from .change_options import (
    HowToChange,
    change_options,
    check_can_write,
    print_record,
    say_how_to_write,
    say_written,
    write_then_show,
)
from .reach import print_reach

if TYPE_CHECKING:
    from davlo.site import Site

COLUMNS = ("number", "when", "by", "files", "what")


@answers("undo", "davlo undo", "davlo undo --list", "davlo undo --write", "davlo undo --set-aside")
@click.option("--list", "is_list", is_flag=True, help="List the writes that can be taken back, the latest first.")
@click.option(
    "--set-aside",
    "sets_aside",
    is_flag=True,
    help="Put away records in .davlo that are not yours, such as the note of somebody else's unfinished write.",
)
@change_options
def command(is_list: bool, sets_aside: bool, how: HowToChange) -> int:
    """The writes are taken back one by one, the latest first. What Davlo wrote is taken back also where other lines of
    the files have changed since.
    """
    if how.even_so:
        raise click.UsageError("what was there before can always come back: leave out --even-so")
    if is_list and (how.write or how.picture is not None or how.by is not None or how.is_brief or how.everything):
        raise click.UsageError("--list lists the writes: it takes no other option but --format csv or json")
    if sets_aside:
        if is_list or how._replace(site=None) != HowToChange(
            False, False, None, False, False, None, "text", how.today, None
        ):
            raise click.UsageError("--set-aside goes alone, or with --site")
        return _set_aside(site_folder(how.site))
    site = open_named_site(how.site)
    if is_list:
        _print_list(site, how.form)
        return 0
    if how.by is not None:
        how = how._replace(by=find_person(site, how.by))
        site.check_may_undo(str(how.by))
    if how.write:
        check_can_write(site)
    undoing = site.undoing()

    def show() -> None:
        if how.picture is not None:
            from .reach_picture import draw_reach

            draw_reach(site, undoing.reach, Path(how.picture))
        if how.form != "text":
            print_record(undoing.reach, how.form)
            return
        record = undoing.record
        by = f" by {record.by}" if record.by else ""
        sentence = f"taking back write {record.number} ({record.at[:16]}{by}): {record.sentence}"
        print_reach(undoing.reach, sentence, undoing.edits, how.everything, how.is_brief, is_refused=False)

    taken_back = write_then_show((lambda: site.undo(by=how.by or "").record) if how.write else None, show)
    if taken_back is None:
        say_how_to_write(how, False)
    else:
        say_written(site, how.form, taken_back, "took back what was written to")
    return 0


def _set_aside(folder: Path) -> int:
    """Put away what lies in `.davlo` and is ignored."""
    from davlo.files.store.unbelieved import set_aside

    aside = set_aside(folder)
    if aside is None:
        say("There is nothing to put away: each record in .davlo is yours.")
    else:
        say(f"What was not yours lies in {aside} now. The site's files are as they were: read them, then davlo check.")
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
