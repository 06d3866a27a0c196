"""Set is not shown: which values a reader can tell, and what prevents it elsewhere."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.outcomes.menus.menu import menu_of
from davlo.core.outcomes.sitemap.sitemap_reasons import BY_PRIORITY
from tests.amiss import amiss
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.plain import outcomes as plain
from tests.plain import resolution as reference
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


@of_made_up_sites(5)
def test_what_is_shown_is_what_the_reference_tells(site: SiteDict) -> None:
    made = amiss(site, Random(str(site["rows"])))
    opened = open_made_up(made)
    effective, values = opened.resolve(), {key: value for key, (value, *_) in reference.long_table(made).items()}
    paths = opened.tree.paths.tolist()
    listed = {path for path, code in zip(paths, effective.outcomes.sitemap, strict=True) if code in (0, BY_PRIORITY)}
    in_menu = {path for path, shown in zip(paths, menu_of(effective).shown, strict=True) if shown}
    for path, name in values:
        told = not effective.shown.reason(path, name)
        assert told == bool(effective.shown.pages(name)[opened.tree.number(path)])
        assert (path, name, told) == (path, name, plain.is_shown(made, values, path, name, listed, in_menu))


SITE = """
layouts: {plain: {areas: [content, footer]}, wide: {based_on: plain, areas: [content, right, footer]}}
themes: {dark: {areas: [content, right]}}
sidebars: {main: {blocks: [hours]}}
blocks: {hours: {kind: text, text: Open}, line: {kind: text, text: Legal}}
looks: {usual: {whole: {width: 30%}}}
bands: {legal: {fits: [footer], blocks: [line]}}
settings: {credit: {kind: text, used_by: [hours]}}
everywhere: {sidebar.right: main, look.right: usual, band.footer: legal, credit: Ann}
pages:
  /a: {here: {layout.name: plain}}
  /b: {here: {layout.name: wide, layout.theme: dark}}
  /c: {here: {layout.name: wide, sidebar.right: none}}
  /d: {here: {menu.label: D, sitemap.priority: 0.9}}
