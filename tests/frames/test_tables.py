"""Tables as text against a plain way to write them: a row after the other, each asked for by itself."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from tests.core.resolve.test_fold import open_made_up
from tests.rows import long_rows, rows_of
from tests.sites import SiteDict, of_made_up_sites

import davlo
from davlo.access import Access
from davlo.core.arrays.texts import Texts
from davlo.core.outcomes.areas import AreaContent, blocks_in, composition, headings_of
from davlo.core.outcomes.link_lists import link_list
from davlo.core.outcomes.shown_values import ShownValues
from davlo.core.outcomes.sitemap.addresses import published
from davlo.core.outcomes.sitemap.sitemap_reasons import SITEMAP_REASONS
from davlo.core.records.page_record import page_record
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import json_value
from davlo.core.site.source import source_of
from davlo.frames import record_lines as records
from davlo.frames import text_columns, text_tables
from davlo.frames.json_text import json_text
from davlo.frames.record_lines import record_lines
from davlo.frames.text_tables import TextColumn, TextTable, as_csv, as_json, long_parts, wide


def plain_record(effective: davlo.Effective, page: int) -> dict[str, object]:
    site, shown, may = effective.site, ShownValues(effective), Access(effective).may
    path, parent = site.tree.paths[page], int(site.tree.parent[page])
    settings: dict[str, object] = {}
    sources: dict[str, object] = {}
    not_shown: dict[str, str] = {}
    for number, setting in enumerate(site.catalogue[n] for n in range(len(site.catalogue))):
        if site.has(number)[page]:
            settings[setting.name] = json_value(effective.value(page, number))
            source = source_of(site, int(effective.resolved(number).source[page]))
            sources[setting.name] = {
                "scope": str(source.scope),
                "file": source.file or None,
                "line": source.line or None,
                "locked": source.locked,
            }
            not_shown |= {setting.name: reason} if (reason := shown.reason(path, setting.name)) else {}
    return {
        "version": 1,
        "path": path,
        "details": {
            **{
                name: plain_detail(name, column[page])
                for name, column in site.details.columns.items()
                if name != "parent"
            },
            "parent": site.tree.paths[parent] if parent >= 0 else None,
            "depth": int(site.tree.depth[page]),
        },
        "settings": settings,
        "sources": sources,
        "not shown": not_shown,
        "outcomes": plain_outcomes(effective, page),
        "access": {
            action: [one for one in ("visitor", "signed-in", *site.people.names) if may(one, action, path)]
            for action in site.actions
        },
        "access of groups": {
            action: [one for one in site.people.groups if may(one, action, path)] for action in site.actions
        },
    }


def plain_detail(name: str, cell: str) -> object:
    """A cell of the page list as JSON has it."""
    if name == "tags":
        return [word.strip() for word in cell.split(";") if word.strip()]
    if name == "order" and cell:
        return int(float(cell)) if float(cell).is_integer() else float(cell)
    return cell if cell or name in ("title", "type", "status") else None


def plain_outcomes(effective: davlo.Effective, page: int) -> dict[str, object]:
    found, outcomes, made = effective.site.details, effective.outcomes, composition(effective, page)
    reason, proofs = SITEMAP_REASONS[int(outcomes.sitemap[page])], effective.site.ownership_proofs
    provided = [name for area in made.areas for name in headings_of(effective.site, area)]
    tags = [one.html for one in proofs if one.tag] if page == found.home else []
    return {
        "title": outcomes.titles[page],
        "heading": outcomes.headings[page],
        "headings": list(dict.fromkeys([*(["heading.text"] if outcomes.headings[page].strip() else ()), *provided])),
        "menu": {
            "shown": bool(outcomes.menu.shown[page]),
            "label": outcomes.labels[page],
            "reason": outcomes.not_in_menu[page] or None,
            **menu_place(effective, page),
        },
        "address": None if found.folder[page] else published(effective.site, np.array([page])).urls()[0],
        "alternates": alternates(effective, page) or None,
        "visitor may view": bool(outcomes.visible[page]),
        "may": list(outcomes.access.actions("visitor", page)),
        "sitemap": {"listed": not reason, "reason": reason or None},
        **({"head": tags} if tags else {}),
        "width": made.width or None,
        "areas": {area.area: [{"kind": kind, "name": name} for kind, name in area.stands] for area in made.areas},
        "shows": {area.area: shows(effective, page, area) for area in made.areas},
        "looks": {area.area: look(effective, area.look) for area in made.areas if area.look},
        "theme": {
            "name": made.theme.name if made.theme else None,
            "areas": {area.area: area.theme_name or None for area in made.areas},
            "instead": {area.area: area.instead.words for area in made.areas if not area.theme_name},
        },
        "phone": list(made.phone),
    }


def look(effective: davlo.Effective, name: str) -> dict[str, object]:
    declared = effective.site.declarations.looks[name]
    classes = {"whole": f"look-{name}", "each_block": f"look-{name}--each-block", "headings": f"look-{name}--headings"}
    return {"look": name, "classes": classes, **{part: dict(getattr(declared, part)) for part in classes}}


def alternates(effective: davlo.Effective, page: int) -> list[dict[str, str]]:
    """The alternates of a page's first address, in the sitemap of the whole site."""
    found = published(effective.site, np.flatnonzero(effective.outcomes.sitemap == 0))
    own = [number for number in range(len(found)) if int(found.page[number]) == page]
    told = next(filter(None, (found.alternates(number) for number in own)), [])
    return [{"language": language, "address": address} for language, address in told]


