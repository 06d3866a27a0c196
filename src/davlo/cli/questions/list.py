"""`davlo list`: what is declared, a kind at a time; what fits an area; what nothing uses; one thing whole."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.outcomes.declaration_list import Declaration, DeclarationList
from davlo.core.progress import each
from davlo.core.site.declared_names import DECLARED_KINDS, kinds_of, plural_of
from davlo.core.wording import count, shortened, some_of
from davlo.words.contents import on_one_line

from ..command_list import answers
from ..completion.offers import complete_area, complete_declaration
from ..options import format_option, open_named_site, site_option, typed
from ..screen import Columns, as_json, listing, say, table
from .declaration import declaration_record, print_declarations

if TYPE_CHECKING:
    from davlo.core.outcomes.area_fits import AreaFits
    from davlo.site import Site

NOTE_WIDTH, NAMES_WIDTH = 48, 64
COLUMNS = ("kind", "name", "pages", "not shown", "areas", "declared", "note")
KINDS_BY_WORD = {word: kind for kind in DECLARED_KINDS for word in (kind, plural_of(kind))}


@answers(
    "list",
    "davlo list",
    "davlo list sidebars",
    "davlo list sidebar.right",
    "davlo list visit-planning",
    "davlo list --fits footer",
    "davlo list --unused",
)
@click.argument("name", metavar="[KIND or NAME]", required=False, shell_complete=complete_declaration)
@click.option("--kind", type=click.Choice(DECLARED_KINDS), help="With NAME: the one of this kind.")
@click.option(
    "--fits",
    metavar="AREA",
    shell_complete=complete_area,
    help="List what may stand in this area, and why a band may not.",
)
@click.option("--unused", is_flag=True, help="Only what no page uses; after a KIND, only that kind.")
@click.option(
    "--all",
    "everything",
    is_flag=True,
    help="List all declarations; with settings, also those that no statement sets; with NAME, every page.",
)
@format_option("text", "csv", "json")
@site_option
def command(
    name: str | None, kind: str | None, fits: str | None, unused: bool, everything: bool, form: str, site: str | None
) -> None:
    """Without a name: how many there are of each kind. With KIND (sidebars, settings, rules): a table of them. With
    NAME: one thing whole, what it says and the pages that use it; of a setting, every statement that sets it.
    """
    if fits is not None and (name is not None or unused):
        raise click.UsageError("--fits lists what may stand in an area: leave out the name and --unused")
    of_kind = KINDS_BY_WORD.get(name or "") if kind is None else None
    if unused and name is not None and of_kind is None:
        raise click.UsageError("--unused lists a kind, as in davlo list sidebars --unused: leave out the name")
    opened = open_named_site(site)
    if fits is not None:
        _print_fits(opened, opened.fits(fits), form)
    elif name is not None and of_kind is None:
        if name.startswith("/") and opened.tree.find(opened.page_names.path(name)) >= 0:
            raise click.UsageError(f"{name} is a page: {typed('show', name)}")
        kinds = [one for one in kinds_of(opened, name) if kind in (None, one)]
        if not kinds:
            raise click.UsageError(f"there is no {kind} {name}; it is a {' and a '.join(kinds_of(opened, name))}")
        print_declarations(opened, DeclarationList(opened.resolve()), kinds, name, everything, form)
    elif of_kind is None and not unused and not everything:
        _print_kinds(opened, form)
    else:
        _print_table(opened, of_kind, unused, everything, form)


def _print_kinds(site: Site, form: str) -> None:
    """How many there are of each kind, and their first names."""
    names = site.declared_names()
    if form == "json":
        as_json([{"kind": kind, "declared": len(some), "names": list(some)} for kind, some in names.items()])
        return
    header = ("kind", "declared", "names")
    if form == "csv":
        listing(form, header, [[kind, len(some), "; ".join(some)] for kind, some in names.items()])
        return
    rows = [
        [plural_of(kind), f"{len(some):,}".rjust(len(header[1])), shortened(", ".join(some), NAMES_WIDTH)]
        for kind, some in names.items()
    ]
    table(header, rows, columns=Columns(cut=(2,)))
    say()
    say(f"A table of a kind: {typed('list', 'sidebars')}")
    say(f"One thing whole:   {typed('list', next(iter(names['layout']), 'title.pattern'))}")


def _print_table(site: Site, kind: str | None, unused: bool, everything: bool, form: str) -> None:
    """A table of a kind, or of all kinds; with `--unused`, only what no page uses."""
    found = DeclarationList(site.resolve())
    asked = [(one, name) for one, names in site.declared_names(kind).items() for name in names]
    hidden = 0
    if kind == "setting" and form == "text" and not (unused or everything):
        said = [(one, name) for one, name in asked if _is_set(site, name)]
        hidden, asked = len(asked) - len(said), said
    declared = [found.declaration(*words) for words in each("counting pages", asked)]
    declared = [one for one in declared if not unused or found.is_unused(one)]
    if form == "json":
        as_json([declaration_record(one) for one in declared])
        return
    if form == "csv":
        listing(form, COLUMNS, [_csv_row(one) for one in declared])
        return
    _print_rows(MIXED_COLUMNS if kind is None or unused else KIND_COLUMNS.get(kind, AREA_COLUMNS), declared)
    told = plural_of(kind) if kind else "declarations"
    say(f"{len(declared):,} {told if len(declared) != 1 else kind or 'declaration'}" + (" that nothing uses" * unused))
    if any(one.not_shown for one in declared):
        say("not shown: on how many pages it is set but not shown; for one of them: davlo why PAGE SETTING")
    if hidden:
        say(f"{count(hidden, 'setting')} that no statement sets are hidden: {typed('list', 'settings', '--all')}")
    if kind == "guarantee":
        say(f"Whether they hold: {typed('check', '--guarantees')}")


def _is_set(site: Site, setting: str) -> bool:
    """Whether a statement sets a setting, or the site declares it."""
    number = site.setting_number(setting)
    return site.catalogue[number].own or bool(site.statements.of_setting(number))


class _Column:
    """A column of a table of declarations: its name, and the cell of each declaration."""

    def __init__(self, name: str, cell: Callable[[Declaration], object], cut: bool = False) -> None:
        self.name, self.cell, self.cut = name, cell, cut

    def words(self, declaration: Declaration) -> str:
        found = self.cell(declaration)
        return f"{found:,}" if isinstance(found, int) else str(found)


def _print_rows(columns: Sequence[_Column], declared: Sequence[Declaration]) -> None:
    if not declared:
        return
    kept, cells = [], []
    for column in columns:
        words = [column.words(one) for one in declared]
        if any(words) and (column.name != "not shown" or any(one.not_shown for one in declared)):
            is_number = isinstance(column.cell(declared[0]), int)
            width = max(map(len, (*words, column.name))) if is_number else 0
            kept.append(column)
            cells.append([word.rjust(width) for word in words])
    cut = tuple(at for at, column in enumerate(kept) if column.cut)
    rows = [list(row) for row in zip(*cells, strict=True)]
    table([column.name for column in kept], rows, columns=Columns(cut=cut))
    say()


def _areas(declaration: Declaration) -> str:
    """The areas in which a declaration is shown, and on how many pages if there are several areas."""
    if len(declaration.areas) == 1:
        return next(iter(declaration.areas))
    return ", ".join(f"{area} {pages:,}" for area, pages in declaration.areas.items())


def _note(declaration: Declaration) -> str:
    return shortened(": ".join(words for words in (declaration.label, declaration.note) if words), NOTE_WIDTH)


def _says(*keys: str) -> Callable[[Declaration], str]:
    """What a declaration holds under some keys, on one line; without keys, everything it holds."""

    def words(declaration: Declaration) -> str:
        some = {key: declaration.details[key] for key in keys or declaration.details if key in declaration.details}
        return shortened(on_one_line(some if len(keys) != 1 else next(iter(some.values()), "")), NOTE_WIDTH)

    return words


NAME = _Column("name", lambda one: one.name)
PAGES = _Column("pages", lambda one: one.pages)
NOT_SHOWN = _Column("not shown", lambda one: one.not_shown)
DECLARED = _Column("declared", lambda one: str(one.place))
NOTE = _Column("note", _note, cut=True)
AREAS = _Column("areas", _areas)
DECIDES = _Column("decides on", lambda one: one.decides)
STATEMENTS = _Column("statements", lambda one: one.statements)
MIXED_COLUMNS = (
    _Column("kind", lambda one: one.kind),
    NAME,
    _Column("pages", lambda one: one.pages if one.pages >= 0 else "-"),
    NOT_SHOWN,
    AREAS,
    DECLARED,
    NOTE,
)
AREA_COLUMNS = (NAME, PAGES, NOT_SHOWN, AREAS, DECLARED, NOTE)
KIND_COLUMNS: dict[str, tuple[_Column, ...]] = {
    "layout": (NAME, PAGES, _Column("areas", _says("areas"), cut=True), DECLARED, NOTE),
    "theme": (NAME, PAGES, _Column("areas", _says("areas"), cut=True), DECLARED, NOTE),
    "block": (NAME, _Column("kind", _says("kind")), PAGES, NOT_SHOWN, AREAS, DECLARED, NOTE),
    "preset": (NAME, PAGES, _Column("sets", _says("sets"), cut=True), DECLARED, NOTE),
    "type": (NAME, _Column("based on", _says("based_on")), PAGES, STATEMENTS, DECIDES, DECLARED, NOTE),
    "setting": (
        NAME,
        STATEMENTS,
        _Column("pages set", lambda one: one.pages),
        _Column("default", _says("default"), cut=True),
        NOTE,
    ),
    "rule": (NAME, PAGES, DECIDES, _Column("when", _says("when")), DECLARED),
    "guarantee": (NAME, PAGES, _Column("when", _says("when")), DECLARED),
    "person": (NAME, PAGES, _Column("groups", _says("groups")), _Column("admin", _says("admin")), DECLARED),
    "group": (NAME, PAGES, _Column("members", _says("members"), cut=True), DECLARED),
    "role": (NAME, _Column("actions", _says("actions")), DECLARED),
}


def _csv_row(one: Declaration) -> list[str]:
    pages = str(one.pages) if one.pages >= 0 else "-"
    note = ": ".join(words for words in (one.label, one.note) if words)
    return [one.kind, one.name, pages, str(one.not_shown), _areas(one), str(one.place), note]


def _print_fits(site: Site, fits: AreaFits, form: str) -> None:
    """What may stand in an area, and which bands may not."""
    found = DeclarationList(site.resolve())
    offered = [("band", name) for name in fits.bands]
    offered += [("sidebar", name) for name in fits.sidebars if fits.is_column or form != "text"]
    offered += [("block", name) for name in fits.blocks if form != "text"]
    declared = [found.declaration(*words) for words in each("counting pages", offered)]
    if form == "json":
        records = [declaration_record(one) for one in declared]
        as_json({"area": fits.area, "fits": records, "not offered": dict(fits.not_offered)})
        return
    if form == "csv":
        listing(form, COLUMNS, [_csv_row(one) for one in declared])
        return
    _print_rows(MIXED_COLUMNS, declared)
    if not fits.bands:
        say(f"No band says that it fits {fits.area}.")
    if not fits.is_column and fits.sidebars:
        told = count(len(fits.sidebars), "sidebar")
        say(f"Any of {told} may stand in {fits.area} too: {typed('list', 'sidebars')}")
    if fits.blocks:
        told = count(len(fits.blocks), "block")
        say(f"Any of {told} may stand in {fits.area}, in blocks.{fits.area}: {typed('list', 'blocks')}")
    by_reason: dict[str, list[str]] = {}
    for name, reason in fits.not_offered.items():
        by_reason.setdefault(reason, []).append(name)
    for reason, names in by_reason.items():
        say(f"Not offered: {some_of(names)}, which {reason if len(names) == 1 else reason.replace('fits', 'fit', 1)}")
