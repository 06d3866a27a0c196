"""A site read whole: from a folder, or from tables in memory."""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

from davlo.core.arrays.in_background import MANY, in_background
from davlo.core.faults import Fault, Place, SiteError
from davlo.core.progress import work
from davlo.core.site.declarations import Declarations
from davlo.core.site.file_notes import FileNotes
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.types import Type, Types
from davlo.core.site.people import People
from davlo.core.site.settings.catalogue import Catalogue, GrowingCatalogue, Vocabulary
from davlo.core.site.statements.statement_table import tabulate

from .estate.estate_above import shared_above
from .rows.page_list import read_details
from .rows.page_list_in_background import PageListInBackground
from .rows.page_paths import Paths
from .rows.row_sources import FolderRows, Rows, TableRows
from .rows.statement_sheets import read_cells, read_stamps, read_values, setting_columns
from .sections.declared import DeclarationReader, read_actions, read_people, read_roles
from .sections.guarantees import read_accepts, read_guarantees
from .sections.publication import read_robots
from .sections.scope_bodies import StatementCollector
from .sections.settings import read_settings
from .sections.site_section import About, read_about, read_max_entries, read_sitemap_rules
from .sections.statement_sections import read_statements
from .sections.types import check_without, read_types
from .sections.viewpoints import read_viewpoints
from .yaml.includes import FIRST, SharedFile, read_decisions, read_shared
from .yaml.memory_nodes import decisions_of
from .yaml.node_reader import Reader
from .yaml.yaml_nodes import Mapping

Model = TypeVar("Model", bound=SiteModel)
READING_STEPS = 4


