"""`davlo page`: pages are added, moved and dropped, and all that names them follows or is told."""

from __future__ import annotations

import csv
import io
import re
import sys
from pathlib import Path

import pyarrow
import pyarrow.parquet
import pytest

import davlo
from tests.conftest import Run, contents, write_small


def test_a_page_is_added_with_its_stamps_and_its_owner(own: Path, run: Run) -> None:
    before = contents(own)
    words = ("page", "add", "/visit/picnic", "--type", "event", "--by", "ida.marsh", "--draft", "--today", "2026-05-01")
    got = run(*words, "menu.show=no", "--site", str(own))
    assert got.out.splitlines()[:2] == [
        "add the page /visit/picnic; set menu.show to no on /visit/picnic",
        "no page changes, 1 page is new; nobody gains or loses anything",
    ]
    assert contents(own) == before
    assert run(*words, "menu.show=no", "--write", "--site", str(own)).status == 0
    site = davlo.open_site(own)
    page = site.resolve()["/visit/picnic"]
    assert (page["page.owner"], page["blocks.content"], page["menu.show"]) == ("ida.marsh", ("booking-link",), False)
    assert (
        site.details.title[site.tree.number("/visit/picnic")],
        bool(site.details.draft[site.tree.number("/visit/picnic")]),
    ) == ("Picnic", True)
    assert (own / "stamps.csv").read_text().splitlines()[-2:] == [
        "/visit/picnic,blocks.content,booking-link,2026-05-01,type event",
        "/visit/picnic,page.owner,ida.marsh,2026-05-01,",
    ]
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before


def test_many_pages_come_from_a_paste(own: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    paste = "path\ttitle\ttype\tmenu.show\n/visit/one\tOne\tevent\t\n/visit/two\tTwo\t\tno\n\t\t\t\n"
    monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(paste.encode())))
    got = run("page", "add", "--from", "-", "--write", "--site", str(own))
    assert got.status == 0, got.err
    effective = davlo.open_site(own).resolve()
    assert effective["/visit/one"]["blocks.content"] == ("booking-link",)
    assert effective["/visit/two"]["menu.show"] is False
    file = own.parent / "rows.csv"
    file.write_text("title,type\nA,event\n")
    got = run("page", "add", "--from", str(file), "--site", str(own))
    assert (got.status, "there is no column path" in got.err) == (2, True)


def test_what_is_required_is_asked_for(own: Path, run: Run) -> None:
    record = ("--type", "plant-record", "--detail", "language=en")
    got = run("page", "add", "/plants/trees/oak", *record, "--site", str(own))
    assert got.err == "note: a plant-record should set audio-guide (Audio guide track): add audio-guide=VALUE\n"
    got = run("page", "add", "/plants/trees/oak", *record, "audio-guide=oak.mp3", "--site", str(own))
    assert (got.status, got.err) == (0, "")


def test_a_branch_moves_and_all_that_names_it_follows(own: Path, run: Run) -> None:
    before = contents(own)
    addresses = own.parent / "moved.csv"
    words = ("page", "move", "/visit", "/come", "--site", str(own))
    got = run(*words, "--write", "--addresses", str(addresses))
    assert got.status == 0, got.err
    old, new = davlo.open_demo(), davlo.open_site(own)
    moved = [path for path in old.tree.paths if path == "/visit" or path.startswith("/visit/")]
    assert moved
    assert len(new.tree) == len(old.tree)
    effective = new.resolve()
    for path in moved:
        there = "/come" + path[len("/visit") :]
        assert effective[there]["sidebar.right"] == old.resolve()[path]["sidebar.right"]
    for name in ("davlo.yaml", "declared.yaml", "values.csv", "stamps.csv"):
        left = [line for line in (own / name).read_text().splitlines() if "/visit/" in line and "#" not in line]
        assert [line for line in left if "/visit/parking" not in line] == []
    kinds = {one.kind for one in new.check().findings}
    assert kinds - {one.kind for one in old.check().findings} == set()
    rows = list(csv.DictReader(addresses.open()))
    assert {"old": "https://quillmere.example/visit/maps", "new": "https://quillmere.example/come/maps"} in rows
    assert len(rows) == len(moved)
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before


def test_a_moved_page_is_one_page_in_the_reach() -> None:
    site = davlo.open_demo()
    reach = site.reach(davlo.Change().move_page("/visit/cafe", "/cafe"))
    assert (reach.new, reach.gone) == ((), ())
    assert reach.moved[0] == ("/visit/cafe", "/cafe")
    assert len(reach.moved) == 3
    rows = {(row.path, row.setting): (row.before, row.after) for row in reach.values()}
    assert rows["/visit/cafe", "sidebar.right"] == ("visit-planning", "main")


