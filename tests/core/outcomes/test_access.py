"""Who may do what: one small site, each line of the contract on access."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import numpy as np
import pytest

import davlo
from davlo.core.outcomes.access.access_model import AccessModel
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
SITE = """
people:
  names: [amber.finch, bruno.wray, celia.dunn, dora.pell]
  admins: [bruno.wray]
  groups: {keepers: [celia.dunn], crew: [keepers, dora.pell]}
roles: {tending: [view, edit, create]}
everywhere: {access: {crew: [tending]}}
pages:
  /own:
    here: {page.owner: amber.finch, page.group: keepers, access: {owner: [edit], owner-group: [delete]}}
  /shut:
    here_and_below: {fresh_access: yes, access: {signed-in: [view]}}
  /shut/deep:
    here: {access: {dora.pell: {add: [edit, view]}}, deny: {keepers: [view]}}
  /kept:
    below: {lock: {access: {everyone: [view]}}}
  /kept/in:
    here: {fresh_access: yes}
"""
PAGES = "path,status\n/,\n/own,\n/shut,\n/shut/deep,\n/kept,\n/kept/in,\n/sketch,draft\n"


@pytest.fixture
def access(small: Small) -> AccessModel:
    return AccessModel(davlo.open_site(small(SITE, PAGES)).resolve())


WHO_MAY = [
    ("/", "visitor", ("view",)),
    ("/", "amber.finch", ("view",)),
    ("/", "celia.dunn", ("view", "edit", "create")),  # a group in a group
    ("/own", "amber.finch", ("view", "edit")),
    ("/own", "celia.dunn", ("view", "edit", "create", "delete")),
    ("/own", "dora.pell", ("view", "edit", "create")),
    ("/shut", "visitor", ()),
    ("/shut", "dora.pell", ("view",)),
    ("/shut", "bruno.wray", ("view", "edit", "move", "create", "delete", "grant")),
    ("/shut/deep", "dora.pell", ("view", "edit")),
    ("/shut/deep", "celia.dunn", ()),  # denied through a group
    ("/shut/deep", "amber.finch", ("view",)),
    ("/kept/in", "visitor", ("view",)),  # what is locked comes through fresh_access
    ("/kept/in", "dora.pell", ("view",)),
    ("/sketch", "visitor", ()),  # a draft
    ("/sketch", "celia.dunn", ("view", "edit", "create")),
    ("/sketch", "amber.finch", ()),
]


@pytest.mark.parametrize(("path", "who", "actions"), WHO_MAY)
def test_who_may_do_what(path: str, who: str, actions: tuple[str, ...], access: AccessModel) -> None:
    assert access.actions(who, access.site.tree.number(path)) == actions


REASONS = [
    ("/own", "amber.finch", "edit", "access.owner gives it (here, davlo.yaml:12)"),
    ("/shut/deep", "celia.dunn", "view", "deny.keepers takes it away (here, davlo.yaml:16)"),
    ("/shut", "visitor", "view", "no access statement gives view to everyone"),
    (
        "/sketch",
        "visitor",
        "view",
        "a draft is seen only by those who may edit it; access.everyone gives view alone (built-in)",
    ),
    ("/shut", "bruno.wray", "grant", "bruno.wray is an admin"),
]


@pytest.mark.parametrize(("path", "who", "action", "reason"), REASONS)
def test_why_they_may(path: str, who: str, action: str, reason: str, access: AccessModel) -> None:
    assert access.why(who, action, access.site.tree.number(path)).reason == reason


def test_subjects_are_those_that_are_named_everyone_first(access: AccessModel) -> None:
    assert access.classes.subjects() == (
        "everyone",
        "signed-in",
        "owner",
        "owner-group",
        "crew",
        "dora.pell",
        "keepers",
    )
    assert access.site.people.covering("celia.dunn") == (
        "everyone",
        "signed-in",
        "celia.dunn",
        "keepers",
        "crew",
        "owner",
        "owner-group",
    )
    assert access.site.people.covering("keepers") == ("everyone", "signed-in", "keepers", "crew", "owner-group")
    assert access.site.people.covering("signed-in") == ("everyone", "signed-in")
    with pytest.raises(davlo.UnknownName, match="there is no person or group 'keeper'"):
        access.site.people.covering("keeper")


def test_whom_a_subject_covers(access: AccessModel) -> None:
    assert access.site.people.ever_covered("crew") == ("celia.dunn", "dora.pell")
    assert access.site.people.ever_covered("everyone") == ("visitor",)
    classes = access.classes
    own = classes.of[access.site.tree.number("/own")]
    assert [who for who in access.site.people.names if classes.covered(who, "owner")[own]] == ["amber.finch"]
    assert [who for who in access.site.people.names if classes.covered(who, "owner-group")[own]] == ["celia.dunn"]


@of_made_up_sites(5)
def test_a_group_may_what_somebody_may_who_is_in_it_and_in_nothing_else(site: SiteDict) -> None:
    people = site["people"]
    before = open_made_up(site)
    access = AccessModel(before.resolve())
    for group in ("signed-in", *people["groups"]):
        groups = {name: [*some, *(["solo"] if name == group else [])] for name, some in people["groups"].items()}
        opened = open_made_up({**site, "people": {**people, "names": [*people["names"], "solo"], "groups": groups}})
        alone = AccessModel(opened.resolve())
        for action in before.actions:
            assert access.may(group, action).tolist() == alone.may("solo", action).tolist()


@of_made_up_sites(5)
def test_who_may_and_what_is_closed_agree_with_may(site: SiteDict) -> None:
    opened = open_made_up(site)
    access, random = AccessModel(opened.resolve()), Random(str(site["rows"]))
    pages = np.array([page for page in range(len(opened.tree)) if random.random() < 0.7], dtype=np.int64)
    for action in opened.actions:
        grants = {grant.who: grant for grant in access.who_may(action, pages)}
        for who in ("visitor", *access.site.people.names):
            may = [page for page in pages.tolist() if access.may(who, action)[page]]
            assert (grants[who].pages if who in grants else 0) == len(may)
            if may and not access.site.people.is_admin(who):
                told = {str(source) for page in may for _, source in access.why(who, action, page).allowed_by}
                through = grants[who].through
                assert {str(source) for _, source, _ in through} <= told
                assert max(count for _, _, count in through) <= len(may) <= sum(count for _, _, count in through)
    for who in ("visitor", *access.site.people.names):
        closed = access.closed(who, pages)
        hidden = sorted(page for cause in closed for page in cause.pages.tolist())
        assert hidden == [page for page in pages.tolist() if not access.may(who, "view")[page]]
        for cause in closed:
            if cause.source is None:
                assert all(opened.details.status[page] == "draft" for page in cause.pages.tolist())
