"""Who may make a change: judged by the difference that it makes, so that no road leads to a right its maker lacked."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.change.change_reach import ChangeReach
from davlo.core.change.steps.change import (
    AddPage,
    Change,
    ChangeError,
    Declare,
    DropPage,
    MovePage,
    Rename,
    Restamp,
    Say,
    SetDetail,
    Step,
    TakeAway,
    Use,
)
from davlo.core.change.steps.step import CannotDo
from davlo.core.change.who_may_change import missing_rights
from davlo.core.faults import SiteError, UnknownName, ValueFault
from davlo.core.site.settings.scopes import Scope
from davlo.core.site.settings.values import ListChange, Value
from tests.conftest import Run
from tests.sites import SiteDict, of_made_up_sites, write_site

Small = Callable[..., Path]
Right = tuple[str, str, str]


def viewers(site: davlo.Site) -> list[str]:
    return ["visitor", "signed-in", *site.people.groups, *site.people.names]


def answers(site: davlo.Site) -> set[Right]:
    """Everyone who may do anything, as `davlo access` says: viewer, action, page."""
    access = site.access()
    return {
        (viewer, action, path)
        for viewer in viewers(site)
        for action in site.actions
        for path in access.pages(viewer, action)
    }


def values(site: davlo.Site) -> dict[tuple[str, str], Value]:
    effective = site.resolve()
    return {(path, setting): value for path in site.tree.paths for setting, value in effective[path].items()}


def some_steps(random: Random, site: davlo.Site) -> Iterator[Step]:
    """Changes of every kind, most of them about access."""
    paths = site.tree.paths.tolist()
    page, other = random.choice(paths), random.choice(paths)
    subjects = ["everyone", "signed-in", "owner", "owner-group", *site.people.names, *site.people.groups]
    family, subject = random.choice(["access", "access", "deny"]), random.choice(subjects)
    actions = tuple(random.sample(site.actions, random.randint(0, len(site.actions))))
    lists: list[Value] = [actions, ListChange(add=actions), ListChange(remove=actions)]
    value = random.choice(lists)
    types = [*site.types.declared] or ["page"]
    scopes = [Scope.here(page), Scope.below(page), Scope.here_and_below(page), Scope.stamp(page)]
    scopes += [Scope.everywhere(), Scope.type(random.choice(types))]
    scopes += [Scope.rule(random.choice(site.rules).name)] if site.rules else []
    scope, path = random.choice(scopes), f"{page.rstrip('/')}/new{random.randint(0, 3)}"
    details = [("tags", "t1"), ("type", random.choice(types)), ("status", "draft"), ("page.owner", subject)]
    presets = [*site.declarations.presets]
    made: list[Step] = [
        Say(scope, f"{family}.{subject}", value, lock=random.random() < 0.2 and scope.name != page),
        Say(scope, "menu.show", random.random() < 0.5),
        Say(random.choice([Scope.stamp(page), Scope.here(page)]), "page.owner", random.choice(site.people.names)),
        Say(Scope.here(page), "page.group", random.choice([*site.people.groups, None])),
        TakeAway(scope, random.choice([f"{family}.{subject}", "fresh_access", "menu.show"])),
        SetDetail(
            page, *random.choice([("tags", "t2"), ("status", ""), ("order", "3"), ("title", "X"), ("parent", other)])
        ),
        SetDetail(page, "type", random.choice(types)),
        AddPage(path, tuple(random.sample(details[:3], random.randint(0, 2))), random.choice(["", *site.people.names])),
        AddPage(f"/new{random.randint(0, 3)}", (("parent", page),)),
        MovePage(page, f"{other.rstrip('/')}/moved"),
        DropPage(page, True),
        Restamp("page.owner", (page,)),
        *([Use(scope, random.choice(presets))] if presets else []),
    ]
    yield random.choice(made)


@of_made_up_sites(3)
def test_no_road_leads_to_a_right_that_its_maker_did_not_have(made_up: SiteDict) -> None:
    random = Random(str(made_up["rows"]))
    with tempfile.TemporaryDirectory() as name:
        opened = davlo.open_site(write_site(made_up, Path(name)))
    allowed = 0
    could = answers(opened)
    for _ in range(12):
        who = random.choice([one for one in opened.people.names if not opened.people.is_admin(one)] or [""])
        site = opened
        for _ in range(4 if who else 0):  # one change after the other
            try:
                change = Change((*some_steps(random, site),))
                reach, after = site.reach(change), site.apply(change)
            except (ChangeError, CannotDo, SiteError, UnknownName, ValueFault):
                continue
            if missing_rights(reach, who):
                continue
            allowed += 1
            check_each_page(site, after, who, reach)
            site = after
        # whatever the way there: on pages that were there, nobody gains what the maker could not give
        moved = set(site.tree.paths) - set(opened.tree.paths)
        for viewer, action, path in answers(site) - could:
            if path not in moved:
                assert (who, "grant", path) in could, (who, viewer, action, path)
                assert (who, action, path) in could, (who, viewer, action, path)
    assert allowed or all(map(opened.people.is_admin, opened.people.names)) or len(could) < 1000


def check_each_page(site: davlo.Site, after: davlo.Site, who: str, reach: ChangeReach) -> None:
    """No page has changed on which the maker lacks the right."""
    may, names, moved = site.access().may, dict(reach.moved), reach.moved
    by = next((one.by for one in reach.change.steps if isinstance(one, AddPage) and not one.by), who)
    before, now = values(site), values(after)
    there = [path for path in site.tree.paths if after.tree.find(names.get(path, path)) >= 0]
    settings = {setting for _, setting in before} | {setting for _, setting in now}
    for path in there:
        new = names.get(path, path)
        for setting in settings:
            if before.get((path, setting)) != now.get((new, setting)):
                action = "grant" if setting.startswith(("access.", "deny.")) else "edit"
                if {before.get((path, setting)), now.get((new, setting))} - {None, ()}:
                    assert may(who, action, path), (who, path, setting)
    for path in set(site.tree.paths) - set(there):
        assert may(who, "delete", path), (who, path)
    could, can = answers(site), answers(after)
    for viewer in viewers(site):
        for path in there:
            for action in site.actions:
                is_before, is_now = (viewer, action, path) in could, (viewer, action, names.get(path, path)) in can
                if is_before != is_now:
                    assert may(who, "grant", path), (who, viewer, action, path)
                    assert is_before or may(who, action, path), (who, viewer, action, path)
    new_pages = set(after.tree.paths) - {names.get(path, path) for path in there}
    for path in new_pages:
        above = int(after.tree.parent[after.page_number(path)])
        assert above >= 0
        parent = {new: old for old, new in moved}.get(after.tree.paths[above], after.tree.paths[above])
        if site.tree.find(parent) >= 0:
            assert may(who, "create", parent), (who, path)
            plain = site.apply(Change((AddPage(path, (("parent", parent),), by),)))
            gains = {(v, a) for v, a, p in can if p == path} - {(v, a) for v, a, p in answers(plain) if p == path}
            for viewer, action in gains:
                assert plain.access().may(who, "grant", path), (who, viewer, action, path)
                assert plain.access().may(who, action, path), (who, viewer, action, path)


GUILD = """
people: {names: [rowan, ed, ben], admins: [rowan], groups: {guild: [ben]}}
types: {note: {label: Note}, open: {label: Open, give: {access: {ed: [view, edit, move, create, delete, grant]}}}}
presets: {mine: {access: {ed: [view, edit, grant, delete]}}}
blocks: {list: {kind: branch-links, under: /b}}
rules:
  - {name: Tagged, when: {tag: ed}, give: {access: {ed: [view, edit, move, create, delete, grant]}}}
