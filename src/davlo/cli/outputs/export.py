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
from ..completion.offers import complete_revision, complete_setting
from ..options import (
    asked_pages,
    check_openpyxl,
    find_viewer,
    format_option,
    open_named_site,
    search_options,
    searched_pages,
    site_option,
    viewer_option,
    when_option,
    write_file,
)
from ..screen import Out

if TYPE_CHECKING:
    from davlo.effective import Effective
    from davlo.site import Site


NEEDS_PYARROW = "a .parquet file needs pyarrow: pip install 'davlo[parquet]'"
ENDINGS = (".csv", ".json", ".jsonl", ".parquet", ".xlsx", ".css")


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
    "davlo export --records --to records.parquet",
    "davlo export --format jsonl --changed-since HEAD~1",
    "davlo export --to looks.css",
)
@click.option(
    "--long", "is_long", is_flag=True, help="Print a row for every page and setting, with source, file and line."
)
@click.option(
    "--records",
    is_flag=True,
    help="Write the whole record of each page, as jsonl or Parquet: details, settings, sources, what shows, access.",
)
@viewer_option("Records of what this person, group or visitor meets (default: a visitor).")
@click.option(
    "--changed-since",
    "since",
    metavar="FOLDER-OR-REVISION",
    shell_complete=complete_revision,
    help="Only the records that are new or differ from this revision of git, or site folder; then a line for each "
    "page that is gone.",
)
@click.option(
    "--to",
    type=click.Path(dir_okay=False),
    metavar="FILE",
    help="Write a file: .csv, .json, .jsonl, .parquet, .xlsx for a spreadsheet program, or .css with the site's looks.",
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
    records: bool,
    who: str | None,
    since: str | None,
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
    record for each page (docs/records.md says what it holds). What people change in a spreadsheet comes back with
    davlo set --from FILE.
    """
    path = None if to is None else Path(to)
    form = _form(path, form, records)
    is_record = form == "jsonl" or (records and form == "parquet")
    for option, said in (("--records", records), ("--as", who), ("--changed-since", since)):
        if said and not is_record:
            raise click.UsageError(f"{option} is about records: say --format jsonl, or --records --to FILE.parquet")
    if is_long and (is_record or form in ("xlsx", "css")):
        what = "has no rows of pages" if form == "css" else "has one row or record for each page"
        raise click.UsageError(f"{form} {what}: leave out --long, or write a .csv")
    if form == "parquet" and find_spec("pyarrow") is None:
        raise click.UsageError(NEEDS_PYARROW)
    opened = open_named_site(site, meanwhile=_import_writer if form == "parquet" else None)
    if form == "css":
        from davlo.files.output.looks_css import looks_css

        assert path is not None
        if columns or when or having or shown or not_shown:
            raise click.UsageError("a .css file holds all looks of the site: leave out --columns and conditions")
        write_file(opened, path, looks_css(opened.declarations.looks).encode())
        return
    chosen = _chosen(opened, columns, when, having, shown, not_shown)
    viewer = find_viewer(opened, who) if who else "visitor"
    if since is not None:
        if form == "parquet" or chosen.settings is not None or chosen.pages is not None:
            raise click.UsageError("--changed-since writes whole records as jsonl, of all pages that differ")
        chunks = _changed(opened, chosen.effective, since, viewer)
    elif form == "parquet":
        assert path is not None
        write_file(opened, path, lambda part: _write_parquet(chosen, is_long, records, viewer, part))
        return
    elif form == "xlsx":
        check_openpyxl()
        from davlo.frames.workbook import write_workbook

        assert path is not None
        write_file(opened, path, lambda part: write_workbook(*chosen, part))
        return
    else:
        chunks = _chunks(chosen, form, is_long, viewer)
    if path is None:
        out = Out()
        for chunk in chunks:
            out.write(chunk.decode("utf-8", "surrogatepass"))
    else:
        write_file(opened, path, lambda part: _write_chunks(chunks, part))


def _form(path: Path | None, form: str, records: bool) -> str:
    """What is written: the ending of the file, or what `--format` says."""
    if path is None:
        if records and form == "json":
            raise click.UsageError("records have a line each: say --format jsonl, or leave --format out")
        return "jsonl" if records else form
    ending = path.suffix.lower()
    if ending not in ENDINGS:
        raise click.UsageError(f"--to writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    return ending[1:]


def _chosen(
    opened: Site,
    columns: str | None,
    when: tuple[str, ...],
    having: tuple[str, ...],
    shown: tuple[str, ...],
    not_shown: tuple[str, ...],
) -> Chosen:
    from davlo.core.site.settings.parse_values import typed_items

    names = typed_items(columns or "")
    settings = [opened.setting_number(name) for name in names] or None
    mask, effective = asked_pages(opened, when), opened.resolve()
    if having or shown or not_shown:
        found = searched_pages(effective, having, shown, not_shown)
        mask = found if mask is None else mask & found
    return Chosen(effective, settings, None if mask is None else np.flatnonzero(mask))


def _changed(opened: Site, effective: Effective, since: str, viewer: str) -> Iterator[bytes]:
    """The records that differ from an earlier state."""
    from davlo.frames.record_changes import changed_record_lines

    try:
        before = opened.open_state(since)
    except ValueError as error:
        raise click.UsageError(str(error)) from None
    return changed_record_lines(before.resolve(), effective, viewer)


def _write_parquet(chosen: Chosen, is_long: bool, records: bool, viewer: str, to: Path) -> None:
    try:
        if records:
            from davlo.frames.record_parquet import write_records
        else:
            from davlo.frames.parquet import write_parquet
    except ImportError:
        raise click.UsageError(NEEDS_PYARROW) from None
    if records:
        write_records(chosen.effective, to, *chosen[1:], viewer)
    else:
        write_parquet(chosen.effective, is_long, to, *chosen[1:])


def _write_chunks(chunks: Iterator[bytes], to: Path) -> None:
    with to.open("wb") as file:
        for chunk in chunks:
            file.write(chunk)


def _import_writer() -> None:
    """What writes Parquet takes a while to be imported: that is done while the files are read."""
    with suppress(ImportError):
        import_module("davlo.frames.parquet")


def _chunks(chosen: Chosen, form: str, is_long: bool, viewer: str) -> Iterator[bytes]:
    """The table as text, a piece at a time."""
    from davlo.frames.record_lines import record_lines
    from davlo.frames.text_tables import as_csv, as_json, long_parts, wide

    if form == "jsonl":
        return record_lines(*chosen, viewer=viewer)
    parts = long_parts(*chosen) if is_long else iter([wide(*chosen)])
    return as_csv(parts) if form == "csv" else as_json(parts)
