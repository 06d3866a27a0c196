"""`davlo start DIR --from TABLE`: a table whose values become defaults and exceptions."""

from __future__ import annotations

import csv
import gzip
import io
import os
import re
import sqlite3
import tempfile
from pathlib import Path

import openpyxl
import pytest

import davlo
from davlo.files.read.rows import pasted_rows
from davlo.frames.text_tables import wide
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites


def table_of(site: davlo.Site) -> bytes:
    """All effective values of a site, as `davlo export` prints them."""
    return b"".join(wide(site.resolve()).csv())


def cells_of(site: davlo.Site) -> dict[str, dict[str, str]]:
    """The cells of that table, by page and column; blank ones are left out."""
    rows = csv.DictReader(io.StringIO(table_of(site).decode("utf-8", "surrogatepass"), newline=""))
    return {row["path"]: {name: cell for name, cell in row.items() if cell} for row in rows}


@of_made_up_sites(4)
def test_a_table_of_any_site_gives_a_site_with_its_values(site: SiteDict) -> None:
    before = open_made_up(site)
    own = {setting.name: f"setting:{setting.name}" for setting in before.catalogue.settings if setting.own}
    with tempfile.TemporaryDirectory() as name:
        (Path(name) / "table.csv").write_bytes(table_of(before))
        davlo.start_site_from(Path(name) / "begun", [Path(name) / "table.csv"], meanings=own, url=before.url)
        after = davlo.open_site(Path(name) / "begun")
        with pytest.MonkeyPatch.context() as patch:  # as a large table is read
            patch.setattr(pasted_rows, "LARGE", 0)
            made = davlo.start_site_from(Path(name) / "large", [Path(name) / "table.csv"], meanings=own, url=before.url)
        assert all((Path(name) / "begun" / file).read_bytes() == text for file, text in made.contents.items())
    now = cells_of(after)
    for path, cells in cells_of(before).items():
        assert {name: now[path].get(name, "") for name in cells} == cells, path


def begun(folder: Path, *sources: str, **files: str) -> tuple[davlo.StartedSite, davlo.Site]:
    """A site that is begun from files with these contents."""
    for name, text in files.items():
        (folder / name.replace("_", ".")).write_text(text, encoding="utf-8")
    made = davlo.start_site_from(folder / "begun", [folder / name.replace("_", ".") for name in (sources or files)])
    return made, davlo.open_site(folder / "begun")


def test_the_gardens_own_table_is_said_with_as_few_statements(run: Run, garden: Path, tmp_path: Path) -> None:
    before = davlo.open_site(garden)
    run("export", "--to", str(tmp_path / "table.csv"), "--site", str(garden))
    own = [word for name in ("audio-guide", "best-seen") for word in ("--column", f"{name}=setting:{name}")]
    told = run("start", str(tmp_path / "begun"), "--from", str(tmp_path / "table.csv"), *own)
    assert told.status == 0
    said = re.search(r"(\d+) statements explain 9\d.\d % of 6,\d\d\d values; (\d+) exceptions on \d+ pages", told.out)
    assert said, told.out
    assert int(said[1]) + int(said[2]) <= 1.2 * len(before.statements)
    now = cells_of(davlo.open_site(tmp_path / "begun"))
    for path, cells in cells_of(before).items():
        assert {name: now[path].get(name) for name in cells} == cells
    files = {path.name for path in (tmp_path / "begun").iterdir()}
    assert files == {".davlo", "davlo.yaml", "davlo.schema.json", "pages.csv", "values.csv"}


def test_columns_are_known_by_other_words_by_near_names_and_by_their_cells(tmp_path: Path, run: Run) -> None:
    header = "Where,Page Title,Last modified,Sidebar,robots_index,menu.shwo,Locale,Seitentyp,visits"
    rows = "/,Home,2026-01-02,Main One,yes,yes,en,page,7\n/b,B,2026-01-03,Main One,no,no,fr,news,9\n"
    (tmp_path / "list.csv").write_text(f"{header}\n{rows}", encoding="utf-8")
    told = run(
        "start",
        str(tmp_path / "begun"),
        "--from",
        str(tmp_path / "list.csv"),
        "--column",
        "Seitentyp=type",
        "--name",
        "A",
    )
    assert told.status == 0, told.err
    lines = [re.split(r"  +", line.strip()) for line in told.out.splitlines()]
    became = {line[0]: line[1:] for line in lines if len(line) == 3 and line[0] != "pages"}
    assert became == {
        "column": ["became", "why"],
        "Where": ["path", "its cells are addresses"],
        "Page Title": ["title", "another word for it"],
        "Last modified": ["modified", "another word for it"],
        "Sidebar": ["sidebar.right", "another word for it"],
        "robots_index": ["robots.index", "the same name in another spelling"],
        "menu.shwo": ["menu.show", "spelled nearly like it"],
        "Locale": ["language", "another word for it"],
        "Seitentyp": ["type", "you said so"],
        "visits": ["visits", "no detail or setting has this name: kept as a detail of your own"],
    }
    site = davlo.open_site(tmp_path / "begun")
    effective = site.resolve()
    assert dict(effective["/b"]).items() >= {"sidebar.right": "main-one", "robots.index": False}.items()
    assert site.details.columns["visits"][site.tree.number("/b")] == "9"
    assert (site.name, site.types.names) == ("A", ["page", "news"])


