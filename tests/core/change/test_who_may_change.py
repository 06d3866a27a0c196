"""Who may make a change: as `access` says of each page that the change is about, and admins anything."""

from __future__ import annotations

import tempfile
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.change.steps import AddPage, Change, Declare, DropPage, MovePage, Rename, Restamp, Say, SetDetail, Step
from davlo.core.change.who_may_change import missing_rights
from davlo.core.faults import UnknownName
from davlo.core.site.scopes import Scope
from tests.sites import SiteDict, of_made_up_sites, write_site


@of_made_up_sites(7)
def test_a_person_needs_what_access_says(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        opened = davlo.open_site(write_site(site, Path(name)))
    effective, access = opened.resolve(), opened.access()
    for who in opened.people.names:
        page = random.choice(opened.tree.paths.tolist())
        for step, action in (
            (SetDetail(page, "title", "Another"), "edit"),
            (Say(Scope.here(page), "menu.show", False), "edit"),
            (Say(Scope.stamp(page), "page.owner", None), "grant"),
            (Say(Scope.here(page), "access.everyone", ("view",)), "grant"),
            (SetDetail(page, "order", "3"), "move"),
            (AddPage(f"{page.rstrip('/')}/new"), "create"),
            (DropPage(page), "delete"),
            (Say(Scope.below(page), "menu.show", False), ""),
            (Say(Scope.everywhere(), "menu.show", False), ""),
            (Rename("person", who, "another"), ""),
        ):
            branch = opened.tree.paths[opened.page_number(page) : int(opened.tree.end[opened.page_number(page)])]
            asked = list(branch) if isinstance(step, DropPage) else [page]
            may = access.is_admin(who)
            if action in opened.actions:
                may = may or all(access.may(who, action, one) for one in asked)
            missing = missing_rights(effective, Change((step,)), who)
            assert (not missing) == may, (who, step)
            assert all(one.who == who and one.reason.startswith(f"{who} may not ") for one in missing)


STEPS: list[tuple[Step, str]] = [
    (MovePage("/visit/maps", "/maps"), "ida.marsh may not move /visit/maps: no access statement gives move"),
    (Restamp("blocks.content", ("/events/2026/seed-swap",)), ""),
    (Declare(davlo.open_demo().declarations.sidebars["main"]), "only admins may do that"),
]


@pytest.mark.parametrize(("step", "told"), STEPS, ids=["move", "restamp", "declare"])
def test_the_reason_names_what_is_missing(step: Step, told: str) -> None:
    site = davlo.open_demo()
    found = missing_rights(site.resolve(), Change((step,)), "ida.marsh")
    assert bool(found) == bool(told)
    assert all(told in one.reason for one in found[:1])
    assert missing_rights(site.resolve(), Change((step,)), site.people.admins[0]) == []
    with pytest.raises(UnknownName, match="there is no person 'visitor'"):
        missing_rights(site.resolve(), Change((step,)), "visitor")
