"""`davlo estate`: the group of the commands, their options, and the estate that they lead to."""

from __future__ import annotations

import functools
import importlib
import shlex
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from davlo.core.wording import count

from ..command_list import COMMANDS, ESTATE_COMMANDS, write_examples
from ..machine import TYPED
from ..options import Command
from ..screen import note, say

if TYPE_CHECKING:
    from davlo.estate.estate import Estate
    from davlo.estate.site_answers import Told

_OF_CHANGES = ("set", "unset", "declare", "undo")
MOST_FAULTS = 3


class NoEstate(click.ClickException):
    """There is no estate to ask about."""

    exit_code = 2


class EstateCommands(click.Group):
    """The group of the commands about an estate, in the order in which people use them."""

    examples = (
        "davlo estate sites",
        "davlo estate check",
        "davlo estate set title.limit=55",
        "davlo estate compare HEAD~1",
        "davlo estate report --to reports",
    )

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(ESTATE_COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in ESTATE_COMMANDS:
            return None
        module = importlib.import_module(".changes" if name in _OF_CHANGES else ".questions", __package__)
        found: click.Command = module.COMMANDS[name]
        return found

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(ESTATE_COMMANDS.items()))

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        write_examples(self.examples, formatter)


@click.group(
    "estate",
    cls=EstateCommands,
    no_args_is_help=False,
    help=f"{COMMANDS['estate']}\n\nAn estate is a folder with estate.yaml, which names its sites and the files that "
    "they share. set, unset and declare change a shared file: each shows first what becomes of every site.",
)
def command() -> None:
    """The commands about an estate."""


def estate_options(command: Command) -> Command:
    """The options of a command about an estate; the command takes the estate as `estate`."""

    @functools.wraps(command)
    def with_estate(*args: Any, estate: str | None, scheduler: str, **options: Any) -> Any:
        return command(*args, estate=_named_estate(estate, scheduler), **options)

    for option in (
        click.option(
            "--scheduler",
            metavar="ADDRESS",
            default="",
            help="Ask the sites on the workers of this Dask scheduler, as tcp://host:8786; they must see the estate's "
            "folder (default: this machine's cores).",
        ),
        click.option(
            "--estate",
            type=click.Path(file_okay=False),
            metavar="DIR",
            help="The estate's folder; default: the nearest folder upwards with estate.yaml.",
        ),
    ):
        with_estate = option(with_estate)
    return with_estate  # type: ignore[return-value]


def _named_estate(named: str | None, scheduler: str) -> Estate:
    from davlo.estate.estate import Estate
    from davlo.files.read.estate.estate_above import is_strange
    from davlo.files.read.estate.estate_file import ESTATE_FILE, read_estate_file

    here = Path.cwd()
    around = (one for one in (here, *here.parents) if (one / ESTATE_FILE).is_file())
    folders = [Path(named)] if named is not None else [*around]
    if not folders:
        raise NoEstate(
            "there is no estate here: no estate.yaml in this folder or in any above. What people mostly type:\n"
            "  davlo demo --estate DIR              three made-up gardens, to look at\n"
            "  davlo estate sites --estate DIR      the sites of the estate in DIR\n"
            "  davlo estate check --estate DIR      their findings"
        )
    if named is None and is_strange(folders[0], here):
        told = shlex.join(["davlo", *click.get_current_context().meta.get(TYPED, ()), "--estate", str(folders[0])])
        raise NoEstate(f"{folders[0] / ESTATE_FILE} belongs to another user; to ask it all the same:\n  {told}")
    return Estate(read_estate_file(folders[0]), scheduler)


def typed_estate(*words: str) -> str:
    """A command about an estate as one would type it, for the same estate."""
    typed = click.get_current_context().meta.get(TYPED, ())
    at = typed.index("--estate") if "--estate" in typed else len(typed)
    return shlex.join(["davlo", "estate", *words, *typed[at : at + 2]])


def read_ones(told: Iterable[Told], unread: list[Told]) -> Iterator[Told]:
    """The answers of the sites that could be asked; the others go into `unread`."""
    for one in told:
        if one.answer is None:
            unread.append(one)
        else:
            yield one


def status_after(unread: list[Told], status: int = 0) -> int:
    """Say which sites could not be read; the exit status is 2 if there are any, else `status`."""
    for one in unread:
        note(f"the site {one.name} is left out:")
        for fault in one.faults[:MOST_FAULTS]:
            note(f"  {fault}")
        if len(one.faults) > MOST_FAULTS:
            note(f"  and {count(len(one.faults) - MOST_FAULTS, 'more fault')}: davlo check --site {one.name}")
    return 2 if unread else status


def print_lines(lines: list[str], most: int | None, more: str) -> None:
    """Print lines, indented. `most`: how many at most; the last line says what to type to see the others."""
    for line in lines if most is None else lines[:most]:
        say(f"  {line}")
    if most is not None and len(lines) > most:
        say(f"  and {count(len(lines) - most, 'more line')}: {more}")
