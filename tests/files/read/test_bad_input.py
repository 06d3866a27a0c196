"""Bad input: each fault has its file and line, what is wrong, what was probably meant; status 2, never a traceback."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run

Small = Callable[..., Path]


def complaint(run: Run, folder: Path) -> str:
    outcome = run("check", "--site", str(folder))
    assert outcome.status == 2
    assert outcome.out == ""
    assert "Traceback" not in outcome.err
    return outcome.err


DECISIONS = {
    "a tab": ("everywhere:\n\theading.show: no\n", "davlo.yaml:4: a tab stands at the start of the line"),
    "a pattern without quotes": (
        "everywhere:\n  title.pattern: {title} · {site}\n",
        'davlo.yaml:4: a text that begins with { must stand in quotes\n  write title.pattern: "{title} · {site}"',
    ),
    "a single placeholder without quotes": ("everywhere:\n  title.pattern: {title}\n", 'put it in quotes: "{title}"'),
    "a glob without quotes": (
        "rules:\n  - name: x\n    when: {path: **/x}\n    give: {menu.show: no}\n",
        'davlo.yaml:5: a text that begins with * must stand in quotes\n  write "**/x"',
    ),
    "a key twice": (
        "everywhere:\n  menu.show: no\n  menu.show: yes\n",
        "davlo.yaml:5: menu.show is set twice; the first is at line 4",
    ),
    "an unknown setting": (
        "everywhere: {sidebar.rihgt: none}\nlayouts: {l: {areas: [right]}}\n",
        "did you mean sidebar.right?",
    ),
    "an unknown key": ("rulez: []\n", "davlo.yaml:3: the site has no key 'rulez'\n  did you mean rules?"),
    "an unknown declaration": (
        "layouts: {l: {areas: [right]}}\nsidebars: {main: {}}\neverywhere: {sidebar.right: mian}\n",
        "davlo.yaml:5: there is no sidebar 'mian'\n  did you mean main?",
    ),
    "an unknown person": (
        "people: {names: [amber.finch]}\neverywhere: {access: {amber.fnich: [view]}}\n",
        "davlo.yaml:4: there is no person or group 'amber.fnich'\n  did you mean amber.finch?",
    ),
    "an unknown preset": (
        "presets: {bare: {menu.show: no}}\neverywhere: {use: bear}\n",
        "there is no preset 'bear'\n  did you mean bare?",
    ),
    "an unknown base": ("types: {note: {based_on: pgae}}\n", "there is no type 'pgae'\n  did you mean page?"),
    "a circle of types": (
        "types: {a: {based_on: b}, b: {based_on: a}}\n",
        "the types go round in a circle: a -> b -> a",
    ),
    "a circle of groups": ("people: {groups: {a: [b], b: [a]}}\n", "the groups go round in a circle"),
    "a value of the wrong kind": ("everywhere: {menu.show: maybe}\n", "menu.show takes yes or no, not 'maybe'"),
    "a number out of range": (
        "everywhere: {sitemap.priority: 1.5}\n",
        "sitemap.priority takes a number from 0 to 1, not 1.5",
    ),
    "a lock in here": ("pages: {/a: {here: {lock: {menu.show: no}}}}\n", "davlo.yaml:3: a lock in here means nothing"),
    "an include outside": ("include: [../people.yaml]\n", "../people.yaml lies outside the site folder"),
    "an include that is missing": ("include: [people.yaml]\n", "there is no file people.yaml in the site folder"),
    "a key with nothing after it": ("everywhere:\n  menu.label:\n", "davlo.yaml:4: menu.label has nothing after it"),
    "a color that is a comment": (
        "settings: {tint: {kind: color}}\neverywhere:\n  tint: #a0b1c2\n",
        'put a color in quotes: tint: "#a0b1c2"',
    ),
    "a list that is a word": (
        "everywhere: {access: {everyone: view}}\n",
        "takes a list, not the text 'view'\n  write [view]",
    ),
    "a reference in too weak a scope": (
        "everywhere: {menu.show: <type>}\n",
        "<type> may only stand in a stronger scope than it names",
    ),
    "a setting where it may not be set": (
        "settings: {badge: {kind: text, scopes: [type]}}\neverywhere: {badge: gold}\n",
        "badge may not be set here (everywhere); it may be set in: type",
    ),
    "a statement said twice": (
        "pages:\n  /a:\n    here: {menu.show: no}\n    here_and_below: {menu.show: yes}\n",
        "menu.show is set twice in one scope (here /a); the first is at davlo.yaml:5",
    ),
    "two rules of one name": (
        "rules:\n  - {name: x, when: {}, give: {menu.show: no}}\n  - {name: x, when: {}, give: {menu.show: no}}\n",
        "a second rule is called 'x'; the first is at davlo.yaml:4",
    ),
}


@pytest.mark.parametrize("name", DECISIONS)
def test_decisions(name: str, small: Small, run: Run) -> None:
    decisions, expected = DECISIONS[name]
    assert expected in complaint(run, small(decisions))


PAGES = {
    "a circle of parents": (
        "path,parent\n/a,/b\n/b,/a\n",
        "pages.csv:2, column parent: the parents go round in a circle: /a -> /b -> /a",
    ),
    "a parent that is missing": (
        "path,parent\n/a,/bb\n/b,\n",
        "the parent /bb of /a is not in the page list\n  did you mean /b?",
    ),
    "a path twice": (
        "path\n/a\n/b\n/a\n",
        "pages.csv:4, column path: the path /a is there twice; the first is at line 2",
    ),
    "no column path": ("pth,title\n/a,A\n", "pages.csv:1: the column path is missing\n  did you mean pth?"),
    "a path with no slash": ("path\na\n", "pages.csv:2, column path: a path starts with /, not 'a'"),
    "a status nobody knows": (
        "path,status\n/a,drfat\n",
        "status takes live, draft or folder, not 'drfat'\n  did you mean draft?",
    ),
    "a date that is none": ("path,modified\n/a,soon\n", "modified takes a date like 2026-05-01 (ISO 8601), not 'soon'"),
    "an order that is none": ("path,order\n/a,first\n", "pages.csv:2, column order: order takes a number, not 'first'"),
    "a cell its setting cannot take": (
        "path,menu.show\n/,yes\n/a,perhaps\n",
        "pages.csv:3, column menu.show: menu.show takes yes or no",
    ),
    "too few cells": (
        "path,title,status\n/,Home,live\n/talk,Talk\n",
        "pages.csv:3: the row has 2 of 3 cells, so what is in which column is not sure\n  end it with , for blank cells",
    ),
    "another separator": (
        "path,title,type,status\n/,Home,,\n/talk;Talk;event;draft\n",
        "not sure\n  its cells are separated by a semicolon: write a comma",
    ),
    "too many cells": ("path,title\n/a,Tea, cake\n", "pages.csv:2: the row has 3 cells, and the header 2 columns"),
    "a column twice": ("path,title,title\n/a,b,c\n", "pages.csv:1: there are two columns called title"),
    "an empty file": ("", "pages.csv: the file is empty\n  its first row names the columns: path"),
}


@pytest.mark.parametrize("name", PAGES)
def test_pages(name: str, small: Small, run: Run) -> None:
    pages, expected = PAGES[name]
    assert expected in complaint(run, small(pages=pages))


def test_every_fault_is_told_at_once(small: Small, run: Run) -> None:
    folder = small(
        "everywhere: {menu.show: maybe, sidebarr: none}\npages: {visit: {here: {}}}\n",
        "path,status\n/a,lvie\n/a,live\n",
        {"stamps.csv": "path,setting,value\n/a,nothing.here,x\n"},
    )
    err = complaint(run, folder)
    for place in ("davlo.yaml:3", "davlo.yaml:4", "pages.csv:2", "pages.csv:3", "stamps.csv:2"):
        assert place in err
    assert "6 faults in 3 files: fix them, then run this again." in err


def test_very_many_faults_are_counted(small: Small, run: Run) -> None:
    rows = "".join(f"/p{i},/gone{i}\n" for i in range(1500))
    err = complaint(run, small(pages="path,parent\n" + rows))
    assert "… and 1300 more" in err
    assert err.count("the parent /gone") == 200
    assert "1500 faults in 1 file" in err


def test_a_site_without_its_page_list_still_tells_the_other_faults(small: Small, run: Run) -> None:
    folder = small("everywhere: {menu.show: maybe}\n")
    (folder / "pages.csv").unlink()
    err = complaint(run, folder)
    assert "there is no file pages.csv in the site folder" in err
    assert "menu.show takes yes or no" in err


VALUES = {
    "a scope nobody knows": (
        "evrywhere,menu.show,no,,\n",
        "values.csv:2, column where: where takes everywhere, type NAME",
    ),
    "a lock in here": ("here /a,menu.show,no,yes,\n", "values.csv:2, column lock: a lock in here means nothing"),
    "a row that says nothing": ("everywhere,menu.show,,,\n", "values.csv:2, column value: the row says nothing"),
    "a statement that YAML makes too": (
        "everywhere,menu.show,no,,\n",
        "menu.show is set twice in one scope (everywhere); the first is at davlo.yaml:4",
    ),
    "an unknown type": ("type pgae,menu.show,no,,\n", "there is no type 'pgae'\n  did you mean page?"),
}


@pytest.mark.parametrize("name", VALUES)
def test_values(name: str, small: Small, run: Run) -> None:
    rows, expected = VALUES[name]
    folder = small("everywhere:\n  menu.show: yes\n", files={"values.csv": "where,setting,value,lock,because\n" + rows})
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]}", "[en, fr], values: [values.csv]}")
    (folder / "davlo.yaml").write_text(text)
    assert expected in complaint(run, folder)


def test_a_csv_that_is_neither_utf_8_nor_utf_16(small: Small, run: Run) -> None:
    folder = small()
    (folder / "pages.csv").write_bytes(b"path,title\n/,Home\n/cafe,Caf\xe9\n")
    assert "pages.csv:3: the file is neither UTF-8 nor UTF-16\n  save it as UTF-8" in complaint(run, folder)


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16"])
def test_a_csv_as_spreadsheets_save_it_is_read(encoding: str, small: Small) -> None:
    folder = small()
    (folder / "pages.csv").write_bytes("path,title\r\n/cafe,Café\r\n".encode(encoding))
    site = davlo.open_site(folder)
    assert (site.tree.paths.tolist(), site.details.title.texts()) == (["/cafe"], ["Café"])


def test_no_davlo_yaml(tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    assert f"there is no davlo.yaml in {tmp_path}" in complaint(run, tmp_path)
    monkeypatch.chdir(tmp_path)
    outcome = run("check")
    assert (outcome.status, "there is no site here: no davlo.yaml in this folder or in any above" in outcome.err) == (
        2,
        True,
    )
    assert "davlo demo" in outcome.err


@pytest.mark.parametrize("content", ["", "# only a comment\n", "---\n"])
def test_an_empty_davlo_yaml(content: str, tmp_path: Path, run: Run) -> None:
    (tmp_path / "davlo.yaml").write_text(content)
    assert "a site begins with davlo: 1" in complaint(run, tmp_path)


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        (["show", "/visit/tikets"], "there is no page '/visit/tikets'\n  did you mean /visit/tickets"),
        (
            ["why", "/visit/tickets", "sidebar.left-hand"],
            "there is no setting 'sidebar.left-hand'\n  did you mean sidebar.left",
        ),
        (
            ["why", "/visit/tickets", "audio-guide"],
            "there is no setting for a page of type page, as /visit/tickets is, 'audio-guide'",
        ),
        (["show", "Opening times"], "name one by its path:\n    /visit/opening-times\n    /visit/cafe/opening-times"),
        (["access", "--as", "sefa.maona"], "there is no person or group 'sefa.maona'\n  did you mean sefa.moana?"),
        (["chek"], "there is no command 'chek'\n  did you mean check?"),
        (["export", "--to", "values.doc"], "--to writes a file that ends in .csv"),
        (["sitemap", "--to", "sitemap.txt"], "a sitemap is a file that ends in .xml"),
        (["sitemap", "--today", "tomorrow"], "it takes a date like 2026-05-01"),
        (["check", "--fail-on", "trouble"], "'trouble' is not one of 'error', 'warning', 'note'"),
    ],
)
def test_unusable_words(words: list[str], expected: str, garden: Path, run: Run) -> None:
    site = ["--site", str(garden)] if words[0] != "chek" else []
    outcome = run(*words, *site)
    assert (outcome.status, outcome.out) == (2, "")
    assert expected in outcome.err


def test_aliases_cannot_blow_a_file_up(small: Small, run: Run) -> None:
    layers = "".join(f"x{i}: &x{i} [{', '.join([f'*x{i - 1}'] * 20)}]\n" for i in range(1, 9))
    assert "unfold to more than 5,000,000 values" in complaint(run, small("x0: &x0 [a]\n" + layers))


def test_control_characters_of_a_file_are_not_obeyed(small: Small, run: Run) -> None:
    folder = small(pages='path,title\n/,"\x1b[31mred"\n')
    assert "\x1b" not in run("show", "/", "--site", str(folder)).out
