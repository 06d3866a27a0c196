"""`davlo set`, `unset` and `undo`: what a change does, before it is written and after."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from tests.conftest import Ask, Run, contents, write_small


def test_a_change_is_shown_and_nothing_is_written(garden: Path, ask: Ask) -> None:
    before = contents(garden)
    out = ask("set", "sidebar.right=main", "--below", "/visit")
    lines = out.splitlines()
    assert lines[0] == "set sidebar.right to main below /visit"
    assert lines[1] == "23 pages look different, 23 pages change; nobody gains or loses anything"
    assert "sidebar.right  visit-planning  main   23     /visit/tickets, /visit/tickets/members and 21 more" in out
    assert ["/visit/tickets", "visitor", "area", "right"] in [line.split()[:4] for line in lines]
    begin = lines.index("In the files")
    assert lines[begin + 1 : begin + 4] == [
        "  davlo.yaml",
        "     79 -     below: {sidebar.right: visit-planning}",
        "        +     below: {sidebar.right: main}",
    ]
    assert "Nothing is written. To write it:\n  davlo set sidebar.right=main --below /visit --site" in out
    assert contents(garden) == before
    assert [path.name for path in (garden / ".davlo").iterdir()] == [".gitignore"]


def test_what_is_locked_names_the_lock(ask: Ask) -> None:
    out = ask("set", "band.footer=none", "--below", "/press")
    assert "no page changes, 5 are locked" in out
    assert "band.footer: 5 pages are locked (everywhere, davlo.yaml:47" in out
    assert "lock-overrules" not in out  # the same lock overrules the same scopes as before


def test_the_rows_and_the_record_have_the_documented_shape(run: Run, garden: Path) -> None:
    words = ("set", "layout.name=open", "--here", "/visit/tickets")
    told = run_for_programs(run, garden, *words, "--format", "csv")
    rows = list(csv.DictReader(io.StringIO(told)))
    assert [*rows[0]] == [
        *("path", "setting", "before", "after", "source_before", "source_after"),
        *("locked_before", "locked_after", "shown_before", "shown_after"),
    ]
    assert {row["path"] for row in rows} == {"/visit/tickets"}
    by_name = {row["setting"]: row for row in rows}
    assert (by_name["layout.name"]["before"], by_name["layout.name"]["after"]) == ("two-column", "open")
    assert (by_name["layout.name"]["source_before"], by_name["layout.name"]["source_after"]) == ("everywhere", "here")
    assert (by_name["sidebar.right"]["shown_before"], by_name["sidebar.right"]["shown_after"]) == ("yes", "no")
    record = json.loads(run_for_programs(run, garden, *words, "--format", "json"))
    assert list(record) == ["values", "pages", "declarations", "access", "outcomes", "findings", "no_effect"]
    assert len(record["values"]) == len(rows)


def run_for_programs(run: Run, folder: Path, *words: str) -> str:
    """What a program reads; what a person is told besides goes to standard error."""
    got = run(*words, "--site", str(folder))
    assert got.status == 0
    assert got.err.startswith("Nothing is written. To write it:\n  davlo set ")
    return got.out


@pytest.mark.parametrize(
    ("words", "setting", "path", "value"),
    [
        (["blocks.content+=donate", "--here", "/press/pictures"], "blocks.content", "/press/pictures", "donate"),
        (["access.editors=view,edit", "--below", "/press"], "access.editors", "/press/pictures", "view; edit"),
        (["access.editors-=create", "--everywhere"], "access.editors", "/visit", "view; edit"),
        (["title.limit=40", "--type", "plant-record"], "title.limit", "/plants/oak", ""),
        (
            ["sitemap.priority={by_depth: {top: 0.9, step: 0.1, floor: 0.2}}", "--everywhere"],
            "sitemap.priority",
            "/",
            "",
        ),
        (["sidebar.right=<everywhere>", "--here", "/visit/tickets"], "sidebar.right", "/visit/tickets", "main"),
        (["menu.show=no", "--here", "/visit/*", "--because", "Autumn"], "menu.show", "/visit/maps", "no"),
        (["--use", "bare", "--below", "/press"], "layout.name", "/press/pictures", "open"),
        (
            ["sidebar.right=quiet", "--here-and-below", "/press", "--lock"],
            "sidebar.right",
            "/press/lantern-walk",
            "quiet",
        ),
    ],
    ids=lambda one: " ".join(one) if isinstance(one, list) else None,
)
def test_what_is_written_holds_and_undo_gives_the_old_bytes(
    own: Path, run: Run, words: list[str], setting: str, path: str, value: str
) -> None:
    before = contents(own)
    got = run("set", *words, "--write", "--site", str(own))
    assert got.status == 0, got.err
    assert "To take it back:\n  davlo undo --write" in got.out
    if value:
        site = davlo.open_site(own)
        told = site.resolve()[path][setting]
        assert value in ("; ".join(told) if isinstance(told, tuple) else {False: "no"}.get(told, told))  # type: ignore[call-overload]
    davlo.open_site(own).undo()
    assert contents(own) == before


def test_a_statement_is_taken_away_and_a_preset_is_no_longer_used(own: Path, run: Run) -> None:
    assert run("unset", "sidebar.right", "--below", "/visit", "--write", "--site", str(own)).status == 0
    assert davlo.open_site(own).resolve()["/visit/tickets"]["sidebar.right"] == "main"
    got = run("unset", "sidebar.right", "--below", "/visit", "--site", str(own))
    assert got.status == 2
    assert "below /visit does not set sidebar.right\n  what sets it: davlo list sidebar.right" in got.err
    rule = "Hand-built pages run edge to edge"
    assert run("unset", "--use", "bare", "--rule", rule, "--write", "--even-so", "--site", str(own)).status == 0
    assert "use: bare" not in (own / "davlo.yaml").read_text()


def test_undo_goes_back_one_by_one(tmp_path: Path, run: Run) -> None:
    own = write_small(tmp_path)
    states = [contents(own)]
    for limit in range(20, 43):
        assert run("set", f"title.limit={limit}", "--everywhere", "--write", "--site", str(own)).status == 0
        states.append(contents(own))
    listed = run("undo", "--list", "--format", "json", "--site", str(own))
    told = json.loads(listed.out)
    assert [one["what"] for one in told[:2]] == [f"set title.limit to {limit} everywhere" for limit in (42, 41)]
    assert len(told) == 23
    for state in reversed(states[:-1]):
        assert run("undo", "--write", "--site", str(own)).status == 0
        assert contents(own) == state
    got = run("undo", "--site", str(own))
    assert (got.status, got.err) == (
        1,
        "there is no write to take back: you have written nothing here with davlo on this machine, or .davlo was "
        "deleted\n",
    )


def test_undo_is_refused_where_somebody_else_changed_the_file(own: Path, run: Run) -> None:
    assert run("set", "title.limit=40", "--everywhere", "--write", "--site", str(own)).status == 0
    changed = (own / "davlo.yaml").read_text().replace("title.limit: 40", "title.limit: 41")
    (own / "davlo.yaml").write_text(changed)
    got = run("undo", "--write", "--site", str(own))
    assert got.status == 1
    assert "(somebody else saved davlo.yaml on " in got.err
    assert (own / "davlo.yaml").read_text() == changed


def test_an_error_is_refused_unless_it_is_meant(own: Path, run: Run) -> None:
    words = ("set", "access.everyone=view", "--below", "/staff", "--lock", "--site", str(own))
    before = contents(own)
    got = run(*words, "--write")
    assert got.status == 1
    assert "it would bring about an error; nothing was written" in got.err
    assert "to write it all the same, add --even-so" in got.err
    assert contents(own) == before
    assert run(*words, "--write", "--even-so").status == 0
    assert contents(own) != before


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["sidebar.rihgt=main", "--everywhere"], "there is no setting 'sidebar.rihgt'\n  did you mean sidebar.right?"),
        (["sidebar.right=mian", "--everywhere"], "there is no sidebar 'mian'\n  did you mean main?"),
        (["sidebar.right", "--everywhere"], "'sidebar.right' sets nothing: write SETTING=VALUE"),
        (["sidebar.right=main"], "say where, as in --everywhere"),
        (["sidebar.right", "main", "--everywhere"], "write sidebar.right=main, with nothing between"),
        (
            ["sidebar.right=main", "/visit"],
            "/visit is a page: say --here /visit, or --below /visit for the pages below it",
        ),
        (["blocks.content=news", "--type", "event"], "block 'news' is not known\n  there are: "),
        (["access.marketing=view", "--below", "/visit"], "there is no person or group 'marketing'"),
        (["sidebar.right=main", "--everywhere", "--type", "event"], "--everywhere and --type: name one of them"),
        (["sidebar.right+=main", "--everywhere"], "say it with =, as in sidebar.right=VALUE"),
        (["title.limit=few", "--everywhere"], "title.limit takes an integer"),
        (["title.limit=4", "title.limit=5", "--everywhere"], "title.limit is set twice"),
        (["sidebar.right=main", "--here", "/nothing/*"], "there is no page that matches '/nothing/*'"),
        (["sidebar.right=main", "--here", "/visit/f*/x"], "there is no page that matches '/visit/f*/x'"),
        (["sidebar.right=main", "--below", "/visitt"], "did you mean /visit"),
        (["sidebar.right=main", "--type", "evnt"], "did you mean event?"),
        (["sidebar.right=main", "--rule", "None such"], "there is no rule 'None such'"),
        (["sidebar.right=main", "--here", "/visit", "--lock"], "a lock binds stronger scopes"),
        (["sitemap.priority={by_depth", "--everywhere"], "a bracket is missing"),
        (["--use", "bear", "--below", "/press"], "did you mean bare?"),
        ([], "say what to set, and where"),
        (["sidebar.right=main", "--everywhere", "--as", "rowa"], "there is no person 'rowa'"),
    ],
    ids=lambda one: " ".join(one) if isinstance(one, list) else None,
)
def test_what_cannot_be_done_says_what_could(garden: Path, run: Run, words: list[str], told: str) -> None:
    got = run("set", *words, "--site", str(garden))
    assert got.status == 2
    assert told in got.err
    assert got.out == ""


def test_a_person_makes_only_the_changes_that_they_may(own: Path, run: Run) -> None:
    words = ("set", "menu.show=no", "--here", "/visit/maps", "--site", str(own))
    got = run(*words, "--as", "owen.tarrant")
    assert got.status == 1
    assert "owen.tarrant may not edit /visit/maps: no access statement gives edit" in got.err
    assert "davlo set access.owen.tarrant+=edit --here /visit/maps" in got.err
    got = run("set", "menu.show=no", "--below", "/visit", "--as", "ida.marsh", "--site", str(own))
    assert (got.status, got.err) == (0, "")
    got = run("set", "menu.show=no", "--everywhere", "--as", "ida.marsh", "--site", str(own))
    assert (got.status, "ida.marsh may not edit /members" in got.err) == (1, True)
    got = run("set", "access.ida.marsh=view", "--here", "/visit/maps", "--as", "ida.marsh", "--site", str(own))
    assert "ida.marsh may not grant /visit/maps" in got.err
    assert run(*words, "--as", "ida.marsh", "--write").status == 0
    assert davlo.open_site(own).writes()[0].by == "ida.marsh"
    got = run("undo", "--as", "owen.tarrant", "--write", "--site", str(own))
    assert (got.status, got.err) == (
        1,
        "owen.tarrant may not take write 1 back: it is by ida.marsh; nothing was written\n",
    )
    assert run("undo", "--as", "ida.marsh", "--write", "--site", str(own)).status == 0


def test_a_picture_shows_before_beside_after(own: Path, run: Run, tmp_path: Path) -> None:
    file = tmp_path / "change.png"
    words = ("set", "sidebar.right=quiet", "--below", "/visit", "--site", str(own))
    assert run(*words, "--picture", str(file)).status == 0
    assert file.read_bytes().startswith(b"\x89PNG")
    got = run(*words, "--picture", str(tmp_path / "change.txt"))
    assert (got.status, "--picture writes a file that ends in .png" in got.err) == (2, True)
    got = run(*words, "--picture", str(own / "davlo.yaml"))
    assert got.status == 2


def test_undo_draws_what_comes_back_and_takes_no_option_that_does_nothing(own: Path, run: Run, tmp_path: Path) -> None:
    site = ("--site", str(own))
    assert run("set", "sidebar.right=quiet", "--below", "/visit", "--write", *site).status == 0
    assert run("undo", "--picture", str(tmp_path / "back.png"), *site).status == 0
    assert (tmp_path / "back.png").read_bytes().startswith(b"\x89PNG")
    got = run("undo", "--list", "--write", *site)
    assert (got.status, "--list lists the writes" in got.err) == (2, True)
    got = run("undo", "--write", "--even-so", *site)
    assert (got.status, "leave out --even-so" in got.err) == (2, True)
    got = run("set", "title.limit=4", "--everywhere", "--even-so", *site)
    assert (got.status, "--even-so goes with --write" in got.err) == (2, True)
    got = run("set", "title.limit=4", "--everywhere", "--brief", "--all", *site)
    assert (got.status, "--brief prints a sentence" in got.err) == (2, True)
    assert len(davlo.open_site(own).writes()) == 1


def test_a_folder_without_a_page_is_told_with_what_lies_in_it(small: Callable[..., Path], run: Run) -> None:
    folder = str(small("", "path\n/\n/doc/src/a/b\n/doc/src/a/c\n"))
    for scope, place in ((("--below", "/doc/src"), "/doc/src"), (("--here", "/doc/src/*"), "/doc/src")):
        told = run("set", "robots.index=no", *scope, "--site", folder)
        assert told.status == 2
        assert f"2 pages lie in {place}, at any depth: --here '{place}/**'" in told.err
        assert f"davlo page add {place} status=folder" in told.err
    assert run("set", "robots.index=no", "--here", "/doc/src/**", "--write", "--site", folder).status == 0
    assert run("page", "add", "/doc/src", "status=folder", "--write", "--site", folder).status == 0
    told = run("set", "robots.index=no", "--here", "/doc/src/*", "--site", folder)
    assert "2 pages lie in /doc/src, at any depth: --here '/doc/src/**'" in told.err
    assert "no page itself" not in told.err
