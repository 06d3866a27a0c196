"""`davlo export`: all effective values, for other programs."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import click
import numpy as np
from numpy.typing import NDArray

from ..command_list import answers
from ..options import (
    asked_pages,
    complete_setting,
    format_option,
    open_named_site,
    search_options,
    searched_pages,
    site_option,
    when_option,
    write_file,
)
from ..screen import Out

if TYPE_CHECKING:
    from davlo.effective import Effective
    from davlo.site import Site


NEEDS_PYARROW = "a .parquet file needs pyarrow: pip install 'davlo[parquet]'"
NEEDS_OPENPYXL = "a .xlsx file needs openpyxl: pip install 'davlo[xlsx]'"
ENDINGS = (".csv", ".json", ".jsonl", ".parquet", ".xlsx")


class Chosen(NamedTuple):
    """What a table is about: the numbers of its settings and of its pages; None for all of them."""

    effective: Effective
    settings: list[int] | None
    pages: NDArray[np.int64] | None


@answers(
    "export",
    "davlo export",
    "davlo export --long --to effective.csv",
    "davlo export --columns sidebar.right,layout.name --to pages.xlsx",
    "davlo export --format jsonl",
)
@click.option(
    "--long", "is_long", is_flag=True, help="Print a row for every page and setting, with source, file and line."
)
@click.option(
    "--to",
    type=click.Path(dir_okay=False),
    metavar="FILE",
    help="Write a file: .csv, .json, .jsonl, .parquet, or .xlsx for a spreadsheet program.",
)
@click.option(
    "--columns", metavar="SETTINGS", shell_complete=complete_setting, help="Only these settings, separated by commas."
)
@when_option
@search_options
@format_option("csv", "json", "jsonl")
@site_option
def command(
    is_long: bool,
    to: str | None,
    columns: str | None,
    when: tuple[str, ...],
    having: tuple[str, ...],
    shown: tuple[str, ...],
    not_shown: tuple[str, ...],
    form: str,
    site: str | None,
) -> None:
    """Prints a row for each page and a column for each setting; with --long a row for each page and setting; as jsonl a
    record for each page, with details, settings, sources and outcomes. What people change in a spreadsheet comes back
    with davlo set --from FILE.
    """

    def choose(opened: Site) -> Chosen:
        from davlo.core.site.settings.parse_values import typed_items

        names = typed_items(columns or "")
        settings = [opened.setting_number(name) for name in names] or None
        mask, effective = asked_pages(opened, when), opened.resolve()
        if having or shown or not_shown:
            found = searched_pages(effective, having, shown, not_shown)
            mask = found if mask is None else mask & found
        return Chosen(effective, settings, None if mask is None else np.flatnonzero(mask))

    if to is None:
        out = Out()
        for chunk in _chunks(choose(open_named_site(site)), form, is_long):
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
        chosen = choose(opened)
        try:
            from davlo.frames.parquet import write_parquet
        except ImportError:
            raise click.UsageError(NEEDS_PYARROW) from None
        write_file(opened, path, lambda file: write_parquet(chosen[0], is_long, file, *chosen[1:]))
        return
    opened = open_named_site(site)
    chosen = choose(opened)
    if ending == ".xlsx":
        if is_long:
            raise click.UsageError("a spreadsheet has a row for each page: leave out --long, or write a .csv")
        try:
            from davlo.frames.workbook import write_workbook
        except ImportError:
            raise click.UsageError(NEEDS_OPENPYXL) from None
        write_file(opened, path, lambda part: write_workbook(*chosen, part))
    else:
        write_file(opened, path, lambda part: _write_chunks(chosen, ending[1:], is_long, part))


def _write_chunks(chosen: Chosen, form: str, is_long: bool, to: Path) -> None:
    with to.open("wb") as file:
        for chunk in _chunks(chosen, form, is_long):
            file.write(chunk)


def _import_writer() -> None:
    """What writes Parquet takes a while to be imported: that is done while the files are read."""
    with suppress(ImportError):
        import_module("davlo.frames.parquet")


def _chunks(chosen: Chosen, form: str, is_long: bool) -> Iterator[bytes]:
    """The table as text, a piece at a time."""
    from davlo.frames.record_lines import record_lines
    from davlo.frames.text_tables import long, wide

    if form == "jsonl":
        if is_long:
            raise click.UsageError("jsonl has one record for each page: leave out --long")
        return record_lines(*chosen)
    effective, settings, pages = chosen
    table = long(effective, None if pages is None else pages.tolist(), settings) if is_long else wide(*chosen)
    return table.csv() if form == "csv" else table.json()
