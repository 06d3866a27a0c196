"""`davlo start`: from nothing to a site of one's own, by the notes in its files."""

from __future__ import annotations

from pathlib import Path

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


def test_its_notes_lead_to_a_sidebar_for_a_branch_a_locked_footer_and_editors_of_their_own(tmp_path: Path) -> None:
    davlo.start_site(tmp_path / "mine")
    file = tmp_path / "mine" / "davlo.yaml"
    text = file.read_text(encoding="utf-8")
    for note in ("about: {blocks", "sidebar.right: about", "lock: {band.footer"):
        text = text.replace(f"# {note}", note)
    file.write_text(text.replace("  band.footer: footer-main\n", ""), encoding="utf-8")
    site = davlo.open_site(tmp_path / "mine")
    effective, access = site.resolve(), site.access()
    assert effective["/about/team"]["sidebar.right"] == "about"
    assert effective["/news"]["sidebar.right"] == "main"
    assert effective.source("/about/team", "band.footer").locked
    assert [access.may("second.editor", "edit", path) for path in ("/about/team", "/news")] == [True, False]
    assert site.check().findings == ()


def test_what_is_there_stays(tmp_path: Path, run: Run) -> None:
    (tmp_path / "notes.txt").write_text("mine", encoding="utf-8")
    told = run("start", str(tmp_path))
    assert (told.status, "holds other things; name another folder" in told.err) == (2, True)
    assert [path.name for path in tmp_path.iterdir()] == ["notes.txt"]
