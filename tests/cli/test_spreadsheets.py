"""People's spreadsheets: a table goes out with chosen pages and settings, and what they change in it comes back."""

from __future__ import annotations

import csv
import io
import json
import shutil
import zipfile
from pathlib import Path

import openpyxl
import pyarrow.parquet as pq
import pytest

import davlo
from davlo.core.change.cell_changes import cell_changes
from davlo.files.read.rows.pasted_rows import read_pasted
from davlo.frames.text_tables import wide
from tests.conftest import Ask, Run, contents, write_small
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

CHOSEN = ["--when", "type=event", "--having", "sidebar.right=whats-on", "--columns", "menu.show,sidebar.right"]


def rows_of(file: Path) -> list[list[str]]:
    """The cells of a workbook's first sheet."""
    sheet = openpyxl.load_workbook(file).worksheets[0]
    return [[cell or "" for cell in row] for row in sheet.iter_rows(values_only=True)]


def test_a_table_of_some_pages_and_settings_is_that_part_of_the_whole(
    ask: Ask, run: Run, garden: Path, tmp_path: Path
) -> None:
    whole = list(csv.DictReader(io.StringIO(ask("export"))))
    site = davlo.open_site(garden)
    effective, is_event = site.resolve(), site.mask_when(["type=event"])
    events = {path for page, path in enumerate(site.tree.paths.tolist()) if is_event[page]}
    chosen = {path for path in events if effective[path]["sidebar.right"] == "whats-on"}
    names = ("path", "menu.show", "sidebar.right")
    expected = [{name: row[name] for name in names} for row in whole if row["path"] in chosen]
    assert len(expected) > 5
    assert list(csv.DictReader(io.StringIO(ask("export", *CHOSEN)))) == expected
    typed = [{**row, "menu.show": row["menu.show"] == "yes"} for row in expected]
    assert json.loads(ask("export", *CHOSEN, "--format", "json")) == typed
    lines = [json.loads(line) for line in ask("export", *CHOSEN, "--format", "jsonl").splitlines()]
    assert [(one["path"], set(one["settings"])) for one in lines] == [(row["path"], set(names[1:])) for row in expected]
    long = list(csv.DictReader(io.StringIO(ask("export", *CHOSEN, "--long"))))
    assert [(row["path"], row["setting"]) for row in long] == [(row["path"], n) for row in expected for n in names[1:]]
    run("export", *CHOSEN, "--to", str(tmp_path / "t.parquet"), "--site", str(garden))
    table = pq.read_table(tmp_path / "t.parquet").select(names).to_pylist()
    assert table == typed
    run("export", *CHOSEN, "--long", "--to", str(tmp_path / "l.parquet"), "--site", str(garden))
    assert pq.read_table(tmp_path / "l.parquet").num_rows == len(long)
    run("export", *CHOSEN, "--to", str(tmp_path / "t.xlsx"), "--site", str(garden))
    header, *rows = rows_of(tmp_path / "t.xlsx")
    assert header == ["path", "title", *names[1:]]
    assert [[row[0], *row[2:]] for row in rows] == [list(row.values()) for row in expected]


def test_a_workbook_is_text_is_the_same_each_time_and_tells_what_settings_mean(
    run: Run, garden: Path, tmp_path: Path
) -> None:
    for name in ("one.xlsx", "two.xlsx"):
        run("export", "--to", str(tmp_path / name), "--site", str(garden))
    assert (tmp_path / "one.xlsx").read_bytes() == (tmp_path / "two.xlsx").read_bytes()
    book = openpyxl.load_workbook(tmp_path / "one.xlsx")
    pages, settings = book.worksheets
    assert (pages.title, pages.freeze_panes, pages.auto_filter.ref, settings.title) == (
        "pages",
        "C2",
        pages.dimensions,
        "settings",
    )
    assert {cell.data_type for row in pages.iter_rows() for cell in row if cell.value is not None} == {"s"}
    told = {row[0]: row for row in settings.iter_rows(min_row=2, values_only=True)}
    assert told["sidebar.right"][3].startswith("main; ")
    assert set(told) == {cell.value for cell in pages[1]} - {"path", "title", "type", "language", "status"}
    assert pages.column_dimensions["B"].width > pages.column_dimensions["D"].width


