"""What two states of a site are known to share, so that it is not compared: where pages move, or say something else."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import davlo

Small = Callable[..., Path]
SITE = """
layouts: {plain: {areas: [content, right]}}
everywhere: {layout.name: plain, title.limit: 50, sitemap.priority: {by_depth: {top: 1.0, step: 0.2, floor: 0.2}}}
rules: [{name: Summer, when: {tag: summer}, give: {menu.show: no}}]
pages: {/a: {below: {layout.width: narrow}, here: {heading.show: no}}, /b: {below: {robots.index: no}}}
"""
ROWS = "path,title,tags,status\n/,Home,,\n/a,A,,\n/a/x,X,,\n/a/x/y,Y,,\n/b,B,,\n"


def differing(site: davlo.Site, change: davlo.Change) -> set[str]:
    """The settings of this site that a change is not known to leave as they are."""
    is_same = site.reach(change).is_same
    return {name for name in is_same.names if not is_same(name)}


def test_a_page_that_moves_leaves_what_speaks_to_all_its_pages(small: Small) -> None:
    site = davlo.open_site(small(SITE, ROWS))
    # it leaves /a and comes to /b, and stands as deep as before
    assert differing(site, davlo.Change().move_page("/a/x", "/b/x")) == {"layout.width", "robots.index"}
    # it comes to /a/x from /a: nothing is set below that, but it stands deeper
    site_of_two = site.apply(davlo.Change().add_page("/a/z", title="Z"))
    assert differing(site_of_two, davlo.Change().move_page("/a/z", "/a/x/z")) == {"sitemap.priority"}
    assert differing(site, davlo.Change().move_page("/a", "/c")) == set()  # and what is set below it moves, too
    reach = site.reach(davlo.Change().move_page("/a", "/c"))
    assert (reach.settings, reach.numbers.addresses) == ((), 3)


def test_what_the_page_list_says_makes_others_of_what_asks_for_it(small: Small) -> None:
    site = davlo.open_site(small(SITE, ROWS))
    assert differing(site, davlo.Change().set_details("/a/x", tags="summer")) == {"menu.show"}
    drafted = davlo.Change().set_details("/a/x", status="draft")
    assert differing(site, drafted) == set()
    is_same = site.reach(drafted).is_same
    assert [word for word in ("page list", "access", "texts", "layout.") if is_same(word)] == ["layout."]
    every = {setting.name for setting in site.catalogue.settings}
    assert differing(site, davlo.Change().drop_page("/a/x/y")) == every  # other pages are there


def test_an_entry_of_accept_that_comes_to_match_is_no_stray_any_more(small: Small) -> None:
    accept = "accept: [{kind: repeats-inherited, when: {tag: summer}, because: agreed}]\n"
    repeated = SITE.replace("here: {heading.show: no}", "here: {title.limit: 50}")
    site = davlo.open_site(small(repeated + accept, ROWS))
    gone = site.reach(davlo.Change().set_details("/a", tags="summer")).findings.gone
    assert "stray-accept" in {one.kind for one in gone}
