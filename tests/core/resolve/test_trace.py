"""Why: the sentences that tell what became of each candidate."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo

Small = Callable[..., Path]
SITE = """
layouts: {plain: {areas: [content]}}
blocks: {clock: {kind: text}, map: {kind: text}, news: {kind: text}}
people: {names: [amber.finch], groups: {keepers: [amber.finch]}}
settings: {motto: {kind: text, default_for: new-pages}}
presets: {loud: {title.limit: 90, blocks.content: {add: [news]}}}
everywhere:
  title.limit: 50
  blocks.content: [clock]
  motto: as ever
  access: {keepers: [view]}
  lock: {menu.label: Fixed}
types:
  note: {give: {use: loud, because: Notes may be long}}
pages:
  /a:
    below: {blocks.content: {first: [map], remove: [clock]}, title.limit: <everywhere>, fresh_access: yes}
  /a/b:
    here: {menu.label: Mine, blocks.content: {add: [map]}}
rules:
  - {name: nothing new, when: {path: /a/c}, give: {blocks.content: none}}
"""
PAGES = "path,title,type\n/,Home,\n/a,A,\n/a/b,B,note\n/a/c,C,note\n"


def ladder(small: Small, path: str, setting: str) -> list[tuple[str, str, str]]:
    site = davlo.open_site(small(SITE, PAGES, {"stamps.csv": "path,setting,value\n/a/c,motto,old\n"}))
    trace = site.resolve().why(path, setting)
    return [(c.verdict, str(c.scope), c.reason) for c in trace.candidates]


LADDERS = {
    ("/a/b", "title.limit"): [
        ("overridden", "built-in", "overridden by everywhere"),
        ("overridden", "everywhere", "overridden by the preset loud used in type note"),
        ("overridden", "type note", "overridden by below /a"),
        ("wins", "below /a", "wins: no stronger statement sets it"),
    ],
    ("/a/b", "blocks.content"): [
        ("overridden", "built-in", "overridden by everywhere"),
        ("counts", "everywhere", "counts: the list is clock after it"),
        ("counts", "type note", "counts: the list is clock; news after it"),
        ("counts", "below /a", "counts: the list is map; news after it"),
        ("wins", "here", "wins: no stronger statement sets it"),
    ],
    ("/a/c", "blocks.content"): [
        ("overridden", "built-in", "overridden by everywhere"),
        ("overridden", "everywhere", 'overridden by the rule "nothing new"'),
        ("overridden", "type note", 'overridden by the rule "nothing new"'),
        ("overridden", "below /a", 'overridden by the rule "nothing new"'),
        ("wins", "rule nothing new", "wins: no stronger statement sets it"),
    ],
    ("/a/b", "menu.label"): [
        ("overridden", "built-in", "overridden by everywhere"),
        ("wins", "everywhere", "wins, and is locked: nothing stronger may change it"),
        ("overruled", "here", "overruled: everywhere locks menu.label (davlo.yaml:14); it would have given Mine"),
    ],
    ("/a/b", "access.keepers"): [
        ("overridden", "built-in", "overridden by everywhere"),
        ("overridden", "everywhere", "overridden by fresh_access in below /a"),
        ("wins", "below /a", "wins: no stronger statement sets it"),
    ],
    ("/a/b", "motto"): [
        ("wins", "built-in", "no statement sets it, so the built-in value stays"),
        ("left out", "everywhere", "the default of motto is for new pages: an existing page keeps its stamp"),
    ],
    ("/a/c", "motto"): [
        ("overridden", "built-in", "overridden by stamp"),
        ("left out", "everywhere", "the default of motto is for new pages: an existing page keeps its stamp"),
        ("wins", "stamp", "wins: no stronger statement sets it"),
    ],
    ("/", "robots.index"): [("wins", "built-in", "no statement sets it, so the built-in value stays")],
}


@pytest.mark.parametrize("asked", LADDERS, ids=" ".join)
def test_each_candidate_has_its_reason(asked: tuple[str, str], small: Small) -> None:
    assert ladder(small, *asked) == LADDERS[asked]


def test_a_preset_is_named_with_both_places(small: Small) -> None:
    site = davlo.open_site(small(SITE, PAGES))
    candidate = next(c for c in site.resolve().why("/a/b", "title.limit").candidates if c.preset)
    assert (str(candidate.place), str(candidate.preset_place)) == ("davlo.yaml:16", "davlo.yaml:8")
    assert candidate.because == "Notes may be long"


def test_an_empty_list_starts_from_the_built_in_one(small: Small) -> None:
    site = davlo.open_site(
        small("blocks: {a: {kind: text}}\nlayouts: {l: {areas: [x]}}\neverywhere: {blocks.x: {add: [a]}}\n")
    )
    built_in, everywhere = site.resolve().why("/", "blocks.x").candidates
    assert (built_in.verdict, built_in.reason) == ("counts", "the list starts from it")
    assert (everywhere.verdict, everywhere.gives) == ("wins", ("a",))


def test_a_page_without_the_setting_is_told_so(small: Small) -> None:
    site = davlo.open_site(small("types: {note: {without: [menu.show]}}\n", PAGES))
    effective = site.resolve()
    assert "menu.show" not in effective["/a/b"]
    with pytest.raises(davlo.UnknownName, match="setting for a page of type note, as /a/b is,"):
        effective.why("/a/b", "menu.show")
