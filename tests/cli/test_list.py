"""`davlo list` on the garden: the kinds, a table of each, one thing whole, what fits, what nothing uses."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

import davlo
from davlo.core.site.declared_names import DECLARED_KINDS, plural_of
from tests.conftest import Ask, Run

SCREEN = 40


def test_the_kinds_are_counted(ask: Ask) -> None:
    told = ask("list").splitlines()
    assert [line.split()[:2] for line in told[1 : 1 + len(DECLARED_KINDS)]] == [
        [plural_of(kind), str(len(names))] for kind, names in davlo.open_demo().declared_names().items()
    ]
    rows = list(csv.DictReader(io.StringIO(ask("list", "--format", "csv"))))
    assert rows[3] == {"kind": "look", "declared": "2", "names": "usual; pinned"}
    assert json.loads(ask("list", "--format", "json"))[6] == {"kind": "preset", "declared": 1, "names": ["bare"]}


@pytest.mark.parametrize("kind", DECLARED_KINDS)
def test_each_kind_has_a_table_that_fits_a_screen(kind: str, ask: Ask) -> None:
    site = davlo.open_demo()
    names = site.declared_names(kind)[kind]
    told = ask("list", plural_of(kind)).splitlines()
    shown = [line for line in told[1:] if line.startswith(names)]
    assert len(told) <= SCREEN
    assert len(shown) == len(names) or kind == "setting"
    assert told == ask("list", kind).splitlines()
    rows = list(csv.DictReader(io.StringIO(ask("list", plural_of(kind), "--format", "csv"))))
    assert [(row["kind"], row["name"]) for row in rows] == [(kind, name) for name in names]
    records = json.loads(ask("list", plural_of(kind), "--format", "json"))
    assert [record["pages"] for record in records] == [
        None if one.pages < 0 else one.pages for one in site.declared(kind)
    ]


def test_settings_that_no_statement_sets_are_hidden_until_asked_for(ask: Ask) -> None:
    told = ask("list", "settings")
    every = ask("list", "settings", "--all")
    assert "\nlayout.width " not in told
    assert "\nlayout.width " in every
    hidden = len(every.splitlines()) - len(told.splitlines()) + 1
    assert f"{hidden} settings that no statement sets are hidden: davlo list settings --all" in told


def test_a_setting_lists_every_statement_weakest_first(ask: Ask) -> None:
    told = ask("list", "sidebar.right").splitlines()
    begin = told.index("  set by 8 statements, the weakest first:")
    rows = [line.split() for line in told[begin + 2 : begin + 10]]
    assert [row[:5] for row in rows[:3]] == [
        ["everywhere", "main", "158", "52", "davlo.yaml:41"],
        ["type", "article", "stories", "32", "17"],
        ["type", "event", "whats-on", "15", "13"],
    ]
    assert rows[-1][-9:] == ["preset", "bare;", "The", "potting", "bench", "draws", "its", "own", "frame"]
    for line in ("  kind: sidebar", "  takes: a sidebar, or none", "  default: none", "  default_for: all-pages"):
        assert line in told
    said = list(csv.DictReader(io.StringIO(ask("list", "blocks.content", "--format", "csv"))))
    assert (len(said), said[1]["source"], said[1]["file"]) == (14, "stamp", "stamps.csv")
    folded = ask("list", "blocks.content")
    assert "    stamp, 11 pages  booking-link           11       11  stamps.csv:2 …" in folded
    assert "its default is for new pages: an existing page keeps its stamp" in folded


def test_one_thing_is_told_whole(ask: Ask) -> None:
    assert ask("list", "donate").splitlines() == [
        "block donate, declared.yaml:61",
        "  kind: one-of",
        "  blocks: donate-tree, donate-bulbs",
        "  named by: the sidebar call-to-action (declared.yaml:31)",
        "  shown on 1 page: right on 1",
        "    /campaigns/adopt-a-tree/which-tree",
        "  set but not shown on 1 page",
        "    /campaigns",
    ]
    rule = ask("list", "Campaign pages show what to do").splitlines()
    assert rule[1:4] == [
        "  place in the list: 2 of 4, the first is the strongest",
        "  when:",
        "    in_branch: /campaigns",
    ]
    assert "  decides on 6 pages of the 6 that it matches" in rule
    assert "    layout.theme   evening               6        6  davlo.yaml:127" in rule
    for name, lines in {
        "usual": ["  whole:", "    width: 28%", "    border: 1px solid"],
        "record-page": ["  based_on: two-column", "  own_content: no", "    content: plate, facts-box"],
        "evening": ["    menu: top-links", "    footer: shows nothing"],
        "quick-links": ["    Tickets: /visit/tickets"],
        "bare": ["    layout.name: open"],
        "Staff pages stay private": ["    everyone: view", "  about 9 pages"],
        "tending": ["  actions: view, edit, create"],
        "ida.marsh": ["  groups: editors, staff"],
    }.items():
        assert set(lines) <= set(ask("list", name).splitlines())


def test_pages_of_one_thing_are_a_screen_until_all_are_asked_for(ask: Ask) -> None:
    many = ask("list", "footer-legal").splitlines()
    assert (len(many) <= SCREEN, many[-1]) == (True, "  21 of 158 listed; to see them all say --all, or --format csv")
    assert len([line for line in ask("list", "footer-legal", "--all").splitlines() if line.startswith("    /")]) == 158
    one = json.loads(ask("list", "tending", "--format", "json"))[0]
    assert (one["details"], one["pages"], one["used on"]) == ({"actions": ["view", "edit", "create"]}, None, [])
    assert ask("list", "bare", "--format", "csv").splitlines()[1] == "preset,bare,/campaigns/spring,yes"


def test_what_fits_an_area_and_why_a_band_does_not(ask: Ask) -> None:
    told = ask("list", "--fits", "footer").splitlines()
    assert [line.split()[:2] for line in told[1:3]] == [["band", "footer-legal"], ["band", "footer-press"]]
    assert "Not offered: menu-main, which fits menu, not footer" in told
    assert any(line.startswith("Any of 7 sidebars may stand in footer too: davlo list sidebars") for line in told)
    assert len([line for line in ask("list", "--fits", "right").splitlines() if line.startswith("sidebar ")]) == 7
    found = json.loads(ask("list", "--fits", "footer", "--format", "json"))
    assert found["not offered"]["masthead-main"] == "fits masthead, not footer"
    assert {one["kind"] for one in found["fits"]} == {"band", "sidebar", "block"}


def test_what_nothing_uses(ask: Ask) -> None:
    rows = list(csv.DictReader(io.StringIO(ask("list", "--unused", "--format", "csv"))))
    assert [row["name"] for row in rows] == ["three-column", "quiet", "pinned", "footer-press", "press-contact"]
    assert ask("list", "looks", "--unused").splitlines()[-1] == "1 look that nothing uses"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["donat"], "did you mean donate?"),
        (["--fits", "foter"], "did you mean footer?"),
        (["donate", "--kind", "band"], "there is no band donate; it is a block"),
        (["donate", "--unused"], "leave out the name"),
        (["/visit"], "/visit is a page: davlo show /visit"),
        (["colour"], "davlo list"),
    ],
)
def test_a_slip_is_told_with_what_to_type(words: list[str], says: str, run: Run, garden: Path) -> None:
    wrong = run("list", *words, "--site", str(garden))
    assert (wrong.status, says in wrong.err) == (2, True)
