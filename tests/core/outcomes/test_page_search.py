"""Pages are found by what they get: by values, and by whether these are shown."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import pytest

import davlo
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.plain import outcomes as plain
from tests.plain import resolution as reference
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


def is_had(kind: str, value: str, wanted: str) -> bool:
    """The plain reading: a list holds all items named, or is empty if none is; any other value is equal."""
    if kind != "list":
        return value == wanted
    items, named = ([one for one in text.split("; ") if one] for text in (value, wanted))
    return all(one in items for one in named) if named else not items


@of_made_up_sites(5)
def test_pages_are_found_by_what_they_get(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    effective, settings = opened.resolve(), reference.catalogue(site)
    values = {key: value for key, (value, *_) in reference.long_table(site).items()}
    paths = opened.tree.paths.tolist()
    for _ in range(12):
        some = random.sample(sorted(values), min(3, len(values)))
        asked: dict[str, list[str]] = {}
        for page, name in some:
            asked.setdefault(name, []).append(values[page, name])
        shown, not_shown = (random.choice([(), (random.choice(some)[1],)]) for _ in range(2))
        words = [f"{name}={value}" for name, wanted in asked.items() for value in wanted]
        expected = [
            path
            for path in paths
            if all(
                (path, name) in values
                and any(is_had(settings[name]["kind"], values[path, name], one) for one in wanted)
                for name, wanted in asked.items()
            )
            and all(
                (path, name) in values
                and effective.shown.reason(path, name) == ""
                and not plain.says_nothing(settings[name], values[path, name])
                for name in shown
            )
            and all((path, name) in values and effective.shown.reason(path, name) != "" for name in not_shown)
        ]
        assert (words, effective.search(*words, shown=shown, not_shown=not_shown)) == (words, expected)


def test_a_search_among_some_pages_keeps_their_order(small: Small) -> None:
    site = davlo.open_site(small("everywhere: {title.limit: 9}\npages: {/a: {here: {title.limit: 8}}}\n"))
    assert site.resolve(pages=["/a/b", "/a", "/"]).search("title.limit=9") == ["/a/b", "/"]


WRONG = [
    ("title.limt=9", "there is no setting 'title.limt'", "did you mean title.limit?"),
    ("title.limit", "'title.limit' names no value", "write title.limit=VALUE"),
    ("title.limit=nine", "title.limit takes", ""),
    ("title.limit=<everywhere>", "is no value that a page ends up with", ""),
    ("blocks.content=+ map", "is no value that a page ends up with", "write blocks.content=VALUE"),
]


@pytest.mark.parametrize(("words", "what", "hint"), WRONG)
def test_a_search_that_cannot_be_says_why(words: str, what: str, hint: str, small: Small, run: Run) -> None:
    folder = small("layouts: {plain: {areas: [content]}}\nblocks: {map: {kind: text}}\n")
    outcome = run("tree", "--having", words, "--site", str(folder))
    assert (outcome.status, outcome.out) == (2, "")
    assert what in outcome.err
    assert hint in outcome.err


def test_the_tree_lists_what_is_had_and_met(run: Run, garden: Path) -> None:
    site = ("--site", str(garden), "--format", "csv")
    having = run("tree", "--having", "sidebar.right=none", "--having", "layout.name=open", *site).out.splitlines()
    assert [line.split(",")[0] for line in having[1:]] == [
        "/campaigns/adopt-a-tree",
        "/campaigns/night-garden",
        "/campaigns/spring",
        "/campaigns/spring/pledge",
    ]
    assert len(run("tree", "--not-shown", "band.footer", *site).out.splitlines()) == 1 + 9
    assert len(run("tree", "--shown", "band.footer", "--when", "type=event", *site).out.splitlines()) == 1 + 12
