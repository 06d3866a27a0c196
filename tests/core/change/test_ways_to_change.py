"""Ways to change a value: on how many pages another word of a scope would decide."""

from __future__ import annotations

from collections.abc import Callable
from copy import deepcopy
from pathlib import Path
from random import Random
from typing import Any, cast

import davlo
from davlo.core.change.ways_to_change import ways_to_change
from davlo.core.site.settings.scopes import ScopeKind
from tests.conftest import Run
from tests.core.change.test_reach import values
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

FRESH: dict[str, tuple[tuple[bool | None, str], ...]] = {
    "motto": ((None, "said by nobody"),),
    "rank": ((None, "19"),),
    "topics": ((None, "t9"),),
    "spark": ((True, "yes"), (False, "no")),
    "heading.show": ((True, "yes"), (False, "no")),
}
"""Values to write: that no made-up site has, or yes and no."""


def body_of(site: SiteDict, scope: str, path: str) -> dict[str, Any]:
    """The body in which a scope, as a way names it, would say something."""
    kind, _, of = scope.partition(" ")
    if kind == "everywhere":
        found = site["everywhere"]
    elif kind == "type":
        found = site["types"].setdefault(of, {"label": of}).setdefault("give", {})
    else:
        key = "here_and_below" if scope.startswith("here and below") else kind
        found = site["pages"].setdefault(of if kind == "below" else path, {}).setdefault(key, {})
    return cast(dict[str, Any], found)


@of_made_up_sites(3)
def test_so_many_pages_change_as_in_the_edited_site(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    opened = open_made_up(site)
    effective = opened.resolve()
    path = random.choice(opened.tree.paths.tolist())
    page = opened.tree.number(path)
    for name, texts in FRESH.items():
        before = values(site, name)
        setting = opened.setting_number(name)
        words = list(opened.statements.words[setting].items)
        is_said = any(opened.statements.find(setting, scope, page) >= 0 for scope in (ScopeKind.BELOW, ScopeKind.HERE))
        for way in ways_to_change(effective, page, setting):
            if way.place is not None or (is_said and way.scope.both):
                continue  # said already, perhaps in a row or with a lock: that is what reach is proved for
            told = {one.value: (one.pages, one.this_too) for one in way.reaches}
            for value, text in texts:
                changed = deepcopy(site)
                body_of(changed, way.scope.sentence if way.scope.both else str(way.scope), path)[name] = (
                    [text] if name == "topics" else text
                )
                after = values(changed, name)
                differ = {page for page in before if before[page] != after[page]}
                assert told[value] == (len(differ), path in differ)
        assert opened.statements.words[setting].items == words


def test_of_a_flag_yes_and_no_are_told_apart() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/"), site.setting_number("heading.show")
    everywhere = ways_to_change(site.resolve(), page, setting)[-1]
    for value, pages in ((True, 0), (False, 110)):
        change = davlo.Change().say("heading.show", value, everywhere=True)
        assert site.reach(change).count() == pages
        assert (value, pages, False) in everywhere.reaches


def test_what_one_statement_decides_is_counted(small: Callable[..., Path], run: Run) -> None:
    folder = small("", "path\n/\n/a\n/b\n/c\n")
    words = ("set", "title.limit=9", "--here", "/a", "--here", "/b", "--write", "--site", str(folder))
    assert run(*words).status == 0
    written = "pages:\n  /a: {here: {title.limit: 9}}\n  /b: {here: {title.limit: 9}}\n"
    assert (folder / "davlo.yaml").read_text().endswith(written)
    for page, line in (("/a", 4), ("/b", 5)):
        told = run("why", page, "title.limit", "--site", str(folder)).out
        assert f"davlo.yaml:{line} " in told
        assert "1 page\n" in told
    flows = "pages: {/a: {here: {title.limit: 9}}, /b: {here: {title.limit: 9}}}\n"
    site = davlo.open_site(small(flows, "path\n/\n/a\n/b\n/c\n"))
    way = ways_to_change(site.resolve(), site.tree.number("/a"), site.setting_number("title.limit"))[0]
    assert (str(way.place), way.reaches[0].pages) == ("davlo.yaml:3", 1)


def test_the_rule_that_wins_is_a_way_too() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/campaigns/spring"), site.setting_number("sidebar.right")
    way = next(one for one in ways_to_change(site.resolve(), page, setting) if one.scope.kind == ScopeKind.RULE)
    assert (str(way.scope), str(way.place)) == ("rule Hand-built pages run edge to edge", "davlo.yaml:124")
    assert way.reaches == ((None, 4, True),)


def test_only_pages_that_have_a_setting_change() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/plants/roses/dog-rose"), site.setting_number("audio-guide")
    everywhere = ways_to_change(site.resolve(), page, setting)[-1]
    assert everywhere.reaches[0].pages <= int(site.has(setting).sum()) < len(site.tree)


def test_only_scopes_that_a_setting_may_be_set_in() -> None:
    site = davlo.Site.from_frames(
        {"path": ["/", "/a"]},
        {
            "davlo": 1,
            "site": {"name": "Small", "url": "https://small.example"},
            "settings": {"title.limit": {"scopes": ["everywhere", "here"]}},
        },
    )
    told = ways_to_change(site.resolve(), site.tree.number("/a"), site.setting_number("title.limit"))
    assert [str(way.scope) for way in told] == ["here", "everywhere"]
