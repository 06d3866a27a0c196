"""`davlo list NAME`: one declaration whole, what it says, what sets it, and the pages that use it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.outcomes.declaration_list import WITHOUT_PAGES, Declaration, DeclarationList
from davlo.core.resolve.statement_uses import StatementUse, StatementUses
from davlo.core.site.settings.values import format_value
from davlo.core.wording import count, some_of
from davlo.words.contents import line_by_line

from ..options import typed
from ..screen import Columns, Styled, as_json, listing, paragraph, say, table

if TYPE_CHECKING:
    from davlo.site import Site

MOST, MOST_STATEMENTS = 12, 20
"""The most pages of a list, and the most statements, on a screen without --all."""
STATEMENT_COLUMNS = ("setting", "source", "says", "locked", "preset", "because", "reaches", "decides", "file", "line")
HAS_STATEMENTS = ("setting", "type", "rule")


def print_declarations(
    site: Site, found: DeclarationList, kinds: list[str], name: str, everything: bool, form: str
) -> None:
    """What is declared under a name, in each of these kinds."""
    if form == "json":
        as_json([_whole_record(site, found, kind, name) for kind in kinds])
        return
    if form == "csv":
        if kinds == ["setting"]:
            rows = [_statement_row(one) for one in found.statements("setting", name).records()]
            listing(form, STATEMENT_COLUMNS, rows)
            return
        told = [(kind, shown, mask) for kind in kinds for shown, mask in _masks(found, kind, name)]
        listing(
            form,
            ("kind", "name", "page", "shown"),
            [[kind, name, path, shown] for kind, shown, mask in told for path in _paths(site, mask)],
        )
        return
    for number, kind in enumerate(kinds):
        if number:
            say()
        _print_one(site, found, kind, name, everything)


def _masks(found: DeclarationList, kind: str, name: str) -> tuple[tuple[str, Mask], tuple[str, Mask]]:
    return ("yes", found.shown(kind, name)), ("no", found.not_shown(kind, name))


def _print_one(site: Site, found: DeclarationList, kind: str, name: str, everything: bool) -> None:
    """One declaration for a person."""
    declaration = found.declaration(kind, name)
    about = ": ".join(words for words in (declaration.label, declaration.note) if words)
    place = f", {declaration.place}" if str(declaration.place) else ""
    say(f"{kind} ", Styled(name), f"{place}{f': {about}' if about else ''}")
    for line in line_by_line(declaration.details):
        indent = line[: len(line) - len(line.lstrip())]
        paragraph(line.lstrip(), indent, indent + "  ")
    named = found.named_by(kind, name)
    if named:
        paragraph(f"named by: {some_of([f'{one.by} ({one.place})' for one in named])}", "  ", "    ")
    if kind in HAS_STATEMENTS:
        _print_statements(found.statements(kind, name), kind, everything)
    if kind in WITHOUT_PAGES:
        say("  pages cannot be counted for a role: statements store its actions, not its name")
    elif kind != "setting":
        _print_pages(site, found, declaration, everything)
    if kind == "setting" and declaration.details["default_for"] == "new-pages":
        say("  its default is for new pages: an existing page keeps its stamp, and defaults reach new pages alone")
    if kind == "setting" and declaration.pages:
        say(f"  The value of each page: {typed('tree', '--columns', name)}")
    if kind == "guarantee":
        say(f"  Whether it holds: {typed('check', '--guarantees')}")


def _print_statements(uses: StatementUses, kind: str, everything: bool) -> None:
    """The statements of a setting, a type or a rule, as a table."""
    if not len(uses):
        say("  no statement sets it" if kind == "setting" else "  it sets nothing")
        return
    lines = list(uses.records() if everything else uses.gathered())
    shown = lines if everything else lines[:MOST_STATEMENTS]
    verb = {"setting": "set by", "type": "gives, with", "rule": "gives, with"}[kind]
    say(f"  {verb} {count(len(uses), 'statement')}{', the weakest first' if kind == 'setting' else ''}:")
    first = "source" if kind == "setting" else "setting"
    rows = [[_source(one) if kind == "setting" else one.setting, *_cells(one)] for one in shown]
    widths = [max(len(row[at]) for row in rows) for at in (2, 3)]
    rows = [[*row[:2], row[2].rjust(max(widths[0], 7)), row[3].rjust(max(widths[1], 7)), *row[4:]] for row in rows]
    columns = Columns(paths=(0,), cut=(5,)) if kind == "setting" else Columns(cut=(5,))
    table([first, "says", "reaches", "decides", "where", "note"], rows, indent="    ", columns=columns)
    if len(shown) < len(lines):
        say(f"    {len(shown)} of {len(lines):,} shown; to see them all say --all, or --format csv")


def _source(one: StatementUse) -> str:
    scope = str(one.source.scope)
    if one.alike > 1:
        return f"{scope}, {one.alike:,} pages"
    return f"here {one.source.scope.name}" if scope == "here" else scope


def _cells(one: StatementUse) -> list[str]:
    notes = [f"preset {one.preset}" if one.preset else "", one.because]
    where = f"{one.source.file}:{one.source.line}" + (" locked" if one.source.locked else "")
    where += " …" if one.alike > 1 else ""
    says = "fresh_access" if one.source.fresh else format_value(one.says) or "empty"
    return [says, f"{one.reaches:,}", f"{one.decides:,}", where, "; ".join(word for word in notes if word)]


def _print_pages(site: Site, found: DeclarationList, declaration: Declaration, everything: bool) -> None:
    """The pages that use a declaration: those on which it is shown, and those on which it is not."""
    kind, name, pages = declaration.kind, declaration.name, declaration.pages
    shown = found.shown(kind, name)
    if kind == "rule":
        decided = np.zeros_like(shown)
        decided[shown] = found.statements(kind, name).decided(np.flatnonzero(shown))
        lists = [(f"decides on {_pages(declaration.decides)} of the {pages:,} that it matches", decided)]
        lists += [(f"matches, and decides nothing on {_pages(pages - declaration.decides)}", shown & ~decided)]
        if not pages:
            lists = [("matches no page", shown)]
    elif kind in ("type", "guarantee"):
        of_type = f"{_pages(pages)} of this type or of types based on it"
        lists = [(of_type if kind == "type" else f"about {_pages(pages)}", shown)]
    else:
        areas = ", ".join(f"{area} on {number:,}" for area, number in declaration.areas.items())
        lists = [(f"shown on {_pages(pages)}{f': {areas}' if areas else ''}", shown)]
        not_shown = f"set but not shown on {_pages(declaration.not_shown)}"
        lists += [(not_shown, found.not_shown(kind, name))]
    most = None if everything else MOST
    listed = 0
    for number, (words, mask) in enumerate(lists):
        if not number or mask.any():
            say(f"  {words}")
        paths = _paths(site, mask, most)
        listed += len(paths)
        for path in paths:
            say(f"    {path}")
    total = sum(int(np.count_nonzero(mask)) for _, mask in lists)
    if listed < total:
        say(f"  {listed} of {total:,} listed; to see them all say --all, or --format csv")


def _pages(number: int) -> str:
    return count(number, "page") if number else "no page"


def _paths(site: Site, mask: Mask, most: int | None = None) -> list[str]:
    return site.tree.paths.take(np.flatnonzero(mask)[:most]).tolist()


def _statement_row(one: StatementUse) -> list[object]:
    source = one.source
    where = f"here {source.scope.name}" if str(source.scope) == "here" else str(source.scope)
    says = "fresh_access" if source.fresh else format_value(one.says)
    locked = "yes" if source.locked else "no"
    numbers: Iterable[object] = (one.reaches, one.decides, source.file, source.line)
    return [one.setting, where, says, locked, one.preset, one.because, *numbers]


def _whole_record(site: Site, found: DeclarationList, kind: str, name: str) -> dict[str, object]:
    statements = found.statements(kind, name).records() if kind in HAS_STATEMENTS else ()
    record = declaration_record(found.declaration(kind, name))
    record["named by"] = [{"by": one.by, "where": str(one.place)} for one in found.named_by(kind, name)]
    record["said"] = [dict(zip(STATEMENT_COLUMNS, _statement_row(one), strict=True)) for one in statements]
    record["used on"] = _paths(site, found.shown(kind, name)) if kind not in WITHOUT_PAGES else []
    record["not shown on"] = _paths(site, found.not_shown(kind, name))
    return record


def declaration_record(one: Declaration) -> dict[str, object]:
    """A declaration as a JSON object."""
    return {
        "kind": one.kind,
        "name": one.name,
        "label": one.label or None,
        "note": one.note or None,
        "file": one.place.file or None,
        "line": one.place.line or None,
        "details": one.details,
        "pages": one.pages if one.pages >= 0 else None,
        "areas": dict(one.areas),
        "not shown": one.not_shown,
        "statements": one.statements,
        "decides": one.decides,
    }
