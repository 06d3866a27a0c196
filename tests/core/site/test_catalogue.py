"""The catalogue: the settings there are, their kinds and what they are built in as."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.site.settings.values import format_value

Small = Callable[..., Path]
BUILT_IN = {
    "heading.show": ("flag", "yes"),
    "title.pattern": ("text", "{title}"),
    "title.limit": ("integer", "60"),
    "menu.show": ("flag", "yes"),
    "menu.label": ("text", "{title}"),
    "layout.name": ("layout", "none"),
    "layout.theme": ("theme", "none"),
    "layout.width": ("choice", "as-layout"),
    "layout.phone-order": ("list", ""),
    "access.everyone": ("list", "view"),
    "heading.text": ("text", "{title}"),
    "page.owner": ("person", "none"),
    "page.group": ("group", "none"),
    "robots.index": ("flag", "yes"),
    "sitemap.include": ("flag", "yes"),
    "sitemap.priority": ("number", "0.5"),
    "sitemap.changefreq": ("choice", "none"),
}


def test_davlos_own_settings(small: Small) -> None:
    settings = davlo.open_site(small()).catalogue.settings
    assert {s.name: (s.kind, format_value(s.built_in)) for s in settings} == BUILT_IN
    assert [s.name for s in settings if s.default_for == "new-pages"] == ["page.owner", "page.group"]
    assert all(s.help for s in settings)
    assert not [s.name for s in settings if "disable" in s.name or "hide" in s.name]


def test_each_area_of_any_layout_has_four(small: Small) -> None:
    catalogue = davlo.open_site(small("layouts: {a: {areas: [top]}, b: {areas: [side, top]}}\n")).catalogue
    areas = [s.name for s in catalogue.settings if s.family in ("sidebar", "look", "band", "blocks")]
    assert areas == [f"{family}.{area}" for area in ("top", "side") for family in ("sidebar", "look", "band", "blocks")]


def test_access_settings_come_to_be_where_they_are_named_in_a_fixed_order(small: Small) -> None:
    people = "people: {names: [bea.moss, abel.lunt], groups: {crew: [bea.moss]}}\n"
    decisions = (
        people
        + "presets: {spare: {deny: {abel.lunt: [edit]}}}\neverywhere: {access: {bea.moss: [edit], crew: [edit]}}\n"
    )
    catalogue = davlo.open_site(small(decisions, "path,access.owner\n/,\n")).catalogue
    names = [catalogue[n].name for n in range(len(catalogue)) if catalogue[n].family in ("access", "deny")]
    assert names == ["access.everyone", "access.owner", "access.crew", "access.bea.moss", "deny.abel.lunt"]


OWN = """
settings:
  spark: {kind: flag}
  motto: {kind: text, label: Motto, help: Under the heading}
  rank: {kind: integer, least: 1, most: 9, default: 3}
  hue: {kind: choice, choices: [red, green], required: yes}
  topics: {kind: list, choices: [a, b], default: [b]}
  weight: {kind: number, for_types: [note], default_for: new-pages}
  until: {kind: date}
  tint: {kind: color, scopes: [type, here]}
  title.limit: {default: 70, label: Longest title, scopes: [everywhere]}
  access.*: {default_for: new-pages}
  deny.crew: {default: [edit]}
types: {note: {}}
people: {groups: {crew: []}}
"""


def test_the_sites_own_settings_and_what_it_makes_of_davlos(small: Small) -> None:
    catalogue = davlo.open_site(small(OWN)).catalogue
    found = {s.name: s for s in catalogue.settings}
    built_in = {
        name: format_value(found[name].built_in) for name in ("spark", "motto", "rank", "hue", "topics", "weight")
    }
    assert built_in == {"spark": "no", "motto": "", "rank": "3", "hue": "none", "topics": "b", "weight": "none"}
    assert (found["motto"].label, found["motto"].help) == ("Motto", "Under the heading")
    assert (found["weight"].default_for, found["weight"].for_types) == ("new-pages", ("note",))
    assert (found["hue"].required, found["tint"].scopes) == (True, ("type", "here"))
    assert (found["title.limit"].built_in, found["title.limit"].label) == (70, "Longest title")
    assert found["access.everyone"].default_for == "new-pages"
    assert format_value(found["deny.crew"].built_in) == "edit"


WRONG = {
    "settings: {title: {kind: text}}": "no setting may be called title: it is a detail of every page",
    "settings: {sidebar.top: {kind: text}}": "there is no setting 'sidebar.top'",
    "settings: {motto: {label: x}}": "the setting motto has no kind",
    "settings: {motto: {kind: txet}}": "kind takes one of text, flag",
    "settings: {hue: {kind: choice}}": "the setting hue has no choices",
    "settings: {rank: {kind: number, least: 5, most: 1}}": "least is more than most for rank",
    "settings: {rank: {kind: number, most: 3, default: 4}}": "rank takes a number, at most 3, not 4",
    "settings: {motto: {kind: text, choices: [a]}}": "choices is for the kinds choice and list",
    "settings: {motto: {kind: text, used_by: [nowhere]}}": "there is no layout, band or block 'nowhere'",
    "settings: {motto: {kind: text, for_types: [nothing]}}": "there is no type 'nothing'",
    "settings: {menu.show: {kind: text}}": "menu.show has no key 'kind'",
    "settings: {Motto: {kind: text}}": "'Motto' is no name: names are lower-case words with - or . between",
    "settings: {topics: {kind: list, default: {add: [a]}}}": "the default of topics is a plain value",
    "settings: {access.nobody: {default_for: all-pages}}": "there is no person or group 'nobody'",
    "settings: {motto: {kind: text, scopes: [elsewhere]}}": "there is no scope 'elsewhere'",
    "types: {note: {without: [sidebar.nowhere]}}": "there is no setting 'sidebar.nowhere'",
}


@pytest.mark.parametrize("decisions", WRONG)
def test_what_settings_may_not_say(decisions: str, small: Small) -> None:
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(small(decisions + "\n"))
    assert WRONG[decisions] in " ".join(fault.what for fault in caught.value.faults)


def test_without_and_for_types_take_settings_from_pages(small: Small) -> None:
    decisions = (
        "layouts: {l: {areas: [top]}}\nsettings: {rank: {kind: number, for_types: [note]}}\n"
        "types: {note: {without: [menu.show, sidebar.*]}, memo: {based_on: note}}\n"
    )
    effective = davlo.open_site(small(decisions, "path,type\n/,\n/a,note\n/b,memo\n")).resolve()
    for path, has in (("/", False), ("/a", True), ("/b", True)):
        assert ("rank" in effective[path]) is has
        assert ("menu.show" in effective[path]) is not has
        assert ("sidebar.top" in effective[path]) is not has
