"""What all commands that change a site share: their options, showing the reach, and writing."""

from __future__ import annotations

import datetime
import functools
import shlex
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

import click

from davlo.core.wording import count

from ..completion.offers import complete_person
from ..machine import TYPED
from ..options import Command, find_person, format_option, site_option, tell_version_control, today_option, typed
from ..screen import as_csv, as_json, note, say

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from davlo.core.change.change_reach import ChangeReach
    from davlo.core.change.steps.change import Change
    from davlo.files.store.write_records import WriteRecord
    from davlo.site import Site


Result = TypeVar("Result")


class HowToChange(NamedTuple):
    """What the options say about a change: whether to write it, in whose name, and how to show it."""

    write: bool
    even_so: bool
    by: str | None
    everything: bool
    is_brief: bool
    picture: str | None
    form: str
    today: datetime.date
    site: str | None


def change_options(command: Command) -> Command:
    """The options of a command that changes a site; the command takes them as `how`: `HowToChange`."""

    @functools.wraps(command)
    def with_how(*args: Any, **options: Any) -> Any:
        how = HowToChange(*(options.pop(name) for name in HowToChange._fields))
        check_options(how)
        return command(*args, how=how, **options)

    for option in (
        site_option,
        today_option,
        format_option("text", "csv", "json"),
        click.option(
            "--picture",
            type=click.Path(dir_okay=False),
            metavar="FILE",
            help="Draw pages that change, before and after, into this file: .png, .svg or .pdf.",
        ),
        click.option("--brief", "is_brief", is_flag=True, help="Print only the sentence that sums it up."),
        click.option("--all", "everything", is_flag=True, help="List every page and setting that changes."),
        click.option(
            "--as",
            "by",
            metavar="PERSON",
            shell_complete=complete_person,
            help="Make the change in this person's name: only what they may do (default: the administrator).",
        ),
        click.option(
            "--even-so", is_flag=True, help="With --write: write it although it brings about a finding of level error."
        ),
        click.option("--write", is_flag=True, help="Write the change. Without it nothing is written."),
    ):
        with_how = option(with_how)
    return with_how  # type: ignore[return-value]


def check_options(how: HowToChange) -> None:
    """Make sure that the options go together."""
    if how.is_brief and (how.everything or how.form != "text"):
        raise click.UsageError("--brief prints a sentence: leave out --all and --format")
    if how.even_so and not how.write:
        raise click.UsageError("--even-so goes with --write")


def show_or_write(
    site: Site,
    change: Change,
    how: HowToChange,
    *,
    keeps_values: bool = False,
    beside: Mapping[str, object] | None = None,
) -> int:
    """Show what a change would do, and write it if that is asked for; gives the exit status.

    `keeps_values`: the change is meant to keep every value, so its places without effect are not shown. `beside`: more
    keys of the JSON object.
    """

    from .reach import print_reach

    if how.write:
        check_can_write(site)
    reach = site.reach(change)
    if how.by is not None:
        how = how._replace(by=find_person(site, how.by))
        site.check_may(reach, str(how.by))
    edits = site.edits(change, how.today, is_written=how.write)

    def show() -> None:
        if how.picture is not None:
            from .reach_picture import draw_reach

            draw_reach(site, reach, Path(how.picture))
        if how.form == "text":
            sentence = change.words
            print_reach(reach, sentence, edits, how.everything, how.is_brief, keeps_values, not how.even_so)
        else:
            print_record(reach, how.form, beside)

    def write() -> WriteRecord:
        return site.write(reach, by=how.by or "", even_so=how.even_so, today=how.today, edits=edits).record

    record = write_then_show(write if how.write and edits else None, show)
    if record is not None:
        say_written(site, how.form, record, "wrote")
    elif not edits:
        _tell(how, "Nothing is written: the files say so already.")
    else:
        say_how_to_write(how, bool(reach.new_errors))
    return 0


def check_can_write(site: Site) -> None:
    """Refuse to write before anything is worked out, if nothing can be written now.

    Raises OSError if there is no place for the user's key, or somebody else has an unfinished write here.
    """
    if site.folder:
        from davlo.files.store.unbelieved import ready_to_write

        ready_to_write(Path(site.folder))


def write_then_show(write: Callable[[], Result] | None, show: Callable[[], None]) -> Result | None:
    """Write before anything is printed: whoever closes the pipe, what was asked is done.

    `write`: none if nothing shall be written. If it raises an error, that is raised once all is printed. Returns what
    `write` returns.
    """
    result, refusal = None, None
    try:
        result = None if write is None else write()
    except Exception as error:
        refusal = error
    try:
        show()
    finally:
        if refusal is not None:
            raise refusal
    return result


def print_record(reach: ChangeReach, form: str, beside: Mapping[str, object] | None = None) -> None:
    """Print a reach as CSV or JSON; `beside`: more keys of the JSON object."""
    from davlo.frames.difference_tables import COLUMNS, difference_record, difference_rows

    if form == "csv":
        as_csv(COLUMNS, difference_rows(reach))
    else:
        as_json({**difference_record(reach), **(beside or {})})


def say_written(site: Site, form: str, record: WriteRecord, verb: str) -> None:
    """Tell which files were written, and what to type to take that back."""
    files = [f"{one.name} ({count(len(one.edits), 'place')})" for one in record.files]
    tell = say if form == "text" else note
    tell(f"{verb} {', '.join(files)}")
    if verb == "wrote":
        tell("To take it back:")
        tell(f"  {typed('undo', '--write')}")
    tell_version_control(Path(site.folder))


def say_how_to_write(how: HowToChange, has_errors: bool) -> None:
    """Say that nothing is written, and what to type to write the change."""
    words = click.get_current_context().meta.get(TYPED, ())
    more = ["--write", *(["--even-so"] if has_errors and not how.even_so else [])]
    _tell(how, "Nothing is written. To write it:")
    _tell(how, f"  {shlex.join(['davlo', *words, *more])}")


def _tell(how: HowToChange, line: str) -> None:
    """Print a line for a person: on standard error where standard output is for a program."""
    (say if how.form == "text" else note)(line)
