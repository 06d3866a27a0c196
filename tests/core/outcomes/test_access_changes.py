"""Where access changes in the tree, against what each viewer may do on each page and on the one above it."""

from __future__ import annotations

import davlo
from davlo.core.outcomes.access.access_changes import OWNER
from tests.conftest import Ask, Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Changes = dict[str, tuple[set[str], set[str]]]


def read_plainly(site: davlo.Site, access: davlo.Access, page: int) -> Changes:
    """What every viewer gains and loses on a page, one by one."""
    path, above = site.tree.paths[page], site.tree.paths[int(site.tree.parent[page])]
    found: Changes = {}
    for who in ("visitor", "signed-in", *site.people.groups, *site.people.names):
        here, there = set(access.actions(who, path)), set(access.actions(who, above))
        if here != there:
            found[who] = (here - there, there - here)
    return found


@of_made_up_sites(5)
def test_changes_are_told_of_everybody_once(site: SiteDict) -> None:
    opened = open_made_up(site)
    access, owners = opened.access(), opened.resolve().column("page.owner")
    told = {int(page): one for one in access.changes() for page in one.pages}
    for page in range(len(opened.tree)):
        expected = read_plainly(opened, access, page) if opened.tree.parent[page] >= 0 else {}
        assert (page in told) == bool(expected)
        if not expected:
            continue
        found: Changes = {one.who: (set(one.gains), set(one.loses)) for one in told[page].changes}
        if OWNER in found:
            found[str(owners.at(page))] = found.pop(OWNER)
        assert all(expected[who] == change for who, change in found.items())
        for who in expected.keys() - found.keys():  # like a group of theirs, or like anyone who is signed in
            likes = (*opened.people.groups_of(who), "signed-in")
            assert expected[who] in [expected.get(like) for like in likes]


@of_made_up_sites(4)
def test_the_source_is_a_statement_whose_value_differs(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, details = opened.resolve(), opened.details
    names = [name for name in effective.settings() if name.startswith(("access.", "deny."))]
    for one in opened.access().changes():
        for page in one.pages.tolist():
            path, above = opened.tree.paths[page], opened.tree.paths[int(opened.tree.parent[page])]
            differing = [
                name
                for name in names
                if (effective[path].get(name, ()) or ()) != (effective[above].get(name, ()) or ())
            ]
            if one.source is None:
                parent = int(opened.tree.parent[page])
                assert not differing
                assert one.reason.startswith("its owner") or details.draft[page] != details.draft[parent]
            else:
                assert one.source.where in [effective.source(path, name).where for name in differing]


def test_the_command_gathers_pages_and_names_groups_once(ask: Ask) -> None:
    told = ask("access", "--changes").splitlines()
    assert (
        told[told.index("/staff/noticeboard: here (davlo.yaml:112)") + 1] == "  visitor, signed-in, members gain view"
    )
    assert "  its owner gains edit" in told
    assert "on 20 pages somebody may do more or less than on the page above" in told
    assert len(told) <= 40
    branch = ask("access", "--changes", "--in-branch", "/staff")
    assert "/press" not in branch
    rows = ask("access", "--changes", "--in-branch", "/staff", "--format", "csv").splitlines()
    assert rows[1] == "/staff,/,visitor,,view,here,davlo.yaml,105,"


ENGLISH = ("--detail", "language=en")


def test_a_new_page_tells_whom_it_would_allow_what(ask: Ask, run: Run) -> None:
    told = ask("access", "--new", "/members/pages/ada", "--by", "ida.marsh", *ENGLISH)
    assert "owner: ida.marsh; group: none" in told
    assert "ida.marsh may create pages below /members/pages: access.editors gives it" in told
    assert "  ida.marsh       view, edit " in told
    assert "May create pages below /staff: rowan.pike, ida.marsh, noor.haddad" in ask(
        "access", "--new", "/staff/x", *ENGLISH
    )
    told = ask("access", "--new", "/staff/x", "--draft", "--as", "tomas.vell", *ENGLISH)
    assert "view    no   a draft is seen only by those who may edit it" in told


def test_any_detail_of_a_new_page_counts(ask: Ask) -> None:
    told = ask(
        "show",
        "--new",
        "/visit/build",
        "--detail",
        "made_with=potting-bench",
        *ENGLISH,
        "--draft",
        "--by",
        "pia.lindqvist",
    )
    assert "sidebar.right           none                 rule Hand-built pages run edge to edge" in told
    assert "sitemap         left out: it is a draft" in told
    assert "pia.lindqvist may not create pages below /visit: no access statement gives create" in told
    assert "A row typed by hand, without stamps: page.owner is none" in told