def test_what_looks_like_a_formula_is_text(tmp_path: Path, run: Run) -> None:
    folder = write_small(tmp_path, "everywhere: {title.pattern: '=1+1'}\n")
    (folder / "pages.csv").write_text("path,title\n/,=cmd|' /C calc'!A0\n", encoding="utf-8")
    assert run("export", "--to", str(tmp_path / "t.xlsx"), "--site", str(folder)).status == 0
    row = openpyxl.load_workbook(tmp_path / "t.xlsx")["pages"][2]
    assert [(cell.value, cell.data_type) for cell in (row[1], row[7])] == [("=cmd|' /C calc'!A0", "s"), ("=1+1", "s")]


@of_made_up_sites(5)
def test_a_table_that_nobody_changed_changes_nothing(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    table = read_pasted(b"".join(wide(effective).csv()), "table.csv")
    found = cell_changes(effective, table.columns, table.rows, "table.csv")
    assert (found.change.steps, found.blank, found.ignored) == ((), (), ())


def test_what_people_change_comes_back_as_a_change(own: Path, tmp_path: Path, run: Run) -> None:
    file, before, site = tmp_path / "t.xlsx", contents(own), ("--site", str(own))
    run("export", "--to", str(file), *site)
    book = openpyxl.load_workbook(file)
    sheet = book["pages"]
    header = [cell.value for cell in sheet[1]]
    cells = {row[0].value: dict(zip(header, row, strict=True)) for row in sheet.iter_rows(min_row=2)}
    cells["/visit/maps"]["menu.show"].value = False  # as a spreadsheet program keeps it
    cells["/visit/maps"]["sitemap.priority"].value = 0.9
    cells["/visit/opening-times"]["sitemap.changefreq"].value = None
    cells["/visit/cafe"]["heading.show"].value = None
    book.save(file)
    told = run("set", "--from", str(file), "--because", "Agreed in May", *site)
    assert told.out.startswith("158 rows: 3 cells to set, 8,")
    assert "1 cell is blank where the page sets nothing itself" in told.out
    assert run("set", "--from", str(file), "--because", "Agreed in May", "--write", *site).status == 0
    effective = davlo.open_site(own).resolve()
    assert (effective["/visit/maps"]["menu.show"], effective["/visit/maps"]["sitemap.priority"]) == (False, 0.9)
    assert effective.why("/visit/maps", "menu.show").winner.because == "Agreed in May"
    assert effective.source("/visit/opening-times", "sitemap.changefreq").scope == davlo.Scope.everywhere()
    assert run("set", "--from", str(file), *site).out.startswith("158 rows: 0 cells to set")
    assert run("undo", "--write", *site).status == 0
    assert contents(own) == before


WRONG = [
    ("path,menu.show\n/visit/mpas,no\n", "there is no page '/visit/mpas'\n  did you mean /visit/maps?"),
    ("path,menu.show\n/visit/maps,perhaps\n", "t.csv:2, column menu.show: "),
    ("path,menu.show\n/visit/maps,no\n/visit/maps/,no\n", "t.csv:3: /visit/maps/ has a row already, on line 2"),
    ("path,menu.show,menu.show\n/visit/maps,no,no\n", "there are two columns menu.show"),
    ("path,audio-guide\n/visit/maps,12\n", "/visit/maps does not have audio-guide: leave it blank"),
    ("title\nMaps\n", "there is no column path"),
    ("path,menu.show\n,no\n", "t.csv:2: the row names no page"),
]


@pytest.mark.parametrize(("text", "told"), WRONG)
def test_a_mistake_in_a_table_is_said_with_its_place(
    text: str, told: str, garden: Path, tmp_path: Path, run: Run
) -> None:
    (tmp_path / "t.csv").write_text(text, encoding="utf-8")
    got = run("set", "--from", str(tmp_path / "t.csv"), "--site", str(garden))
    assert (got.status, told in got.err) == (2, True), got.err


@pytest.mark.parametrize("broken", ["empty", "cut", "zip", "bomb"])
def test_a_workbook_that_cannot_be_read_is_said(broken: str, garden: Path, tmp_path: Path, run: Run) -> None:
    file = tmp_path / "t.xlsx"
    run("export", "--to", str(file), "--columns", "menu.show", "--site", str(garden))
    if broken == "cut":
        file.write_bytes(file.read_bytes()[:900])
    elif broken in ("zip", "bomb"):
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as parts:
            for number in range(6 if broken == "bomb" else 1):
                parts.writestr(f"xl/worksheets/sheet{number}.xml", bytes(100_000_000 if broken == "bomb" else 9))
    else:
        file.write_bytes(b"PK\x03\x04")
    got = run("set", "--from", str(file), "--site", str(garden))
    assert (got.status, "Traceback" in got.err) == (2, False)
    assert ("bytes once it is unpacked" if broken == "bomb" else "cannot be read as a workbook") in got.err


@pytest.mark.parametrize(
    ("table", "says"),
    [
        (
            "path,sidebar.rigth\n/visit/maps,quiet\n",
            "column sidebar.rigth: the column sidebar.rigth is neither a setting nor a detail\n  name it sidebar.right",
        ),
        ("path|title\n/visit/maps|x\n", "separate the cells with commas, semicolons or tabs, not with '|'"),
        (
            'path,blocks.content\n/visit/maps,"donate, booking-link"\n',
            "the items of a list are separated by semicolons: donate; booking-link",
        ),
    ],
)
def test_a_table_that_is_nearly_right_says_so(own: Path, run: Run, table: str, says: str) -> None:
    (own / "x.csv").write_text(table)
    got = run("set", "--from", str(own / "x.csv"), "--site", str(own))
    assert (got.status, says in got.err) == (2, True)


def test_an_edited_title_is_a_detail_to_set(own: Path, run: Run) -> None:
    (own / "x.csv").write_text("PATH;Title;Sidebar.Right\n/visit/maps;Where things are;\n/visit;;\n")
    got = run("set", "--from", str(own / "x.csv"), "--write", "--site", str(own))
    assert got.status == 0
    assert davlo.open_site(own).page("/visit/maps").details["title"] == "Where things are"
    assert davlo.open_site(own).page("/visit").details["title"] == "Visit"


def test_a_formula_without_its_value_is_refused(own: Path, run: Run) -> None:
    book = openpyxl.Workbook()
    book.active.append(["path", "title.limit"])
    book.active.append(["/visit/maps", "=20+20"])
    book.save(own / "x.xlsx")
    got = run("set", "--from", str(own / "x.xlsx"), "--site", str(own))
    assert (got.status, "x.xlsx:2, column title.limit: the value of a formula is not in the file" in got.err) == (
        2,
        True,
    )


def test_a_comparison_comes_as_a_workbook_for_people(own: Path, run: Run, tmp_path: Path) -> None:
    before, to = tmp_path / "before", tmp_path / "changes.xlsx"
    shutil.copytree(own, before)
    run("set", "sidebar.right=main", "title.pattern={title}", "--below", "/visit", "--write", "--site", str(own))
    assert run("compare", str(before), "--site", str(own), "--to", str(to)).status == 0
    book = openpyxl.load_workbook(to)
    told = json.loads(run("compare", str(before), "--site", str(own), "--format", "json").out)
    assert book.sheetnames[:2] == ["summary", "values"]
    assert book["values"].max_row == len(told["values"]) + 1
    for sheet in book:
        cells = [cell for row in sheet.iter_rows() for cell in row if cell.value is not None]
        assert {cell.data_type for cell in cells} == {"s"}
        assert (sheet.freeze_panes, sheet.auto_filter.ref is not None) == ("B2", True)
    shown = {row[0]: row[3:] for row in book["areas"].iter_rows(values_only=True, min_row=2) if row[2] == "shows.right"}
    assert shown["/visit/tickets"] == (
        "sidebar visit-planning (opening-times, getting-here, ticket-link)",
        "sidebar main (search-box, opening-times)",
    )
    assert run("compare", "--as", "visitor", "--as", "editors", "--site", str(own), "--to", str(to)).status == 0
    assert openpyxl.load_workbook(to).sheetnames == ["summary", "differences"]
    assert run("compare", str(own), "--site", str(own), "--to", str(to)).status == 0
    assert openpyxl.load_workbook(to).sheetnames == ["summary"]


@pytest.mark.parametrize("words", [["--to", "c.csv"], ["--to", "c.xlsx", "--format", "json"], ["--to", "pages.csv"]])
def test_a_comparison_writes_workbooks_alone(
    words: list[str], own: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(own)
    before = contents(own)
    got = run("compare", "--as", "visitor", "--as", "editors", *words)
    assert (got.status, "workbook" in got.err) == (2, True)
    assert contents(own) == before
