"""What somebody has of a site, and how to read it: the options of `davlo start` and `davlo page refresh`."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import Any, NamedTuple

import click

from .options import Command


class Sources(NamedTuple):
    """Sources as they were typed, and how to read them."""

    names: tuple[str, ...]
    columns: tuple[str, ...]
    areas: str | None
    query: str

    @property
    def meanings(self) -> dict[str, str]:
        """Details or settings by the columns of tables.

        Raises click.UsageError if a word is no such pair.
        """
        found = {}
        for pair in self.columns:
            column, equals, meaning = pair.rpartition("=")
            if not equals or not column:
                raise click.UsageError(f"--column takes THEIRS=OURS, as in --column 'Page title=title', not {pair!r}")
            found[column.strip()] = meaning.strip()
        return found

    def check(self, also: Sequence[tuple[str, object]] = ()) -> None:
        """Make sure that the options go together; `also`: more options that need a source, and their values.

        Raises click.UsageError if they do not.
        """
        alone = [("--column", self.columns), ("--areas", self.areas), ("--query", self.query), *also]
        needing = [option for option, value in alone if value]
        if needing and not self.names:
            raise click.UsageError(f"{needing[0]} needs --from: name the source")
        if self.query and not any(name.startswith("database:") for name in self.names):
            raise click.UsageError("--query needs --from database:NAME")


def source_options(command: Command) -> Command:
    """The options that name sources; the command takes them as `sources`: `Sources`."""

    @functools.wraps(command)
    def with_sources(*args: Any, **options: Any) -> Any:
        return command(*args, sources=Sources(*(options.pop(name) for name in Sources._fields)), **options)

    for option in (
        click.option("--query", default="", metavar="SQL", help="What to ask the database."),
        click.option(
            "--areas",
            type=click.Path(dir_okay=False),
            metavar="FILE",
            help="A YAML file that names areas and details of HTML pages by CSS selectors.",
        ),
        click.option(
            "--column",
            "columns",
            multiple=True,
            metavar="THEIRS=OURS",
            help="Read a column as this detail or setting; setting:NAME makes it a setting of your own, - leaves it "
            "out.",
        ),
        click.option(
            "--from",
            "names",
            multiple=True,
            metavar="X",
            help="What you have: a table (.csv, .xlsx), a sitemap, a folder of HTML pages, or database:NAME. Repeat it "
            "for several; the first counts where they differ.",
        ),
    ):
        with_sources = option(with_sources)
    return with_sources  # type: ignore[return-value]
