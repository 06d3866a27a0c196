"""Each command on the garden: what it prints, and its exit status."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import sys
from collections.abc import Callable
from datetime import date
from pathlib import Path

import pyarrow.parquet as pq
import pytest

import davlo
from davlo.cli.command_list import COMMANDS
from davlo.core.findings.kinds.every_kind import KINDS
from davlo.demo import GARDEN
from tests.conftest import Ask, Run

Small = Callable[..., Path]


def test_tree_shows_a_branch_in_menu_order_with_columns(ask: Ask) -> None:
    lines = ask("tree", "/events", "--columns", "sidebar.right,layout.name").splitlines()
    assert lines[0].split() == ["page", "title", "type", "sidebar.right", "layout.name"]
    assert lines[1].split() == ["/events", "What's", "on", "landing", "main", "(not", "shown)", "plain"]
    assert [line.split("  What")[0][:18].rstrip() for line in lines[1:5]] == [
        "/events",
        "  /2026",
        "    /apple-day",
        "    /bluebell-walk",
    ]
    assert lines[-1] == "16 pages, 2 drafts among them"
    assert "listing, draft" in next(line for line in lines if "/2027" in line)


def test_tree_of_everything_names_every_page(ask: Ask) -> None:
    assert ask("tree").splitlines()[-1] == "158 pages, 5 drafts among them; 17 shown"
    assert ask("tree", "--all").splitlines()[-1] == "158 pages, 5 drafts among them"
    assert len(ask("tree", "--depth", "2").splitlines()) > 80
    rows = list(csv.DictReader(io.StringIO(ask("tree", "--format", "csv", "--columns", "audio-guide"))))
    assert len(rows) == 158
    assert {row["audio-guide"] for row in rows if row["type"] == "page"} == {""}
    assert json.loads(ask("tree", "/fr/contact", "--format", "json"))[0]["parent"] == "/fr"


def test_tree_of_chosen_pages(ask: Ask, run: Run, garden: Path) -> None:
    told = ask("tree", "--when", "type=event", "--when", "type=listing", "--when", "below=/events").splitlines()
    assert [line.split()[0] for line in told[1:4]] == ["/events/2026", "/apple-day", "/bluebell-walk"]
    assert told[-1] == "15 pages, 2 drafts among them"
    assert ask("tree", "--when", "made_with=potting-bench", "--when", "home=no", "--format", "csv").count("\n") == 6
    nothing = run("tree", "--when", "tag=nothing-has-it", "--site", str(garden))
    assert (nothing.status, nothing.out.strip()) == (0, "no page matches that")
    assert "no page has the tag 'nothing-has-it'" in nothing.err
    wrong = run("tree", "--site", str(garden), "--when", "typ=event", "--when", "type=evnt", "--when", "tag")
    assert wrong.status == 2
    for says in ("did you mean type?", "no type 'evnt'", "did you mean event?", "KEY=VALUE"):
        assert says in wrong.err
    assert "did you mean layout.theme?" in run("tree", "--site", str(garden), "--columns", "theme").err


def test_tree_to_a_depth_with_sources_and_marks(ask: Ask) -> None:
    told = ask("tree", "--depth", "1", "--columns", "sidebar.right,audio-guide", "--sources").splitlines()
    assert told[2].split("  ")[1:3] == ["/visit", "(+23)"]
    assert "main (everywhere)" in told[2]
    assert "none (type listing) *" in next(line for line in told if "/search" in line)
    assert "(not shown) sidebar.right on 13 pages: the layout plain has no area right" in told
    not_shown = [line for line in told if line.startswith(("(not shown)", "  …"))]
    assert [line for line in told[-10:] if line and line not in not_shown][-4:] == [
        "*: another value than the page above",
        "-: pages of this type do not have the setting",
        "(+N): N pages below are hidden. Name a branch to see them, or use --depth or --all",
        "158 pages, 5 drafts among them; 17 shown",
    ]
    rows = list(
        csv.DictReader(
            io.StringIO(
                ask("tree", "/visit", "--columns", "sidebar.right", "--sources", "--depth", "1", "--format", "csv")
            )
        )
    )
    assert rows[1]["source of sidebar.right"] == "below /visit"


def test_a_site_without_pages_is_no_traceback(small: Small, run: Run) -> None:
    folder = str(small(pages="path\n"))
    for words in (["tree"], ["export", "--format", "jsonl"], ["list"], ["access"], ["access", "--as", "visitor"]):
        assert run(*words, "--site", folder).status == 0
    assert run("tree", "--exceptions", "menu.show", "--site", folder).out.startswith("none of 0 pages are exceptions")
    assert run("tree", "--sources", "--site", folder).status == 2


def test_tree_shows_what_a_person_reads_of_very_many_pages(small: Small, run: Run) -> None:
    paths = ["/", *(f"/{i}" for i in range(300)), *(f"/{i}/{j}" for i in range(40) for j in range(9))]
    folder = str(small(pages="path\n" + "\n".join(paths) + "\n"))
    told = run("tree", "--site", folder).out.splitlines()
    assert len(told) == 34 + 4
    assert told[2].split() == ["/0", "(+9)", "page"]
    assert told[-1] == "661 pages; 34 shown"
    assert "pages at the end. Name a branch" in told[-2]
    assert len(run("tree", "--site", folder, "--all").out.splitlines()) == 661 + 3
    assert run("tree", "--site", folder, "--format", "csv").out.count("\n") == 662


def test_tree_of_exceptions_tells_the_reasons(ask: Ask, run: Run, garden: Path) -> None:
    told = ask("tree", "--exceptions", "menu.show").splitlines()
    assert told[:3] == [
        "no instead of yes (built-in) on 5 pages",
        "  /visit/thanks: the page itself says so: Only people who booked come here (davlo.yaml:83)",
        "  /campaigns: the page itself says so (davlo.yaml:89)",
    ]
    assert told[-1] == "5 of 158 pages are exceptions on menu.show"
    rows = list(
        csv.DictReader(io.StringIO(ask("tree", "/campaigns", "--exceptions", "sidebar.right", "--format", "csv")))
    )
    assert rows[0]["source"] == "rule Campaign pages show what to do"
    assert ask("tree", "/visit", "--exceptions", "title.limit").startswith(
        "none of 24 pages are exceptions on title.limit"
    )
    assert run("tree", "--site", str(garden), "--exceptions", "menu.show", "--depth", "2").status == 2


def test_show_tells_outcomes_first_then_what_was_said(ask: Ask) -> None:
    out = ask("show", "/visit/tickets")
    assert out.startswith("/visit/tickets  Tickets\nPage, live, under /visit, en, tags: prices\n")
    assert "document title      Tickets · Quillmere Botanic Garden" in out
    assert out.index("What a reader sees") < out.index("sidebar visit-planning") < out.index("Settings")
    assert "davlo.yaml:47 locked" in out
    assert "robots.index" not in out
    assert "robots.index" in ask("show", "/visit/tickets", "--all")
    assert "built-in" in ask("show", "Tickets", "--all")


@pytest.mark.parametrize(
    ("page", "says"),
    [
        ("/topics/bees", "not shown: cut off by /topics, which is not shown itself"),
        ("/events/2027", "left out: it is a draft"),
        ("/visit/thanks", "not shown: menu.show is no"),
        ("/campaigns/spring", "area menu       band menu-main (the theme calls it top-links)"),
        ("/staff/rota", "left out: a visitor may not view it"),
    ],
)
def test_show_says_why_not(page: str, says: str, ask: Ask) -> None:
    assert says in ask("show", page)


def test_show_for_programs(ask: Ask) -> None:
    record = json.loads(ask("show", "/plants/roses/dog-rose", "--format", "json"))
    assert record["settings"]["best-seen"]["value"] == ["summer"]
    assert record["settings"]["band.footer"]["locked"] is True
    line = next(x for x in ask("export", "--format", "jsonl").splitlines() if '"/plants/roses/dog-rose"' in x)
    assert record["outcomes"] == json.loads(line)["outcomes"]
    assert record["outcomes"]["sitemap"] == {"listed": True, "reason": None}
    rows = list(csv.reader(io.StringIO(ask("show", "/", "--format", "csv"))))
    assert ["title.pattern", "{site}", "here", "davlo.yaml:77", "yes"] in rows


def test_show_puts_pages_beside_each_other(ask: Ask) -> None:
    told = ask("show", "/visit/tickets", "/visit/maps").splitlines()
    assert told[0].split() == ["/visit/tickets", "/visit/maps"]
    rows = {line[1:].strip().split("  ")[0]: line[0] for line in told[1:] if line.strip()}
    assert [rows[name] for name in ("sidebar.left", "sidebar.right", "sitemap.priority", "tags")] == [
        "*",
        " ",
        "*",
        "*",
    ]
    assert "visit-planning (not shown) (here)" in next(line for line in told if "sidebar.left" in line)
    assert told[-1] == "* differs; - is not there. 11 of 32 differ."
    cells = list(csv.DictReader(io.StringIO(ask("show", "/visit/tickets", "/visit/maps", "--format", "csv"))))
    assert sum(row["differs"] == "*" for row in cells) == 11
    both = json.loads(ask("show", "/visit/tickets", "/visit/maps", "--format", "json"))
    assert [one["path"] for one in both] == ["/visit/tickets", "/visit/maps"]


def test_show_tells_what_a_new_page_would_get(ask: Ask, run: Run, garden: Path) -> None:
    told = ask("show", "--new", "/visit/late-picnic", "--type", "event", "--detail", "language=en")
    assert told.startswith("/visit/late-picnic  Late picnic\nEvent, live, under /visit, en, not there yet\n")
    assert "the page's own content, block booking-link" in told
    row = next(line for line in told.splitlines() if "blocks.content" in line)
    assert row.split("  ")[-1] == "davlo.yaml:59"  # a stamp's source is what it would be made from
    beside = ask(
        "show", "/visit/shop", "--new", "/visit/shop-2", "--title", "Garden shop", "--detail", "language=en"
    ).splitlines()
    assert next(line for line in beside if "sidebar.right" in line)[0] == " "
    assert ask("tree").splitlines()[-1].startswith("158 pages")  # nothing was written
    for words, says in (
        (["--new", "/visit"], "there is a page /visit already: davlo show /visit"),
        (["--new", "/a", "--type", "evnt"], "did you mean event?"),
        (["/visit", "--type", "event"], "say --new PATH too"),
        ([], "name a page by its path or title"),
    ):
        wrong = run("show", *words, "--site", str(garden))
        assert (wrong.status, says in wrong.err) == (2, True)


def test_why_shows_the_ladder(ask: Ask) -> None:
    lines = ask("why", "/visit/tickets", "sidebar.right").splitlines()
    assert lines[0] == "sidebar.right of /visit/tickets is visit-planning"
    assert [line.split()[0] for line in lines[4:7]] == ["built-in", "everywhere", ">"]
    assert lines[8] == "To change it"
    assert [line.split("  ")[-1].strip() for line in lines[10:13]] == ["1 page", "3 pages", "23 pages"]
    assert "davlo set sidebar.right=VALUE --below /visit " in lines[12]
    assert lines[13].endswith("51 pages; not this one: below /visit is stronger (davlo.yaml:79)")
    assert "no page: everywhere locks it (davlo.yaml:47)" in ask("why", "/visit/tickets", "band.footer")
    assert "that is there: its default is for new pages" in ask("why", "/events/2026/apple-day", "blocks.content")
    assert lines[6].startswith(">  below /visit  visit-planning  davlo.yaml:79")


@pytest.mark.parametrize(
    ("page", "setting", "says"),
    [
        (
            "/press/orangery",
            "band.footer",
            "overruled: everywhere locks band.footer (davlo.yaml:47); it would have given footer-press",
        ),
        ("/campaigns/spring", "sidebar.right", "preset bare  none            davlo.yaml:124 (preset: davlo.yaml:33)"),
        ("/campaigns/spring", "sidebar.right", 'because "The potting bench draws its own frame"'),
        (
            "/events/2026/seed-swap",
            "blocks.content",
            "the default of blocks.content is for new pages: an existing page keeps its stamp",
        ),
        ("/events/2026/seed-swap", "blocks.content", "booking-form"),
        ("/staff/rota", "access.editors", "fresh_access"),
        ("/staff/rota", "access.editors", "davlo set access.editors=VALUE --type page "),
        ("/press/orangery", "access.press-office", "wins"),
        ("/", "robots.index", "no statement sets it, so the built-in value stays"),
    ],
)
def test_why_names_what_decided(page: str, setting: str, says: str, ask: Ask) -> None:
    assert says in ask("why", page, setting)


def test_why_for_programs(ask: Ask) -> None:
    found = json.loads(ask("why", "/visit/tickets", "sitemap.priority", "--format", "json"))
    assert (found["value"], found["candidates"][-1]["file"]) == (0.9, "values.csv")
    assert found["candidates"][1]["value"].startswith("by depth: 1")
    assert "verdict,scope,value" in ask("why", "/", "menu.show", "--format", "csv")


def test_check_reports_what_was_put_into_the_garden(garden: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("LINES", "40")
    monkeypatch.setenv("COLUMNS", "100")
    outcome = run("check", "--site", str(garden))
    assert (outcome.status, outcome.err) == (1, "")
    lines = outcome.out.splitlines()
    found = json.loads(run("check", "--format", "json", "--site", str(garden)).out)
    assert "7 errors, 14 warnings, 13 notes (7 accepted)" in lines
    assert len(lines) <= 48  # a screen
    shown = [line.split()[:2] for line in lines if line.startswith(("error", "warning"))]
    assert shown == [[one["level"], one["name"]] for one in found][: len(shown)]
    assert len(shown) > 12
    assert lines[-1].strip() == f"davlo check --level note --all --site {garden}"
    whole = run("check", shown[0][1], "--site", str(garden))
    assert (whole.status, whole.out.startswith(f"error  lock-overrules  band.footer  {shown[0][1]}\n")) == (1, True)
    assert "edit:  lift the lock, changes 5 pages" in whole.out
    every = run("check", "--all", "--site", str(garden)).out.splitlines()
    assert [line.split()[1] for line in every if line.startswith(("error ", "warning ", "note "))] == [
        one["name"] for one in found
    ]
    told = [one["kind"] for one in found]
    assert set(found[0]) == {"kind", "name", "level", "setting", "pages", "statements", "message", "fix"}
    assert found[0]["statements"][0] == {
        "scope": "everywhere",
        "file": "davlo.yaml",
        "line": 47,
        "value": "footer-legal",
    }
    rows = list(csv.DictReader(io.StringIO(run("check", "--format", "csv", "--site", str(garden)).out)))
    assert [row["kind"] for row in rows] == told


@pytest.mark.parametrize(("level", "status"), [("error", 0), ("warning", 0), ("note", 1)])
def test_check_fails_from_the_level_on(level: str, status: int, small: Small, run: Run) -> None:
    decisions = "people: {names: [amber.finch]}\neverywhere: {access: {amber.finch: [edit]}, title.limit: 40}\n"
    folder = small(decisions + "pages: {/a: {here: {title.limit: 40}}}\n", "path,title\n/,Home\n/a,A\n")
    outcome = run("check", "--fail-on", level, "--site", str(folder))
    assert (outcome.status, outcome.out.splitlines()[0]) == (status, "1 note")


def test_check_is_quiet_when_all_is_well(small: Small, run: Run) -> None:
    decisions = "people: {names: [amber.finch]}\neverywhere: {access: {amber.finch: [edit]}}\n"
    outcome = run("check", "--site", str(small(decisions, "path,title\n/,Home\n")))
    assert (outcome.status, outcome.out) == (0, "nothing to report\n")


def test_access_of_a_page(ask: Ask) -> None:
    out = ask("access", "/members/pages/sefa-moana")
    assert "access.owner         view; edit  below /members/pages" in out
    assert "sefa.moana      view, edit" in out
    assert "owen.tarrant    view  " in out
    assert "visitor         (nothing)" in out
    assert "draft" in ask("access", "/events/2027")
    found = json.loads(ask("access", "/staff", "--format", "json"))
    assert found["may"]["tomas.vell"] == ["view"]


def test_access_as_someone(ask: Ask) -> None:
    out = ask("access", "--as", "visitor", "--all")
    assert "a visitor sees 137 of 158 pages" in out.splitlines()
    assert "/staff/noticeboard" in out
    assert "/staff/rota" not in out
    reasons = ask("access", "/staff/rota", "--as", "sefa.moana")
    assert "view    no   no access statement gives view to any of everyone, signed-in, sefa.moana, members" in reasons
    assert "access.staff gives it (below /staff, davlo.yaml:108)" in ask("access", "/staff/rota", "--as", "tomas.vell")
    assert "rowan.pike is an admin" in ask("access", "/staff/rota", "--as", "rowan.pike")


def test_access_of_everyone(ask: Ask) -> None:
    rows = {line.split()[0]: line.split()[1:3] for line in ask("access").splitlines()[3:]}
    assert rows["rowan.pike"] == ["158", "158"]
    assert rows["visitor"] == ["137", "0"]


def test_access_tells_what_is_closed_and_by_what(ask: Ask) -> None:
    told = ask("access", "--as", "visitor", "--in-branch", "/staff").splitlines()
    assert told[1].split() == ["/staff/noticeboard", "Noticeboard", "view"]
    assert told[-2:] == [
        "a visitor sees 1 of 9 pages",
        "  8 pages closed at davlo.yaml:105 (below /staff): /staff, /staff/glasshouse-log, /staff/handbook …",
    ]
    whole = ask("access", "--as", "visitor", "--all").splitlines()
    assert whole[-5] == "a visitor sees 137 of 158 pages"
    assert whole[-1].startswith("  4 pages are drafts, which only those who may edit them see: /events/2027")
    assert ask("access", "--as", "visitor", "--format", "csv").count("\n") == 138


def test_access_of_a_branch_and_who_may(ask: Ask, run: Run, garden: Path) -> None:
    told = ask("access", "--who-may", "edit", "--in-branch", "/staff").splitlines()
    assert [line.split()[:2] for line in told[1:5]] == [
        ["rowan.pike", "9"],
        ["ida.marsh", "9"],
        ["noor.haddad", "9"],
        ["tomas.vell", "1"],
    ]
    assert "access.owner (here, davlo.yaml:116)" in told[4]
    assert told[-1] == "4 may edit some of 9 pages"
    assert ask("access", "/staff/noticeboard", "--who-may", "view").endswith("11 may view /staff/noticeboard\n")
    rows = list(csv.DictReader(io.StringIO(ask("access", "--who-may", "edit", "--format", "csv"))))
    assert rows[0]["through"] == "an admin"
    branch = ask("access", "--in-branch", "/members").splitlines()
    assert "On how many of 9 pages each may act:" in branch
    for words, says in (
        (["--who-may", "edt"], "did you mean edit?"),
        (["--who-may", "edit", "--as", "visitor"], "leave out --as"),
        (["/staff", "--in-branch", "/staff"], "not both"),
    ):
        wrong = run("access", *words, "--site", str(garden))
        assert (wrong.status, says in wrong.err) == (2, True)


def test_table_wide_and_long(ask: Ask, garden: Path) -> None:
    wide = list(csv.DictReader(io.StringIO(ask("export"))))
    assert len(wide) == 158
    assert {row["path"]: row["sidebar.right"] for row in wide}["/visit/shop"] == "visit-planning"
    long = list(csv.DictReader(io.StringIO(ask("export", "--long"))))
    assert list(long[0]) == ["path", "setting", "value", "source", "locked", "file", "line"]
    footer = next(row for row in long if row["path"] == "/press" and row["setting"] == "band.footer")
    assert list(footer.values())[2:] == ["footer-legal", "everywhere", "yes", "davlo.yaml", "47"]
    effective = davlo.open_site(garden).resolve()
    assert len(long) == sum(len(page) for page in effective.values())
    typed = json.loads(ask("export", "--long", "--format", "json"))
    assert [(row["path"], row["setting"], row["source"]) for row in typed] == [
        (row["path"], row["setting"], row["source"]) for row in long
    ]
    footer = next(row for row in typed if row["path"] == "/press" and row["setting"] == "band.footer")
    assert list(footer.values())[2:] == ["footer-legal", "everywhere", True, "davlo.yaml", 47]


def test_table_records(ask: Ask) -> None:
    records = [json.loads(line) for line in ask("export", "--format", "jsonl").splitlines()]
    record = next(r for r in records if r["path"] == "/campaigns/spring")
    assert record["details"]["made_with"] == "potting-bench"
    assert record["settings"]["heading.show"] is False
    assert record["sources"]["heading.show"] == {
        "scope": "rule Hand-built pages run edge to edge",
        "file": "davlo.yaml",
        "line": 124,
        "locked": False,
    }
    assert record["outcomes"]["menu"] == {
        **{"shown": False, "label": "Spring at Quillmere", "reason": "menu.show is no"},
        **{"above": None, "level": None, "position": None},
    }
    assert record["outcomes"]["address"] == "https://quillmere.example/campaigns/spring"
    assert record["access"]["view"][:2] == ["visitor", "signed-in"]
    assert (record["outcomes"]["width"], record["outcomes"]["phone"][0]) == ("full", "masthead")


@pytest.mark.parametrize("ending", ["csv", "json", "jsonl", "parquet"])
def test_table_writes_a_file(ending: str, garden: Path, run: Run, tmp_path: Path) -> None:
    target = tmp_path / f"out.{ending}"
    outcome = run("export", "--to", str(target), "--site", str(garden))
    assert (outcome.status, outcome.out, outcome.err) == (0, "", f"wrote {target}\n")
    assert [path.name for path in tmp_path.iterdir()] == [target.name]
    if ending == "parquet":
        table = pq.read_table(target)
        assert table.num_rows == 158
        assert table["audio-guide"].null_count == 158 - 31
        rows = {row["path"]: row for row in table.to_pylist()}
        assert rows["/visit/shop"]["sidebar.right"] == "visit-planning"
        assert rows["/visit/shop"]["source of sidebar.right"] == "below /visit"
        effective = davlo.open_site(garden).resolve()
        for path, row in rows.items():
            for name in effective[path]:
                assert row[f"source of {name}"] == str(effective.source(path, name).scope)
    else:
        printed = run("export", "--format", ending, "--site", str(garden)).out
        assert target.read_text() == printed


def test_table_long_as_parquet_is_the_csv(garden: Path, run: Run, tmp_path: Path) -> None:
    target = tmp_path / "long.parquet"
    run("export", "--long", "--to", str(target), "--site", str(garden))
    rows = list(csv.DictReader(io.StringIO(run("export", "--long", "--site", str(garden)).out)))
    found = pq.read_table(target).to_pylist()
    assert [(r["path"], r["setting"], r["value"], r["source"]) for r in found] == [
        tuple(list(r.values())[:4]) for r in rows
    ]
    assert [(r["locked"], r["line"]) for r in found] == [
        (r["locked"] == "yes", int(r["line"]) if r["line"] else None) for r in rows
    ]


def test_sitemap_tells_how_many_and_why(ask: Ask) -> None:
    out = ask("sitemap")
    assert out.startswith("132 of 158 pages are in the sitemap.\n")
    assert "16  a visitor may not view it" in out
    rows = list(csv.DictReader(io.StringIO(ask("sitemap", "--left-out", "--format", "csv"))))
    assert len(rows) == 26
    search = next(row for row in rows if row["page"] == "/search")
    assert (search["reason"], search["source"], search["because"]) == ("sitemap.include is no", "here", "")


@pytest.mark.exhaustive
def test_demo_writes_the_garden_and_walks_through_it(run: Run, tmp_path: Path) -> None:
    folder = tmp_path / "new" / "garden"
    first = run("demo", str(folder))
    pictures = [folder / "two-pages.png", folder / "sidebars.png"]
    written = [*pictures, folder / "report.html"]
    told = "".join(f"wrote {file}\n" for file in written) + "open it in a browser: it needs no network\n"
    assert (first.status, first.err) == (0, told)
    assert {"davlo.yaml", "pages.csv"} < {path.name for path in folder.iterdir()}
    assert all(picture.read_bytes().startswith(b"\x89PNG") for picture in pictures)
    asked = [line for line in first.out.splitlines() if line.startswith("$ davlo ")]
    walk = ["tree", "list", "list", "show", "why", "why", "picture", "picture", "menus", "check", "access", "access"]
    walk += ["set", "set", "set", "mend", "mend", "page", "rename", "page", "undo", *["undo"] * 6]
    walk += ["sitemap", "crawler-files", "announce", "report"]
    assert [line.split()[2] for line in asked] == walk
    assert "davlo set sidebar.right=main --below /visit --site" in first.out  # what a command says to type is its own
    for path in GARDEN.iterdir():  # what the walk changed it took back, byte for byte
        assert not path.is_file() or (folder / path.name).read_bytes() == path.read_bytes()
    assert davlo.open_site(folder).writes() == []
    shown = run(*asked[1].split()[2:]).out
    assert shown in first.out
    decisions = (folder / "davlo.yaml").read_text() + "# mine\n"
    (folder / "davlo.yaml").write_text(decisions)
    again = run("demo", str(folder))
    assert "is a site already; its files are left as they are" in again.out
    assert "davlo undo" not in again.out  # a site that is somebody's own is not changed
    assert (folder / "davlo.yaml").read_text() == decisions
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "letter.txt").write_text("keep me")
    refused = run("demo", str(tmp_path / "full"))
    assert (refused.status, "holds other things" in refused.err) == (2, True)
    assert [path.name for path in (tmp_path / "full").iterdir()] == ["letter.txt"]


def test_who_sees_the_tree_as_someone_sees_what_they_may_view(ask: Ask) -> None:
    site = davlo.open_demo()
    access = site.access()
    for who in ("visitor", *site.people.names):
        rows = json.loads(ask("access", "--as", who, "--format", "json"))
        assert {row["page"] for row in rows} == set(access.pages(who, "view"))
        for row in rows[::7]:
            assert tuple(row["may"].split(", ")) == access.actions(who, row["page"])


def test_the_site_may_be_named_before_the_command(garden: Path, run: Run) -> None:
    assert run("--site", str(garden), "show", "/visit/tickets/").out.startswith("/visit/tickets  Tickets")


def test_the_nearest_folder_upwards_is_the_site(garden: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    (garden / "sub").mkdir(exist_ok=True)
    monkeypatch.chdir(garden / "sub")
    assert run("sitemap").out.startswith("132 of 158 pages")


@pytest.mark.parametrize("name", COMMANDS)
def test_every_command_has_help_with_an_example(name: str, run: Run) -> None:
    outcome = run(name, "--help")
    assert outcome.status == 0
    assert outcome.out.split("\n\n")[1].replace("\n  ", " ").strip() == COMMANDS[name]
    examples = outcome.out.split("Examples:\n")[1] if name != "page" else outcome.out.split("\nExamples:\n")[1]
    assert f"  davlo {name}" in examples


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["sidebars"], "to see them: davlo list sidebars"),
        (["menu"], "to see them: davlo menus"),
        (["list", "pages"], "to see them: davlo tree"),
        (["list", "/visit"], "/visit is a page: davlo show /visit"),
        (["list", "Sold-out"], "in quotes: davlo list 'Sold-out events leave the sitemap'"),
        (["list", "visitor"], "visitor is a viewer: davlo access --as visitor"),
        (["show", "opening-times"], "opening-times is a block: davlo list opening-times"),
        (["show", "sidebar.right"], "sidebar.right is a setting: davlo list sidebar.right"),
        (["access", "ida.marsh"], "what they may do: davlo access --as ida.marsh"),
        (["menus", "/visit"], "/visit is a page: davlo menus --on /visit"),
        (["menus", "main"], "main is a sidebar: davlo list main"),
        (
            ["tree", "--having", "type=event"],
            "type is a detail of the page list: choose pages by it with --when type=VALUE",
        ),
        (["tree", "--when", "sidebar.right=none"], "choose pages by what they get: --having sidebar.right=none"),
        (["picture", "--map", "edit", "--to", "x.png"], "a map of it: davlo picture --map may:edit"),
        (["why", "sidebar.right"], "what sets a setting anywhere: davlo list sidebar.right"),
        (["why", "/visit", "rules"], "to see them: davlo list rules"),
    ],
)
def test_what_somebody_would_try_first_says_what_to_type(words: list[str], says: str, run: Run, garden: Path) -> None:
    got = run(*words, *(["--site", str(garden)] if words[0] not in ("sidebars", "menu") else []))
    assert (got.status, got.out) == (2, "")
    assert says in got.err


@pytest.mark.parametrize(
    ("words", "completed"),
    [
        ("show {} /visit/ti", "/visit/tickets"),
        ("tree {} --columns layout.name,sidebar.r", "layout.name,sidebar.right"),
        ("list {} visit-p", "visit-planning"),
        ("list {} --fits mast", "masthead"),
        ("access {} --who-may mov", "move"),
        ("access {} --as vis", "visitor"),
        ("picture {} /visit/ma", "/visit/maps"),
        ("picture {} --map sidebar.l", "sidebar.left"),
    ],
)
def test_the_shell_completes(words: str, completed: str, garden: Path) -> None:
    told = f"davlo {words.format(f'--site {garden}')}"
    env = {"_DAVLO_COMPLETE": "bash_complete", "COMP_WORDS": told, "COMP_CWORD": str(len(told.split()) - 1)}
    found = subprocess.run([sys.executable, "-m", "davlo"], env=env, capture_output=True, text=True).stdout
    assert found.splitlines()[0] == f"plain,{completed}"


def test_module_version_and_pipe(garden: Path) -> None:
    python = [sys.executable, "-m", "davlo"]
    assert (
        subprocess.run([*python, "--version"], capture_output=True, text=True).stdout
        == f"davlo, version {davlo.__version__}\n"
    )
    shell = f"{' '.join(python)} export --long --site {garden} | head -1"
    piped = subprocess.run(shell, shell=True, capture_output=True, text=True)
    assert (piped.stdout, piped.stderr) == ("path,setting,value,source,locked,file,line\n", "")


def test_no_color(garden: Path) -> None:
    script = "import pty, sys; sys.exit(pty.spawn([sys.executable, '-m', 'davlo', 'check', '--site', sys.argv[1]]))"
    colored, plain = (
        subprocess.run(
            [sys.executable, "-c", script, str(garden)],
            capture_output=True,
            env={"TERM": "xterm", **more},
            stdin=subprocess.DEVNULL,
        ).stdout
        for more in ({}, {"NO_COLOR": "1"})
    )
    assert b"\x1b[31m" in colored
    assert b"\x1b[3" not in plain
    assert b"band.footer is locked" in plain


OWL_NIGHT = "/visit/schools/workshops/owl-night"
WHOLE = [
    (["tree", "--columns", "layout.name,sidebar.right", "--all"], ["/han…-tree  ", "plant-finder *"]),
    (["show", OWL_NIGHT], [f"  davlo show {OWL_NIGHT} --all\n", "    sitemap.changefreq "]),
    (["why", OWL_NIGHT, "band.footer"], [f"    davlo set band.footer=VALUE --here {OWL_NIGHT}\n"]),
    (
        ["why", OWL_NIGHT, "sidebar.right"],
        ["    davlo set sidebar.right=VALUE --type event\n", " whats-on        davlo.yaml:58  "],
    ),
]


@pytest.mark.parametrize(("words", "whole"), WHOLE)
def test_what_can_be_copied_stands_whole_in_80_columns(words: list[str], whole: list[str], garden: Path) -> None:
    out = in_80_columns(garden, *words)
    assert [one for one in whole if one not in out] == []


def test_a_setting_in_the_place_of_a_page_is_pointed_out(run: Run, garden: Path) -> None:
    outcome = run("tree", "sidebar.right", "--site", str(garden))
    assert (outcome.status, outcome.out) == (2, "")
    assert "davlo tree --columns sidebar.right" in outcome.err


def in_80_columns(folder: Path, *words: str) -> str:
    """What a command prints in a site folder, on a terminal of 80 columns."""
    script = "import pty, sys; sys.exit(pty.spawn([sys.executable, '-m', 'davlo', *sys.argv[1:]]))"
    return subprocess.run(
        [sys.executable, "-c", script, *words],
        capture_output=True,
        text=True,
        env={"TERM": "dumb", "COLUMNS": "80", "NO_COLOR": "1"},
        cwd=folder,
        stdin=subprocess.DEVNULL,
    ).stdout.replace("\r\n", "\n")


@pytest.mark.parametrize(
    "words", [["tree", "--columns", "layout.name"], ["show", "/visit/tickets"], ["why", "/", "layout.name"]]
)
def test_tables_fit_a_terminal_of_80_columns(words: list[str], garden: Path) -> None:
    out = in_80_columns(garden, *words)
    assert "Traceback" not in out
    assert max(len(line) for line in out.splitlines()) <= 80


def test_check_shows_what_is_asked_for_and_says_what_is_not_shown(ask: Ask, garden: Path, run: Run) -> None:
    def kinds(*words: str) -> set[str]:
        return {finding["kind"] for finding in json.loads(run("check", *words, "--format", "json", *site).out)}

    site = ("--site", str(garden))
    topics = {kind.name: kind.topic for kind in KINDS}
    assert kinds("--kind", "repeats-inherited", "--kind", "long-title") == {"repeats-inherited", "long-title"}
    assert {topics[kind] for kind in kinds("--topic", "access")} == {"access"}
    assert "repeats-inherited" not in kinds("--level", "warning")
    assert kinds("--page", "/staff/noticeboard") == {"open-below-closed", "guarantee-broken"}
    asked = json.loads(run("check", "--when", "below=/events/2026", "--format", "json", "--edits", *site).out)
    outdated = next(one for one in asked if one["kind"] == "outdated-stamp")
    assert len(outdated["pages"]) == 3
    assert all(page.startswith("/events/2026/") for one in asked for page in one["pages"])
    edits = [edit for way in outdated["ways"] for edit in way["edits"]]
    assert edits
    assert all("/events/2026/" in edit["new"] and date.today().isoformat() in edit["new"] for edit in edits)
    assert kinds("--when", "below=/campaigns") == {"rules-overlap", "area-missing-in-theme", "listed-but-unlinked"}
    assert kinds("--accepted") == {"repeats-inherited", "unlinked-page", "no-heading", "access-dropped"}
    assert "7 errors; 27 others filtered out" in run("check", "--level", "error", *site).out.splitlines()
    accepted = run("check", "--accepted", "--kind", "no-heading", *site).out
    assert "2 accepted findings; 5 others filtered out" in accepted
    rows = list(csv.DictReader(io.StringIO(run("check", "--long", "--format", "csv", *site).out)))
    assert [row["page"] for row in rows if row["kind"] == "missing-value"] == [
        "/plants/trees/wedding-cake-tree",
        "/plants/alpines/mountain-avens",
        "/plants/roses/burnet-rose",
    ]
    assert "/staff/noticeboard  error  guarantee-broken" in run("check", "--long", *site).out
    assert run("check", "--kind", "repeats-inherited", *site).status == 0
    wrong = run("check", "--kind", "repeats-inherit", *site)
    assert (wrong.status, "did you mean repeats-inherited?" in wrong.err) == (2, True)


@pytest.mark.parametrize("kind", sorted({kind.topic: kind.name for kind in KINDS}.values()))
def test_check_explains_a_kind_of_each_topic(kind: str, ask: Ask) -> None:
    """The example of every kind is in docs/findings.md, which a test of the docs makes anew."""
    told = ask("check", "--explain", kind)
    found = next(one for one in KINDS if one.name == kind)
    assert told.startswith(f"{kind}: {found.level}, of the topic {found.topic}\n  what: ")
    assert "\n  why:  " in told
    assert "\n  mend: " in told


def test_very_many_findings_of_a_kind_are_counted(run: Run, small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("COLUMNS", "100")
    pages = "path,title\n/,Home\n" + "".join(f"/p{i},Same {i // 2}\n" for i in range(60))
    folder = small("everywhere: {access: {everyone: [view, edit]}}\n", pages)
    told = run("check", "--site", str(folder)).out
    assert told.count("60 live pages share 30 document titles") == 1
    assert '"Same 0" (2), "Same 1" (2), "Same 2" (2) and 27 more' in " ".join(told.split())
    pages = "path,title.limit\n" + "".join(f"/p{i},{i}\n" for i in range(9))
    folder = small("everywhere: {access: {everyone: [view, edit]}, lock: {title.limit: 60}}\n", pages)
    told = run("check", "--site", str(folder)).out
    assert "locked to 60" in told
