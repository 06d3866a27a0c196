"""Printing: tables for a person on a terminal or in a pipe, CSV and JSON for programs."""

from __future__ import annotations

import os
import shutil
import sys
import textwrap
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import click

from davlo.frames.json_text import json_text
from davlo.words.letters import visible

Row = Sequence[str]
GAP = 2
NARROWEST = 6
"""No column is shortened to less."""


class Styled(NamedTuple):
    """Words in bold, and in a colour where one is given."""

    text: str
    color: str | None = None


Part = str | Styled


def say(*parts: Part) -> None:
    """Print a line on standard output: the parts put together, with what a terminal would obey made visible."""
    click.echo(_line(parts))


def note(*parts: Part) -> None:
    """Print a line for a person on standard error."""
    click.echo(_line(parts), err=True)


def _line(parts: Iterable[Part]) -> str:
    return "".join(
        visible(part) if isinstance(part, str) else click.style(visible(part.text), fg=part.color, bold=True)
        for part in parts
    )


def screen_size() -> os.terminal_size:
    """How many columns and lines there are; in a pipe as many as the environment says, or 100 and 40."""
    if sys.stdout.isatty():
        return shutil.get_terminal_size((100, 40))
    said = (os.environ.get(name, "") for name in ("COLUMNS", "LINES"))
    columns, lines = (int(word) if word.isdecimal() and len(word) < 5 else 0 for word in said)
    return os.terminal_size((columns or 100, lines or 40))


def heading(text: str) -> None:
    """Print a heading, with a blank line before it."""
    say()
    say(Styled(text))


def paragraph(text: str, first: str, rest: str) -> None:
    """Print a sentence or two after `first`.

    On a terminal its lines end between words, the later ones after `rest`.
    """
    if sys.stdout.isatty():
        width = min(shutil.get_terminal_size().columns, 110)
        filled = textwrap.fill(
            visible(text), width, initial_indent=first, subsequent_indent=rest, break_on_hyphens=False
        )
        for line in filled.split("\n"):
            say(line)
    else:
        say(first + text)


def table(header: Row, rows: Iterable[Row], indent: str = "", cut: Sequence[int] = ()) -> None:
    """A table: fitted to the terminal; in a pipe, aligned columns that keep each row on one line.

    On a narrow terminal the columns `cut` are shortened first, with `…` at the end; then others go on in a next line.
    """
    header, cells = [visible(name) for name in header], [[visible(cell) for cell in row] for row in rows]
    if sys.stdout.isatty():
        _fitted(header, cells, indent, cut)
        return
    from davlo.words.layout import aligned

    lines = [list(header), *cells] if any(header) else cells
    for line in aligned(lines):
        say((indent + line).rstrip())


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
            grid.add_column(Text(name), overflow="ellipsis", no_wrap=True, width=widths[i])
        else:
            grid.add_column(Text(name), overflow="fold")
    for row in rows:
        grid.add_row(*(Text(cell) for cell in row))  # as it is, with no markup in it
    console.print(Padding(grid, (0, 0, 0, len(indent))))


class Out:
    """Standard output for what programs read: exact, but on a terminal, where it would be obeyed."""

    def write(self, text: str) -> int:
        if sys.stdout.isatty():
            text = "\n".join(map(visible, text.split("\n")))
        return sys.stdout.write(text)


def as_csv(header: Row, rows: Iterable[Row]) -> None:
    """Print the rows as CSV."""
    from davlo.frames.csv_lines import write_csv

    write_csv(Out(), [header, *rows])


def as_json(value: object) -> None:
    """Print a value as JSON."""
    Out().write(json_text(value, indent=2) + "\n")


def print_bytes(content: bytes) -> None:
    """Print a whole file."""
    sys.stdout.flush()
    sys.stdout.buffer.write(content)


def no_more_output() -> None:
    """Nobody reads standard output any more: let what is still printed go nowhere."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def flush() -> None:
    """Print what waits to be printed, before something else prints."""
    sys.stdout.flush()


def listing(form: str, header: Row, rows: Iterable[Sequence[object]]) -> None:
    """Print rows as text, CSV, or a JSON list of objects; numbers are numbers in JSON."""
    if form == "json":
        as_json([dict(zip(header, row, strict=True)) for row in rows])
        return
    (as_csv if form == "csv" else table)(header, [[str(cell) for cell in row] for row in rows])
