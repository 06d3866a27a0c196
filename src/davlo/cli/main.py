"""The command `davlo`: a small command for each question. A command's module is imported when it is used."""

from __future__ import annotations

import importlib
import io
import os
import sys
from collections.abc import Sequence
from contextlib import AbstractContextManager, nullcontext

import click

from davlo.core.faults import SiteError, StoppedAfterWriting, UnknownName

from .machine import TYPED, begin, leave
from .screen import flush, no_more_output, note

COMMANDS = {
    "demo": "Try every command on a made-up garden's website.",
    "start": "Begin a site: write a folder with decisions and pages to grow from.",
    "tree": "List pages, and what each gets.",
    "show": "Show what one page gets, and from where.",
    "list": "List what is declared: layouts, sidebars, settings, types, rules, promises and all else that has a name.",
    "why": "Explain why a page has a value, and what that overrode.",
    "check": "Report what contradicts what.",
    "access": "Show who may do what, and what a person sees.",
    "links": "Show the menu, or a list of links, as readers meet it.",
    "probes": "Show the pages and viewers to look at after every change.",
    "picture": "Draw pages, or one setting over the whole tree.",
    "set": "Show what setting a value would change; with --write, change it.",
    "unset": "Show what taking a statement away would change; with --write, take it away.",
    "mend": "Show the ways to mend a finding, each with its reach; with --write, mend it.",
    "spread": "Show which pages are behind their stamped defaults; with --write, bring them up to date.",
    "page": "Add, move and drop pages, and set their facts; with --write, write it.",
    "rename": "Give a declaration another name, everywhere it is named.",
    "tidy": "Show how to say the same with fewer statements; with --write, write it.",
    "undo": "Show what taking the last write back would change; with --write, take it back.",
    "compare": "Compare the site with another folder, a git revision, or the site as it was built.",
    "table": "Print all effective values, for other programs.",
    "schema": "Print the form of davlo.yaml as a JSON Schema, for editors.",
    "sitemap": "Show or write the sitemap that search engines get.",
    "publish": "Show or write the files that search engines read, ready to be copied to the root of the site.",
    "announce": "Show which addresses changed, or with --send tell a search engine.",
    "report": "Write one HTML file that shows the whole site: for colleagues, in any browser, offline.",
}
"""The commands in the order people meet them, with what each is for."""


class PipeClosed(Exception):
    """Nobody reads standard output any more."""


class Commands(click.Group):
    """The group of all commands."""

    def invoke(self, ctx: click.Context) -> object:
        """Run a command. A closed pipe is kept from click, which would exit with status 1, the status of findings."""
        try:
            return super().invoke(ctx)
        except BrokenPipeError:
            raise PipeClosed from None
        except UnknownName as error:
            from .elsewhere import SEEN, hint_elsewhere

            error.hint = error.hint or hint_elsewhere(error, ctx.meta.get(SEEN))
            raise

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Parse the words that were typed, and keep them: a command may say how to type itself again."""
        ctx.meta[TYPED] = (*args,)
        return super().parse_args(ctx, args)

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        command: click.Command = importlib.import_module(f"davlo.cli.{name}").command
        return command

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        if args and args[0] not in COMMANDS and not args[0].startswith("-"):
            raise UnknownName("command", args[0], tuple(COMMANDS))
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))


@click.group(
    cls=Commands,
    context_settings={"help_option_names": ["--help"], "max_content_width": 100},
    epilog="Begin with: davlo demo. Then, in a site folder: davlo tree, davlo check.",
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
    """A bar for what takes long, where somebody looks."""
    if not (sys.stderr.isatty() and os.environ.get("TERM") != "dumb"):
        return nullcontext()
    from davlo.core.progress import listening

    from .progress import Bar

    return listening(Bar())


def run(args: Sequence[str] | None = None) -> None:
    """Run the command line and leave with its exit status."""
    begin()
    leave(status_of(args))


def status_of(args: Sequence[str] | None = None) -> int:
    """Run the command line.

    Returns
    -------
    int
        0; 1 (findings, a refused change); 2 (words or files that cannot be used); 3 (a fault of Davlo's own); 130
        (stopped by Ctrl-C).
    """
    try:
        with _progress():
            result = cli.main(args, prog_name="davlo", standalone_mode=False)
        flush()
        return result if isinstance(result, int) else 0
    except click.ClickException as error:
        told = io.StringIO()
        error.show(told)
        for line in told.getvalue().rstrip("\n").split("\n"):
            note(line)
        if "unexpected extra argument" in str(error.message):
            note('A title of several words needs quotes, as in "Opening times"')
        return 2
    except (SiteError, UnknownName) as error:
        from .faults import print_error

        print_error(error)
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
