"""`davlo start`: from nothing to a site of one's own, by the notes in its files."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run


def test_a_new_site_has_nothing_to_report_and_says_what_to_type(tmp_path: Path, run: Run) -> None:
    folder = tmp_path / "mine"
    told = run("start", str(folder))
    assert told.status == 0
    commands = [line.split("  ")[1] for line in told.out.splitlines() if line.startswith("  davlo ")]
    for words in commands:
        assert run(*words.split()[1:], "--site", str(folder)).status == 0, words
    assert run("check", "--site", str(folder)).out == "nothing to report\n"
    lines = (folder / "davlo.yaml").read_text(encoding="utf-8").splitlines()
    assert len(lines) <= 48  # a screen


def test_its_notes_lead_to_a_sidebar_for_a_branch_a_locked_footer_and_editors_of_their_own(
    tmp_path: Path, run: Run
) -> None:
    """What a note says to type can be typed."""
    where = ("--site", str(tmp_path / "mine"), "--write")
    assert run("start", str(tmp_path / "mine")).status == 0
    noted = re.findall(r"davlo ((?:declare|set) .+)", (tmp_path / "mine" / "davlo.yaml").read_text(encoding="utf-8"))
    assert [words.split()[0] for words in noted] == ["declare", "set"]
    for words in noted:
        assert run(*words.split(), *where).status == 0, words
    assert run("set", "sidebar.right=about", "--here-and-below", "/about", *where).status == 0
    site = davlo.open_site(tmp_path / "mine")
    effective, access = site.resolve(), site.access()
    assert effective["/about/team"]["sidebar.right"] == "about"
    assert effective["/news"]["sidebar.right"] == "main"
    assert effective.source("/about/team", "band.footer").locked
    assert [access.may("second.editor", "edit", path) for path in ("/about/team", "/news")] == [True, False]
    assert site.check().findings == ()


@pytest.mark.parametrize("name", ["My museum", "A: b", "it's #1", "Ĥ {x}"])
def test_a_site_begins_with_its_name_address_and_languages(tmp_path: Path, run: Run, name: str) -> None:
    words = ("--name", name, "--url", "https://museum.example/", "--language", "de", "--language", "en")
    assert run("start", str(tmp_path / "mine"), *words).status == 0
    site = davlo.open_site(tmp_path / "mine")
    assert (site.name, site.url, site.languages) == (name, "https://museum.example", ("de", "en"))
    assert {site.details.language[page] for page in range(len(site.tree))} == {"de"}
    assert name in site.declarations.blocks["legal-line"].text
    (tmp_path / "a.csv").write_text("path,title,lang\n/,Home,\n/b,B,fr\n", encoding="utf-8")
    got = run(
        "start", str(tmp_path / "from"), "--from", str(tmp_path / "a.csv"), "--language", "en", "--language", "fr"
    )
    assert got.status == 0, got.err
    site = davlo.open_site(tmp_path / "from")
    assert (site.languages, [site.details.language[page] for page in (0, 1)]) == (("en", "fr"), ["en", "fr"])
    assert run("start", str(tmp_path / "bad"), "--language", " ").status == 2


def test_what_is_there_stays(tmp_path: Path, run: Run) -> None:
    (tmp_path / "notes.txt").write_text("mine", encoding="utf-8")
    told = run("start", str(tmp_path))
    assert (told.status, "holds other things; name another folder" in told.err) == (2, True)
    assert [path.name for path in tmp_path.iterdir()] == ["notes.txt"]
