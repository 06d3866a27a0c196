"""A branch: its owner opens it to a friend, and one table says who may what in it, exceptions first."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

import davlo
from davlo.core.outcomes.access.access_changes import OWNER
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.access.rights_by_page import rights_by_page
from tests.conftest import Run, contents
from tests.sites import SiteDict, of_made_up_sites, write_site

PAGE = "/members/pages/sefa-moana"


def test_an_owner_opens_a_page_of_their_own_and_no_other(own: Path, run: Run) -> None:
    where = ("--site", str(own), "--write")
    assert run("set", "access.owner+=grant", "--below", "/members/pages", "--even-so", *where).status == 0
    before = contents(own)
    friend = ("set", "access.tomas.vell=view")
    for refused in (
        (*friend, "--here", "/members/pages/lucia-brandt"),
        (*friend, "--here-and-below", PAGE),  # a page to come below would not be theirs
        ("set", "access.tomas.vell=view,delete", "--here", PAGE),
    ):
        got = run(*refused, "--as", "sefa.moana", *where)
        assert (got.status, "may not" in got.err, contents(own)) == (1, True, before), got.err
    got = run(*friend, "--here", PAGE, "--as", "sefa.moana", *where)
    assert got.status == 0, got.err
    assert "view" in run("access", PAGE, "--as", "tomas.vell", "--site", str(own)).out
    assert run("undo", "--as", "sefa.moana", *where).status == 0
    assert contents(own)["davlo.yaml"] == before["davlo.yaml"]


def test_an_owner_of_a_branch_opens_all_of_it_by_one_command(own: Path, run: Run) -> None:
    where = ("--site", str(own), "--write", "--even-so")
    assert run("set", "page.owner=sefa.moana", "--here-and-below", PAGE, *where).status == 0
    assert run("page", "add", f"{PAGE}/shells", *where).status == 0
    assert run("set", "access.owner+=grant", "--below", "/members/pages", *where).status == 0
    got = run("set", "access.tomas.vell=view", "--here-and-below", PAGE, "--as", "sefa.moana", *where)
    assert got.status == 0, got.err
    may = AccessModel(davlo.open_site(own).resolve())
    for path in (PAGE, f"{PAGE}/shells"):
        assert may.actions("tomas.vell", may.site.tree.number(path)) == ("view",)


def test_the_table_of_a_branch_begins_with_exceptions(garden: Path, run: Run) -> None:
    lines = run("access", "--in-branch", "/staff", "--site", str(garden)).out.splitlines()
    assert lines[0] == "Who may do what, exceptions first (rowan.pike may do everything):"
    rows = lines[3 : lines.index("", 3)]
    assert [int(row.split()[0]) for row in rows] == [1, 1, 1, 6]
    assert "a visitor: view" in rows[0]
    assert "/staff/noticeboard" in rows[0]
    assert "its owner: view, edit" in next(row for row in rows if "/staff/glasshouse-log" in row)


@of_made_up_sites(8)
def test_each_page_stands_in_one_row_that_says_what_everybody_may(site: SiteDict) -> None:
    """The rows against the answer for each page and person alone."""
    with tempfile.TemporaryDirectory() as name:
        access = AccessModel(davlo.open_site(write_site(site, Path(name))).resolve())
    pages, people = np.arange(len(access.site.tree)), access.site.people
    rows = rights_by_page(access, pages)
    assert sorted(page for row in rows for page in row.pages.tolist()) == pages.tolist()
    assert [len(row.pages) for row in rows] == sorted(len(row.pages) for row in rows)
    owners = access.effective.column("page.owner")
    for row in rows:
        said = dict(row.rights)
        for page in row.pages.tolist():
            for who in people.names:
                if people.is_admin(who):
                    continue
                told = said.get(OWNER if owners.at(page) == who else who, said.get(who))
                mine = set(access.actions(who, page))
                covering = (*people.groups_of(who), "signed-in", "visitor")
                others = [set(access.actions(other, page)) for other in covering]
                assert mine == set(told) if told is not None else mine in others, (who, page)