def menu_place(effective: davlo.Effective, page: int) -> dict[str, object]:
    """Where a page stands in the menu that a visitor meets, entry after entry."""
    site = effective.site
    language = site.details.language[page]
    links = list(link_list(effective.outcomes, "", language if language in site.languages else "").links())
    listed, home = {link.page for link in links}, site.details.home

    def place(path: str) -> str | None:
        above = (int(one) for one in reversed([*site.tree.ancestors(site.tree.number(path))]))
        return next((site.tree.paths[one] for one in above if one != home and site.tree.paths[one] in listed), None)

    counts = Counter[tuple[str | None, int]]()
    for link in links:
        key = (place(link.page), link.level)
        counts[key] += 1
        if link.page == site.tree.paths[page]:
            return {"above": key[0], "level": link.level, "position": counts[key]}
    return {"above": None, "level": None, "position": None}


def shows(effective: davlo.Effective, page: int, area: AreaContent) -> list[dict[str, object]]:
    """What a visitor meets in an area of a page, thing by thing."""
    declared = effective.site.declarations
    if not area.theme_name:
        if area.instead.block:
            return [thing(effective, page, "layout block", area.instead.block, (area.instead.block,))]
        return [{"kind": "area of the theme", "name": area.instead.area}] if area.instead.area else []
    found: list[dict[str, object]] = []
    for kind, name in area.stands:
        if kind == "own content":
            found.append({"kind": kind, "name": ""})
            continue
        told = thing(effective, page, kind, name, blocks_in(effective.site, kind, name))
        if kind in ("band", "sidebar"):
            if kind == "sidebar" and declared.sidebars[name].blank and "blocks" not in told:
                told["shows nothing"] = "blank on purpose"
            elif not area.screens:
                told = {"kind": kind, "name": name, "shows nothing": "on no screen"}
            elif "blocks" in told and area.screens != ("wide", "tablet", "phone"):
                told["screens"] = list(area.screens)
        found.append(told)
    return found


def thing(effective: davlo.Effective, page: int, kind: str, name: str, blocks: tuple[str, ...]) -> dict[str, object]:
    made = [one for one in (shown_block(effective, page, block) for block in blocks) if one]
    return {"kind": kind, "name": name, **({"blocks": made} if made else {"shows nothing": "nothing to show"})}


