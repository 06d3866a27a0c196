"""`davlo compare` as people meet it: another folder, git revisions, one part, some pages, formats, exit statuses."""

from __future__ import annotations

import csv
import io
import json
import re
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.cli.main import status_of
from tests.conftest import Run
from tests.files.form.test_json_schema import GENERAL, instance_of


@pytest.fixture(scope="module")
def changed(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The garden as it was, in a folder of its own, and as it is after some changes."""
    before, after = (tmp_path_factory.mktemp("states") / name for name in ("before", "garden"))
    davlo.write_demo(before)
    davlo.write_demo(after)
    for words in (
        ("unset", "sidebar.right", "--below", "/visit"),
        ("set", "access.staff+=edit", "--below", "/press"),
        ("page", "move", "/visit/cafe", "/cafe"),
        ("page", "drop", "/visit/thanks"),
        ("set", "title.pattern={title}", "--type", "event"),
    ):
        assert status_of([*words, "--write", "--even-so", "--site", str(after)]) == 0
    return before, after


def test_what_differs_is_told_by_cause(changed: tuple[Path, Path], run: Run) -> None:
    before, after = changed
    assert len(run("compare", str(before), "--site", str(after)).out.splitlines()) <= 40
    told = run("compare", str(before), "--all", "--site", str(after)).out
    lines = told.splitlines()
    assert lines[0] == f"From {before} to the files here"
    assert lines[1] == (
        "146 pages look different, 40 pages change, 1 page goes; 2 people gain something; 3 addresses change; "
        "3 menu entries change; 1 sitemap entry changes; 3 pages moved"
    )
    assert (
        f"  sidebar.right: davlo.yaml:79 in {before} went (below /visit): 20 pages get main, 2 get whats-on: " in told
    )
    assert "  title.pattern: davlo.yaml:60 is new (type event): 15 pages get {title}: " in told
    assert "  tomas.vell, hana.okoro gain edit on 5 pages: /press/pictures and 4 more" in lines
    assert "  1 page is gone: /visit/thanks" in lines
    assert [
        line
        for line in lines
        if line.startswith("  title: 15 pages get another, /visit/schools/workshops/pond-dipping: ")
    ]
    nothing = run("compare", str(after), "--site", str(after))
    assert nothing.out.endswith("no page changes; nobody gains or loses anything\nNothing differs.\n")


def test_what_is_said_otherwise_and_shows_no_other_value_is_told(tmp_path: Path, run: Run) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    for folder in (one, other):
        davlo.write_demo(folder)
    decisions, declared = (other / name for name in ("davlo.yaml", "declared.yaml"))

    def told(file: Path, was: str, now: str) -> str:
        text = file.read_text(encoding="utf-8")
        assert was in text
        file.write_text(text.replace(was, now), encoding="utf-8")
        out = run("compare", str(one), "--site", str(other)).out
        assert run("compare", str(one), "--fail-on", "difference", "--site", str(other)).status == 1
        file.write_text(text, encoding="utf-8")
        return out

    blocks = told(declared, "blocks: [search-box, opening-times]", "blocks: [search-box]")
    assert "\n40 pages look different, no value changes; nobody gains or loses anything\n" in blocks
    assert "  the sidebar main lacks opening-times: 40 pages: " in blocks
    assert "  the sidebar main: blocks is search-box (before: search-box, opening-times)\n" in blocks
    assert 'says "Open at weekends" (before: "Open daily 10 to 17")' in told(
        declared, "Open daily 10 to 17", "Open at weekends"
    )
    look = told(declared, "\n  usual:\n", "\n  usual:\n    shows_on: [wide]\n")
    assert "the sidebar main shows on wide now (before: wide and tablet and phone): 40 pages: " in look
    note = told(declared, "note: The usual one", "note: Another")
    assert note.endswith("note is Another (before: The usual one)\n  this shows on no page\n")
    lock = told(decisions, "  lock:\n    band.footer:", "  band.footer:")
    assert "band.footer: is no longer locked on " in lock


def test_each_part_alone_and_as_rows(changed: tuple[Path, Path], run: Run) -> None:
    before, after = changed

    def rows(*words: str) -> list[dict[str, str]]:
        got = run("compare", str(before), *words, "--format", "csv", "--site", str(after))
        assert got.status == 0
        return list(csv.DictReader(io.StringIO(got.out)))

    values = rows("--when", "type=event", "--only", "values")
    assert {row["setting"] for row in values} == {"title.pattern", "sidebar.right"}
    assert rows()[0].keys() == values[0].keys()
    assert {(row["who"], row["action"], row["gained"]) for row in rows("--only", "access")} == {
        ("tomas.vell", "edit", "5"),
        ("hana.okoro", "edit", "5"),
    }
    assert [(row["what"], row["before"], row["after"]) for row in rows("--only", "pages")][:2] == [
        ("gone", "/visit/thanks", ""),
        ("moved", "/visit/cafe", "/cafe"),
    ]
    assert {row["field"] for row in rows("--only", "titles")} == {"title"}
    assert {row["field"] for row in rows("--only", "addresses")} == {"address"}
    assert {row["what"] for row in rows("--only", "findings")} == {"new", "gone", "changed"}
    assert {row["detail"] for row in rows("--only", "details")} == {"translates"}
    assert rows("--only", "declarations") == []
    record = json.loads(run("compare", str(before), "--only", "access", "--format", "json", "--site", str(after)).out)
    assert list(record) == ["before", "after", "access"]
    whole = json.loads(run("compare", str(before), "--format", "json", "--site", str(after)).out)
    assert whole["pages"]["gone"] == ["/visit/thanks"]
    assert {(one["what"], one["state"], one["file"], one["line"]) for one in whole["causes"]} >= {
        ("gone", "before", "davlo.yaml", 79),
        ("new", "after", "davlo.yaml", 60),
    }
    refused = run("compare", str(before), "--only", "menu", "--only", "pages", "--format", "csv", "--site", str(after))
    assert (refused.status, "say --only once" in refused.err) == (2, True)


@pytest.mark.parametrize(
    ("words", "status"),
    [
        ((), 0),
        (("--fail-on", "difference"), 1),
        (("--fail-on", "access"), 1),
        (("--fail-on", "error"), 0),
        (("--fail-on", "difference", "--only", "declarations"), 0),
        (("--fail-on", "access", "--when", "below=/visit"), 0),
    ],
)
def test_the_exit_status_says_what_was_asked(
    changed: tuple[Path, Path], run: Run, words: tuple[str, ...], status: int
) -> None:
    before, after = changed
    assert run("compare", str(before), *words, "--site", str(after)).status == status


def git(folder: Path, *words: str) -> None:
    """Run git in a folder, in somebody's name."""
    who = ("-c", "user.email=a@garden.example", "-c", "user.name=A")
    subprocess.run(["git", *who, "-C", str(folder), *words], check=True, capture_output=True)


def committed(folder: Path, *words: str) -> None:
    """Commit a folder as it is, in a repository that is made if need be."""
    git(folder, "init", "-q")
    git(folder, "add", "-A")
    git(folder, "commit", "-qm", *words)


@pytest.mark.parametrize("name", ["PAGES.CSV", "pages.jsonl"])
def test_a_revision_has_its_page_list_whatever_it_is_in(name: str, own: Path, run: Run) -> None:
    with (own / "pages.csv").open(encoding="utf-8", newline="") as file:
        rows = [json.dumps(row) for row in csv.DictReader(file)]
    (own / "pages.csv").rename(own / name)
    if name.endswith(".jsonl"):
        (own / name).write_text("\n".join(rows))
    text = (own / "davlo.yaml").read_text(encoding="utf-8").replace("page_list: pages.csv", f"page_list: {name}")
    (own / "davlo.yaml").write_text(text, encoding="utf-8")
    committed(own, "one")
    assert "Nothing differs." in run("compare", "HEAD", "--site", str(own)).out
    assert GENERAL.is_valid(instance_of(own))


def test_revisions_of_git_and_markdown_for_a_review(own: Path, run: Run) -> None:
    committed(own, "one")
    assert run("set", "title.pattern=*{title}* <b>", "--type", "event", "--write", "--site", str(own)).status == 0
    committed(own, "two")
    assert "Nothing differs." in run("compare", "HEAD", "--site", str(own)).out
    told = run("compare", "HEAD~1", "HEAD", "--format", "markdown", "--site", str(own)).out
    assert told.startswith(
        "### From HEAD\\~1 to HEAD\n\n15 pages look different, 15 pages change; nobody gains or loses anything\n\n**"
    )
    assert "- title.pattern: davlo.yaml:60 is new (type event): 15 pages get \\*{title}\\* \\<b\\>: " in told
    back = run("compare", "HEAD", "HEAD~1", "--only", "values", "--site", str(own)).out
    assert "  title.pattern: davlo.yaml:60 in HEAD went (type event): 15 pages get {title} · {site}: " in back
    wrong = run("compare", "no-such", "--site", str(own))
    assert (wrong.status, "no-such is neither a site folder nor a revision of git" in wrong.err) == (2, True)


def test_a_new_column_is_told_where_it_says_something(small: Callable[..., Path], run: Run, tmp_path: Path) -> None:
    before = small(pages="path,title\n/,Home\n/a,A\n/b,B\n")
    after = tmp_path / "after"
    after.mkdir()
    after.joinpath("davlo.yaml").write_bytes((before / "davlo.yaml").read_bytes())
    after.joinpath("pages.csv").write_text("path,title,season\n/,Home,\n/a,A,winter\n/b,B,\n", encoding="utf-8")
    told = run("compare", str(before), str(after)).out
    assert "no value changes, 1 page gets other details; " in told
    assert "  season: 1 page gets another, /a: winter (before: none)\n" in told


def test_what_the_site_itself_says_is_part_of_what_differs(own: Path, garden: Path, run: Run) -> None:
    text = (own / "davlo.yaml").read_text()
    changed = text.replace("Disallow: /search?", "Disallow: /").replace("stale_after_days: 3", "stale_after_days: 5")
    (own / "davlo.yaml").write_text(re.sub("viewpoints:.*\n", r"\g<0>  - {page: /privacy, as: visitor}\n", changed))
    got = run("compare", str(garden), "--site", str(own))
    assert "the site: robots is User-agent: *, Disallow: / (before: User-agent: *, Disallow: /search?)" in got.out
    assert "the site: sitemap.stale_after_days is 5 (before: 3)" in got.out
    assert "the viewpoint /privacy as visitor is new" in got.out
    assert "Nothing differs" not in got.out
    site = davlo.open_site(own)
    assert site.difference(site).declarations == ()
