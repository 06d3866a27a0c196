"""Small files that unfold into very large ones: what is unpacked is bounded while it is, and the message names the bound."""

from __future__ import annotations

import gzip
import io
import re
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from openpyxl import Workbook

from davlo.files.built import sitemap_files
from davlo.files.read.rows import workbook_cells
from tests.conftest import MINIMAL, Run

Small = Callable[..., Path]
XMLNS = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"'


def workbook(path: Path, rows: bytes) -> Path:
    """A workbook with a header, a row, and other rows as they stand in its XML."""
    book = Workbook()
    book.active.append(["path", "title.limit"])
    book.active.append(["/a", 30])
    book.save(path)
    with (
        zipfile.ZipFile(io.BytesIO(path.read_bytes())) as parts,
        zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for part in parts.infolist():
            content = parts.read(part)
            is_sheet = part.filename.endswith("sheet1.xml")
            new.writestr(
                part.filename, content.replace(b"</sheetData>", rows + b"</sheetData>") if is_sheet else content
            )
    return path


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        (b'<row r="3"><c r="XFD3"><v>1</v></c></row>', "the row has 16384 cells, and the header 2"),
        (b'<row r="99999999"><c r="A99999999"><v>1</v></c></row>', "more than the 1,048,576 rows and 16,384 columns"),
        (b'<row r="3"><c r="ZZZ3"><v>1</v></c></row>', "columns that a sheet can have"),
        (b"<row><c><v>1</v></c></row>" * 2000, "more than 1,000 cells"),
        (b"".join(b'<row r="%d"><c r="ALL%d"><v>1</v></c></row>' % (n, n) for n in (3, 4)), "more than 1,000 cells"),
        (b"<row></row>" * 20_000, "has 2"),
    ],
)
def test_a_workbook(small: Small, run: Run, monkeypatch: pytest.MonkeyPatch, rows: bytes, says: str) -> None:
    monkeypatch.setattr(workbook_cells, "MOST_BYTES", 1 << 18)
    if "1,000" in says:
        monkeypatch.setattr(workbook_cells, "MOST_CELLS", 1000)
    folder = small()
    got = run("set", "--from", str(workbook(folder / "x.xlsx", rows)), "--site", str(folder))
    if says == "has 2":
        monkeypatch.setattr(workbook_cells, "MOST_BYTES", 1 << 16)
        got = run("set", "--from", str(folder / "x.xlsx"), "--site", str(folder))
        says = "bytes once it is unpacked, and Davlo reads 65,536"
    assert (got.status, says in got.err) == (2, True), got.err


URLS = "".join(f"<url><loc>https://small.example/{number}</loc></url>" for number in range(300))
SITEMAPS = {
    "itself": (f"<sitemapindex {XMLNS}>" + "<sitemap><loc>/x.xml</loc></sitemap>" * 150, "it lists itself"),
    "a circle": (
        f"<sitemapindex {XMLNS}><sitemap><loc>/y.xml</loc></sitemap>",
        "y.xml: it lists x.xml, which leads to it",
    ),
    "elements": (f"<urlset {XMLNS}>" + "<a/>" * 3000, "more than 2,000 elements"),
    "nested elements": (f"<urlset {XMLNS}>" + "<a><b/></a>" * 3000, "more than 2,000 elements"),
    "addresses": (f"<urlset {XMLNS}>{URLS}", "lists more than 200 addresses"),
    "bytes": (f"<urlset {XMLNS}>" + f"<!--{'x' * 5000}-->" * 100, "more than 100,000 bytes"),
    "depth": (f"<urlset {XMLNS}>" + "<a>" * 5000, "no XML that can be read"),
}


