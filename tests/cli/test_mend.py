"""`davlo mend`: every way that it shows mends what it says, and is taken back by `undo`."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

import davlo
from tests.conftest import Ask, Run, contents


def names(kind: str | None = None) -> list[str]:
    """The short names of the garden's findings."""
    return [one.name for one in davlo.open_demo().check().findings if kind in (None, one.kind)]


def test_each_way_is_shown_with_what_it_would_do(ask: Ask) -> None:
    name = names("lock-overrules")[0]
    out = ask("mend", name)
    assert out.startswith(f"error  lock-overrules  band.footer  {name}\n")
    assert "1. take away what is overruled\n   no page changes; nobody gains or loses anything\n" in out
    assert (
        "2. lift the lock\n   5 pages look different, 5 pages change, on 153 pages a lock changes; nobody gains or loses anything\n"
        in out
    )
    assert f"   davlo mend {name} --way 2 --write" in out
    told = json.loads(ask("mend", name, "--format", "json"))
    assert [way["words"] for way in told["ways"]] == [
        "take away what is overruled",
        "lift the lock",
        "let what is overruled be an exception to the lock",
    ]
    rows = ask("mend", name, "--format", "csv").splitlines()
    assert rows[0] == "way,words,changes,elsewhere,edits"
    assert rows[2].startswith("2,lift the lock,5,0,")


@pytest.mark.exhaustive
@pytest.mark.parametrize("name", {one.kind: one.name for one in davlo.open_demo().check().findings}.values())
def test_every_way_of_a_finding_of_each_kind_can_be_taken_and_taken_back(own: Path, run: Run, name: str) -> None:
    before, site = contents(own), davlo.open_site(own)
    finding = site.check().find(name)
    shown = run("mend", name, "--site", str(own)).out
    for number, way in enumerate(site.ways(finding), 1):
        got = run("mend", name, "--way", str(number), "--write", "--site", str(own))
        if got.status == 1:  # it would bring about an error elsewhere, and says so
            assert "add --even-so" in got.err
            got = run("mend", name, "--way", str(number), "--write", "--even-so", "--site", str(own))
        assert got.status == 0, got.err
        after = davlo.open_site(own)
        left = after.check().findings
        pages = {
            page for one in left if (one.kind, one.setting) == (finding.kind, finding.setting) for page in one.pages
        }
        assert name not in [one.name for one in left], (name, way.words)
        is_told = "the pages have another finding of this kind then" in shown
        assert is_told or not set(finding.pages) or not set(finding.pages) <= pages, (name, way.words)
        after.undo()
        assert contents(own) == before


def test_a_way_must_be_chosen_and_be_there(garden: Path, run: Run) -> None:
    site = ("--site", str(garden))
    name = names("lock-overrules")[0]
    got = run("mend", name, "--write", *site)
    assert (got.status, f"there are 3 ways: choose one, as in davlo mend {name} --way 1 --write" in got.err) == (
        2,
        True,
    )
    got = run("mend", name, "--way", "7", *site)
    assert (got.status, f"the finding {name} has 3 ways, not 7" in got.err) == (2, True)
    got = run("mend", name, "--brief", *site)
    assert (got.status, f"choose it, as in davlo mend {name} --way 1" in got.err) == (2, True)
    got = run("mend", "nothing", *site)
    assert (got.status, "there is no finding 'nothing'" in got.err) == (2, True)


def test_where_somebody_must_decide_it_says_so(garden: Path, run: Run) -> None:
    site = davlo.open_demo()
    without = [one for one in site.check().findings if not site.ways(one)]
    assert without
    got = run("mend", without[0].name, "--site", str(garden))
    assert (got.status, "no command can mend it: " in got.out) == (0, True)
    got = run("mend", without[0].name, "--write", "--site", str(garden))
    assert (got.status, "no command can mend" in got.err) == (2, True)


def test_check_says_what_to_type_to_mend(ask: Ask, garden: Path, run: Run) -> None:
    first = names()[0]
    out = run("check", "--site", str(garden)).out
    assert f"The ways to mend it, each with what it would change:\n  davlo mend {first}" in out
    assert f"What each way would change:\n  davlo mend {first}" in run("check", first, "--site", str(garden)).out
