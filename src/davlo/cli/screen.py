"""Printing: tables for a person on a terminal or in a pipe, CSV and JSON for programs."""

from __future__ import annotations

import csv
import json
import os
import shutil
import sys
import textwrap
from collections.abc import Iterable, Sequence

import click

from davlo.words.layout import aligned, visible

Row = Sequence[str]
GAP = 2
NARROWEST = 6
"""No column is shortened to less."""


def say(text: str = "") -> None:
    """A line on standard output."""
    click.echo(text)


def heading(text: str) -> None:
    """A heading, with a blank line before it."""
    click.echo("\n" + click.style(text, bold=True))


def note(text: str) -> None:
    """A line for a person on standard error."""
    click.echo(text, err=True)


def paragraph(text: str, first: str, rest: str) -> None:
    """A sentence or two after `first`; on a terminal its lines end between words, the later ones after `rest`."""
    if sys.stdout.isatty():
        width = min(shutil.get_terminal_size().columns, 110)
        click.echo(textwrap.fill(text, width, initial_indent=first, subsequent_indent=rest, break_on_hyphens=False))
    else:
        click.echo(first + text)


def table(header: Row, rows: Iterable[Row], indent: str = "", cut: Sequence[int] = ()) -> None:
    """A table: fitted to the terminal; in a pipe, aligned columns that keep each row on one line.

    On a narrow terminal the columns `cut` are shortened first, with `…` at the end; then others go on in a next line.
    """
    cells = [[visible(cell) for cell in row] for row in rows]
    if sys.stdout.isatty():
        _fitted(header, cells, indent, cut)
        return
    lines = [list(header), *cells] if any(header) else cells
    for line in aligned(lines):
        click.echo((indent + line).rstrip())


def _widths(header: Row, rows: list[list[str]], room: int, cut: Sequence[int]) -> list[int]:
    """The width of each column: that of its widest cell, where there is room."""
    columns = range(len(header))
    widths = [max((len(row[i]) for row in rows), default=0) for i in columns]
    widths = [max(width, *map(len, name.split("\n"))) for width, name in zip(widths, header, strict=True)]
    for i in cut:
        beyond = sum(widths) + GAP * len(widths) - room
        widths[i] = max(widths[i] - max(0, beyond), min(widths[i], NARROWEST))
    return widths


def _fitted(header: Row, rows: list[list[str]], indent: str, cut: Sequence[int]) -> None:
    from rich.console import Console
    from rich.padding import Padding
    from rich.table import Table
    from rich.text import Text

    console = Console(highlight=False, no_color=bool(os.environ.get("NO_COLOR")))
    grid = Table(box=None, pad_edge=False, show_header=any(header), header_style="bold", padding=(0, 2, 0, 0))
    natural = [max((len(row[i]) for row in rows), default=0) for i in range(len(header))]
    # a name wider than its cells is split at its dot
    named = [
        name if len(name) <= most else name.replace(".", ".\n") for name, most in zip(header, natural, strict=True)
    ]
    widths = _widths(named, rows, console.width - len(indent), cut)
    for i, name in enumerate(named):
        if i in cut:
            grid.add_column(name, overflow="ellipsis", no_wrap=True, width=widths[i])
        else:
            grid.add_column(name, overflow="fold")
    for row in rows:
        grid.add_row(*(Text(cell) for cell in row))  # as it is, with no markup in it
    console.print(Padding(grid, (0, 0, 0, len(indent))))


def as_csv(header: Row, rows: Iterable[Row]) -> None:
    """The rows as CSV."""
    writer = csv.writer(sys.stdout, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(rows)


def as_json(value: object) -> None:
    """A value as JSON."""
    click.echo(json.dumps(value, ensure_ascii=False, indent=2))


def listing(form: str, header: Row, rows: Iterable[Row]) -> None:
    """Print rows as text, CSV, or a JSON list of objects."""
    if form == "csv":
        as_csv(header, rows)
    elif form == "json":
        as_json([dict(zip(header, row, strict=True)) for row in rows])
    else:
        table(header, rows)
