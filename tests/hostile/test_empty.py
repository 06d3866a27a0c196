"""A site without pages: every command says so, and none fails."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo import draw
from tests.conftest import Run

Small = Callable[..., Path]


@pytest.mark.parametrize(
    ("words", "status"),
    [
        (["tree"], 0),
        (["tree", "--exceptions", "menu.show"], 0),
        (["list"], 0),
        (["list", "--all"], 0),
        (["list", "heading.show"], 0),
        (["menus"], 0),
        (["show", "--viewpoints"], 0),
        (["access", "--changes"], 0),
        (["picture", "--map", "may:edit", "--to", "{}/map.png"], 2),
        (["check"], 0),
        (["check", "--guarantees"], 0),
        (["check", "--format", "sarif"], 0),
        (["access"], 0),
        (["sitemap"], 0),
        (["sitemap", "--to", "-"], 2),
        (["export"], 0),
        (["export", "--long", "--format", "json"], 0),
        (["show", "/"], 2),
        (["show", "--new", "/a"], 0),
        (["why", "/", "menu.show"], 2),
        (["picture", "--map", "menu.show", "--to", "{}/map.png"], 2),
    ],
    ids=str,
)
def test_a_site_without_pages_is_answered(small: Small, run: Run, words: list[str], status: int) -> None:
    folder = small("", "path,title\n")
    got = run(*(word.format(folder) for word in words), "--site", str(folder))
    assert (got.status, bool(got.out + got.err)) == (status, True)


@pytest.mark.parametrize(
    "words",
    [
        ("tree", "--exceptions", "sidebar.right"),
        ("tree", "--shown", "sidebar.right"),
        ("list", "--all"),
        ("set", "sidebar.right=none", "--everywhere"),
        ("export", "--format", "jsonl"),
        ("condense",),
    ],
    ids=" ".join,
)
@pytest.mark.parametrize("languages", ["languages: [en, fr]", "home: /"])
def test_so_is_one_whose_sidebars_are_set(small: Small, run: Run, words: tuple[str, ...], languages: str) -> None:
    says = """layouts: {plain: {areas: [content, right]}}
sidebars: {main: {blocks: [hours]}}
blocks: {hours: {kind: text, text: Open}}
everywhere: {layout.name: plain, sidebar.right: main}
"""
    folder = small(says, "path,title,language\n")
    file = folder / "davlo.yaml"
    file.write_text(file.read_text().replace("languages: [en, fr]", languages))
    got = run(*words, "--site", str(folder))
    assert (got.status, "fault" in got.err) == (0, False), got.err


def test_a_map_of_nothing_is_refused(small: Small) -> None:
    with pytest.raises(ValueError, match="the site has no pages"):
        draw.map(davlo.open_site(small("", "path,title\n")).resolve(), "menu.show")
