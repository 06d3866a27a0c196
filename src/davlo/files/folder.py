"""A site folder, read whole."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.catalogue import Catalogue, Vocabulary
from davlo.core.columns import Column
from davlo.core.facts import Facts, Type
from davlo.core.faults import Fault, Place, SiteError
from davlo.core.pieces import People, Pieces
from davlo.core.site import Site
from davlo.core.statements import Statements

from .about import About, read_about, read_menu_room, read_sitemap_rules
from .cells import Sheet, read_sheet
from .inventory import Inventory, read_facts, read_inventory
from .layering import FIRST, read_decisions
from .pieces import PieceReader, read_actions, read_people, read_roles
from .promises import read_accepts, read_promises
from .reading import Reader
from .scopes import Book
from .settings import read_settings
from .statement_sheets import STAMPS_COLUMNS, VALUES_COLUMNS, read_cells, read_stamps, read_values, setting_columns
from .statements import read_statements
from .types import check_without, read_types
from .yaml_nodes import Mapping


@contextmanager
def _no_garbage() -> Iterator[None]:
    """Reading makes many small objects and drops none: the collector would only look at them again and again."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def open_site(folder: str | Path) -> Site:
    """Read a site folder.

    Parameters
    ----------
    folder : str or Path
        The folder that holds `davlo.yaml`. Nothing in it is written, run or fetched.

    Returns
    -------
    Site

    Raises
    ------
    SiteError
        If a file cannot be understood; it tells every fault with its place.

    Example
    -------
    >>> import davlo
    >>> try:
    ...     davlo.open_site("no-such-folder")
    ... except davlo.SiteError as error:
    ...     print(error.faults[0].what)
    there is no davlo.yaml in no-such-folder
    """
    with _no_garbage():
        return _read_site(Path(folder), Reader())


class Declared(NamedTuple):
    """What the files declare, apart from statements."""

    about: About
    people: People
    pieces: Pieces
    presets: Mapping
    types: dict[str, Type]
    words: Vocabulary
    catalogue: Catalogue


def _read_site(folder: Path, reader: Reader) -> Site:
    """A site folder, step by step: decisions, inventory, statements. Faults gather in `reader` until the end."""
    joined = read_decisions(folder, reader)
    if joined is None:
        raise _error(reader)
    declared = _declared(joined, reader)
    about, catalogue = declared.about, declared.catalogue
    found = read_sheet(folder, about.inventory, reader, ("path",), about.inventory_at)
    # without an inventory there is no site; the statements are still read, so that all faults are told
    sheet = found or Sheet(about.inventory, ("path",), {"path": Column.of([])}, np.zeros(0, dtype=np.int32))
    inventory = read_inventory(sheet, reader)
    book = Book(catalogue, reader, inventory.tree)
    columns = setting_columns(sheet, catalogue, reader)
    misnamed = {column for column in sheet.columns if catalogue.could_be(column)}
    facts = read_facts(sheet, inventory, declared.types, set(columns) | misnamed, about.home, reader)
    rules = read_statements(joined, declared.presets, book, facts)
    if found is not None:
        _read_sheets(folder, about, book, facts, inventory, sheet, columns)
    stated = book.finish()
    promises = read_promises(joined.entries.get("promises"), catalogue, declared.words, reader, declared.types)
    accepts = read_accepts(joined.entries.get("accept"), catalogue, reader, declared.types)
    room = read_menu_room(joined.entries.get("menu"), reader)
    sitemap = read_sitemap_rules(joined.entries.get("sitemap"), reader)
    if reader.faults:
        raise _error(reader)
    return Site(
        name=about.name,
        url=about.url,
        languages=about.languages,
        language_paths=about.language_paths,
        inventory=about.inventory,
        catalogue=catalogue,
        tree=inventory.tree,
        facts=facts,
        pieces=declared.pieces,
        people=declared.people,
        actions=declared.words.actions,
        rules=rules,
        statements=Statements(catalogue, stated, book.lots, len(rules), book.gone.items),
        promises=promises,
        accepts=accepts,
        menu_room=room,
        sitemap=sitemap,
    )


def _error(reader: Reader) -> SiteError:
    """All faults, each once, those of davlo.yaml first, then by file and line."""

    def place(fault: Fault) -> tuple[bool, str, int]:
        return fault.place.file != FIRST, fault.place.file, fault.place.line

    return SiteError(sorted(dict.fromkeys(reader.faults), key=place))


def _declared(joined: Mapping, reader: Reader) -> Declared:
    """The format's version, the site, people, pieces, types and settings."""
    if "davlo" in joined.entries:
        reader.one_of(joined.entries["davlo"], "davlo (the format's version)", ("1",), "1")
    else:
        reader.fault(Place(FIRST, 1), "the format's version is missing", hint="begin with davlo: 1")
    about = read_about(joined.entries.get("site"), reader)
    people = read_people(joined.entries.get("people"), reader)
    actions = read_actions(joined.entries.get("actions"), reader)
    roles = read_roles(joined.entries.get("roles"), actions, reader)
    sections = PieceReader(joined, reader)
    pieces = sections.pieces(roles)
    types = read_types(joined.entries.get("types"), reader)
    names = {**sections.names, "person": people.names, "group": tuple(people.groups)}
    words = Vocabulary(names, pieces.areas(), actions, roles)
    users = (*pieces.layouts, *pieces.bands, *pieces.blocks)
    catalogue = read_settings(joined.entries.get("settings"), words, tuple(types), users, reader)
    check_without(joined.entries.get("types"), catalogue, reader)
    return Declared(about, people, pieces, sections.sections["presets"], types, words, catalogue)


def _read_sheets(
    folder: Path,
    about: About,
    book: Book,
    facts: Facts,
    inventory: Inventory,
    sheet: Sheet,
    columns: dict[str, int],
) -> None:
    """The statements that CSV files hold."""
    for name, place in about.values:
        rows = read_sheet(folder, name, book.reader, VALUES_COLUMNS, place)
        if rows is not None:
            read_values(rows, facts.types, book)
    read_cells(sheet, inventory.page_of_row, columns, book)
    stamps = read_sheet(folder, "stamps.csv", book.reader, STAMPS_COLUMNS, None)
    if stamps is not None:
        read_stamps(stamps, book)
