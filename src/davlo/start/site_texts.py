"""The files of a site folder that is begun from what was seen: davlo.yaml with notes, pages.csv, values.csv."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence

from davlo.core.change.steps.change import Say
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES
from davlo.core.site.settings.values import Raw, raw_of
from davlo.files.form.csv_columns import VALUES
from davlo.files.form.json_schema import SCHEMA, schema_text
from davlo.files.rewrite.csv_text import cell, value_cell
from davlo.files.rewrite.yaml_text import flow

from .seen_site import SeenSite
from .together import paths_of

MOST_BRANCHES = 60
"""With statements for more branches than this, they go into values.csv, to keep davlo.yaml readable."""
DECISIONS, PAGES, EXCEPTIONS = "davlo.yaml", "pages.csv", "values.csv"
_SECTIONS = ("settings", "layouts", "themes", "sidebars", "looks", "bands", "blocks", "people", "actions", "robots")
_NOTES = {
    "layouts": "Layouts with their areas, and the sidebars, bands and blocks that settings name.",
    "people": "Who looks after the site.",
    "everywhere": "What every page gets ...",
    "types": "... unless its type says otherwise ...",
    "pages": "... or a page above it. The statement nearest to the page wins.",
}


def site_texts(seen: SeenSite, decisions: Mapping[str, Raw], says: Sequence[Say]) -> dict[str, bytes]:
    """The files, by name.

    `seen`: the pages and their details. `decisions`: what davlo.yaml declares, by its sections. `says`: what is said.
    """
    of_branches = [say for say in says if say.scope.kind == ScopeKind.BELOW]
    as_rows = [say for say in says if say.scope.kind == ScopeKind.HERE]
    if len({say.scope.name for say in of_branches}) > MOST_BRANCHES:
        as_rows = [*of_branches, *as_rows]
        of_branches = []
    contents = {PAGES: _table(_page_list(seen)), SCHEMA: schema_text().encode()}
    if as_rows:
        contents[EXCEPTIONS] = _table(_rows(as_rows))
    lines = _decisions(decisions, says, of_branches, bool(as_rows))
    contents[DECISIONS] = "".join(f"{line}\n" for line in lines).encode("utf-8", "replace")
    return contents


def _page_list(seen: SeenSite) -> Iterator[Sequence[str]]:
    """The rows of pages.csv: the columns that say something."""
    names = [*STANDARD[1:], *(name for name in seen.details if name not in STANDARD)]
    paths = paths_of(PageNames(seen.url), seen.addresses)
    written = ["" if address == path else address for address, path in zip(seen.addresses, paths, strict=True)]
    details = {**seen.details, "address": written}
    columns = {name: details[name] for name in names if any(details.get(name, ()))}
    yield ["path", *columns]
    yield from zip(paths, *columns.values(), strict=True)


def _rows(says: Iterable[Say]) -> Iterator[Sequence[str]]:
    """The rows of values.csv."""
    yield [*VALUES]
    for say in says:
        value = cell(value_cell(raw_of(say.value)))
        for scope in say.scope.parts:
            word = "here" if scope.kind == ScopeKind.HERE else "below"
            yield [f"{word} {scope.name}", say.setting, value, "", ""]


def _table(rows: Iterable[Sequence[str]]) -> bytes:
    text = io.StringIO(newline="")
    csv.writer(text, lineterminator="\n").writerows(rows)
    return text.getvalue().encode("utf-8", "replace")


def _decisions(
    decisions: Mapping[str, Raw], says: Sequence[Say], of_branches: Sequence[Say], has_values: bool
) -> Iterator[str]:
    """The lines of davlo.yaml."""
    yield f"# yaml-language-server: $schema={SCHEMA}"
    yield "# Made from the site as it was. Lines that begin with # are notes; Davlo skips them."
    yield "davlo: 1"
    site = decisions["site"]
    assert isinstance(site, dict)
    values: dict[str, Raw] = {"values": [EXCEPTIONS]} if has_values else {}
    yield from _section("site", {**site, "page_list": PAGES, **values})
    if has_values:
        yield f"# {EXCEPTIONS} holds what single pages say; it is stronger than all that is said here."
    for section in _SECTIONS:
        body = decisions.get(section)
        if isinstance(body, dict) and body:
            yield from _section(section, body)
        elif isinstance(body, list):
            yield from _list(section, body)
    everywhere = _body(say for say in says if say.scope.kind == ScopeKind.EVERYWHERE)
    if everywhere:
        yield from _section("everywhere", everywhere)
    types = decisions.get("types", {})
    assert isinstance(types, dict)
    said_of = dict.fromkeys(say.scope.name for say in says if say.scope.kind == ScopeKind.TYPE)
    if types or said_of:
        found: dict[str, Raw] = {}
        for name in dict.fromkeys([*said_of, *types]):
            give = _body(say for say in says if say.scope.kind == ScopeKind.TYPE and say.scope.name == name)
            declared = types.get(name, {})
            label = {"label": name.replace("-", " ").capitalize()} if not give and not declared else {}
            found[name] = {
                **(declared if isinstance(declared, dict) else {}),
                **label,
                **({"give": give} if give else {}),
            }
        yield from _section("types", found)
    if of_branches:
        yield from _section("pages", _branches(of_branches))


def _section(name: str, entries: Mapping[str, Raw]) -> Iterator[str]:
    yield ""
    if name in _NOTES:
        yield f"# {_NOTES[name]}"
    yield f"{name}:"
    for key, value in entries.items():
        yield from _entry(key, value, "  ")


def _list(key: str, items: Sequence[Raw]) -> Iterator[str]:
    """A list in one line, or with a line for each item where that would be too long."""
    whole = f"{flow(key)}: {flow([*items])}"
    if len(whole) <= 120:
        yield from ("", whole)
        return
    yield from ("", f"{flow(key)}:")
    yield from (f"  - {flow(item)}" for item in items)


def _entry(key: str, value: Raw, indent: str) -> Iterator[str]:
    """An entry in one line, or in several where that would be too long."""
    whole = f"{indent}{flow(key)}: {flow(value)}"
    if len(whole) <= 120 or not isinstance(value, dict) or not value:
        yield whole
        return
    yield f"{indent}{flow(key)}:"
    for inner, one in value.items():
        yield from _entry(inner, one, f"{indent}  ")


def _body(says: Iterable[Say]) -> dict[str, Raw]:
    """What one scope says."""
    found: dict[str, Raw] = {}
    for say in says:
        family, _, member = say.setting.partition(".")
        if family in ACCESS_FAMILIES:
            of_family = found.setdefault(family, {})
            assert isinstance(of_family, dict)
            of_family[member] = raw_of(say.value)
        else:
            found[say.setting] = raw_of(say.value)
    return found


def _branches(says: Sequence[Say]) -> dict[str, Raw]:
    """The section `pages`: what branches say, by their page."""
    found: dict[str, dict[str, list[Say]]] = {}
    for say in says:
        found.setdefault(say.scope.name, {}).setdefault("here_and_below" if say.scope.both else "below", []).append(say)
    return {path: {key: _body(mine) for key, mine in bodies.items()} for path, bodies in sorted(found.items())}