@contextmanager
def _no_garbage() -> Iterator[None]:
    """Pauses the garbage collector: reading makes many small objects and drops none."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def read_folder(folder: Path, make: type[Model], shared: Sequence[SharedFile] | None = None) -> Model:
    """A site folder, read whole; nothing in it is written, run or fetched.

    `shared`: the files that it begins with; unless given, those of the estate above it. Raises SiteError if a file
    cannot be understood; it lists every fault with its place.
    """
    reader = Reader()
    with (
        _no_garbage(),
        work("reading the site", READING_STEPS) as step,
        PageListInBackground(FolderRows(folder)) as pages,
    ):
        step(FIRST)
        shared = shared_above(folder, reader) if shared is None else shared
        joined = read_decisions(folder, reader, pages.seen, shared)
        if joined is None:
            raise _error(reader)
        return _read(joined, pages, make, reader, step, str(folder), shared)


def read_house(shared: Sequence[SharedFile], name: str, make: type[Model], folder: str) -> Model:
    """What an estate's shared files say, as a site with nothing but a home page: the house style.

    `name`: the estate's. `folder`: the estate's, for the site to be written to. Raises SiteError if a file cannot be
    understood.
    """
    reader = Reader()
    decisions = {"davlo": "1", "site": {"name": name, "url": "https://estate.invalid"}}
    with (
        _no_garbage(),
        work("reading the house style", READING_STEPS) as step,
        PageListInBackground(TableRows({"path": ["/"]})) as pages,
    ):
        joined = decisions_of(decisions, reader)
        for one in shared:
            read_shared(one, reader, joined)
        house = _read(joined, pages, make, reader, step, folder, shared)
    names = tuple(one.name for one in shared)
    return replace(house, page_list="", file_notes=house.file_notes._replace(first=names))


def read_tables(page_list: Any, decisions: Any, make: type[Model]) -> Model:
    """A site that is in no folder: its page list a table in memory, its decisions a dictionary.

    Raises SiteError if they cannot be understood; it lists every fault with its place.
    """
    reader = Reader()
    with (
        _no_garbage(),
        work("reading the site", READING_STEPS) as step,
        PageListInBackground(TableRows(page_list)) as pages,
    ):
        step("decisions")
        return _read(decisions_of(decisions, reader), pages, make, reader, step)


class Declared(NamedTuple):
    """What the files declare, apart from statements."""

    about: About
    people: People
    declarations: Declarations
    presets: Mapping
    types: dict[str, Type]
    words: Vocabulary
    catalogue: Catalogue


def _read(
    joined: Mapping,
    pages: PageListInBackground,
    make: type[Model],
    reader: Reader,
    step: Callable[[str], None],
    folder: str = "",
    shared: Sequence[SharedFile] = (),
) -> Model:
    """A site, step by step: what is declared, page list, statements. Faults gather in `reader` until the end."""
    declared = read_declared(joined, reader)
    about = declared.about
    pages.begin(about, declared.catalogue)
    step("the statements")
    growing = GrowingCatalogue(declared.catalogue)
    collector = StatementCollector(growing, reader, Types(declared.types, ()))
    mark = len(reader.faults)
    rules = read_statements(joined, declared.presets, collector)
    _read_sheets(pages.source, about, collector, reader)
    step(about.page_list.label)
    sheet, page_list, rows = pages.result()
    reader.hint_pages(page_list.tree.paths)
    reader.faults[mark:mark], reader.notes[:0] = rows.faults, rows.notes
    step("which pages they are for")
    settled = in_background(lambda: collector.settle(page_list.tree), len(page_list.tree) >= MANY)
    columns = setting_columns(sheet, growing, reader)
    misnamed = {column for column in sheet.columns if growing.could_be(column)}
    details = read_details(sheet, page_list, declared.types, set(columns) | misnamed, about.home, reader)
    settled()
    read_cells(sheet, page_list.page_of_row, columns, collector)
    stated = collector.finish(page_list.tree)
    catalogue, numbers = growing.complete()
    others = _read_others(joined, declared, catalogue, reader)
    if reader.faults:
        raise _error(reader)
    built_in = [setting.built_in for setting in growing.settings]
    gone, of_scopes = collector.gone.items, collector.numbers
    return make(
        **about.of_site(),
        **others,
        page_list=sheet.file,
        catalogue=catalogue,
        tree=page_list.tree,
        details=details,
        declarations=_with_presets(declared.declarations, collector),
        people=declared.people,
        actions=declared.words.actions,
        rules=rules,
        statements=tabulate(built_in, stated, collector.batches, len(rules), gone, of_scopes, numbers),
        file_notes=FileNotes(
            {**reader.digests, **rows.digests} if folder else {},
            tuple(columns),
            reader.role_places(),
            page_list.twin_lines,
            page_list.fragment_lines,
            collector.idle_uses,
            shared=tuple(one.label for one in shared),
        ),
        folder=folder,
        notes=tuple(reader.notes),
    )


def _read_sheets(source: Rows, about: About, collector: StatementCollector, reader: Reader) -> None:
    """The statements in the sheets of `values`, and the stamps."""
    paths = Paths(reader.names)
    for values in source.values(about.values, reader):
        read_values(values, paths, collector)
    stamps = source.stamps(reader)
    if stamps is not None:
        read_stamps(stamps, paths, collector)


def _read_others(joined: Mapping, declared: Declared, catalogue: Catalogue, reader: Reader) -> dict[str, Any]:
    """What must hold, what is accepted and looked at, and what search engines get; by the names that a site has."""
    words, types, entries = declared.words, declared.types, joined.entries
    return {
        "guarantees": read_guarantees(entries.get("guarantees"), catalogue, words, reader, types),
        "accepts": read_accepts(entries.get("accept"), catalogue, reader, types),
        "viewpoints": read_viewpoints(entries.get("viewpoints"), declared.people, reader),
        "max_entries": read_max_entries(entries.get("menu"), reader),
        "sitemap": read_sitemap_rules(entries.get("sitemap"), reader),
        "robots": read_robots(entries.get("robots"), reader),
    }


def _with_presets(declarations: Declarations, collector: StatementCollector) -> Declarations:
    """The declarations, each preset with what it says."""
    presets = {
        name: preset._replace(
            says={collector.catalogue[entry.setting].name: entry.value for entry in collector.presets[name][1]}
        )
        for name, preset in declarations.presets.items()
    }
    return declarations._replace(presets=presets)


def _error(reader: Reader) -> SiteError:
    """All faults, each once, those of davlo.yaml first, then by file and line."""

    def place(fault: Fault) -> tuple[bool, str, int]:
        return fault.place.file != FIRST, fault.place.file, fault.place.line

    each_once: dict[tuple[Place, str], Fault] = {}
    for fault in reader.faults:
        each_once.setdefault((fault.place, fault.what), fault)
    return SiteError(sorted(each_once.values(), key=place))


def read_declared(joined: Mapping, reader: Reader) -> Declared:
    """The format's version, the site, people, declarations, types and settings."""
    if "davlo" in joined.entries:
        reader.one_of(joined.entries["davlo"], "davlo (the format's version)", ("1",), "1")
    else:
        reader.fault(joined.place, "the format's version is missing", hint="begin with davlo: 1")
    about = read_about(joined.entries.get("site"), joined.place, reader)
    reader.names = about.names
    people = read_people(joined.entries.get("people"), reader)
    actions = read_actions(joined.entries.get("actions"), reader)
    roles = read_roles(joined.entries.get("roles"), actions, reader)
    sections = DeclarationReader(joined, reader)
    declarations = sections.declarations(roles)
    types = read_types(joined.entries.get("types"), reader)
    names = {**sections.names, "person": people.names, "group": tuple(people.groups)}
    words = Vocabulary(names, declarations.areas(), actions, {name: role.actions for name, role in roles.items()})
    users = (*declarations.layouts, *declarations.bands, *declarations.blocks)
    catalogue = read_settings(joined.entries.get("settings"), words, tuple(types), users, reader)
    check_without(joined.entries.get("types"), catalogue, reader)
    return Declared(about, people, declarations, sections.sections["presets"], types, words, catalogue)