def test_two_states_know_a_page_that_moved_by_its_details(tmp_path: Path) -> None:
    rows = "path,title,type,created\n/,Home,,\n/a,One,page,2024-01-01\n/b,Two,page,2024-01-02\n/c,Two,page,2024-01-02\n"
    folders = []
    for name, text in (("old", rows), ("new", rows.replace("/a,", "/z,").replace("/b,", "/y,").replace("/c,", "/x,"))):
        (tmp_path / name).mkdir()
        folders.append(davlo.open_site(write_small(tmp_path / name, pages=text)))
    found = folders[0].difference(folders[1])
    assert (found.moved, found.gone, found.new) == ((("/a", "/z"),), ("/b", "/c"), ("/y", "/x"))


def test_globs_that_cannot_follow_are_listed(tmp_path: Path, run: Run) -> None:
    folder = write_small(tmp_path, "rules: [{name: Short, when: {path: /a/*}, give: {title.limit: 40}}]\n")
    got = run("page", "move", "/a", "/z", "--site", str(folder))
    assert (
        "Globs that match a page which moves: they stay as they are\n  /a/* in the rule Short (davlo.yaml:3)" in got.out
    )
    got = run("page", "move", "/a/b", "/z", "--site", str(folder))
    assert "title.limit  40      60     1      /a/b" in got.out


def test_a_page_is_dropped_with_what_is_set_for_it(own: Path, run: Run) -> None:
    before = contents(own)
    got = run("page", "drop", "/visit/tickets", "--site", str(own))
    assert "2 pages stand below /visit/tickets: drop them too with --branch, or move them first" in got.err
    got = run("page", "drop", "/visit/tickets", "--branch", "--write", "--site", str(own))
    assert got.status == 0
    assert "What else names it, and stays\n  /visit/tickets: the viewpoint" in got.out
    site = davlo.open_site(own)
    assert site.tree.find("/visit/tickets/members") < 0
    assert "/visit/tickets," not in (own / "values.csv").read_text()
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["add", "/visit/maps"], "there is a page /visit/maps already"),
        (["add"], "name the path of one page"),
        (["add", "/visit/new", "--type", "evnt"], "did you mean event?"),
        (["add", "/visit/new", "sidbar.right=main"], "there is no detail or setting 'sidbar.right'"),
        (["add", "/visit/new", "--detail", "language"], "--detail takes NAME=VALUE"),
        (["add", "/visit/new", "--parent", "/nowhere"], "there is no page '/nowhere'"),
        (["add", "/visit/new", "--by", "ida"], "there is no person 'ida'"),
        (["set", "/visit/maps", "status=gone"], "status takes live, draft or folder, not 'gone'"),
        (["set", "/visit/maps", "order=first"], "order takes a number, not 'first'"),
        (["set", "/visit/maps", "titel=Maps"], "did you mean title?"),
        (["set", "/visit/maps", "path=/maps"], "davlo page move /visit/maps /maps"),
        (["set", "/visit", "parent=/visit/maps"], "the parents go round in a circle"),
        (["move", "/visit/maps", "/visit/tickets"], "there is a page /visit/tickets already"),
        (["move", "/", "/home"], "the page / cannot be moved"),
        (["drop", "/nowhere"], "there is no page '/nowhere'"),
    ],
    ids=" ".join,
)
def test_what_cannot_be_done_says_why(garden: Path, run: Run, words: list[str], told: str) -> None:
    got = run("page", *words, "--site", str(garden))
    assert got.status == 2
    assert told in got.err


def test_where_the_page_list_is_no_csv_the_rows_are_printed(tmp_path: Path, run: Run) -> None:
    pytest.importorskip("pyarrow")
    import pyarrow
    import pyarrow.parquet

    folder = write_small(tmp_path, "")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(
        text.replace("languages: [en, fr]", "languages: [en, fr], page_list: pages.parquet")
    )
    pyarrow.parquet.write_table(
        pyarrow.table({"path": ["/", "/a", "/a/b"], "title": ["H", "A", "B"]}), folder / "pages.parquet"
    )
    got = run("page", "move", "/a", "/z", "--write", "--site", str(folder))
    assert got.status == 1
    assert "Davlo does not write pages.parquet. Enter there by hand:" in got.out
    assert "/a/b  set path to /z/b" in got.out
    assert got.out.startswith("move /a to /z\nno value changes; nobody gains or loses anything; 2 addresses change")
    got = run("page", "set", "/a", "title=New", "--as", "ida", "--site", str(folder))
    assert (got.status, "there is no person 'ida'" in got.err) == (2, True)