"""


@pytest.mark.parametrize(
    ("page", "setting", "reason"),
    [
        ("/", "sidebar.right", "the page has no layout"),
        ("/a", "sidebar.right", "the layout plain has no area right"),
        ("/a", "look.right", "the layout plain has no area right"),
        ("/b", "sidebar.right", ""),
        ("/b", "band.footer", "the theme dark has no place for the area footer: it shows nothing"),
        ("/c", "look.right", "no sidebar and no band stands in the area right"),
        ("/c", "sidebar.right", ""),
        ("/b", "credit", ""),
        ("/a", "credit", "hours does not show on the page"),
        ("/d", "menu.label", "the page is not in the menu"),
        ("/d", "sitemap.priority", "the page is not in the sitemap: it is a draft"),
        ("/d", "heading.show", ""),
    ],
)
def test_why_a_value_is_not_shown(page: str, setting: str, reason: str, small: Small, run: Run) -> None:
    folder = small(SITE, "path,status\n/,\n/a,\n/b,\n/c,\n/d,draft\n")
    assert davlo.open_site(folder).resolve().shown.reason(page, setting) == reason
    told = run("why", page, setting, "--site", str(folder)).out
    assert (f"Not shown: {reason}" in " ".join(told.split())) == bool(reason)
    assert told.split("\n")[0].endswith(", but is not shown") == bool(reason)


def test_tables_mark_what_is_not_shown_and_count_it_apart(small: Small, run: Run) -> None:
    folder = small(SITE, "path,status\n/,\n/a,\n/b,\n/c,\n/d,draft\n")
    told = run("tree", "--columns", "sidebar.right", "--site", str(folder)).out
    assert told.count("main (not shown)") == 3
    assert "(not shown) sidebar.right on 2 pages: the page has no layout" in told
    assert run("tree", "--columns", "sidebar.right", "--format", "csv", "--site", str(folder)).out.split("\n")[2:4] == [
        "/a,,page,/,,live,1,main,no",
        "/b,,page,/,,live,1,main,yes",
    ]
    listed = run("list", "main", "--site", str(folder)).out
    assert "shown on 1 page: right on 1" in listed
    assert "set but not shown on 3 pages" in listed


def test_a_page_whose_type_goes_without_a_theme_shows_what_its_layout_has(small: Small) -> None:
    bare = "types: {bare: {without: [layout.theme]}}\nrules: [{name: all, when: {type: bare}, give: {layout.name: wide}}]\n"
    dark = SITE.replace("everywhere: {", "everywhere: {layout.theme: dark, ")
    site = davlo.open_site(small(dark + bare, "path,type\n/,bare\n/a,\n/b,\n/c,\n"))
    assert site.resolve().shown.reason("/", "band.footer") == ""
    legal = next(one for one in site.declared() if one.name == "legal")
    assert (legal.pages, legal.not_shown) == (1, 3)


def test_a_band_is_not_blank_because_a_sidebar_of_its_name_is(small: Small) -> None:
    folder = small(
        "layouts: {plain: {areas: [content]}}\nlooks: {unseen: {shows_on: []}}\nsidebars: {top: {blank: yes}}\n"
        "bands: {top: {fits: [content], blocks: [hours]}}\nblocks: {hours: {kind: text, text: Open}}\n"
        "types: {plain-page: {without: [look.content]}}\n"
        "everywhere: {layout.name: plain, look.content: unseen, sidebar.content: top, band.content: top}\n",
        "path,type\n/,\n/a,plain-page\n",
    )
    shown = davlo.open_site(folder).resolve().shown
    why = [shown.reason(page, setting) for page in ("/", "/a") for setting in ("sidebar.content", "band.content")]
    assert why == ["", "the look unseen shows it on no screen", "", ""]


def test_a_sidebar_that_shows_nothing_is_not_shown_and_says_why(small: Small, run: Run) -> None:
    folder = small(
        "layouts: {plain: {areas: [content, left, right, footer]}}\n"
        "sidebars: {leaves: {blocks: [below-b, silent]}, top: {blocks: [menu]}, bare: {}, calm: {blank: yes}}\n"
        "bands: {foot: {fits: [footer], blocks: [silent]}}\n"
        "blocks:\n  below-b: {kind: branch-links, under: /a/b}\n  silent: {kind: text, text: ' '}\n"
        "  menu: {kind: menu, under: /a}\n"
        "people: {names: [ann], groups: {crew: [ann]}}\n"
        "everywhere: {layout.name: plain, sidebar.left: leaves, sidebar.right: top, band.footer: foot}\n"
        "pages:\n  /a/b: {here: {fresh_access: yes, access: {crew: [view]}}}\n"
        "  /a: {here: {sidebar.left: bare, sidebar.right: calm}}\n"
    )
    site = davlo.open_site(folder)
    shown = site.resolve().shown
    assert shown.reason("/", "sidebar.left") == "no block of the sidebar leaves has anything to show"
    assert shown.reason("/a", "sidebar.left") == "the sidebar bare has no blocks"
    assert shown.reason("/", "band.footer") == "no block of the band foot has anything to show"
    assert (shown.reason("/", "sidebar.right"), shown.reason("/a", "sidebar.right")) == ("", "")  # ann meets /a/b
    found = {(one.setting, tuple(one.pages)): one for one in site.check().findings if one.kind == "empty-sidebar"}
    assert set(found) == {
        ("sidebar.left", ("/", "/a/b")),
        ("sidebar.left", ("/a",)),
        ("band.footer", ("/", "/a", "/a/b")),
    }
    told = run("why", "/", "sidebar.left", "--site", str(folder)).out
    assert "no block of the sidebar leaves has anything to show" in told
    counts = {one.name: (one.pages, one.not_shown) for one in site.declared() if one.kind in ("sidebar", "band")}
    assert counts == {"leaves": (0, 2), "top": (2, 0), "bare": (0, 1), "calm": (1, 0), "foot": (0, 3)}
