"""What changes the files that the sites of an estate share: its reach over all sites first, then the write."""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING, Any

import click

from davlo.core.site.settings.scopes import Scope

from ..changes.scope_options import is_addition, say_steps
from ..command_list import answers
from ..completion.offers import complete_key, complete_setting, complete_value
from ..declared_kinds import KINDS
from ..edits import print_edits
from ..options import Command, format_option, not_understood
from ..screen import note, say
from .estate import estate_options, status_after, typed_estate
from .questions import print_changes

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change, Step
    from davlo.estate.estate import Estate

MOST_EDITS, MOST_SITES = 40, 20
SHARED_KINDS = tuple(kind for kind in KINDS if kind not in ("site", "rule", "guarantee", "viewpoint"))


def _how_to_change(command: Command) -> Command:
    """The options of a command that changes shared files; the command gives the change."""

    @functools.wraps(command)
    def with_how(
        *args: Any, estate: Estate, write: bool, even_so: bool, everything: bool, form: str, **options: Any
    ) -> int:
        if even_so and not write:
            raise click.UsageError("--even-so goes with --write")
        change = command(*args, estate=estate, **options)
        return _show_or_write(estate, change, write, even_so, everything, form)

    for option in (
        estate_options,
        format_option("text", "csv", "json"),
        click.option("--all", "everything", is_flag=True, help="Print every line of every site."),
        click.option(
            "--even-so", is_flag=True, help="With --write: write it although it brings about a finding of level error."
        ),
        click.option("--write", is_flag=True, help="Write the change. Without it nothing is written."),
    ):
        with_how = option(with_how)
    return with_how  # type: ignore[return-value]


@answers(
    "estate set",
    "davlo estate set title.limit=55",
    "davlo estate set robots.index --lock",
    'davlo estate set band.footer=footer-legal --because "The law asks for it" --write',
)
@click.argument("settings", nargs=-1, required=True, metavar="SETTING=VALUE…", shell_complete=complete_value)
@click.option("--lock/--unlock", default=None, help="Lock the values: no site may say otherwise.")
@click.option("--first", "is_first", is_flag=True, help="Put the items of every += in front of the list.")
@click.option("--because", metavar="TEXT", default="", help="The reason, shown wherever the values are explained.")
@_how_to_change
def set_(estate: Estate, settings: tuple[str, ...], lock: bool | None, is_first: bool, because: str) -> Change:
    """Every page of every site gets the value, unless its site says otherwise. A setting alone keeps its value."""
    from davlo.core.change.steps.change import Change

    if is_first and not any(is_addition(word) for word in settings):
        raise click.UsageError("--first goes with SETTING+=ITEM: it puts the item in front of the list")
    return Change((*say_steps(estate.house, settings, [Scope.estate()], lock, because, is_first),))


@answers(
    "estate unset",
    "davlo estate unset title.limit",
    "davlo estate unset title.limit --write",
    "davlo estate unset title.limit --format csv",
)
@click.argument("settings", nargs=-1, required=True, metavar="SETTING…", shell_complete=complete_setting)
@_how_to_change
def unset(estate: Estate, settings: tuple[str, ...]) -> Change:
    """The shared files no longer say it: each site gets what it says itself, or the built-in value."""
    from davlo.core.change.steps.change import Change, TakeAway
    from davlo.core.change.steps.statement_steps import said_by

    house = estate.house
    for name in settings:
        house.catalogue.setting(name)
        if said_by(house, Scope.estate(), name) < 0:
            raise click.UsageError(f"the shared files do not set {name}")
    return Change(tuple(TakeAway(Scope.estate(), name) for name in settings))