def test_who_may_change_the_tree(own: Path, run: Run) -> None:
    got = run("page", "drop", "/visit/maps", "--as", "ida.marsh", "--site", str(own))
    assert (got.status, "ida.marsh may not delete /visit/maps" in got.err) == (1, True)
    assert run("page", "add", "/press/new", "--as", "ida.marsh", "--site", str(own)).status == 0
    got = run("page", "set", "/visit/maps", "order=3", "--as", "ida.marsh", "--site", str(own))
    assert (got.status, "ida.marsh may not move /visit/maps" in got.err) == (1, True)
    assert run("page", "set", "/visit/maps", "title=Maps of it", "--as", "ida.marsh", "--site", str(own)).status == 0


def test_a_detail_that_the_page_list_has_no_column_for_gets_one(tmp_path: Path, run: Run) -> None:
    folder = tmp_path / "mine"
    davlo.start_site(folder)
    quoted = 'path,title\r\n/,"Home, and\r\nmore"\r\n\r\n/a,A'
    (folder / "pages.csv").write_bytes(quoted.encode())
    before, site = contents(folder), ("--site", str(folder))
    shown = run("page", "set", "/a", "order=2", "status=draft", *site).out
    assert shown.split("In the files\n")[1].splitlines()[:6] == [
        "  pages.csv",
        "      1 - path,title",
        "        + path,title,order,status",
        "      5 - /a,A",
        "        + /a,A,2,draft",
        "  and 1 row with a blank cell more",
    ]
    assert run("page", "set", "/a", "order=2", "status=draft", "--write", *site).status == 0
    text = (folder / "pages.csv").read_bytes().decode()
    assert text == 'path,title,order,status\r\n/,"Home, and\r\nmore",,\r\n\r\n/a,A,2,draft'
    assert run("page", "add", "/b", "--title", "B", "--detail", "tags=t1", "--write", *site).status == 0
    assert (folder / "pages.csv").read_bytes().decode().endswith("/a,A,2,draft,\r\n/b,B,,,t1\r\n")
    for _ in range(2):
        assert run("undo", "--write", *site).status == 0
    assert contents(folder) == before


def test_a_table_of_new_pages_reports_every_fault_with_its_line(own: Path, run: Run) -> None:
    rows = own / "new.csv"
    rows.write_text(
        "PATH,Titel,type,sidebar.right,parent\n/visit/x,X,evnt,quiet,\n/visit/x,,,,\n/visit,Q,,,\n/visit/z,,,quite,\n"
    )
    got = run("page", "add", "--from", str(rows), "--site", str(own))
    assert got.status == 2
    for said in (
        f"{rows}:1, column titel: there is no detail or setting 'titel'\n  did you mean title?",
        f"{rows}:2: there is no type 'evnt'\n  did you mean event?",
        f"{rows}:3: /visit/x has a row already, on line 2",
        f"{rows}:4: there is a page /visit already",
        f"{rows}:5: there is no sidebar 'quite'\n  did you mean quiet?",
        "5 faults in 1 file",
    ):
        assert said in got.err


def test_a_table_of_new_pages_shows_what_they_get(own: Path, run: Run) -> None:
    rows = own / "new.csv"
    rows.write_text("PATH,TITLE,Sidebar.Right,parent\n/fair,Fair,quiet,\n/stalls,Stalls,,/fair\n")
    words = ("page", "add", "--from", str(rows), "--draft", "--parent", "/events", "--site", str(own))
    told = run(*words)
    assert (told.status, "What 2 new pages get\n" in told.out) == (0, True)
    assert re.search(r"sidebar\.right +quiet +1 +/fair\n", told.out)
    assert run(*words, "--write").status == 0
    site = davlo.open_site(own)
    assert [site.tree.paths[int(site.tree.parent[site.page_number(page)])] for page in ("/fair", "/stalls")] == [
        "/events",
        "/fair",
    ]
    assert [site.page(page).details["status"] for page in ("/fair", "/stalls")] == ["draft", "draft"]


def test_what_is_entered_by_hand_is_told_whole(tmp_path: Path, run: Run) -> None:
    folder = write_small(tmp_path, "sidebars: {quiet: {blank: yes}}\nlayouts: {plain: {areas: [content, right]}}\n")
    pyarrow.parquet.write_table(pyarrow.table({"path": ["/", "/a"]}), folder / "pages.parquet")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("{name:", "{page_list: pages.parquet, name:"))
    got = run("page", "add", "/a/b", "sidebar.right=quiet", "--write", "--site", str(folder))
    assert (got.status, "nothing was written: Davlo does not write pages.parquet" in got.err) == (1, True), got.err
    site = f" --site {folder}"
    told = got.out.split("Then type:\n")[1].splitlines()
    assert told[0] == f"  davlo set sidebar.right=quiet --here /a/b --write{site}"
    assert told[1:] == [f"  davlo page restamp --new --write{site}", f"  davlo check{site}"]