pages:
  /a: {here_and_below: {access: {ed: [view, edit, create, grant]}}}
  /b: {here_and_below: {access: {ed: [view, create]}}}
  /c: {below: {access: {ed: [view, edit, move, create, delete, grant]}}}
everywhere: {access: {owner: [view, edit, grant, delete]}}
"""
PAGES = "path,title\n/,Home\n/a,A\n/a/x,X\n/b,B\n/b/y,Y\n/c,C\n/c/z,Z\n"
ALLOWED = [
    "set access.ben+=view,edit --here-and-below /a",
    "set access.ben+=view,edit --below /a",
    "unset access.ed --here-and-below /a",
    "set menu.show=no --here /a/x",
    "set menu.show=no --here-and-below /a",
    "page set /a/x title=New tags=t1",
    "page add /a/new",
    "page add /b/new",
    "page add /c/z/new --detail tags=t",
    "page add /a/new --detail tags=t",
    "page move /c/z /a/z",
    "page drop /c/z",
    "page set /a/x type=open",
]
REFUSED = {
    "set access.ben+=delete --here-and-below /a": "ed may not give delete on /a to ben, lacking it there",
    "set access.everyone=view,delete --here /a": "ed may not give delete on /a to a visitor",
    "set menu.show=no --everywhere": "ed may not edit /",
    "set menu.show=no --type note": "ed may not edit /",
    "set menu.show=no --below /b": "ed may not edit /b",
    "set access.ed+=edit --below /b/y": "ed may not grant /b/y",
    "set menu.show=yes --here /b/y": "ed may not edit /b/y",
    "page add /b/new --detail access.ed=edit": "ed may not grant /b/new",
    "page add /b/new --detail page.owner=ed": "ed may not edit /b/new",
    "page add /b/new --detail tags=ed": "ed may not edit /b/new",
    "page add /b/new --type open": "ed may not edit /b/new",
    "page add /a/new --detail tags=ed": "ed may not give move on /a/new to ed",
    "page add /b/../c/new": "ed may not put a page at /b/../c/new, which leads elsewhere",
    "page set /a/x tags=ed": "ed may not give move on /a/x to ed, lacking it there",
    "page set /a/x parent=/c": "ed may not move /a/x",
    "page set /a/x order=3": "ed may not move /a/x",
    "page move /a/x /c/x": "ed may not move /a/x",
    "page move /c/z /z": "ed may not create /: no access",
    "page drop /a/x": "ed may not delete /a/x",
    "page add /new": "ed may not create /: no access",
    "rename page.owner x": "",
    "rename group guild people": "ed may not change people and groups: only admins may do that",
    "rename rule Tagged Other": "ed may not change rules: only admins may do that",
    "set menu.show=no --rule Tagged": "ed may not change what a rule gives: only admins may do that",
    "set --use mine --here /a/x": "ed may not give delete on /a/x to ed, lacking it there",
}


@pytest.mark.parametrize("words", [*ALLOWED, *REFUSED])
def test_it_is_judged_by_what_it_does_and_not_by_how_it_is_said(small: Small, run: Run, words: str) -> None:
    folder = small(GUILD, PAGES)
    got = run(*words.split(), "--as", "ed", "--site", str(folder))
    if words in ALLOWED:
        assert (got.status, got.err) == (0, "")
    else:
        assert (got.status in (1, 2), REFUSED[words] in got.err) == (True, True), got.err
    assert run(*words.split(), "--as", "rowan", "--site", str(folder)).status in ((0,) if words in ALLOWED else (0, 2))


def test_a_branchs_owner_opens_it_to_a_friend_with_one_command(small: Small, run: Run) -> None:
    folder = small(GUILD, PAGES)
    words = ["set", "access.ben+=view,edit", "--here-and-below", "/a", "--as", "ed", "--write", "--site", str(folder)]
    assert run(*words).status == 0
    access = davlo.open_site(folder).access()
    assert [access.may("ben", "edit", page) for page in ("/a", "/a/x", "/b")] == [True, True, False]


def test_a_page_to_come_opens_no_road_either(small: Small, run: Run) -> None:
    folder = small(GUILD, PAGES)
    for words in ("set access.ed=view,edit,grant,delete --below /b/y", "set access.ben+=delete --below /a/x"):
        got = run(*words.split(), "--as", "ed", "--write", "--site", str(folder))
        assert (got.status, "ed may not" in got.err) == (1, True)


STEPS: list[tuple[Step, str]] = [
    (MovePage("/visit/maps", "/maps"), "ida.marsh may not move /visit/maps: no access statement gives move"),
    (SetDetail("/visit/maps", "title", "Where things are"), ""),
    (Rename("sidebar", "main", "usual"), "ida.marsh may not change what is declared: only admins may do that"),
    (Declare(davlo.open_demo().declarations.sidebars["main"]._replace(label="Other")), "only admins may do that"),
]


@pytest.mark.parametrize(("step", "told"), STEPS, ids=["move", "detail", "rename", "declare"])
def test_the_reason_names_what_is_missing(step: Step, told: str) -> None:
    site = davlo.open_demo()
    reach = site.reach(Change((step,)))
    found = missing_rights(reach, "ida.marsh")
    assert bool(found) == bool(told)
    assert all(told in one.reason for one in found[:1])
    assert missing_rights(reach, site.people.admins[0]) == []
    with pytest.raises(UnknownName, match="there is no person 'visitor'"):
        missing_rights(reach, "visitor")
