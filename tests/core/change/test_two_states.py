"""Two states of a site, and no word of how the one came from the other: each difference is found, and nothing else."""

from __future__ import annotations

import copy
from random import Random
from typing import Any

import davlo
from davlo.core.outcomes.shown_values import ShownValues
from tests.core.resolve.test_fold import open_made_up
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


def outcomes_of(site: davlo.Site) -> Told:
    """For each page what readers and search engines see."""
    found = Told()
    for path in site.tree.paths.tolist():
        record = site.page(path)
        met = {"title": "title", "menu": "menu.shown", "sitemap": "sitemap.listed"}
        found |= {(path, name): record[field] for name, field in met.items()}
    return found


@of_made_up_sites(5)
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

    shown, meets = outcomes_of(before), outcomes_of(after)
    told = {(row.path, row.outcome) for row in found.outcomes if row.outcome in ("title", "menu", "sitemap")}
    assert {key for key in told if key[0] in both} == {
        key for key in shown if key[0] in both and shown[key] != meets[key] and key[1] in ("title", "menu", "sitemap")
    }

    may, might = after.access(), before.access()
    for change in found.access:
        here, there = (set(access.pages(change.who, change.action)) & both for access in (may, might))
        assert (change.gained, change.lost) == (len(here - there), len(there - here))
    told_of = {(change.who, change.action) for change in found.access}
    for who in ("visitor", *before.people.names):
        for action in before.actions:
            if (who, action) not in told_of:
                assert set(may.pages(who, action)) & both == set(might.pages(who, action)) & both, (who, action)
