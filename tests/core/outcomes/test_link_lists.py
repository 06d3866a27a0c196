"""Menus and lists of links as readers meet them, against a plain reading."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import davlo
from davlo.core.change.steps.change import Declare
from davlo.core.outcomes.link_lists import link_list
from davlo.core.site.declarations import Block
from tests.core.outcomes.test_uses import shown_on
from tests.core.resolve.test_fold import open_made_up
from tests.plain import outcomes as plain
from tests.plain import resolution as reference
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


@of_made_up_sites(4)
def test_the_menu_lists_or_leaves_out_each_page_of_its_language(site: SiteDict) -> None:
    opened = open_made_up(site)
    values = {(path, name): value for (path, name), (value, *_) in reference.long_table(site).items()}
    outcomes, access, paths = opened.resolve().outcomes, opened.access(), opened.tree.paths.tolist()
    for language in opened.languages:
        for viewer in ("visitor", "keepers", "celia.dunn"):
            found = link_list(outcomes, language=language, viewer=viewer)
            links = [(link.page, link.level - 1) for link in found.links()]
            menu = plain.menu(site, values, language)
            may = {path: access.may(viewer, "view", path) for path in paths}
            assert links == [entry for entry in menu if may[entry[0]]]
            left_out = dict(found.omitted())
            assert left_out.keys() == {p for p in paths if plain.of_language(site, p, language)} - {p for p, _ in links}
            closed = {path for path, why in left_out.items() if why.endswith(" may not view it")}
            assert closed == {path for path, _ in menu if not may[path]}


@of_made_up_sites(4)
def test_lists_that_name_closed_pages_are_found(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    paths = opened.tree.paths.tolist()
    under, levels, chosen = random.choice(paths), random.randint(1, 3), random.sample(paths, min(3, len(paths)))
    branch = Block("search", davlo.Place("declared.yaml", 9), kind="branch-links", under=under, levels=levels)
    links = Block("clock", davlo.Place("declared.yaml", 9), kind="links", links={path: path for path in chosen})
    opened = opened.apply(davlo.Change((Declare(branch), Declare(links))))
    access, language = opened.access(), opened.details.language
    seen = {path: access.may("visitor", "view", path) for path in paths}
    status, leads = opened.details.status, opened.details.column("leads_to")
    closed = {path for page, path in enumerate(paths) if not seen[path] and status[page] != "folder"}
    expected: dict[str, set[str]] = {"search": set(), "clock": set()}
    for page, path in enumerate(paths):
        shown = {name for kind, name, _ in shown_on(opened, page, seen=True) if kind == "block"}
        if not seen[path] or status[page] != "live" or leads[page]:
            continue
        if "search" in shown:
            listed = plain.branch_links(site, under, levels, "order", [], language[page])
            expected["search"] |= closed & set(listed)
        if "clock" in shown:
            expected["clock"] |= closed & set(chosen)
    report = opened.check()
    reported = [one for one in report.findings if one.kind == "links-to-closed"]
    told = {one.statements[0].scope.removeprefix("block "): set(one.pages) for one in reported}
    assert told == {name: pages for name, pages in expected.items() if pages}
    for finding in reported:
        for way in finding.ways:
            after = opened.apply(way.change)
            assert finding.name not in {one.name for one in after.check().findings}


def test_a_menu_of_a_branch_counts_its_levels_from_there(small: Small) -> None:
    decisions = "blocks: {visit: {kind: menu, under: /a, levels: 1}}\npages: {/a/c: {here: {menu.show: no}}}\n"
    site = davlo.open_site(small(decisions, "path,title\n/,Home\n/a,A\n/a/b,B\n/a/b/d,D\n/a/c,C\n/e,E\n"))
    found = site.links("visit")
    assert [(link.level, link.page) for link in found.links()] == [(1, "/a/b")]
    assert list(found.omitted()) == [("/a/c", "menu.show is no")]


def test_room_ends_after_so_many_top_entries(small: Small) -> None:
    site = davlo.open_site(small("menu: {max_entries: 2}\n", "path,title\n/,Home\n/a,A\n/a/b,B\n/c,C\n/c/d,D\n"))
    assert [(link.page, link.does_not_fit) for link in site.links().links()] == [
        ("/", False),
        ("/a", False),
        ("/a/b", False),
        ("/c", True),
        ("/c/d", True),
    ]
    assert not any(link.does_not_fit for link in site.links(viewer="visitor", language="fr").links() if link.level > 2)