def shown_block(effective: davlo.Effective, page: int, name: str) -> dict[str, object]:
    """What a visitor meets in a block on a page; empty if it has nothing to show."""
    site, block = effective.site, effective.site.declarations.blocks[name]
    if block.kind == "one-of":
        some = [shown_block(effective, page, one) or {"block": one, "text": ""} for one in block.blocks]
        return {"block": name, "one of": some} if any(len(one) > 1 and one.get("text") != "" for one in some) else {}
    if block.kind == "text":
        return {"block": name, "text": block.text} if block.text.strip() else {}
    language = site.details.language[page]
    links = link_list(effective.outcomes, name, language if language in site.languages else "").links()
    told = [{"label": o.label, "to": o.page or o.address, "level": o.level} for o in links]
    return {"block": name, "links": told} if told else {}


def same_records(effective: davlo.Effective) -> None:
    written = b"".join(record_lines(effective)).decode("utf-8", "surrogatepass")
    pages = range(len(effective.site.tree))
    assert written.split("\n")[:-1] == [json_text(plain_record(effective, page)) for page in pages]
    one_by_one = [json_text(page_record(effective, page).as_json()) for page in pages]
    assert written.split("\n")[:-1] == one_by_one


@pytest.mark.exhaustive
def test_records_are_written_as_they_are_asked_for(garden: Path) -> None:
    same_records(davlo.open_site(garden).resolve())


@of_made_up_sites(4)
def test_records_of_made_up_sites_are_written_as_they_are_asked_for(site: SiteDict) -> None:
    same_records(open_made_up(site).resolve())


@of_made_up_sites(4)
def test_what_is_written_in_parts_is_what_is_written_at_once(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    whole = [b"".join(record_lines(effective)), *map(b"".join, _long_texts(effective))]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(records, "PART", 3)
        patch.setattr(text_tables, "PART", 3)
        patch.setattr(text_columns, "BLOCK", 2)
        patch.setattr(text_columns, "MOST_WORDS", 4)
        assert [b"".join(record_lines(effective)), *map(b"".join, _long_texts(effective))] == whole


def _long_texts(effective: EffectiveModel) -> tuple[Iterator[bytes], Iterator[bytes]]:
    return as_csv(long_parts(effective)), as_json(long_parts(effective))


@of_made_up_sites(4)
def test_json_and_csv_hold_the_same_rows(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    for parts in ([wide(effective)], [*long_parts(effective)]):
        found = json.loads(b"".join(as_json(parts)))
        cells = [cell for row in rows_of(*parts) for cell in row]
        values = [value for row in found for value in row.values()]
        assert [(one, cell) for one, cell in zip(values, cells, strict=True) if not reads(one, cell)] == []
        assert all(tuple(row) == parts[0].header for row in found)
    by_page = {row[0]: row[1:] for row in rows_of(wide(effective))}
    names = wide(effective).header[1:]
    told = {(path, name): value for path, name, value, *_ in long_rows(effective)}
    for path, row in by_page.items():
        assert {name: value for name, value in zip(names, row, strict=True) if (path, name) in told} == {
            name: told[path, name] for name in names if (path, name) in told
        }


def reads(value: object, cell: str) -> bool:
    """Whether a value of JSON is what a cell of CSV says: in its own type, and null for nothing or none."""
    if isinstance(value, bool):
        return cell == ("yes" if value else "no") or (cell == "" and not value)
    if isinstance(value, int | float):
        return float(cell) == value
    if isinstance(value, list):
        return "; ".join(value) == cell
    return cell in ("", "none") if value is None else value == cell


def test_odd_cells_read_back() -> None:
    odd = ['a "b", c', "two\nlines", "cr\rhere", " space", "été", "\x9b2J", "\u202eback", ""]
    numbers = np.arange(len(odd), dtype=np.int32)
    table = TextTable(("path", "value"), [TextColumn(numbers, Texts.of(odd)), TextColumn(numbers, odd)], len(odd))
    text = b"".join(table.json()).decode()
    assert rows_of(table) == [tuple(row.values()) for row in json.loads(text)] == [(one, one) for one in odd]
    assert not set(text) & {"\x9b", "\u202e"}
    plain = io.StringIO()
    csv.writer(plain, lineterminator="\r\n").writerows([table.header, *((one, one) for one in odd)])
    assert b"".join(table.csv()).decode() == plain.getvalue().replace("\r\n", "\n")
