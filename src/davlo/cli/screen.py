"""Printing: tables for a person on a terminal or in a pipe, CSV and JSON for programs."""

from __future__ import annotations

import io
import os
import shutil
import sys
import textwrap
from collections.abc import Callable, Iterable, Sequence
from contextlib import redirect_stdout
from typing import NamedTuple

import click

from davlo.core.letters import visible
from davlo.core.wording import shortened_in_the_middle
from davlo.frames.json_text import json_text

Row = Sequence[str]
GAP = 2
NARROWEST, NARROWEST_PATH = 6, 16
"""No column is made narrower than this, and none of paths than the second number."""


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


def may_ask() -> bool:
    """Whether somebody sits at a terminal and can answer."""
    return sys.stdin.isatty() and sys.stdout.isatty()


def ask(question: str) -> str:
    """Ask somebody, and give the answer."""
    answer: str = click.prompt(visible(question))
    return answer


def _line(parts: Iterable[Part]) -> str:
    return "".join(
        visible(part) if isinstance(part, str) else click.style(visible(part.text), fg=part.color, bold=True)
        for part in parts
    )


class _Captured(io.StringIO):
    """What would be printed on standard output, as it would be printed there."""

    def isatty(self) -> bool:
        return sys.__stdout__ is not None and sys.__stdout__.isatty()


Section = tuple[str, Callable[[int | None], None]]
"""A part of what is printed: its heading, and a function that prints its first lines, up to a limit, or all of them."""
LIMITS = (0, 1, 2, 3, 4, 6, 12)
"""How many lines of a section are tried."""


def print_sections(sections: Sequence[Section], most: int | None) -> None:
    """Print sections with their headings.

    `most`: the most lines to print, headings included; None prints all.

    Each section gets a line, as long as there is room. Then each section in turn gets another.
    """
    if most is None:
        for title, print_most in sections:
            heading(title)
            print_most(None)
        return
    rendered: dict[tuple[int, int], list[str]] = {}

    def lines(section: int, level: int) -> list[str]:
        if (section, level) not in rendered:
            title, print_most = sections[section]
            with redirect_stdout(_Captured()) as captured:
                heading(title)
                print_most(LIMITS[level])
            rendered[section, level] = captured.getvalue().splitlines(keepends=True)
        return rendered[section, level]

    levels = [0] * len(sections)
    room, growing = most - sum(len(lines(one, 0)) for one in range(len(sections))), [*range(len(sections))]
    while growing:
        for one in [*growing]:
            level = levels[one] + 1
            more = len(lines(one, level)) - len(lines(one, levels[one])) if level < len(LIMITS) else room + 1
            if more > room:
                growing.remove(one)
            else:
                levels[one], room = level, room - more
    for one, level in enumerate(levels):
        sys.stdout.write("".join(lines(one, level)))


def screen_size() -> os.terminal_size:
    """How many columns and lines there are; in a pipe as many as the environment says, or 100 and 40."""
    if sys.stdout.isatty():
        return shutil.get_terminal_size((100, 40))
    said = (os.environ.get(name, "") for name in ("COLUMNS", "LINES"))
    columns, lines = (int(word) if word.isdecimal() and len(word) < 5 else 0 for word in said)
    return os.terminal_size((columns or 100, lines or 40))


def longest_line() -> int | None:
    """How many letters a line may have: as many as the terminal has columns; in a pipe any number."""
    return _columns() if sys.stdout.isatty() else None


def heading(text: str) -> None:
    """Print a heading, with a blank line before it."""
    say()
    say(Styled(text))


def paragraph(text: str, first: str, rest: str) -> None:
    """Print a sentence or two after `first`.

    On a terminal its lines end between words, the later ones after `rest`.
    """
    if sys.stdout.isatty():
        width = min(_columns(), 110)
        filled = textwrap.fill(
            visible(text), width, initial_indent=first, subsequent_indent=rest, break_on_hyphens=False
        )
        for line in filled.split("\n"):
            say(line)
    else:
        say(first + text)


class Columns(NamedTuple):
    """How the columns of a table, by their numbers, are fitted to a terminal that is too narrow.

    Paths are shortened first, in their middle; then the columns in `cut`, at their end, the widest first. Names stay
    whole. Cells of the other columns continue on the next line.
    """

    paths: Sequence[int] = ()
    cut: Sequence[int] = ()
    names: Sequence[int] = ()


