"""The commands as the shell needs them, kept in a file: what they import to answer takes longer than a Tab may.

The file lies with the user's key. A process at the side makes it, also when Davlo's own files changed, and completion
alone reads it.
"""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import click
import msgspec

from . import offers
from .name_list import run_aside


class KnownParameter(msgspec.Struct):
    """An argument or an option: its words, and what completes it."""

    words: list[str]
    is_option: bool
    is_flag: bool = False
    is_many: bool = False
    choices: list[str] | None = None
    place: str = ""  # `file` or `dir`, if it names one
    completes: str = ""  # the name of a function of `offers`

    @classmethod
    def of(cls, one: click.Parameter) -> KnownParameter:
        """What is known of a parameter."""
        is_option = isinstance(one, click.Option)
        return cls(
            words=[*one.opts] if is_option else [one.name or ""],
            is_option=is_option,
            is_flag=isinstance(one, click.Option) and one.is_flag,
            is_many=one.nargs == -1 or one.multiple,
            choices=[*one.type.choices] if isinstance(one.type, click.Choice) else None,
            place=("file" if one.type.file_okay else "dir") if isinstance(one.type, click.Path) else "",
            completes=_NAMES.get(getattr(one, "_custom_shell_complete", None), ""),
        )

    def as_parameter(self) -> click.Parameter:
        """The parameter, as far as the shell needs it."""
        kind: click.Choice[str] | click.Path | None = click.Choice(self.choices) if self.choices is not None else None
        if self.place:
            kind = click.Path(file_okay=self.place == "file")
        complete = getattr(offers, self.completes) if self.completes else None
        if not self.is_option:
            return click.Argument(self.words, nargs=-1 if self.is_many else 1, type=kind, shell_complete=complete)
        is_many = self.is_many and not self.is_flag
        return click.Option(self.words, is_flag=self.is_flag, multiple=is_many, type=kind, shell_complete=complete)


class KnownCommand(msgspec.Struct):
    """A command: the line that says what it is for, its parameters, and the commands in it."""

    told: str
    parameters: list[KnownParameter]
    commands: dict[str, KnownCommand]

    @classmethod
    def of(cls, one: click.Command) -> KnownCommand:
        """What is known of a command."""
        context = click.Context(one)
        inner = {}
        if isinstance(one, click.Group):
            found = ((name, one.get_command(context, name)) for name in one.list_commands(context))
            inner = {name: cls.of(command) for name, command in found if command is not None}
        return cls(one.get_short_help_str(), [*map(KnownParameter.of, one.get_params(context))], inner)

    def as_command(self, name: str) -> click.Command:
        """The command, as far as the shell needs it."""
        parameters = [one.as_parameter() for one in self.parameters if "--help" not in one.words]
        if not self.commands:
            return click.Command(name, params=parameters, short_help=self.told)
        return click.Group(
            name,
            params=parameters,
            short_help=self.told,
            commands={inner: one.as_command(inner) for inner, one in self.commands.items()},
        )


class _Kept(msgspec.Struct):
    state: str
    command: KnownCommand


_NAMES = {getattr(offers, name): name for name in dir(offers) if name.startswith("complete_")}


def known_command(name: str) -> click.Command | None:
    """A command, as far as the shell needs it; None if the file is not there yet: it is being made then."""
    with suppress(OSError, msgspec.MsgspecError, ValueError):
        kept = msgspec.json.decode(_place().read_bytes(), type=_Kept)
        if kept.state == _state():
            found = kept.command.commands.get(name)
            return found.as_command(name) if found else None
    run_aside("commands")
    return None


def write_commands(group: click.Group) -> None:
    """Write the file of commands: those of a group."""
    from davlo.files.store.whole_files import write_whole

    _place().parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    write_whole(_place(), msgspec.json.encode(_Kept(_state(), KnownCommand.of(group))))


def _place() -> Path:
    from davlo.files.store.user_key import state_folder

    return state_folder() / "commands.json"


def _state() -> str:
    """Something that is otherwise when a module of the command line is."""
    files = sorted(Path(__file__).parents[1].rglob("*.py"))
    return " ".join(str(one.stat().st_mtime_ns) for one in files)
