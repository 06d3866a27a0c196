"""A table with a row for each page, whatever its columns are called: CSV, a spreadsheet, the rows of a database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, SiteError
from davlo.files.read.rows.database import read_database
from davlo.files.read.rows.pasted_rows import read_columns
from davlo.files.read.sections.site_section import SECONDS, Source
from davlo.files.read.yaml.node_reader import Reader

from .column_meanings import LEFT_OUT, OWN_SETTING, is_setting, meanings_of
from .named_values import NamedValues
from .seen_site import SeenSite


def seen_in_file(content: bytes, said: Mapping[str, str], label: str) -> SeenSite:
    """What a table shows of a site: a CSV file, or a workbook (.xlsx), of which the first sheet is read.

    Raises SiteError if it is no table, no column holds addresses, or `said` cannot be done.
    """
    return _seen(*read_columns(content, label), said, label)


def seen_in_database(name: str, query: str, said: Mapping[str, str]) -> SeenSite:
    """What a query of a database shows of a site; its address comes from the environment, as that of a page list.

    Raises SiteError if the rows cannot be had, no column holds addresses, or `said` cannot be done.
    """
    source, reader = Source(name, Place(f"database {name}"), query, SECONDS), Reader()
    table = read_database(source, reader)
    if table is None:
        raise SiteError(reader.faults)
    return _seen(*table[:2], said, source.label)


def _seen(header: Sequence[str], columns: Sequence[Column], said: Mapping[str, str], label: str) -> SeenSite:
    """What a table shows. `said`: what columns are, by name."""
    meanings = meanings_of(header, columns, said, label)
    named = [column for name, column in zip(header, columns, strict=True) if name]
    cells = {one.became: _plain(column) for one, column in zip(meanings, named, strict=True) if one.became != LEFT_OUT}
    addresses = cells.pop("path")
    own = {name.removeprefix(OWN_SETTING): cells.pop(name) for name in [*cells] if name.startswith(OWN_SETTING)}
    settings = {name: cells.pop(name) for name in [*cells] if is_setting(name)}
    values = NamedValues(settings, own)
    return SeenSite(
        addresses,
        cells,
        values.values,
        values.declared,
        columns=tuple(meanings),
        guessed=tuple(values.guessed),
        lost=tuple(values.lost),
    )


def _plain(column: Column) -> Column:
    """A column with cells as a site's files can hold them."""
    if isinstance(column.words, Texts):  # read by what takes no NUL
        return Column(column.codes, column.words.stripped())
    return column.changed(_cell)


def _cell(word: str) -> str:
    """A cell as a site's files can hold it: without spaces around it, and without NUL, which no CSV file may hold."""
    return word.strip().replace("\0", "\ufffd")
