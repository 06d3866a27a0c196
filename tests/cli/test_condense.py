"""`davlo condense`: fewer statements, no page changed, written like any change and taken back."""

from __future__ import annotations

from pathlib import Path

import davlo
from tests.conftest import Ask, Run, contents, write_small

DECISIONS = """\
sidebars: {main: {blank: yes}, quiet: {blank: yes}}
layouts: {plain: {areas: [content, right]}}
everywhere: {sidebar.right: main}
pages:
  /a:
    here: {sidebar.right: quiet}  # kept with what is below
    below: {sidebar.right: quiet}
  /a/b: {here: {sidebar.right: quiet, because: Asked for by the tea room}}
"""


def test_it_says_what_becomes_of_each_setting_and_what_to_type(ask: Ask) -> None:
    out = ask("condense")
    assert out.startswith("10 statements of 1 setting would become 7; every page keeps every value\n")
    assert "no page changes; nobody gains or loses anything" in out
    assert "Nothing is written. To write it:\n  davlo condense " in out
    assert "      7 - /visit/opening-times,Opening times,,,en,,,,2021-03-14,2026-10-15,2,,monthly,,,\n" in out
    assert "        + /visit/opening-times,Opening times,,,en,,,,2021-03-14,2026-10-15,2,,,,,\n" in out
    assert ask("condense", "--keep-here") == "nothing to condense: no fewer statements would say the same\n"
    assert ask("condense", "--in-branch", "/about").startswith("nothing to condense")


def test_it_is_written_keeps_every_value_and_is_taken_back(own: Path, run: Run) -> None:
    before, site = contents(own), ("--site", str(own))
    was = davlo.open_site(own).resolve().to_frame()
    assert run("condense", "--write", *site).status == 0
    assert davlo.open_site(own).resolve().to_frame().equals(was)
    assert run("condense", *site).out == "nothing to condense: no fewer statements would say the same\n"
    assert run("undo", "--write", *site).status == 0
    assert contents(own) == before


def test_a_reason_is_lost_only_when_that_is_asked_for(tmp_path: Path, run: Run) -> None:
    folder = write_small(tmp_path, DECISIONS)
    site = ("--site", str(folder))
    out = run("condense", *site).out
    assert out.startswith("4 statements of 1 setting would become 3;")
    assert "No effect" not in out
    assert "Reasons that would be lost" not in out
    out = run("condense", "--drop-reasons", *site).out
    assert "Reasons that would be lost (1)\n  sidebar.right: Asked for by the tea room" in out
    assert run("condense", "--drop-reasons", "--write", *site).status == 0
    text = (folder / "davlo.yaml").read_text(encoding="utf-8")
    assert "here_and_below: {sidebar.right: quiet}" in text
    assert "tea room" not in text


def test_an_unknown_setting_or_page_is_said(run: Run, garden: Path) -> None:
    got = run("condense", "--setting", "sidebar.rigth", "--site", str(garden))
    assert (got.status, "sidebar.right" in got.err) == (2, True)
    got = run("condense", "--in-branch", "/vist", "--site", str(garden))
    assert (got.status, "/visit" in got.err) == (2, True)


def test_a_picture_of_nothing_is_refused(run: Run, garden: Path, tmp_path: Path) -> None:
    got = run("condense", "--picture", str(tmp_path / "t.png"), "--site", str(garden))
    assert (got.status, got.out, "nothing to draw" in got.err) == (2, "", True)
