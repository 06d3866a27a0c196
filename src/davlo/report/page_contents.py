"""What a report holds about pages, once for all that are alike: candidates, drawings, who may do what."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.shown_things import ShownThings
from davlo.core.records.page_plan import Plan, PlannedArea, plan
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.resolve.page_groups import page_groups
from davlo.core.resolve.trace import Candidate, traces
from davlo.core.site.declarations import LOOK_PARTS
from davlo.core.site.people import SIGNED_IN, VISITOR
from davlo.core.site.settings.values import marked

from .page_columns import DistinctRecords, Pages, runs

DRAWN = ("sidebar", "look", "band", "blocks")
ALSO_DRAWN = ("heading.show", "layout.name", "layout.theme", "layout.width", "layout.phone-order")
"""The families of settings, and the settings, that decide what a page looks like."""


def candidates(effective: EffectiveModel, setting: str, pages: Pages) -> dict[str, Any]:
    """The candidates of a setting for each page; pages that are alike share them.

    Returns `runs`, the group of each page (-1: the page does not have the setting); `groups`, the candidates of each,
    the strongest first, as numbers into `rows`.
    """
    site = effective.site
    number = site.setting_number(setting)
    has = site.has(number)[pages]
    groups = page_groups(site, number).group[pages]
    some, first = np.unique(groups[has], return_index=True)
    order = np.argsort(first)  # the pages ascend
    table = np.full(int(groups.max(initial=0)) + 1, -1, dtype=np.int64)
    table[some[order]] = np.arange(len(some))
    rows = DistinctRecords()
    found = [
        [rows.number(_candidate(one)) for one in made.candidates[::-1]]
        for made in traces(site, pages[has][first[order]], number)
    ]
    return {"runs": runs(np.where(has, table[groups], -1)), "groups": found, "rows": rows.records}


def _candidate(one: Candidate) -> list[Any]:
    """One candidate: the scope, what it says, where, the verdict, the reason, a preset, and why it was said."""
    place = str(one.place) if one.place else ""
    says = "fresh_access" if one.fresh else marked(one.says)
    return [str(one.scope), says, place, one.verdict, one.reason, one.preset, one.because]


def drawings(effective: EffectiveModel, pages: Pages, viewed: bool) -> dict[str, Any]:
    """What each page looks like: `runs`, the drawing of each page.

    `plans`, whose areas are numbers into `areas`; `looks`.

    `pages`: int64[n]. `viewed`: whether the report is for one viewer: what blocks list is left out then, since it may
    name other pages.
    """
    site = effective.site
    numbers = [n for n, one in enumerate(site.catalogue.settings) if one.family in DRAWN or one.name in ALSO_DRAWN]
    columns = [np.where(site.has(n)[pages], effective.resolved(n).value[pages], -1) for n in numbers]
    alike = np.stack([*columns, site.details.language.codes[pages]], axis=1)
    _, places, group = np.unique(alike, axis=0, return_index=True, return_inverse=True)
    listing = {name for name, one in site.declarations.blocks.items() if viewed and one.kind != "text"}
    plans, areas = DistinctRecords(), DistinctRecords()
    outcomes = effective.shared(Outcomes)
    outcomes.texts("heading.text")  # of all pages at once: one at a time takes twenty times as long
    shown = ShownThings(outcomes, VISITOR)
    made = (_plan(plan(effective, int(pages[place]), shown_things=shown), listing, areas) for place in places.tolist())
    codes = np.array([plans.number(one) for one in made], dtype=np.int64)
    looks = {
        name: {part: list(getattr(one, part).items()) for part in LOOK_PARTS}
        for name, one in site.declarations.looks.items()
    }
    return {"runs": runs(codes[group.ravel()]), "plans": plans.records, "areas": areas.records, "looks": looks}


def _plan(one: Plan, silent: Collection[str], areas: DistinctRecords) -> dict[str, Any]:
    """A page as its layout draws it; its own title is not in it, nor what `silent` blocks list."""
    return {
        "layout": one.layout,
        "theme": one.theme,
        "width": one.width,
        "pixels": one.pixels,
        "phone": list(one.phone),
        "areas": [areas.number(_area(area, silent)) for area in one.areas],
        "placeless": [[area, thing.kind, thing.name] for area, thing in one.placeless],
    }


def _area(area: PlannedArea, silent: Collection[str]) -> dict[str, Any]:
    """One area and its contents."""
    return {
        "area": area.area,
        "side": area.side,
        "share": area.share,
        "look": area.look.name if area.look else "",
        "called": area.theme_name,
        "instead": "" if area.theme_name else area.instead.words,
        "things": [
            {
                "kind": thing.kind,
                "name": thing.name,
                "inside": [[name, "" if name in silent else words] for name, words in thing.inside],
                "screens": list(thing.screens),
            }
            for thing in area.things
        ],
    }


def who_may(effective: EffectiveModel, pages: Pages) -> dict[str, Any]:
    """Who may do what on each page: `runs`, the class of each page, and `groups`, viewers with their actions.

    `who` are the viewers and what each is; `actions` all actions of the site.
    """
    site = effective.site
    access = effective.shared(AccessModel)
    kinds = {VISITOR: "anybody", SIGNED_IN: "in no group", **dict.fromkeys(site.people.groups, "group")}
    who = [*kinds, *site.people.names]
    masks = np.stack([_actions(access, one, pages) for one in who], axis=1)
    different, group = np.unique(masks, axis=0, return_inverse=True)
    told = [
        [[one, _named(code, site.actions)] for one, code in zip(who, row, strict=True)] for row in different.tolist()
    ]
    known = [[one, kinds.get(one) or ("admin" if site.people.is_admin(one) else "person")] for one in who]
    return {"runs": runs(group.ravel()), "groups": told, "who": known, "actions": list(site.actions)}


def _named(code: int, actions: Sequence[str]) -> list[str]:
    """The actions of a number with a bit for each."""
    return [action for bit, action in enumerate(actions) if code >> bit & 1]


def _actions(access: AccessModel, who: str, pages: Pages) -> NDArray[np.int64]:
    """What somebody may do on each page, one bit for each action. int64[n]"""
    found = np.zeros(len(pages), dtype=np.int64)
    for bit, action in enumerate(access.site.actions):
        found |= access.may(who, action)[pages].astype(np.int64) << bit
    return found
