"""Two states of a site, and no word of how the one came from the other: each difference is found, and nothing else."""

from __future__ import annotations

import copy
from dataclasses import replace
from random import Random
from typing import Any

import davlo
from davlo.core.outcomes.shown_values import ShownValues
from davlo.core.records.page_record import page_record
from davlo.core.records.viewpoint_results import viewpoint_differences
from davlo.core.site.model import Viewpoint
from tests.core.resolve.test_fold import open_made_up
from tests.files.rewrite.test_rewrite import step_of
from tests.sites import TYPES, SiteDict, of_made_up_sites

from .test_causes import assert_each_has_one

Told = dict[tuple[str, str], Any]


def later(site: SiteDict, random: Random) -> SiteDict:
    """The site after somebody edited it by hand."""
    other = copy.deepcopy(site)
    rows = other["rows"]
    for work in random.sample(
        ["type", "title", "status", "language", "row", "rule", "rules", "people", "page", "all"], 4
    ):
        row = random.choice(rows)
        if work == "row" and len(rows) > 2:
            leaf = [one for one in rows if not any(o["path"].startswith(f"{one['path'].rstrip('/')}/") for o in rows)]
            free = [one for one in leaf if not any(o.get("parent") == one["path"] for o in rows)]
            rows.remove(random.choice(free)) if free else None
        elif work in ("type", "title", "status", "language"):
            words = {"type": TYPES, "title": ["Other"], "status": ["", "draft"], "language": ["en", "fr", ""]}
            row[work] = random.choice(words[work])
        elif work == "rule" and other["rules"]:
            other["rules"].pop(random.randrange(len(other["rules"])))
        elif work == "rules":
            other["rules"].reverse()
        elif work == "people":
            other["people"]["groups"] = {**other["people"]["groups"], "keepers": ["celia.dunn"]}
        elif work == "page" and other["pages"]:
            other["pages"].pop(random.choice(list(other["pages"])))
        elif work == "all":
            other["everywhere"]["title.pattern"] = "{title}!"
            other["everywhere"].get("lock", {}).pop("title.pattern", None)
    return other


def values_of(site: davlo.Site) -> Told:
    """For each page and setting: the value, its scope, whether it is locked, whether a reader can tell."""
    effective, found = site.resolve(), Told()
    shown = ShownValues(effective)
    for path in effective:
        for name, value in effective[path].items():
            source = effective.source(path, name)
            is_shown = not shown.reason(effective.page_number(path), effective.setting_number(name))
            found[path, name] = (value, source.scope, source.locked, is_shown)
    return found


GROUPS = ("menu", "sitemap", "areas", "shows", "looks", "theme")


def outcomes_of(
    site: davlo.Site, paths: set[str], viewer: str = "visitor", details_too: bool = False
) -> dict[tuple[str, str], object]:
    """Every field of outcomes of these pages, page by page, as a viewer meets them; fields without a value left out."""
    found: dict[tuple[str, str], object] = {}
    for path in paths:
        record = page_record(site.resolve(), site.page_number(path), viewer=viewer)
        told = record.as_json("outcomes")
        if details_too:
            found |= {(path, f"details.{name}"): value for name, value in record.as_json("details").items()}
            found[path, "access"] = record.as_json()["access"]
        for group in GROUPS:
            told |= {f"{group}.{name}": value for name, value in told.pop(group).items()}
        found |= {(path, name): value for name, value in told.items()}
    return {key: value for key, value in found.items() if value is not None}


def same_outcomes(before: davlo.Site, after: davlo.Site, found: davlo.Difference, both: set[str]) -> None:
    """The outcomes before, with what the difference says put in, are those after: for a visitor and for viewpoints."""
    seen = {("visitor", path) for path in both} | {(one.viewer, one.page) for one in after.viewpoints}
    for viewer in {viewer for viewer, _ in seen}:
        if viewer not in ("visitor", "signed-in", *before.people.names, *before.people.groups):
            continue
        paths = {path for who, path in seen if who == viewer} & both
        was, now = (outcomes_of(site, paths, viewer, viewer == "visitor") for site in (before, after))
        told = {(r.path, r.field): (r.before, r.after) for r in found.outcomes if r.viewer == viewer and r.path in both}
        differs = {key: (was.get(key), now.get(key)) for key in {*was, *now} if was.get(key) != now.get(key)}
        assert without_blank_columns(told) == without_blank_columns(differs)


def without_blank_columns(told: dict[tuple[str, str], tuple[Any, Any]]) -> dict[tuple[str, str], tuple[Any, Any]]:
    """What differs, without blank cells of a column that is new or gone: they are the same as no column."""
    return {key: pair for key, pair in told.items() if {*map(str, pair)} != {"", "None"} or key[1][:8] != "details."}


@of_made_up_sites(5)
def test_a_reach_holds_every_outcome_that_the_change_makes_another(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    before = open_made_up(site)
    viewers = ("visitor", "signed-in", *before.people.names, *before.people.groups)
    seen = zip(random.choices(before.tree.paths.tolist(), k=3), random.choices(viewers, k=3), strict=True)
    before = replace(before, viewpoints=tuple(Viewpoint(page, who, davlo.Place("")) for page, who in seen))
    for _ in range(4):
        step = step_of(before, random) if len(before.tree) else None
        if step is None:
            continue
        change = davlo.Change((step,))
        try:
            after = before.apply(change)
        except davlo.ChangeError:
            continue
        reach = before.reach(change)
        moved = {path for pair in reach.moved for path in pair}
        same_outcomes(before, after, reach, {*before.tree.paths.tolist()} & {*after.tree.paths.tolist()} - moved)
        path_before = {new: old for old, new in reach.moved}
        whole = viewpoint_differences(before.resolve(), after.resolve(), path_before)
        assert (step, reach.viewpoint_differences) == (step, whole)
        before = after


@of_made_up_sites(3)
def test_what_differs_is_found_page_by_page(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    before = open_made_up(site)
    try:
        after = open_made_up(later(site, random))
    except davlo.SiteError:  # what was taken away is named elsewhere
        return
    found = before.difference(after)
    was, now = before.tree.paths.tolist(), after.tree.paths.tolist()
    assert (set(found.gone), set(found.new), found.moved) == (set(was) - set(now), set(now) - set(was), ())
    both = set(was) & set(now)

    one, other = values_of(before), values_of(after)
    nothing = (None, None, None, None)
    keys = {key for key in {*one, *other} if key[0] in both}
    expected = {key: (one.get(key, nothing), other.get(key, nothing)) for key in keys if one.get(key) != other.get(key)}
    rows = {}
    for row in found.rows():
        sides = ((row.before, row.source_before, row.shown_before), (row.after, row.source_after, row.shown_after))
        if row.path in both:
            rows[row.path, row.setting] = tuple((v, s and s.scope, s and s.locked, m) for v, s, m in sides)
    assert expected.items() <= rows.items()
    for key in rows.keys() - expected.keys():  # of one scope in both states, and no value: it stands elsewhere now
        assert rows[key][0] == rows[key][1]
    assert_each_has_one(found)

    same_outcomes(before, after, found, both)

    may, might = after.access(), before.access()
    for change in found.access:
        here, there = (set(access.pages(change.who, change.action)) & both for access in (may, might))
        assert (change.gained, change.lost) == (len(here - there), len(there - here))
    told_of = {(change.who, change.action) for change in found.access}
    for who in ("visitor", *before.people.names):
        for action in before.actions:
            if (who, action) not in told_of:
                assert set(may.pages(who, action)) & both == set(might.pages(who, action)) & both, (who, action)
