"""`davlo menus` on the garden: the menu, lists of links, what they leave out, who meets what."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

from tests.conftest import Ask, Run

SCREEN = 40


def test_the_menu_in_each_language_fits_a_screen(ask: Ask) -> None:
    told = ask("menus").splitlines()
    assert len(told) <= SCREEN
    assert told[0] == "menu in en, as a visitor sees it"
    assert "Visit                     /visit         (+22)" in told
    assert "7 top entries fit: the last is Press, and 4 entries do not fit" in told
    assert "  9 pages: a visitor may not view it (/members, /members/benefits, /members/newsletter …)" in told
    assert "menu in fr, as a visitor sees it" in told
    every = ask("menus", "--language", "en", "--all").splitlines()
    assert len(every) == 109 + 12


def test_what_someone_else_sees(ask: Ask) -> None:
    assert "Members                   /members       (+3), does not fit" in ask("menus", "--as", "ida.marsh")
    assert "as somebody in the group members alone sees it" in ask("menus", "--as", "members")
    assert ask("menus", "--as", "visitor") == ask("menus")


def test_a_list_with_what_it_leaves_out_and_why(ask: Ask) -> None:
    told = ask("menus", "next-events").splitlines()
    assert told[0] == "branch-links next-events, declared.yaml:58 in en, as a visitor sees it"
    assert told[3:5] == ["Events in 2026      /events/2026", "  Apple day         /events/2026/apple-day"]
    assert told[-2] == "  1 page: the block leaves it out (declared.yaml:58) (/events/2027)"
    assert told[-1].startswith("in fr it lists nothing: davlo menus next-events --language fr")
    assert "nothing is listed" in ask("menus", "more-stories", "--on", "/fr")
    assert "Shop     https://shop.quillmere.example" in ask("menus", "quick-links").splitlines()


def test_lists_on_a_page(ask: Ask) -> None:
    told = ask("menus", "--on", "/fr/contact")
    assert told.startswith("menu in fr")
    assert "lists of links on /fr/contact: quick-links in masthead, top-menu in menu" in told
    assert "stands on /visit, in masthead" in ask("menus", "quick-links", "--on", "/visit")
    assert "does not stand on /visit" in ask("menus", "next-events", "--on", "/visit")


def test_for_programs(ask: Ask) -> None:
    rows = list(csv.DictReader(io.StringIO(ask("menus", "top-menu", "--language", "en", "--format", "csv"))))
    assert (rows[1]["label"], rows[1]["page"], rows[-1]["left out"]) == ("Visit", "/visit", "menu.show is no")
    found = json.loads(ask("menus", "--format", "json"))
    assert [(one["language"], len(one["links"]), len(one["left out"])) for one in found] == [
        ("en", 109, 38),
        ("fr", 11, 0),
    ]


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["nex-events"], "did you mean next-events?"),
        (["wordmark"], "the block wordmark is of the kind text, and lists no links"),
        (["--as", "membrs"], "did you mean members?"),
        (["--language", "de"], "there is no language 'de'"),
        (["--on", "/vist"], "did you mean /visit?"),
    ],
)
def test_a_slip_is_told_with_what_is_there(words: list[str], says: str, run: Run, garden: Path) -> None:
    wrong = run("menus", *words, "--site", str(garden))
    assert (wrong.status, says in wrong.err) == (2, True)
