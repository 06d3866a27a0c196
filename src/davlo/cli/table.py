"""`davlo table`: all effective values, for other programs."""

from __future__ import annotations

import io
import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

import click

from davlo.core.progress import work
from davlo.frames.csv_lines import TakesText, write_csv
from davlo.words.letters import json_text

from .options import format_option, open_named_site, site_option, write_file
from .screen import Out

if TYPE_CHECKING:
    from davlo.core.resolve.effective import EffectiveModel

Row = TypeVar("Row")
STEPS = 20
NEEDS_PYARROW = "a .parquet file needs pyarrow: pip install 'davlo[parquet]'"
ENDINGS = (".csv", ".json", ".jsonl", ".parquet")


@click.command("table", epilog="Example: davlo table --long --to effective.csv")
@click.option(
    "--long", "is_long", is_flag=True, help="Print a row for every page and setting, with source, file and line."
)
@click.option(
    "--to", type=click.Path(dir_okay=False), metavar="FILE", help="Write a file: .csv, .json, .jsonl or .parquet."
)
@format_option("csv", "json", "jsonl")
@site_option
def command(is_long: bool, to: str | None, form: str, site: str | None) -> None:
    """Print all effective values, for other programs.

    Prints a row for each page and a column for each setting; with --long a row for each page and setting; as jsonl a
    record for each page, with facts, settings, sources and outcomes.
    """
    if to is None:
        _write(open_named_site(site).resolve(), form, is_long, Out())
        return
    path = Path(to)
    ending = path.suffix.lower()
    if ending not in ENDINGS:
        raise click.UsageError(f"--to writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    if ending == ".parquet":
        if find_spec("pyarrow") is None:
            raise click.UsageError(NEEDS_PYARROW)
        opened = open_named_site(site, meanwhile=_import_writer)
        effective = opened.resolve()
        try:
            from davlo.frames.parquet import write_parquet
        except ImportError:
            raise click.UsageError(NEEDS_PYARROW) from None
        write_file(opened, path, lambda file: write_parquet(effective, is_long, file))
    else:
        buffer = io.StringIO()
        opened = open_named_site(site)
        effective = opened.resolve()
        with work("writing the table", STEPS) as step:
            _write(effective, ending[1:], is_long, buffer, step)
        write_file(opened, path, buffer.getvalue().encode())


def _import_writer() -> None:
    """What writes Parquet takes a while to be imported: that is done while the files are read."""
    with suppress(ImportError):
        import_module("davlo.frames.parquet")


def _stepping(rows: Iterable[Row], total: int, step: Callable[[str], None]) -> Iterator[Row]:
    """The rows as they come; progress is reported twenty times."""
    size = max(1, -(-total // STEPS))
    for number, row in enumerate(rows):
        if number % size == 0:
            step(f"row {number:,} of {total:,}")
        yield row


def _write(
    effective: EffectiveModel,
    form: str,
    is_long: bool,
    out: TakesText,
    step: Callable[[str], None] = lambda now: None,
) -> None:
    from davlo.frames.table import LONG_COLUMNS, long_table, records, wide_rows

    if form == "jsonl":
        if is_long:
            raise click.UsageError("jsonl has one record for each page: leave out --long")
        for record in _stepping(records(effective), len(effective), step):
            out.write(json_text(record) + "\n")
        return
    numbers = range(len(effective.site.catalogue))
    header = LONG_COLUMNS if is_long else ("path", *(effective.site.catalogue[n].name for n in numbers))
    rows: Iterable[Sequence[str]] = wide_rows(effective, numbers)
    total = len(effective)
    if is_long:
        long = long_table(effective)
        rows, total = long.rows(), len(long.page)
    rows = _stepping(rows, total, step)
    if form == "csv":
        write_csv(out, itertools.chain([header], rows))
    else:
        out.write(json_text([dict(zip(header, row, strict=True)) for row in rows], indent=1) + "\n")
