"""Page records for programs: their schema, as JSON lines and as Parquet, those that changed, and the looks as CSS."""

from __future__ import annotations

import datetime
import json
import tempfile
from pathlib import Path
from typing import Any

import jsonschema
import pyarrow.parquet as pq
import pytest
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

import davlo
from davlo.frames.record_changes import changed_record_lines
from davlo.frames.record_lines import record_lines
from davlo.frames.record_parquet import write_records
from davlo.frames.record_schema import record_schema

SCHEMA = jsonschema.Draft202012Validator(record_schema())


def records_of(site: davlo.Site, viewer: str = "visitor") -> list[dict[str, Any]]:
    """The records of all pages, read back."""
    return [json.loads(line) for line in b"".join(record_lines(site.resolve(), viewer=viewer)).splitlines()]


def without_nulls(value: Any) -> Any:
    """A value in which what is null, and what holds nothing else, is left out; maps and dates as JSON has them."""
    if isinstance(value, dict):
        found = {name: without_nulls(one) for name, one in value.items()}
        return {name: one for name, one in found.items() if one is not None} or None
    if isinstance(value, list) and value and all(isinstance(one, tuple) for one in value):
        return without_nulls(dict(value))
    if isinstance(value, list):
        return [without_nulls(one) for one in value] or None
    if isinstance(value, datetime.date):
        return value.isoformat()
    return value


def test_the_schema_is_one_and_the_garden_keeps_it() -> None:
    SCHEMA.check_schema(record_schema())
    for record in records_of(davlo.open_demo()):
        assert [*SCHEMA.iter_errors(record)] == [], record["path"]
    wrong = records_of(davlo.open_demo())[0]
    wrong["outcomes"]["menu"]["level"] = "1"
    assert [*SCHEMA.iter_errors(wrong)]


@of_made_up_sites(7)
def test_every_record_has_the_form_that_the_schema_says(site: SiteDict) -> None:
    for record in records_of(open_made_up(site)):
        assert [*SCHEMA.iter_errors(record)] == [], record["path"]


@of_made_up_sites(5)
def test_parquet_holds_the_same_records(site: SiteDict) -> None:
    opened = open_made_up(site)
    with tempfile.TemporaryDirectory() as folder:
        write_records(opened.resolve(), Path(folder) / "records.parquet")
        rows = pq.read_table(Path(folder) / "records.parquet").to_pylist()
    told = records_of(opened)
    for record in told:
        for things in record["outcomes"]["shows"].values():
            for thing in things:
                for block in thing.get("blocks", ()):
                    if "one of" in block:  # a block within a block is JSON there
                        block["one of"] = [json.dumps(one, ensure_ascii=False) for one in block["one of"]]
    assert [without_nulls(row) for row in rows] == [without_nulls(record) for record in told]


def test_types_are_types_in_parquet_and_json(garden: Path, run: Run) -> None:
    run("export", "--to", str(garden / "values.parquet"), "--site", str(garden))
    table = pq.read_table(garden / "values.parquet")
    kinds = {name: str(table.schema.field(name).type) for name in ("heading.show", "title.limit", "sitemap.priority")}
    assert kinds == {"heading.show": "bool", "title.limit": "int64", "sitemap.priority": "double"}
    row = json.loads(run("export", "--format", "json", "--site", str(garden)).out)[0]
    assert list(row)[:5] == ["path", "title", "type", "language", "status"]
    assert (row["heading.show"], row["title.limit"], row["access.everyone"], row["sidebar.left"]) == (
        False,
        60,
        ["view"],
        None,
    )


def test_records_that_changed_and_pages_that_are_gone() -> None:
    before = davlo.open_demo()
    change = davlo.Change().say("sidebar.right", "main", below="/visit/tickets").drop_page("/privacy")
    after = before.apply(change)
    lines = [
        json.loads(line) for line in b"".join(changed_record_lines(before.resolve(), after.resolve())).splitlines()
    ]
    old = {record["path"]: bare(record) for record in records_of(before)}
    new = {record["path"]: bare(record) for record in records_of(after)}
    differ = {path for path, record in new.items() if old.get(path) != record}
    assert {line["path"] for line in lines} == differ | {"/privacy"}
    assert lines[-1] == {"version": 1, "path": "/privacy", "gone": True}
    assert "/visit/tickets/groups" in differ
    assert differ != set(new)
    assert all([*SCHEMA.iter_errors(line)] == [] for line in lines)
    assert b"".join(changed_record_lines(before.resolve(), before.resolve())) == b""


def bare(record: dict[str, Any]) -> dict[str, Any]:
    """A record without the lines and files of its sources."""
    sources = {name: (one["scope"], one["locked"]) for name, one in record["sources"].items()}
    return {**record, "sources": sources}


def test_what_another_viewer_meets(garden: Path, run: Run) -> None:
    site = ["--site", str(garden)]
    mine = [json.loads(line) for line in run("export", "--records", "--as", "ida", *site).out.splitlines()]
    visitors = [json.loads(line) for line in run("export", "--records", *site).out.splitlines()]
    assert [one["path"] for one in mine] == [one["path"] for one in visitors]
    assert any(one["outcomes"]["may"] == ["view", "edit", "create"] for one in mine)
    assert all("edit" not in one["outcomes"]["may"] for one in visitors)


def test_the_looks_are_classes_of_a_style_sheet(garden: Path, run: Run, tmp_path: Path) -> None:
    run("export", "--to", str(tmp_path / "looks.css"), "--site", str(garden))
    css = (tmp_path / "looks.css").read_text(encoding="utf-8")
    for record in records_of(davlo.open_site(garden)):
        for look in record["outcomes"]["looks"].values():
            for part, name in look["classes"].items():
                assert not look[part] or f".{name} {{" in css
                assert all(f" {key}: {value};" in css for key, value in look[part].items())


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["--as", "ida"], "--as is about records: say --format jsonl, or --records --to FILE.parquet"),
        (["--records", "--format", "csv", "--to", "x.csv"], "--records is about records"),
        (["--records", "--format", "json"], "records have a line each: say --format jsonl, or leave --format out"),
        (["--long", "--to", "x.css"], "css has no rows of pages"),
        (["--to", "x.css", "--columns", "sidebar.right"], "a .css file holds all looks of the site"),
        (["--records", "--changed-since", "nowhere"], "nowhere is neither a site folder nor a revision of git"),
        (
            ["--records", "--changed-since", "HEAD", "--columns", "sidebar.right"],
            "--changed-since writes whole records",
        ),
    ],
)
def test_what_does_not_go_together_is_told(garden: Path, run: Run, words: list[str], told: str) -> None:
    found = run("export", *words, "--site", str(garden))
    assert found.status == 2
    assert told in found.err
