"""A page list in a real PostgreSQL server; `make test-sql` starts one."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path

import pandas as pd
import pytest
import sqlalchemy

import davlo
from tests.conftest import Run
from tests.files.read.test_sources import DECISIONS, ROWS, database_site, told

ADDRESS = os.environ.get("DAVLO_TEST_POSTGRESQL", "")
pytestmark = pytest.mark.skipif(not ADDRESS, reason="it needs a server: make test-sql")
TYPES = {
    "order": "numeric",
    "modified": "date",
    "tags": "text[]",
    "heading.show": "boolean",
    "sitemap.priority": "real",
}
VALUES = {"tags": [["a", "b"], [], None, None], "heading.show": [None, False, None, True]}
Small = Callable[..., Path]


@pytest.fixture
def pages(monkeypatch: pytest.MonkeyPatch) -> Iterator[sqlalchemy.Engine]:
    """The rows as a table of the server, with a function that writes into it."""
    engine = sqlalchemy.create_engine(ADDRESS)
    columns = {name: VALUES.get(name, [None if cell == "" else cell for cell in cells]) for name, cells in ROWS.items()}
    with engine.begin() as connection:
        declared = ", ".join(f'"{name}" {TYPES.get(name, "text")}' for name in ROWS)
        connection.exec_driver_sql(f"drop table if exists pages; create table pages (number int, {declared})")
        marks = ", ".join(["%s"] * (len(ROWS) + 1))
        for number, row in enumerate(zip(*columns.values(), strict=True)):
            connection.exec_driver_sql(f"insert into pages values ({marks})", (number, *row))
        connection.exec_driver_sql(
            "create or replace function wipe() returns text language plpgsql volatile as "
            "$$ begin delete from pages; return '/'; end $$"
        )
    monkeypatch.setenv("DAVLO_DATABASE_GARDEN_LIVE", ADDRESS)
    yield engine
    engine.dispose()


def test_a_page_list_in_postgresql(small: Small, pages: sqlalchemy.Engine) -> None:
    plain = told(davlo.open_site(small(DECISIONS, pd.DataFrame(ROWS).to_csv(index=False))))
    assert told(davlo.open_site(database_site(small))) == plain


def test_very_many_rows(small: Small, pages: sqlalchemy.Engine) -> None:
    query = "select '/' || n as path, 'It''s 50% ' || n as title from generate_series(1, 25000) as n order by n"
    site = davlo.open_site(database_site(small, query))
    assert (len(site.tree), site.tree.paths[24_999], site.details.title[0]) == (25_000, "/25000", "It's 50% 1")


REFUSED = {
    "select wipe() as path": "cannot execute DELETE in a read-only transaction",
    "with gone as (delete from pages returning path) select * from gone": "must not contain data-modifying statements",
    "select 1; commit; delete from pages": "one statement that reads",
    "select 1) as x; commit; delete from pages; select * from (select 1": "one statement that reads",
    "copy pages to program 'true'": "one statement that reads",
    "select path from nowhere": 'relation "nowhere" does not exist',
}


@pytest.mark.parametrize("query", REFUSED)
def test_a_query_changes_nothing(query: str, small: Small, pages: sqlalchemy.Engine, run: Run) -> None:
    found = run("tree", "--site", str(database_site(small, query)))
    assert found.status == 2
    assert REFUSED[query] in found.err
    with pages.connect() as connection:
        assert connection.exec_driver_sql("select count(*) from pages").scalar() == len(ROWS["path"])


@pytest.mark.parametrize("wrong", ["password", "port", "host", "database"])
def test_a_server_that_cannot_be_reached_is_not_named(
    wrong: str, small: Small, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    url = sqlalchemy.make_url(ADDRESS)
    others = {
        "password": url.set(password="hidden"),
        "port": url.set(port=1),
        "host": url.set(host="hidden.example"),
        "database": url.set(database="hidden"),
    }
    address = others[wrong].render_as_string(hide_password=False)
    monkeypatch.setenv("DAVLO_DATABASE_GARDEN_LIVE", address)
    found = run("tree", "--site", str(database_site(small)))
    assert (found.status, "cannot be reached" in found.err) == (2, True)
    for word in (url.password, str(url.port), "127.0.0.1", "hidden"):
        assert str(word) not in found.err


def test_a_query_ends_in_time(small: Small, pages: sqlalchemy.Engine, run: Run) -> None:
    folder = Path(database_site(small, "select path from pages where pg_sleep(60) is not null"))
    decisions = (folder / "davlo.yaml").read_text(encoding="utf-8")
    (folder / "davlo.yaml").write_text(decisions.replace("database: garden.live", "seconds: 1, database: garden.live"))
    got = run("check", "--site", str(folder))
    assert (got.status, "took longer than 1 seconds" in got.err) == (2, True), got.err
