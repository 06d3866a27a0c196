"""`davlo page refresh` brings the page list up to date, and leaves decisions alone; `page add` looks around itself."""

from __future__ import annotations

import json
import shlex
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.change.differences.same_state import what_differs
from tests.conftest import Run, contents
from tests.start.built_garden import SELECTORS, build_garden

TODAY = """URL,Page title,Type,Keywords,Season,sidebar.right
https://quillmere.example/visit,Visit us,landing,,winter,main
https://quillmere.example/visit/tickets/,Tickets,,prices,,
/visit/picnic,Picnic in the garden,event,outdoors; food,summer,quiet
/cakes,Members' cakes,unheard-of,,,
https://elsewhere.example/x,X,,,,
"""


@pytest.fixture
def today(tmp_path: Path) -> str:
    (tmp_path / "today.csv").write_text(TODAY, encoding="utf-8")
    return str(tmp_path / "today.csv")


def test_what_is_new_or_differs_is_written_and_taken_back(own: Path, run: Run, today: str) -> None:
    before, site = contents(own), davlo.open_site(own)
    got = run("page", "refresh", "--from", today, "--write", "--site", str(own))
    assert got.status == 0, got.err
    after = davlo.open_site(own)
    visit, picnic = (after.tree.number(path) for path in ("/visit", "/visit/picnic"))
    details = after.details
    assert (details.title[visit], details.column("Season")[visit]) == ("Visit us", "winter")
    assert (details.tags[picnic], details.language[picnic]) == ("outdoors; food", "en")
    assert after.types.names[details.type_of[after.tree.number("/cakes")]] == "unheard-of"
    assert len(after.tree) == len(site.tree) + 2
    assert after.resolve().source("/visit/picnic", "sidebar.right").scope.kind.word == "below"  # no decision came in
    assert {
        path for path, name in ((s.path, s.setting) for s in site.difference(after).values()) if path == "/"
    } == set()
    assert "Missing there (155 pages)" in got.out
    assert "Left alone, since they are settings: sidebar.right" in got.out
    assert "not on https://quillmere.example are left out (1 page" in got.out
    again = run("page", "refresh", "--from", today, "--site", str(own))
    assert again.out.startswith(f"The page list says all that {today} says.\n")
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before


def test_what_is_missing_is_dropped_if_that_is_asked_for(own: Path, run: Run, tmp_path: Path) -> None:
    table = tmp_path / "left.csv"
    rows = (own / "pages.csv").read_text(encoding="utf-8").splitlines(keepends=True)
    table.write_text("".join(row for row in rows if not row.startswith(("/press", "/visit/cafe,"))), encoding="utf-8")
    shown = run("page", "refresh", "--from", str(table), "--site", str(own))
    assert "The page list says all that" in shown.out
    assert "/visit/cafe\n" in shown.out.partition("with pages below that stay")[2]
    drop = next(line for line in shown.out.splitlines() if line.strip().startswith("davlo page refresh"))
    assert run(*shlex.split(drop)[1:], "--write", "--even-so").status == 0
    left = set(davlo.open_site(own).tree.paths.tolist())
    assert not any(path.startswith("/press") for path in left)
    assert "/visit/cafe" in left


def test_a_page_that_moved_is_told(garden: Path, run: Run, tmp_path: Path) -> None:
    table = tmp_path / "moved.csv"
    table.write_text("path,title\n/food/cafe-menu,Café menu\n", encoding="utf-8")
    title = davlo.open_site(garden).details.title[davlo.open_site(garden).tree.number("/visit/cafe/menu")]
    table.write_text(f"path,title\n/food/cafe-menu,{title}\n", encoding="utf-8")
    got = run("page", "refresh", "--from", str(table), "--format", "json", "--site", str(garden))
    found = json.loads(got.out)
    assert found["moved"] == [["/visit/cafe/menu", "/food/cafe-menu"]]
    assert len(found["missing"]) > 100
    assert "/food/cafe-menu" in str(found["pages"])


def test_a_site_is_up_to_date_with_its_own_page_list_and_sitemap(own: Path, run: Run) -> None:
    sitemap = own.parent / "sitemap.xml"
    assert run("sitemap", "--to", str(sitemap), "--site", str(own)).status == 0
    for source in (own / "pages.csv", sitemap):
        found = davlo.refresh_change(davlo.open_site(own), [source])
        details = {cell[1] for step in found.change.steps for cell in getattr(step, "cells", ())}
        assert (found.new, details) == ((), set()), source


