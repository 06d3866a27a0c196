"""Ways to change a value: on how many pages another word of a scope would decide."""

from __future__ import annotations

from copy import deepcopy
from random import Random
from typing import Any, cast

import davlo
from davlo.core.change.ways_to_change import ways_to_change
from davlo.core.site.parse_values import read_cell
from davlo.core.site.scopes import ScopeKind
from davlo.core.site.values import format_value
from tests.core.change.test_reach import values
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

FRESH = {"motto": "said by nobody", "rank": "19", "topics": "t9"}
"""Values that no made-up site has."""


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


@of_made_up_sites(12)
def test_so_many_pages_change_as_in_the_edited_site(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    opened = open_made_up(site)
    effective = opened.resolve()
    path = random.choice(opened.tree.paths.tolist())
    page = opened.tree.number(path)
    for name, text in FRESH.items():
        before = values(site, name)
        setting = opened.setting_number(name)
        words = list(opened.statements.words[setting].items)
        is_said = any(opened.statements.find(setting, scope, page) >= 0 for scope in (ScopeKind.BELOW, ScopeKind.HERE))
        for way in ways_to_change(effective, page, setting):
            if way.place is not None or (is_said and way.scope.both):
                continue  # said already, perhaps in a row or with a lock: that is what reach is proved for
            changed = deepcopy(site)
            body_of(changed, way.scope.sentence if way.scope.both else str(way.scope), path)[name] = (
                [text] if name == "topics" else text
            )
            after = values(changed, name)
            differ = {page for page in before if before[page] != after[page]}
            assert (way.pages, way.this_too) == (len(differ), path in differ)
        assert opened.statements.words[setting].items == words


def test_yes_and_no_change_where_the_opposite_would_be_new() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/staff"), site.setting_number("menu.show")
    ways = {way.scope.sentence: way for way in ways_to_change(site.resolve(), page, setting)}
    assert (ways["the page itself"].pages, ways["here and below /staff"].pages, ways["everywhere"].pages) == (1, 9, 0)
    assert str(ways["the page itself"].place) == "davlo.yaml:106"
    assert format_value(read_cell(site.catalogue[setting], "no")) == "no"


def test_the_rule_that_wins_is_a_way_too() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/campaigns/spring"), site.setting_number("sidebar.right")
    way = next(one for one in ways_to_change(site.resolve(), page, setting) if one.scope.kind == ScopeKind.RULE)
    assert (str(way.scope), str(way.place)) == ("rule Hand-built pages run edge to edge", "davlo.yaml:124")
    assert (way.pages, way.this_too) == (4, True)


def test_only_pages_that_have_a_setting_change() -> None:
    site = davlo.open_demo()
    page, setting = site.tree.number("/plants/roses/dog-rose"), site.setting_number("audio-guide")
    everywhere = ways_to_change(site.resolve(), page, setting)[-1]
    assert everywhere.pages <= int(site.has(setting).sum()) < len(site.tree)


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
