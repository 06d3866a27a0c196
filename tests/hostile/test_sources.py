"""Tables of other kinds: cells that cannot be read name their row, a query ends in time, no database is made."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import MINIMAL, Run

Small = Callable[..., Path]
ENDLESS = "with recursive n(i) as (select 1 union all select i + 1 from n) select '/' || i as path from n where i < 0"


def asking(folder: Path, page_list: str) -> Path:
    decisions = MINIMAL.replace("{name:", f"{{page_list: {page_list}, name:")
    (folder / "davlo.yaml").write_text(decisions, encoding="utf-8")
    return folder


def test_a_query_has_a_time_limit_that_can_be_set(
    small: Small, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    database = tmp_path / "pages.db"
    sqlite3.connect(database).close()
    database.write_bytes(b"")
    monkeypatch.setenv("DAVLO_DATABASE_GARDEN", f"sqlite:///{database}")
    folder = asking(small(""), f'{{database: garden, query: "{ENDLESS}", seconds: 1}}')
    got = run("check", "--site", str(folder))
    assert (got.status, "took longer than 1 seconds" in got.err, "seconds: 10" in got.err) == (2, True, True)


@pytest.mark.parametrize("address", ["sqlite:///{}", "sqlite:///file:{}?mode=rwc&uri=true", "sqlite:///{}?mode=rwc"])
def test_no_database_is_made(
    small: Small, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch, address: str
) -> None:
    monkeypatch.setenv("DAVLO_DATABASE_GARDEN", address.format(tmp_path / "new.db"))
    folder = asking(small(""), "{database: garden, query: select path from pages}")
    assert run("check", "--site", str(folder)).status == 2
    assert not (tmp_path / "new.db").exists()


def test_a_cell_of_parquet_that_cannot_be_read_names_its_row(small: Small, run: Run) -> None:
    pa = pytest.importorskip("pyarrow")
    parquet = pytest.importorskip("pyarrow.parquet")
    folder = asking(small(""), "pages.parquet")
    for cells, column in (
        (pa.array([1, 1 << 62], pa.timestamp("us")), "modified"),
        (pa.array([[{"a": 1}], []]), "tags"),
        (pa.array([b"a", b"\xff"], pa.binary()), "title"),
    ):
        parquet.write_table(pa.table({"path": ["/", "/a"], column: cells}), folder / "pages.parquet")
        got = run("check", "--site", str(folder))
        assert (got.status, f"column {column}" in got.err, "pages.parquet:" in got.err) == (2, True, True), got.err


def test_joined_addresses_are_checked_and_listed_once(small: Small, run: Run) -> None:
    rows = "loc,lastmod,priority\nhttps://small.example/a,,\nhttps://shop.example/1,2026-01-02,0.5\nhttps://shop.example/1,,\n"
    folder = small("sitemap: {add_addresses_from: [shop.csv]}\n", files={"shop.csv": rows})
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert (got.status, got.out.count("<loc>")) == (0, 4)
    assert (
        "2 addresses of other programs, there already and so listed once; the first: https://small.example/a (shop.csv:2)"
        in got.err
    )
    (folder / "shop.csv").write_text("loc,lastmod,priority\nhttps://[::1,2026-13-01,1e999\n", encoding="utf-8")
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert (got.status, got.err.count("shop.csv:2, column ")) == (2, 3)


@pytest.mark.parametrize(
    "url", ["https://[::1", "https://a b", "https://a:99999", "https://", "ftp://a", "https://a\u202e"]
)
def test_an_address_that_is_none_is_a_fault(small: Small, run: Run, url: str) -> None:
    folder = small("")
    decisions = MINIMAL.replace("https://small.example", url)
    (folder / "davlo.yaml").write_text(decisions, encoding="utf-8")
    got = run("sitemap", "--site", str(folder))
    assert (got.status, "url takes an address" in got.err) == (2, True)


@pytest.mark.parametrize("number", ["9" * 5000, "0." + "1" * 20000, "1e" + "9" * 5000, "-" + "9" * 5000])
@pytest.mark.parametrize("setting", ["title.limit", "sitemap.priority"])
def test_numbers_of_any_length_are_read_or_refused(small: Small, run: Run, setting: str, number: str) -> None:
    got = run("check", "--site", str(small(f"everywhere: {{{setting}: {number}}}\n")))
    assert (got.status, len(got.err) < 2000) == (2, True)


def test_ends_of_lines_in_capitals_and_other_spellings(small: Small, run: Run) -> None:
    folder = asking(small(""), "PAGES.CSV")
    (folder / "pages.csv").rename(folder / "PAGES.CSV")
    assert run("tree", "--site", str(folder)).status == 0


def test_a_pattern_has_so_few_placeholders_that_no_title_fills_a_machine(small: Small, run: Run) -> None:
    assert run("check", "--site", str(small(f'everywhere: {{title.pattern: "{"{title}" * 100}"}}\n'))).status in (0, 1)
    got = run("check", "--site", str(small(f'everywhere: {{title.pattern: "{"{title}" * 101}"}}\n')))
    assert (got.status, "title.pattern takes 100 placeholders and braces at most" in got.err) == (2, True)


@pytest.mark.parametrize(
    "query", ["select path into outfile '/tmp/x' from p", "select 1; drop table p", "delete from p"]
)
def test_a_query_that_does_more_than_read_is_refused(
    small: Small, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch, query: str
) -> None:
    database = tmp_path / "pages.db"
    database.write_bytes(b"")
    monkeypatch.setenv("DAVLO_DATABASE_GARDEN", f"sqlite:///{database}")
    got = run("check", "--site", str(asking(small(""), f'{{database: garden, query: "{query}"}}')))
    assert (got.status, "one statement that reads" in got.err) == (2, True)