@answers(
    "estate declare",
    "davlo estate declare block sisters kind=text text='See our other gardens'",
    "davlo estate declare sidebar sister-gardens blocks=sisters --write",
    "davlo estate declare sidebar sister-gardens --drop",
)
@click.argument("kind", type=click.Choice(SHARED_KINDS), metavar="KIND")
@click.argument("name", metavar="NAME")
@click.argument("words", nargs=-1, metavar="[KEY=VALUE]…", shell_complete=complete_key)
@click.option("--first", "is_first", is_flag=True, help="Put the items of every += in front.")
@click.option("--drop", "is_dropped", is_flag=True, help="Take it away.")
@_how_to_change
def declare(estate: Estate, kind: str, name: str, words: tuple[str, ...], is_first: bool, is_dropped: bool) -> Change:
    """Declares a layout, theme, sidebar, look, band, block, preset, type, setting, person, group or role for all sites,
    or changes the shared one of that name. davlo declare KIND --help lists the keys.
    """
    from davlo.core.change.steps.change import Change

    house = estate.house
    return Change(_dropped(house, kind, name) if is_dropped else _declared(house, kind, name, words, is_first))


def _dropped(house: Any, kind: str, name: str) -> tuple[Step, ...]:
    from davlo.core.change.steps.change import Undeclare, UndeclareEverywhere

    return (UndeclareEverywhere(kind, name) if kind == "person" else Undeclare(kind, name),)


def _declared(house: Any, kind: str, name: str, words: tuple[str, ...], is_first: bool) -> tuple[Step, ...]:
    from davlo.core.faults import SiteError, ValueFault
    from davlo.files.rewrite.typed_declarations import declared_by_words

    try:
        return declared_by_words(house, kind, name, words, is_first, None, [])
    except (SiteError, ValueFault) as error:
        faults = error.faults if isinstance(error, SiteError) else (error,)
        raise not_understood(f"declare {kind} {name}", faults) from None


def _show_or_write(estate: Estate, change: Change, write: bool, even_so: bool, everything: bool, form: str) -> int:
    """Show what becomes of every site, and write the shared files if that is asked for."""
    from ..changes.change_options import write_then_show

    reach = estate.reach(change, form)
    told = (one for one in reach if one.answer is not None)

    def show() -> None:
        tell = say if form == "text" else note
        tell(change.words)
        print_changes(told, form, everything, "add --all")
        if form == "text" and reach.edits:
            say()
            say("In the shared files")
            print_edits(reach.edits, "  ", None if everything else MOST_EDITS, "add --all")

    record = write_then_show((lambda: estate.write(reach, even_so=even_so)) if write and reach.edits else None, show)
    tell = say if form == "text" else note
    if form == "text":
        say()
    if record is not None:
        tell(f"wrote {', '.join(one.name for one in record.files)}")
        tell("To take it back:")
        tell(f"  {typed_estate('undo', '--write')}")
    elif not reach.edits:
        tell("Nothing is written: the shared files say so already.")
    else:
        for name, message in reach.errors[:MOST_SITES]:
            tell(f"an error in {name}: {message}")
        if reach.unread:
            tell("Nothing can be written while a site cannot be read, before or after.")
        else:
            tell("Nothing is written. To write it:")
            tell(f"  {_again(['--write', *(['--even-so'] if reach.errors else [])])}")
    return status_after(reach.unread)


def _again(more: list[str]) -> str:
    """The command that was typed, with more options."""
    import shlex

    from ..machine import TYPED

    return shlex.join(["davlo", *click.get_current_context().meta.get(TYPED, ()), *more])


@answers("estate undo", "davlo estate undo", "davlo estate undo --write", "davlo estate undo --estate gardens")
@click.option("--write", is_flag=True, help="Take it back. Without it nothing is written.")
@estate_options
def undo(estate: Estate, write: bool) -> int:
    """Takes the last write of the shared files back, as long as what it wrote is still there."""
    undoing = estate.house.undoing()
    say(f"taking back: {undoing.record.sentence}")
    print_edits(undoing.edits, "  ", MOST_EDITS, "the files are in the estate's folder")
    if write:
        record = estate.undo()
        say(f"took back what was written to {', '.join(one.name for one in record.files)}")
    else:
        say("Nothing is written. To take it back:")
        say(f"  {typed_estate('undo', '--write')}")
    return 0


COMMANDS = {one.name: one for one in (set_, unset, declare, undo)}