@pytest.mark.exhaustive
def test_the_built_pages_of_a_site_change_nothing_and_a_title_changed_there_is_taken(own: Path, tmp_path: Path) -> None:
    site, public, areas = davlo.open_site(own), tmp_path / "public", tmp_path / "areas.yaml"
    built = build_garden(site, public)
    areas.write_text(SELECTORS, encoding="utf-8")
    found = davlo.refresh_change(site, [public], areas=areas)
    assert (found.change.steps, found.new, found.remarks) == ((), (), ())
    assert {*found.missing, *found.above} == {*site.tree.paths.tolist()} - {*built}
    page = public / "visit" / "shop" / "index.html"
    text = page.read_text(encoding="utf-8")
    title = site.details.title[site.tree.number("/visit/shop")]
    page.write_text(text.replace(title, "Our shop"), encoding="utf-8")
    (public / "visit" / "maps" / "index.html").unlink()
    found = davlo.refresh_change(site, [public], areas=areas, drop_missing=True)
    step = found.change.steps[-1]
    assert step.cells == (("/visit/shop", "title", "Our shop"),)  # type: ignore[attr-defined]
    assert "/visit/maps" in step.gone  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ((), "what you have of the pages"),
        (("--column", "a=title"), "--column needs --from"),
        (("--from", "no-such.csv"), "there is no such file or folder"),
        (("--from", "{table}", "--query", "select 1"), "--query needs --from database:NAME"),
        (("--from", "{table}", "--column", "Nowhere=title"), "no source has it"),
        (("--from", "{bad}"), "status takes live, draft or folder, not 'published'"),
        (("--from", "{lost}"), "/not/there"),
    ],
)
def test_what_cannot_be_refreshed_from_says_why(
    own: Path, run: Run, tmp_path: Path, today: str, words: tuple[str, ...], told: str
) -> None:
    (tmp_path / "bad.csv").write_text("path,status\n/visit,published\n", encoding="utf-8")
    (tmp_path / "lost.csv").write_text("path,parent\n/visit/new,/not/there\n", encoding="utf-8")
    before = contents(own)
    at = {"table": today, "bad": str(tmp_path / "bad.csv"), "lost": str(tmp_path / "lost.csv")}
    got = run("page", "refresh", *(word.format(**at) for word in words), "--write", "--site", str(own))
    assert (got.status, told in got.err) == (2, True), got.err
    assert contents(own) == before


def test_an_editor_refreshes_only_what_they_may_edit(own: Path, run: Run, today: str) -> None:
    before = contents(own)
    got = run("page", "refresh", "--from", today, "--as", "tomas.vell", "--write", "--site", str(own))
    assert (got.status, "tomas.vell may not" in got.err) == (1, True)
    assert contents(own) == before


def test_a_new_page_takes_language_and_type_of_its_neighbours(own: Path, run: Run) -> None:
    where = ("--site", str(own))
    got = run(
        "page", "add", "/plants/trees/walnut", "season+=winter,autumn", "blocks.content+=donate", "--write", *where
    )
    assert got.status == 0, got.err
    assert "note: language en, as /plants/trees above it has; type plant-record, as all 8 pages beside" in got.err
    site = davlo.open_site(own)
    page = site.tree.number("/plants/trees/walnut")
    assert (site.details.language[page], site.types.names[site.details.type_of[page]]) == ("en", "plant-record")
    assert site.details.column("season")[page] == "winter; autumn"
    assert "donate" in str(site.resolve()["/plants/trees/walnut"]["blocks.content"])
    shown = run("show", "--new", "/plants/trees/oak", *where)
    assert "Plant record, live, under /plants/trees, en" in shown.out
    assert run("page", "add", "/plants/trees/oak", "language=", "--type", "page", "--write", *where).err == ""
    site = davlo.open_site(own)
    assert site.details.language[site.tree.number("/plants/trees/oak")] == ""


def test_the_preview_of_a_page_shows_the_whole_of_it(garden: Path, run: Run) -> None:
    out = run("page", "add", "/visit/picnic", "--site", str(garden)).out
    told = out.partition("What /visit/picnic will be\n")[2].partition("\n\n")[0]
    names = [line[2:].split("  ")[0] for line in told.splitlines()]
    assert names[:3] == ["details", "document title", "heading"]
    assert {"layout", "area right", "may"} <= {*names}
    assert "ida.marsh, noor.haddad: view, edit, create" in told


def test_details_of_pages_are_lists_too_and_new_columns_are_made(own: Path, run: Run) -> None:
    where = ("--site", str(own))
    before = davlo.open_site(own)
    assert run("page", "set", "/visit/maps", "tags+=new,old", "colour=red", "--write", *where).status == 0
    assert run("page", "set", "/visit/maps", "tags-=old", "--write", *where).status == 0
    site = davlo.open_site(own)
    page = site.tree.number("/visit/maps")
    assert site.details.tags[page].split("; ")[-1] == "new"
    assert site.details.column("colour")[page] == "red"
    for words, told in (
        (("tittle=x",), "did you mean title?"),
        (("sidebar.right=main",), "davlo set sidebar.right=main --here /visit/maps"),
        (("tags+=a", "tags=b"), "said twice"),
        (("+=a",), "takes NAME=VALUE"),
    ):
        got = run("page", "set", "/visit/maps", *words, *where)
        assert (got.status, told in got.err) == (2, True), got.err
    for _ in range(2):
        assert run("undo", "--write", *where).status == 0
    assert what_differs(before, davlo.open_site(own)) == ""


def test_pages_of_a_table_take_the_language_above_where_it_has_no_such_column(
    own: Path, run: Run, tmp_path: Path
) -> None:
    table = tmp_path / "more.csv"
    table.write_text("path,title,mood\n/fr/un,Un,calm\n/visit/two,Two,\n", encoding="utf-8")
    got = run("page", "add", "--from", str(table), "--write", "--site", str(own))
    assert (got.status, "2 pages of" in got.err) == (0, True), got.err
    details, tree = davlo.open_site(own).details, davlo.open_site(own).tree
    assert [details.language[tree.number(path)] for path in ("/fr/un", "/visit/two")] == ["fr", "en"]
    assert details.column("mood")[tree.number("/fr/un")] == "calm"


def test_a_small_site_without_languages_says_nothing_of_them(small: Callable[..., Path], run: Run) -> None:
    assert run("page", "add", "/a/new", "--site", str(small(""))).err == ""