AS_THEY_ARE = Columns()


def table(header: Row, rows: Iterable[Row], indent: str = "", columns: Columns = AS_THEY_ARE) -> None:
    """A table: fitted to the terminal; in a pipe, aligned columns that keep each row on one line."""
    header, cells = [visible(name) for name in header], [[visible(cell) for cell in row] for row in rows]
    if sys.stdout.isatty():
        _fitted(header, cells, indent, columns)
        return
    from davlo.words.layout import aligned

    lines = [list(header), *cells] if any(header) else cells
    for line in aligned(lines):
        say((indent + line).rstrip())


def fits(header: Row, rows: Sequence[Row], indent: str = "") -> bool:
    """Whether a table keeps each row on one line: always in a pipe."""
    return not sys.stdout.isatty() or sum(_natural(header, rows)) + GAP * len(header) + len(indent) <= _columns()


def _columns() -> int:
    return shutil.get_terminal_size().columns


def _natural(header: Row, rows: Sequence[Row]) -> list[int]:
    """The width of each column's widest cell."""
    widths = [max((len(row[i]) for row in rows), default=0) for i in range(len(header))]
    return [max(width, *map(len, name.split("\n"))) for width, name in zip(widths, header, strict=True)]


def _widths(natural: Sequence[int], room: int, columns: Columns) -> list[int]:
    """The width of each column: that of its widest cell, if it fits."""
    widths = list(natural)
    for some, least in ((columns.paths, NARROWEST_PATH), (columns.cut, NARROWEST)):
        for _ in range(max(0, sum(widths) + GAP * len(widths) - room)):
            widest = max(some, key=widths.__getitem__, default=-1)
            if widest >= 0 and widths[widest] > least:
                widths[widest] -= 1
    return widths


def _shortened_path(cell: str, most: int) -> str:
    """A path with the spaces that indent it, shortened in its middle."""
    bare = cell.lstrip(" ")
    spaces = cell[: len(cell) - len(bare)]
    return spaces + shortened_in_the_middle(bare, max(most - len(spaces), NARROWEST))


def _fitted(header: Row, rows: list[list[str]], indent: str, columns: Columns) -> None:
    from rich.console import Console
    from rich.padding import Padding
    from rich.table import Table
    from rich.text import Text

    console = Console(highlight=False, no_color=bool(os.environ.get("NO_COLOR")))
    grid = Table(box=None, pad_edge=False, show_header=any(header), header_style="bold", padding=(0, 2, 0, 0))
    cells = _natural([""] * len(header), rows)
    # a name wider than its cells is split at its dot
    named = [name if len(name) <= most else name.replace(".", ".\n") for name, most in zip(header, cells, strict=True)]
    widths = _widths(_natural(named, rows), console.width - len(indent), columns)
    for i, name in enumerate(named):
        if i in (*columns.paths, *columns.cut, *columns.names):
            grid.add_column(Text(name), overflow="ellipsis", no_wrap=True, width=widths[i])
        else:
            grid.add_column(Text(name), overflow="fold")
    for row in rows:
        shown = [_shortened_path(cell, widths[i]) if i in columns.paths else cell for i, cell in enumerate(row)]
        grid.add_row(*map(Text, shown))  # as it is, with no markup in it
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


def as_json_list(values: Iterable[object]) -> None:
    """Print values as a JSON list, each as soon as it is there."""
    out, is_empty = Out(), True
    for value in values:
        out.write(("[\n" if is_empty else ",\n") + textwrap.indent(json_text(value, indent=2), "  "))
        is_empty = False
    out.write("[]\n" if is_empty else "\n]\n")


def print_bytes(content: bytes) -> None:
    """Print a whole file."""
    sys.stdout.flush()
    sys.stdout.buffer.write(content)


def no_more_output() -> None:
    """The reader of standard output is gone: discard what is still printed."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def flush() -> None:
    """Write out what is buffered, before something else prints."""
    sys.stdout.flush()


def listing(form: str, header: Row, rows: Iterable[Sequence[object]]) -> None:
    """Print rows as text, CSV, or a JSON list of objects; numbers are numbers in JSON."""
    if form == "json":
        as_json([dict(zip(header, row, strict=True)) for row in rows])
        return
    (as_csv if form == "csv" else table)(header, [[str(cell) for cell in row] for row in rows])
