"""A page is named in one way everywhere, however its name is written; rows of one page are one row."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run

Small = Callable[..., Path]
FORMS = ["/members", "/members/", "/members/index.html", "/members#top", "https://small.example/members/", "/m%65mbers"]
CLOSED = """
people: {{names: [ann, bo], groups: {{staff: [ann]}}}}
everywhere: {{access: {{staff: [edit]}}}}
pages: {{"{name}": {{here_and_below: {{fresh_access: yes, access: {{staff: [view, edit]}}}}}}}}
rules: [{{name: Q, when: {{in_branch: "{name}"}}, except: {{path: "{name}"}}, give: {{menu.show: no}}}}]
blocks: {{list: {{kind: branch-links, under: "{name}", leave_out: [/members/b/]}}}}
guarantees: [{{name: Private, when: {{in_branch: "{name}"}}, may_not: {{everyone: [view]}}}}]
"""


@pytest.mark.parametrize("name", FORMS)
@pytest.mark.parametrize("cell", FORMS)
def test_a_branch_that_is_closed_stays_closed_however_it_is_written(
    name: str, cell: str, small: Small, run: Run
) -> None:
    folder = small(CLOSED.format(name=name), f"path,title\n/,Home\n{cell},Members\n/members/b,B\n")
    found = {line["kind"] for line in json.loads(run("check", "--format", "json", "--site", str(folder)).out)}
    assert not found & {"no-such-page", "guarantee-without-pages", "guarantee-broken", "rule-without-pages"}
    assert "1 of 1 guarantee holds" in run("check", "--guarantees", "--site", str(folder)).out
    assert "/members" not in run("sitemap", "--to", "-", "--site", str(folder)).out
    effective = davlo.open_site(folder).resolve()
    assert effective[cell]["menu.show"] is True
    assert effective["/members/b/"]["menu.show"] is False
    assert run("show", name, "--site", str(folder)).out.startswith("/members ")


def test_a_title_names_a_page_whatever_white_space_is_in_it(small: Small, run: Run) -> None:
    folder = small(pages="path,title\n/,Home\n/a,Chapitre\u00a012 : la serre\n")
    assert run("show", "Chapitre 12 :  la serre", "--site", str(folder)).out.startswith("/a ")


def test_the_index_files_of_a_site_are_its_own(small: Small) -> None:
    folder = small(pages="path\n/a/default.htm\n/b/index.html\n")
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]", "[en, fr], index: [default.htm]")
    (folder / "davlo.yaml").write_text(text)
    assert davlo.open_site(folder).tree.paths.tolist() == ["/a", "/b/index.html"]


@pytest.mark.parametrize("large", [False, True])
def test_a_crawls_list_folds_into_its_pages(large: bool, small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("davlo.files.read.rows.csv_sheets.LARGE", 0 if large else 1 << 20)
    rows = (
        "/api#one,\n/api/,API\n/api#two,Other\n/api,API\n/guide/#intro,Guide\n/guide/#more,\nhttps://small.example/,\n"
    )
    site = davlo.open_site(small(pages="path,title\n" + rows))
    assert site.tree.paths.tolist() == ["/", "/api", "/guide"]
    assert site.details.title.texts() == ["", "API", "Guide"]
    assert [int(line) for line in site.tree.line] == [8, 3, 6]
    assert site.details.written.tolist() == ["https://small.example/", "/api/", "/guide/"]
    assert [note for note in site.notes if "left out" in note] == [
        "pages.csv: 4 rows are left out, since another row names the same page (as /api at line 2)"
    ]
    assert site.file_notes.lines_of(3) == (3, 5)


def test_rows_that_disagree_are_an_error_that_names_the_columns(small: Small) -> None:
    with pytest.raises(davlo.SiteError) as error:
        davlo.open_site(small(pages="path,title,type,parent\n/,,,\n/a,A,,/\n/a/,B,page,/\n/a/index.html,A,,//\n"))
    assert [(fault.place.line, fault.what) for fault in error.value.faults] == [
        (4, "the path /a is there twice; the first is at line 3, and they differ in title, type")
    ]


def test_what_is_set_in_a_row_that_is_there_twice_is_changed_in_both(small: Small, run: Run) -> None:
    folder = small(pages="path,title,title.limit\n/,Home,\n/a,A,60\n/a/,A,60\n")
    found = json.loads(
        run("check", "--kind", "repeats-inherited", "--format", "json", "--edits", "--site", str(folder)).out
    )
    assert [(edit["line"], edit["new"]) for edit in found[0]["ways"][0]["edits"]] == [(3, "/a,A,\n"), (4, "/a/,A,\n")]


def test_folders_and_pages_that_lead_elsewhere(small: Small) -> None:
    rows = "/,Home,,\n/log,,folder,\n/log/1,One,,\n/old,,,/log/1\n/out,,,https://other.example/x\n/log/1/a,A,,/gone\n"
    site = davlo.open_site(small("pages: {/log: {below: {title.limit: 9}}}\n", "path,title,status,leads_to\n" + rows))
    effective = site.resolve()
    assert effective["/log/1"]["title.limit"] == 9
    menu = effective.outcomes.menu.entries(site)
    listed = dict(zip(site.tree.paths.take(menu.pages).tolist(), menu.level.tolist(), strict=True))
    assert listed == {"/": 0, "/log": 0, "/log/1": 1}
    assert (effective.outcomes.sitemap == 0).tolist() == [path in ("/", "/log/1") for path in site.tree.paths]
    kinds = {one.kind: tuple(one.pages) for one in site.check().findings}
    assert "empty-title" not in kinds
    assert "there is no page /gone" in next(one.message for one in site.check().findings if one.kind == "no-such-page")


@pytest.mark.parametrize(
    ("rows", "what"),
    [
        ("/a,old,\n", "status takes live, draft or folder, not 'old'"),
        ("/a,,somewhere\n", "leads_to takes a page of the site or an address, not 'somewhere'"),
    ],
)
def test_details_that_cannot_be(rows: str, what: str, small: Small) -> None:
    with pytest.raises(davlo.SiteError, match=what):
        davlo.open_site(small(pages=f"path,status,leads_to\n/,,\n{rows}"))


def test_an_address_of_another_host_is_none_of_the_sites(small: Small) -> None:
    with pytest.raises(davlo.SiteError, match="address takes what is published of the page"):
        davlo.open_site(small(pages="path,address\n/,https://other.example/\n"))