@pytest.mark.parametrize("packed", [False, True])
@pytest.mark.parametrize("name", SITEMAPS)
def test_a_sitemap(small: Small, run: Run, monkeypatch: pytest.MonkeyPatch, name: str, packed: bool) -> None:
    for bound, most in (("MOST_IN_FILE", 200), ("MOST_ELEMENTS", 2000), ("MOST_BYTES", 100_000)):
        monkeypatch.setattr(sitemap_files, bound, most)
    text, says = SITEMAPS[name]
    content = (text + ("</sitemapindex>" if "<sitemapindex" in text else "</urlset>")).encode()
    folder = small("sitemap: {add_addresses_from: [x.xml]}\n")
    (folder / "x.xml").write_bytes(gzip.compress(content) if packed else content)
    (folder / "y.xml").write_text(f"<sitemapindex {XMLNS}><sitemap><loc>/x.xml</loc></sitemap></sitemapindex>")
    for words in (
        ["sitemap", "--to", "-", "--site", str(folder)],
        ["start", str(folder / "n"), "--from", str(folder / "x.xml")],
    ):
        got = run(*words)
        assert (got.status, says in got.err) == (2, True), got.err


def test_a_sitemap_lists_each_part_once(small: Small, run: Run) -> None:
    folder = small("sitemap: {add_addresses_from: [x.xml]}\n")
    (folder / "x.xml").write_text(
        f"<sitemapindex {XMLNS}>{'<sitemap><loc>/y.xml</loc></sitemap>' * 2000}</sitemapindex>"
    )
    (folder / "y.xml").write_text(f"<urlset {XMLNS}>{URLS}</urlset>")
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert (got.status, got.out.count("<loc>")) == (0, 303)


@pytest.mark.parametrize("column", ["title", "path", "tags"])
def test_a_parquet_file(small: Small, run: Run, column: str) -> None:
    folder = small()
    (folder / "davlo.yaml").write_text(MINIMAL.replace("{name:", "{page_list: pages.parquet, name:"))
    rows = 60_000
    word = pa.DictionaryArray.from_arrays(pa.array([0] * rows, type=pa.int32()), ["/" + "x" * 16_000])
    columns = {"path": [f"/{number}" for number in range(rows)], column: word}
    pq.write_table(pa.table(columns), folder / "pages.parquet", compression="zstd", store_schema=False)
    assert (folder / "pages.parquet").stat().st_size < 1 << 20
    got = run("tree", "--site", str(folder))
    assert got.status == 2
    assert re.search(
        r"pages\.parquet: it has 9\d\d,\d\d\d,\d\d\d bytes once it is unpacked, and Davlo reads 536", got.err
    )
    pq.write_table(pa.table({"path": pa.repeat("/a", 6_000_000)}), folder / "pages.parquet")
    assert "6,000,000 rows once it is unpacked, and Davlo reads 5,000,000" in run("tree", "--site", str(folder)).err
    ends = pa.array(range(0, 200_000_001, 200_000), type=pa.int32())
    lists = pa.ListArray.from_arrays(ends, pa.repeat(True, 200_000_000))
    pq.write_table(pa.table({"path": [f"/{n}" for n in range(1000)], "tags": lists}), folder / "pages.parquet")
    assert "200,001,000 cells once it is unpacked" in run("tree", "--site", str(folder)).err


@pytest.mark.parametrize("comment", ["/**/", "/* a */", "/***/", "--\n", "-- a\n", " ", "/* -- */", "/*/*/"])
@pytest.mark.parametrize("end", ["x", "/*", "", "/", "select 1 from pages where", "selects", "*/ select 1"])
def test_a_query_of_very_many_comments(
    small: Small, run: Run, monkeypatch: pytest.MonkeyPatch, comment: str, end: str
) -> None:
    folder = small()
    sqlite3.connect(folder / "x.db").close()
    monkeypatch.setenv("DAVLO_DATABASE_X", f"sqlite:///{folder / 'x.db'}")
    query = (comment * (90_000 // len(comment)) + end).replace("\n", "\\n")
    source = f'{{page_list: {{database: x, query: "{query}"}}, name:'
    (folder / "davlo.yaml").write_text(MINIMAL.replace("{name:", source))
    got = run("tree", "--site", str(folder))
    assert got.status == 2
    is_query = end.startswith("select 1")
    says = "needs a query" if not (comment + end).strip() else "is one statement that reads"
    assert (says in got.err) != is_query
