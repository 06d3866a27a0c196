"""The command `davlo`: a small command for each question. A command's module is imported when it is used."""

from __future__ import annotations

import importlib
import io
import os
import sys
from collections.abc import Sequence
from contextlib import AbstractContextManager, nullcontext

import click
from click.shell_completion import CompletionItem

from davlo.core.faults import SiteError, StoppedAfterWriting, UnknownName

from .command_list import COMMANDS, HEADINGS, MODULES, NOTES, bare_use
from .machine import TYPED, begin, leave
from .old_names import now
from .screen import flush, no_more_output, note

if "_DAVLO_COMPLETE" in os.environ:
    from .completion import shells  # noqa: F401


class PipeClosed(Exception):
    """Nobody reads standard output any more."""


class Commands(click.Group):
    """The group of all commands."""

    def invoke(self, ctx: click.Context) -> object:
        """Run a command. A closed pipe raises `PipeClosed`: click would exit with status 1, which means findings."""
        try:
            return super().invoke(ctx)
        except BrokenPipeError:
            raise PipeClosed from None
        except UnknownName as error:
            from .elsewhere import SEEN, hint_elsewhere

            error.hint = error.hint or hint_elsewhere(error, ctx.meta.get(SEEN))
            raise

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Parse the words that were typed, and keep them, so that a command can print itself with other options."""
        ctx.meta[TYPED] = (*args,)
        return super().parse_args(ctx, args)

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        if ctx.resilient_parsing:  # the shell asks
            from .completion.known_commands import known_command

            known = known_command(name)
            if known is not None:
                return known
        command: click.Command = importlib.import_module(MODULES[name]).command
        return command

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        """What the shell offers for a word that is begun: an option, or a command."""
        if incomplete.startswith("-"):
            return click.Command.shell_complete(self, ctx, incomplete)
        return [CompletionItem(name, help=told) for name, told in COMMANDS.items() if name.startswith(incomplete)]

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        if args and args[0] not in COMMANDS and not args[0].startswith("-"):
            raise UnknownName("command", args[0], tuple(COMMANDS))
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        widest = max(map(len, COMMANDS))
        for heading, commands in HEADINGS.items():
            note = f" ({NOTES[heading]})" if heading in NOTES else ""
            with formatter.section(heading + note):
                formatter.write_dl([(name.ljust(widest), question) for name, question in commands.items()])


@click.group(
    cls=Commands,
    context_settings={"help_option_names": ["--help"], "max_content_width": 100},
    epilog="What people mostly type: davlo demo; then, in a site folder, davlo tree and davlo check.",
)
@click.option(
    "--site",
    type=click.Path(file_okay=False),
    metavar="DIR",
    help="The site folder for the command that follows; default: the nearest folder upwards with davlo.yaml.",
)
@click.version_option(package_name="davlo", prog_name="davlo")
@click.pass_context
def cli(ctx: click.Context, site: str | None) -> None:
    """Works out what every page of a website gets, says where each setting came from, and reports conflicts.

    A site is a folder with davlo.yaml. A page is named by its path, as /visit/tickets, or by its title.
    """
    if os.environ.get("NO_COLOR"):
        ctx.color = False


def _progress() -> AbstractContextManager[None]:
    """A progress bar, if standard error is a terminal."""
    if not (sys.stderr.isatty() and os.environ.get("TERM") != "dumb"):
        return nullcontext()
    from davlo.core.progress import listening

    from .progress import Bar

    return listening(Bar())


def run(args: Sequence[str] | None = None) -> None:
    """Run the command line, and exit with its status."""
    begin()
    leave(status_of(args))


def _print_examples(error: click.UsageError, examples: Sequence[str]) -> None:
    """What is missing from a command that was typed alone, and what people mostly type."""
    assert error.ctx is not None
    missing = [
        one.opts[0] if isinstance(one, click.Option) else one.human_readable_name
        for one in error.ctx.command.params
        if one.required
    ]
    what = (
        f"{' and '.join(missing)} {'is' if len(missing) == 1 else 'are'} missing" if missing else error.format_message()
    )
    if isinstance(error.ctx.command, click.Group):
        what = f"say which: {', '.join(error.ctx.command.list_commands(error.ctx))}"
    for line in f"{error.ctx.command_path}: {what}".split("\n"):
        note(line)
    note("What people mostly type:")
    for line in examples:
        note(f"  {line}")
    note(f"All of it: {error.ctx.command_path} --help")


def status_of(args: Sequence[str] | None = None) -> int:
    """Run the command line.

    Returns 0; 1 (findings, a refused change); 2 (words or files that cannot be used); 3 (a fault of Davlo's own); 130
    (stopped by Ctrl-C).
    """
    try:
        with _progress():
            result = cli.main(args, prog_name="davlo", standalone_mode=False)
        flush()
        return result if isinstance(result, int) else 0
    except click.ClickException as error:
        if isinstance(error, click.UsageError) and (examples := bare_use(error)):
            _print_examples(error, examples)
            return 2
        told = io.StringIO()
        error.show(told)
        for line in told.getvalue().rstrip("\n").split("\n"):
            note(line)
        if isinstance(error, click.NoSuchOption) and error.ctx is not None:
            options = [name for one in error.ctx.command.params for name in one.opts]
            if new := now(error.option_name, options):
                note(f"  {new}")
        if "unexpected extra argument" in str(error.message):
            note('A title of several words needs quotes, as in "Opening times"')
        return 2
    except (SiteError, UnknownName) as error:
        from .refusals import print_unusable

        print_unusable(error)
        return 2
    except (BrokenPipeError, PipeClosed):
        no_more_output()
        return 0
    except OSError as error:
        where = f"{error.filename}: " if error.filename else ""
        note(f"{where}{error.strerror or error}")
        return 2
    except (KeyboardInterrupt, click.Abort) as error:
        is_written = isinstance(error.__cause__ or error, StoppedAfterWriting)  # click makes it an Abort
        note("stopped, after the files were written" if is_written else "stopped; nothing was written")
        return 130
    except Exception as error:
        from .refusals import refusal_status

        status = refusal_status(error)
        if status is not None:
            return status
        from .own_fault import print_own_fault

        print_own_fault(error, sys.argv[1:] if args is None else args)
        return 3
