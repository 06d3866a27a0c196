"""`davlo table`: all effective values, for other programs."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING

import click

from .options import format_option, open_named_site, site_option, write_file
from .screen import Out

if TYPE_CHECKING:
    from davlo.core.resolve.effective import EffectiveModel


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
        out = Out()
        for chunk in _chunks(open_named_site(site).resolve(), form, is_long):
            out.write(chunk.decode("utf-8", "surrogatepass"))
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
        opened = open_named_site(site)
        effective = opened.resolve()
        write_file(opened, path, lambda part: _write_chunks(effective, ending[1:], is_long, part))


def _write_chunks(effective: EffectiveModel, form: str, is_long: bool, to: Path) -> None:
    with to.open("wb") as file:
        for chunk in _chunks(effective, form, is_long):
            file.write(chunk)


def _import_writer() -> None:
    """What writes Parquet takes a while to be imported: that is done while the files are read."""
    with suppress(ImportError):
        import_module("davlo.frames.parquet")


def _chunks(effective: EffectiveModel, form: str, is_long: bool) -> Iterator[bytes]:
    """The table as text, a piece at a time."""
    from davlo.frames.record_lines import record_lines
    from davlo.frames.text_tables import long, wide

    if form == "jsonl":
        if is_long:
            raise click.UsageError("jsonl has one record for each page: leave out --long")
        return record_lines(effective)
    table = long(effective) if is_long else wide(effective)
    return table.csv() if form == "csv" else table.json()
