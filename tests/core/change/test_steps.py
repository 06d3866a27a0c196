"""Steps of a change: each can be asked of `Change`, does what it says in words, and can be written into the files."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

import davlo
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import CHANGED, AddPage, SetDetail, StatementStep, Step
from davlo.core.change.steps.change import Change as All
from davlo.core.site.declarations import Sidebar
from davlo.core.site.model import Accept
from davlo.core.site.pages.conditions import Condition

ACCEPT = Accept(CHANGED, "As meant", "no-heading")
CHANGES = {
    "set menu.show to no on /visit": All().say("menu.show", False, here="/visit"),
    "drop the access that weaker scopes give below /press": All().say("fresh_access", True, below="/press"),
    "lock title.limit to 50 for the type event": All().say("title.limit", 50, lock=True, type="event"),
    "take sidebar.right away below /visit": All().take_away("sidebar.right", below="/visit"),
    "lock band.footer everywhere by a rule, with 1 exception": All().lock_except(
        "band.footer", "footer-legal", Condition(below=("/press",)), everywhere=True
    ),
    "lock sidebar.right below /visit": All().lock("sidebar.right", below="/visit"),
    "unlock band.footer everywhere": All().unlock("band.footer", everywhere=True),
    "use the preset bare on /visit": All().use("bare", here="/visit"),
    "use the preset bare no longer on /visit": All().use("bare", here="/visit").stop_using("bare", here="/visit"),
    "bring blocks.content of 1 page up to date": All().restamp("blocks.content", "/visit"),
    "rename the sidebar main to usual": All().rename("sidebar", "main", "usual"),
    "declare the sidebar spare": All().declare(Sidebar("spare", CHANGED, blank=True)),
    "take the sidebar spare away": All().declare(Sidebar("spare", CHANGED)).undeclare("sidebar", "spare"),
    "take the sidebar main away, with whatever names it": All().undeclare("sidebar", "main", everywhere=True),
    'guarantee "The shop stays open"': All().guarantee(
        "The shop stays open", Condition(in_branch=("/visit/shop",)), may={"everyone": ("view",)}
    ),
    "look at /visit as ida.marsh after every change": All().add_viewpoint("/visit", "ida.marsh"),
    "no longer look at /staff/rota as visitor": All().drop_viewpoint("/staff/rota", "visitor"),
    "adjust the setting title.limit": All().adjust("title.limit", label="Letters"),
    "set the site's max entries": All().set_site("max_entries", 5),
    'add the rule "Quiet"': All().add_rule("Quiet", Condition(type=("event",)), {"menu.show": False}),
    "add the page /visit/picnic": All().add_page("/visit/picnic", title="Picnic"),
    "add the column season to the page list": All().add_detail("season"),
    "bring the page list up to date: add 1 page, set 2 details of 1 page, drop 1 page": All().refresh_pages(
        {"/visit/picnic": {"title": "Picnic", "type": "workshop"}},
        {"/visit/shop": {"title": "Our shop", "tags": "shop; food"}},
        ("/visit/maps",),
    ),
    "move /visit/maps to /maps": All().move_page("/visit/maps", "/maps"),
    "drop /visit/maps": All().drop_page("/visit/maps"),
    "set the title of /visit/maps to Maps": All().set_details("/visit/maps", title="Maps"),
    "name /visit/cafe wherever /visit/parking is named": All().name_instead("/visit/parking", "/visit/cafe"),
    "rename the column made_with to tool": All().rename_detail("made_with", "tool"),
    "accept a finding": All().accept(ACCEPT),
    "take an accept away": All().accept(ACCEPT).drop_accept(ACCEPT),
    'change the rule "Hand-built pages run edge to edge"': All().change_rule(
        "Hand-built pages run edge to edge", Condition(type=("landing",)), note="By hand"
    ),
    'put the rule "Hand-built pages run edge to edge" right after "Sold-out events leave the sitemap"': All().move_rule(
        "Hand-built pages run edge to edge", after="Sold-out events leave the sitemap"
    ),
    'take the rule "Quiet" away': All().add_rule("Quiet", Condition(type=("event",)), {}).drop_rule("Quiet"),
    'except 1 page from the guarantee "Staff pages stay private"': All().except_from_guarantee(
        "Staff pages stay private", "/staff/rota"
    ),
}


def kinds_of(kind: type[Step]) -> Iterator[type[Step]]:
    """Every kind of step that somebody can ask for."""
    for one in kind.__subclasses__():
        if one.__module__.startswith("davlo.") and one.__name__ != StatementStep.__name__:
            yield one
        yield from kinds_of(one)


def test_change_builds_every_kind_of_step() -> None:
    built = {type(change.steps[-1]).__name__ for change in CHANGES.values()}
    assert built == {kind.__name__ for kind in kinds_of(Step)}


@pytest.mark.parametrize("words", CHANGES)
def test_a_step_says_what_it_does_and_the_files_say_the_same(words: str, own: Path) -> None:
    change = CHANGES[words]
    assert change.steps[-1].words == words
    if len(change.steps) == 1:
        site = davlo.open_site(own)
        assert what_differs(site.write(site.reach(change), even_so=True).site, site.apply(change)) == ""


@dataclass(frozen=True, slots=True)
class Twins(Step):
    """Two new pages change places: steps that come to simpler ones may come to such steps themselves."""

    def parts(self, site: Any) -> Sequence[Step]:
        """The pages, then the swap of them."""
        assert site.tree.find("/a") < 0
        pages = (AddPage(f"/{name}", (("title", name), ("order", order))) for name, order in (("a", "1"), ("b", "2")))
        return *pages, Swap("/visit", "/plants")

    @property
    def words(self) -> str:
        """What the step does."""
        return "add twins"


def test_new_pages_among_the_simpler_steps_get_their_rows_and_stamps(own: Path) -> None:
    site, change = davlo.open_site(own), All((SetDetail("/visit", "title", "See us"), Twins()))
    written = site.write(site.reach(change), even_so=True).site
    assert what_differs(written, site.apply(change)) == ""
    assert written.tree.find("/b") >= 0


@dataclass(frozen=True, slots=True)
class Swap(Step):
    """Two siblings change places in the menu."""

    one: str
    other: str

    def parts(self, site: Any) -> Sequence[Step]:
        """Each gets the order of the other."""
        one, other = (site.details.column("order")[site.page_number(path)] for path in (self.one, self.other))
        return SetDetail(self.one, "order", other), SetDetail(self.other, "order", one)

    @property
    def words(self) -> str:
        """What the step does."""
        return f"swap {self.one} and {self.other}"


def test_a_step_that_comes_to_simpler_ones_needs_nothing_else(own: Path) -> None:
    site, change = davlo.open_site(own), All((Swap("/visit", "/plants"),))
    before = {path: site.details.column("order")[site.page_number(path)] for path in ("/visit", "/plants")}
    assert before["/visit"] != before["/plants"]
    after = site.write(site.reach(change), even_so=True).site
    found = {path: after.details.column("order")[after.page_number(path)] for path in before}
    assert found == {"/visit": before["/plants"], "/plants": before["/visit"]}
    assert change.words == "swap /visit and /plants"