def test_types_get_names_and_languages_are_listed(tmp_path: Path) -> None:
    rows = "/,Home Page,en,\n/b,home-page,en,\n/fr/b,Blog Post,fr,/b\n/c,,en,\n"
    _, site = begun(tmp_path, pages_csv=f"path,type,language,translates\n{rows}")
    kinds = [site.types.names[number] for number in site.details.type_of.tolist()]
    assert dict(zip(site.tree.paths.tolist(), kinds, strict=True)) == {
        "/": "home-page",
        "/b": "home-page-2",
        "/fr/b": "blog-post",
        "/c": "page",
    }
    assert site.types.declared["blog-post"].label == "Blog Post"
    assert site.languages == ("en", "fr")


def test_a_blank_cell_says_nothing(tmp_path: Path) -> None:
    made, site = begun(tmp_path, pages_csv="path,menu.show\n/,\n/a,no\n/b,\n/c,\n")
    assert [site.resolve()[path]["menu.show"] for path in ("/", "/a", "/b", "/c")] == [True, False, True, True]
    assert (made.values, made.exceptions, made.explained) == (1, 1, 0.0)


def test_a_nul_becomes_a_letter_that_files_can_hold(tmp_path: Path) -> None:
    _, site = begun(tmp_path, pages_csv="path,title.pattern,title\n/,A\0B,\0\n/b,C,D\n")
    assert (site.resolve()["/"]["title.pattern"], site.details.title[0]) == ("A\ufffdB", "\ufffd")


def test_what_cannot_be_used_is_left_out_and_told(tmp_path: Path) -> None:
    pages = (
        "url,modified,parent,order,robots.index,status\n"
        "https://a.example/,soon,,x,yes,\n"
        "https://a.example/b/,2026-01-01,https://a.example/gone,1,maybe,\n"
        "https://a.example/b,2026-02-01,,,no,sleeping\n"
        "https://other.example/c,,,,,\n"
    )
    made, site = begun(tmp_path, pages_csv=pages)
    lost = {remark.what: (remark.pages, remark.example) for remark in made.seen.lost}
    assert site.tree.paths.tolist() == ["/", "/b"]
    assert (site.url, site.details.columns["modified"].texts()) == ("https://a.example", ["", "2026-01-01"])
    assert lost["addresses that are not on https://a.example are left out"] == (1, "https://other.example/c")
    assert lost["the sources differ on modified; the first counts"] == (1, "2026-01-01 and 2026-02-01")
    assert lost["values of robots.index that it cannot take are left out"] == (
        1,
        "robots.index takes yes or no, not 'maybe'",
    )
    for name in ("modified", "order", "parent", "status"):
        assert lost[f"cells of {name} that cannot be used are left blank"][0] == 1


