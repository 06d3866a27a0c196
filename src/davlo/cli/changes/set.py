"""`davlo set`: show what setting a value would change, and change it."""

from __future__ import annotations

from pathlib import Path

import click

from davlo.core.wording import count, some_of

from ..command_list import answers
from ..options import complete_preset, complete_setting, open_named_site
from ..screen import note, say
from .change_options import HowToChange, change_options, show_or_write
from .scope_options import ScopeWords, check_words, is_addition, say_steps, scope_options


@answers(
    "set",
    "davlo set sidebar.right=main --below /visit",
    "davlo set blocks.content+=donate --type event",
    "davlo set title.limit=70 --everywhere --write",
    'davlo set access.editors=view,edit --here-and-below /press --because "The press office asked"',
)
@click.argument("settings", nargs=-1, metavar="SETTING=VALUE…", shell_complete=complete_setting)
@scope_options
@click.option(
    "--use", "presets", metavar="PRESET", multiple=True, shell_complete=complete_preset, help="Use this preset there."
)
@click.option(
    "--lock/--unlock",
    default=None,
    help="Lock the values: stronger scopes may not change them (default: as it is there already).",
)
@click.option("--first", "is_first", is_flag=True, help="Put the items of every += in front of the list.")
@click.option("--because", metavar="TEXT", default="", help="The reason, shown wherever the values are explained.")
@click.option(
    "--from",
    "source",
    type=click.Path(exists=True, dir_okay=False),
    metavar="FILE",
    help="Set what differs in a table of values, .csv or .xlsx, such as davlo export writes.",
)
@change_options
def command(
    settings: tuple[str, ...],
    where: ScopeWords,
    presets: tuple[str, ...],
    lock: bool | None,
    is_first: bool,
    because: str,
    source: str | None,
    how: HowToChange,
) -> int:
    """Say where with one of --everywhere, --type, --below, --here-and-below, --here or --rule. Of a list, += adds items
    at the end, or in front with --first, and -= takes items away. With --from, each page of the table is set here; a
    blank cell takes away what the page itself sets.
    """
    from davlo.core.change.steps.change import Change, Use

    if source is not None:
        if settings or presets or any(where) or lock is not None or is_first:
            raise click.UsageError("--from takes settings, values and pages from the table: leave out the others")
        return _from_table(source, because, how)
    if is_first and not any(is_addition(word) for word in settings):
        raise click.UsageError("--first goes with SETTING+=ITEM: it puts the item in front of the list")
    if not settings and not presets:
        raise click.UsageError("say what to set, and where")
    check_words(settings)
    site = open_named_site(how.site)
    scopes = where.scopes(site)
    uses = [Use(scope, preset) for scope in scopes for preset in presets]
    return show_or_write(site, Change((*uses, *say_steps(site, settings, scopes, lock, because, is_first))), how)


def _from_table(source: str, because: str, how: HowToChange) -> int:
    """Show what the cells of a table would change; with --write, change it."""
    from davlo.core.change.cell_changes import cell_changes
    from davlo.files.read.rows.pasted_rows import read_pasted

    site = open_named_site(how.site)
    table = read_pasted(Path(source).read_bytes(), source)
    found = cell_changes(site.resolve(), table.columns, table.rows, source, because)
    tell = say if how.form == "text" else note
    told = f"{count(found.rows, 'row')}: {count(len(found.change.steps), 'cell')} to set, {found.same:,} as they are"
    tell(told + (f"; ignored, as neither settings nor details: {', '.join(found.ignored)}" if found.ignored else ""))
    if found.blank:
        places = some_of([f"{path} {setting}" for path, setting in found.blank], 3)
        verb = "cell is blank where the page sets nothing itself, so it stays as it is"
        more = "cells are blank where the pages set nothing themselves, so they stay as they are"
        tell(f"{count(len(found.blank), verb, more)} (for nothing write none): {places}")
    if not found.change.steps:
        return 0
    return show_or_write(site, found.change, how)