def test_a_workbook_and_a_database_are_read_as_a_table(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    rows = [("URL", "Title", "Sidebar"), ("/", "Home", "main"), ("/a", "=1+1", "main"), ("/b", "B", "slim")]
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append([f"'{cell}" if cell.startswith("=") else cell for cell in row])
    book.save(tmp_path / "pages.xlsx")
    one = davlo.start_site_from(tmp_path / "one", [tmp_path / "pages.xlsx"])
    with sqlite3.connect(tmp_path / "site.db") as database:
        database.execute("create table pages (URL, Title, Sidebar)")
        database.executemany("insert into pages values (?, ?, ?)", rows[1:])
    database.close()
    monkeypatch.setenv("DAVLO_DATABASE_LIVE", f"sqlite:///{tmp_path / 'site.db'}")
    query = "select URL, Title, Sidebar from pages"
    other = davlo.start_site_from(tmp_path / "other", ["database:live"], query=query)
    assert one.contents["davlo.yaml"] == other.contents["davlo.yaml"]
    assert (other.statements, other.exceptions) == (1, 1)


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["--from", "nothing.csv"], "nothing.csv: there is no such file or folder"),
        (["--from", "visits.csv"], "no column holds the addresses of pages"),
        (["--from", "visits.csv"], "say which: --column 'day=path'"),
        (["--from", "pages.csv", "--column", "Titel=title"], "--column names the column 'Titel', and no source has it"),
        (["--from", "pages.csv", "--column", "Title=titel"], "write title"),
        (
            ["--from", "pages.csv", "--column", "Title=type", "--column", "path=type"],
            "--column makes several columns type",
        ),
        (["--from", "folder", "--column", "Title=title"], "and no source has it"),
        (["--from", "pages.csv", "--areas", "good.yaml"], "it is for a folder of HTML pages"),
        (["--from", "pages.csv", "--column", "Title=setting:Big One"], "write lower-case words with - between"),
        (["--from", "pages.csv", "--column", "Title"], "--column takes THEIRS=OURS"),
        (["--from", "page.html"], "name the folder that holds the pages"),
        (["--from", "broken.xml"], "broken.xml:3: it is no XML that can be read"),
        (["--from", "feed.xml"], "it is no sitemap: its first element is rss"),
        (["--from", "database:live"], "a database needs a query"),
        (["--from", "nothing"], "it shows no page"),
        (["--from", "pipe.csv"], "it is no regular file"),
        (["--from", "head.csv"], "it shows no page"),
        (["--from", "pages.csv", "--areas", "parts.yaml"], "parts.yaml:1: areas: right takes a CSS selector"),
        (["--from", "pages.csv", "--query", "select 1"], "--query needs --from database:NAME"),
        (["--from", "pages.csv", "--url", "a.example"], "--url takes an address that begins with https://"),
        (["--column", "a=b"], "--column needs --from"),
    ],
)
def test_a_mistake_is_told_and_nothing_is_written(
    tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch, words: list[str], told: str
) -> None:
    monkeypatch.chdir(tmp_path)
    files = {
        "pages.csv": "path,Title\n/,Home\n",
        "visits.csv": "day,visits\n2026-01-01,7\n",
        "page.html": "<title>A</title>",
        "broken.xml": "<urlset>\n<url>\n</urlset>",
        "feed.xml": "<rss/>",
        "good.yaml": "areas: {right: div.side}\n",
        "head.csv": "path,title\n",
        "parts.yaml": "areas: {right: 'div..side'}\n",
    }
    for name, text in files.items():
        (tmp_path / name).write_text(text, encoding="utf-8")
    (tmp_path / "nothing").mkdir()
    (tmp_path / "folder").mkdir()
    (tmp_path / "folder" / "a.html").write_text("<title>A</title>", encoding="utf-8")
    os.mkfifo(tmp_path / "pipe.csv")
    outcome = run("start", "begun", *words)
    assert (outcome.status, told in " ".join(outcome.err.split())) == (2, True), outcome.err
    assert not (tmp_path / "begun").exists()


def test_a_sitemap_tells_pages_and_those_that_it_leaves_out(tmp_path: Path) -> None:
    space = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9" xmlns:x="http://www.w3.org/1999/xhtml"'
    index = "".join(
        f"<sitemap><loc>https://a.example/maps/{name}</loc></sitemap>" for name in ("one.xml.gz", "gone.xml")
    )
    (tmp_path / "sitemap.xml").write_text(f"<sitemapindex {space}>{index}</sitemapindex>", encoding="utf-8")
    links = '<x:link rel="alternate" hreflang="en" href="https://a.example/b"/>'
    links += '<x:link rel="alternate" hreflang="fr" href="https://a.example/fr/b"/>'
    urls = (
        "<url><loc>https://a.example/</loc><priority>1.0</priority></url>"
        f"<url><loc>https://a.example/b</loc><lastmod>2026-01-02</lastmod>{links}</url>"
        f"<url><loc>https://a.example/fr/b</loc><changefreq>Weekly</changefreq>{links}</url>"
    )
    (tmp_path / "one.xml.gz").write_bytes(gzip.compress(f"<urlset {space}>{urls}</urlset>".encode()))
    (tmp_path / "list.csv").write_text("path,title\n/,Home\n/b,B\n/fr/b,Le B\n/hidden,Hidden\n", encoding="utf-8")
    made = davlo.start_site_from(tmp_path / "begun", [tmp_path / "list.csv", tmp_path / "sitemap.xml"])
    site = davlo.open_site(tmp_path / "begun")
    effective = site.resolve()
    assert [effective[path]["sitemap.include"] for path in ("/", "/b", "/hidden")] == [True, True, False]
    assert [effective[path]["sitemap.priority"] for path in ("/", "/b")] == [1, 0.5]
    assert effective["/fr/b"]["sitemap.changefreq"] == "weekly"
    details = {
        name: site.details.columns[name][site.tree.number("/fr/b")] for name in ("language", "translates", "title")
    }
    assert (site.languages, details) == (("en", "fr"), {"language": "fr", "translates": "/b", "title": "Le B"})
    assert "gone.xml" in [remark.example for remark in made.seen.lost]
