"""Each kind of finding happens on a small site, says what and where, and goes away when it is mended."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.findings.finding_kind import Kind
from davlo.core.findings.kinds.every_kind import KINDS
from tests.amiss import NEAR, accepts, amiss
from tests.core.findings.cases import CASES, OPEN, PIECES
from tests.core.resolve.test_fold import open_made_up
from tests.plain import findings as findings_reference
from tests.plain import resolution as reference
from tests.plain import statements as statements_reference
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


def of_kind(folder: Path, kind: str) -> list[davlo.Finding]:
    return [finding for finding in davlo.open_site(folder).check().findings if finding.kind == kind]


def test_every_kind_has_a_case() -> None:
    assert [kind.name for kind in KINDS if kind.name not in CASES] == []


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_it_happens_and_goes_away(kind: Kind, small: Small) -> None:
    case = CASES[kind.name]
    found = of_kind(case.write(small), kind.name)
    assert [(tuple(finding.pages), finding.setting, finding.level) for finding in found] == [
        (case.pages, case.setting, kind.level)
    ]
    assert case.says in found[0].message
    assert found[0].fix
    assert of_kind(case.write(small, mended=True), kind.name) == []


GUARANTEES = [
    ("may_not: {everyone: [view]}", "/a", "a visitor may view: access.everyone gives it (built-in)"),
    ("may: {amber.finch: [delete]}", "/a", "amber.finch may not delete: no access statement gives delete"),
    ("may_not: {keepers: [edit]}", "/a", "amber.finch may edit: access.keepers gives it (everywhere, davlo.yaml:9)"),
    ("may_not: {bruno.wray: [edit]}", "/a", ""),
    ("may: {owner: [edit]}", "/a", "owner covers nobody there: the page has no owner"),
]


@pytest.mark.parametrize(("guarantee", "page", "says"), GUARANTEES)
def test_guarantees_about_access(guarantee: str, page: str, says: str, small: Small) -> None:
    decisions = f"everywhere: {{{OPEN}}}\nguarantees: [{{name: p, when: {{in_branch: /a, depth: '1'}}, {guarantee}}}]\n"
    found = [f for f in davlo.open_site(small(PIECES + decisions)).check().findings if f.kind == "guarantee-broken"]
    assert [tuple(f.pages) for f in found] == ([(page,)] if says else [])
    assert all(says in f.message for f in found)


def test_people_a_guarantee_is_broken_for_are_told_together(small: Small) -> None:
    people = "people: {names: [amber.finch, bruno.wray, celia.dunn], groups: {keepers: [amber.finch, celia.dunn]}}\n"
    decisions = "everywhere: {access: {signed-in: [edit]}, deny: {keepers: [edit]}}\n"
    guarantee = "guarantees: [{name: p, when: {path: /**}, may: {signed-in: [edit, delete]}}]\n"
    found = [
        f
        for f in davlo.open_site(small(people + decisions + guarantee)).check().findings
        if f.kind == "guarantee-broken"
    ]
    assert [(len(f.pages), f.message.partition("pages: ")[2]) for f in found] == [
        (3, "amber.finch, celia.dunn may not edit: deny.keepers takes it away (everywhere, davlo.yaml:4)"),
        (3, "amber.finch, bruno.wray, celia.dunn may not delete: nothing gives delete to them"),
    ]


@pytest.mark.parametrize(
    ("accept", "left"),
    [
        ("{kind: repeats-inherited, because: meant}", 0),
        ("{kind: repeats-inherited, when: {path: /a}, because: meant}", 1),
        ("{setting: title.limit, because: meant}", 0),
        ("{kind: repeats-inherited, setting: menu.show, because: meant}", 2),
        ("{kind: repeats-inherited, declaration: '40', because: meant}", 0),
    ],
)
def test_an_accept_silences_the_pages_it_means(accept: str, left: int, small: Small) -> None:
    decisions = f"everywhere: {{{OPEN}, title.limit: 40}}\npages:\n  /a: {{here: {{title.limit: 40}}}}\n"
    decisions += f"  /a/b: {{here: {{title.limit: 40}}}}\naccept: [{accept}]\n"
    report = davlo.open_site(small(PIECES + decisions)).check()
    findings = [finding for finding in report.findings if finding.kind == "repeats-inherited"]
    assert sum(len(finding.pages) for finding in findings) == left
    assert all(f"{left} page" in finding.message for finding in findings)
    assert sum(len(finding.pages) for finding in report.accepted if finding.kind == "repeats-inherited") == 2 - left


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind.name != "stray-accept"], ids=lambda kind: kind.name)
def test_every_kind_can_be_accepted_and_is_then_counted(kind: Kind, small: Small) -> None:
    case = CASES[kind.name]
    report = davlo.open_site(case.write(small, more=f"\naccept: [{{kind: {kind.name}, because: meant}}]")).check()
    assert [finding.kind for finding in report.accepted] == [kind.name]
    assert {kind.name, "stray-accept"} & {finding.kind for finding in report.findings} == set()


def test_a_person_for_whom_nothing_is_said_is_told_once(small: Small) -> None:
    decisions = "people: {names: [amber.finch]}\npages: {/a: {here: {page.owner: amber.finch}}}\n"
    guarantee = "guarantees: [{name: p, when: {path: /**}, may: {amber.finch: [delete]}}]\n"
    found = [f for f in davlo.open_site(small(decisions + guarantee)).check().findings if f.kind == "guarantee-broken"]
    assert [f.message.partition("pages: ")[2] for f in found] == [
        "amber.finch may not delete: nothing gives delete to amber.finch"
    ]


def test_a_look_for_what_is_below_does_not_count_the_page_itself(small: Small) -> None:
    declarations = (
        "layouts: {two: {areas: [left, content]}}\nsidebars: {main: {}}\nlooks: {slim: {whole: {width: 20%}}}\n"
    )
    decisions = "everywhere: {layout.name: two}\npages: {/a: {here: {sidebar.left: main}, below: {look.left: slim}}}\n"
    found = [f for f in davlo.open_site(small(declarations + decisions)).check().findings if f.kind == "stray-look"]
    assert [tuple(f.pages) for f in found] == [("/a/b",)]


def test_a_person_beside_a_group_is_told_by_scope_and_single_pages_together(small: Small) -> None:
    beside = "{access: {keepers: [view], amber.finch: [edit]}}"
    decisions = f"everywhere: {beside}\npages: {{/: {{here: {beside}, below: {beside}}}, /a: {{here: {beside}}}}}\n"
    found = davlo.open_site(small(PIECES + decisions)).check().findings
    told = [(len(f.pages), len(f.statements)) for f in found if f.kind == "person-beside-group"]
    assert sorted(told) == [(2, 2), (2, 4), (3, 2)]


def test_drafts_that_a_guarantee_is_broken_on_are_told_as_that(small: Small) -> None:
    people = "people: {names: [amber.finch, celia.dunn]}\n"
    decisions = "pages: {/a: {here_and_below: {access: {amber.finch: [view], celia.dunn: [view]}}}}\n"
    guarantee = "guarantees: [{name: p, when: {in_branch: /a}, may: {amber.finch: [view], signed-in: [view]}}]\n"
    site = davlo.open_site(small(people + decisions + guarantee, "path,status\n/,\n/a,draft\n/a/b,\n"))
    found = [f.message.partition("page: ")[2] for f in site.check().findings if f.kind == "guarantee-broken"]
    assert [one.partition(": ")[0] for one in found] == [
        "amber.finch may not view",
        "amber.finch, celia.dunn may not view",
    ]
    assert all("a draft is seen only by those who may edit it" in one for one in found)


def test_translations_that_are_amiss_are_told_by_what_is(small: Small) -> None:
    rows = "path,title,language,translates\n/,Home,en,\n/a,A,en,\n/x,X,fr,/a\n/y,Y,fr,/a/\n/z,Z,fr,/x\n/w,W,fr,/gone\n"
    found = [f for f in davlo.open_site(small("", rows)).check().findings if f.kind == "bad-alternate"]
    assert [(tuple(f.pages), f.message.partition("translates ")[2].partition(":")[0]) for f in found] == [
        (("/w",), "/gone, which is not in the page list"),
        (("/z",), "/x, which is not in the site's first language (en)"),
        (("/y",), "/a, which /x translates into the same language"),
    ]


def test_a_lock_with_many_exceptions_is_one_finding(small: Small) -> None:
    rows = "path,band.footer\n" + "".join(f"/p{i},loud\n" for i in range(40))
    decisions = f"everywhere: {{{OPEN}, layout.name: plain, lock: {{band.footer: legal}}}}\n"
    found = [f for f in davlo.open_site(small(PIECES + decisions, rows)).check().findings if f.setting == "band.footer"]
    found = [one for one in found if one.kind != "empty-sidebar"]  # the band has no blocks
    assert [(f.kind, len(f.pages), len(f.statements)) for f in found] == [("lock-overrules", 40, 41)]


def test_drafts_count_as_their_access_says_for_open_below_closed(small: Small) -> None:
    pages = "path,status\n/,live\n/a,draft\n/a/b,live\n"
    found = davlo.open_site(small(PIECES + f"everywhere: {{{OPEN}}}\n", pages)).check().findings
    assert "open-below-closed" not in [finding.kind for finding in found]


READ_ELSEWHERE = (
    "rule-without-pages",
    "hidden-rule",
    "redundant-default",
    "not-applicable",
    "below-without-pages",
    "stray-accept",
)
"""Kinds about statements that do nothing: what they are about is read below."""
NAMES = {"no-such-page": r"there is no page (\S+), but", "type-without-pages": r"the type (\S+) "}
NAMES |= {"unused-declaration": r"the (\S+) (\S+) ", "unused-setting": r"(\S+) ", "group-empty": r"(\S+) is said"}


def findings_read_plainly(site: SiteDict) -> davlo.Report:
    """The findings of a site, once they are those that the references name."""
    wanted = findings_reference.all_findings(site) | statements_reference.of_pages(site)
    report = open_made_up(site).check()
    found: dict[str, set[tuple[str, str | None]]] = {}
    for finding in report.findings:
        found.setdefault(finding.kind, set()).update((path, finding.setting) for path in finding.pages)
    for kind in (k.name for k in KINDS if k.name not in READ_ELSEWHERE):
        assert (kind, found.get(kind, set()) ^ wanted.get(kind, set())) == (kind, set())
    for kind, names in statements_reference.names(site).items():
        matches = [re.match(NAMES[kind], one.message) for one in report.findings if one.kind == kind]
        told = {match.groups() if kind == "unused-declaration" else match[1] for match in matches if match}
        assert (kind, told) == (kind, names)
    return report


@of_made_up_sites(5)
def test_findings_are_about_the_pages_and_settings_the_reference_names(site: SiteDict) -> None:
    findings_read_plainly(site)


@of_made_up_sites(7)
def test_so_are_those_of_sites_on_which_more_is_amiss(site: SiteDict) -> None:
    made = amiss(site, Random(str(site["rows"])))
    report = findings_read_plainly(made)
    near = {
        finding.message.split(" ")[2]: finding.setting
        for finding in report.findings
        if finding.kind == "misspelt-column"
    }
    assert near == {name: setting for name, setting in NEAR.items() if name in made["columns"]}


@of_made_up_sites(4)
def test_an_accept_is_idle_if_no_finding_meets_it(site: SiteDict) -> None:
    made, plain = accepts(site, Random(str(site["rows"]))), findings_reference.all_findings(site)
    tree = reference.Tree(site)
    report = open_made_up(made).check()
    told = {
        finding.message.partition("(")[2].partition(")")[0]
        for finding in report.findings
        if finding.kind == "stray-accept"
    }
    redundant = set()
    for entry in made["more"]["accept"]:
        about = [one for one in plain.get(entry["kind"], ()) if entry.get("setting") in (None, one[1])]
        if not any(reference.meets(site, tree, path, entry.get("when", {})) for path, _ in about):
            redundant.add(", ".join(entry[key] for key in ("kind", "setting") if key in entry))
    assert told == redundant


@of_made_up_sites(4)
def test_a_guarantee_about_no_page_proves_nothing(site: SiteDict) -> None:
    made = amiss(site, Random(str(site["rows"])))
    tree, guarantees = reference.Tree(made), made["more"].get("guarantees", [])
    dead = {p["name"] for p in guarantees if not any(reference.meets_rule(made, tree, path, p) for path in tree.rows)}
    found = [one for one in open_made_up(made).check().findings if one.kind == "guarantee-without-pages"]
    assert {said.scope.removeprefix("guarantee ") for one in found for said in one.statements} == dead


@of_made_up_sites(3)
def test_what_is_idle_is_what_no_page_would_miss(site: SiteDict) -> None:
    enumerated, redundant, hidden, dead = findings_reference.redundant(site)
    report = open_made_up(site).check()
    found = {(one.scope, f.setting) for f in report.findings if f.kind == "redundant-default" for one in f.statements}
    assert found & enumerated ^ redundant == set()
    for kind, names in (("hidden-rule", hidden), ("rule-without-pages", dead)):
        told = {one.scope.partition(" ")[2] for f in report.findings if f.kind == kind for one in f.statements}
        assert (kind, told) == (kind, names)


@of_made_up_sites(4)
def test_what_is_said_where_it_cannot_do_anything(site: SiteDict) -> None:
    enumerated, lacking, without_pages = findings_reference.useless(site)
    found = open_made_up(site).check().findings
    told = {(one.scope, f.setting) for f in found if f.kind == "not-applicable" for one in f.statements}
    assert told & enumerated == lacking
    assert {path for f in found if f.kind == "below-without-pages" for path in f.pages} == without_pages


@of_made_up_sites(4)
def test_no_two_findings_have_one_short_name(site: SiteDict) -> None:
    names = [one.name for one in open_made_up(site).check().findings]
    assert len(set(names)) == len(names)


ONE_LINE = {
    "noindex-with-priority": "here_and_below: {robots.index: no, sitemap.priority: 0.3}",
    "no-such-area": "here_and_below: {layout.name: plain, sidebar.left: main}",
    "band-does-not-fit": "here_and_below: {layout.name: two, band.left: foot}",
    "blank-page": "here_and_below: {layout.name: bare}",
}


@pytest.mark.parametrize("kind", ONE_LINE)
def test_a_line_for_a_page_and_what_is_below_it_gives_one_finding(kind: str, small: Small) -> None:
    declared = (
        "layouts: {plain: {areas: [content]}, two: {areas: [left, content]}, bare: {areas: [content], own_content: no}}\n"
        "sidebars: {main: {}}\nbands: {foot: {fits: [content]}}\n"
    )
    site = davlo.open_site(small(f"{declared}pages: {{/a: {{{ONE_LINE[kind]}}}}}\n"))
    found = [finding for finding in site.check().findings if finding.kind == kind]
    assert [tuple(finding.pages) for finding in found] == [("/a", "/a/b")]


CLOSE = [
    ("everywhere: {access: {everyone: none}}", "below: {sitemap.priority: 0.3}", True),
    ("everywhere: {sitemap.priority: 0.3}", "below: {access: {everyone: none}}", False),
    ("everywhere: {sitemap.priority: 0.3, access: {everyone: none}}", "below: {title.limit: 9}", True),
    ("everywhere: {sitemap.priority: 0.3}", "below: {deny: {everyone: [view]}}", False),
    ("everywhere: {access: {everyone: none}}", "below: {sitemap.priority: 0.3, deny: {everyone: [view]}}", True),
]


@pytest.mark.parametrize(("everywhere", "below", "is_found"), CLOSE)
def test_a_priority_counts_that_is_as_close_as_what_closes_the_page(
    everywhere: str, below: str, is_found: bool, small: Small
) -> None:
    site = davlo.open_site(small(f"{everywhere}\npages: {{/a: {{{below}}}}}\n"))
    found = [finding for finding in site.check().findings if finding.kind == "private-with-priority"]
    assert any("/a/b" in finding.pages for finding in found) == is_found


def test_a_rule_is_not_as_close_as_what_a_page_says_of_itself_and_its_branch(small: Small) -> None:
    rule = "rules: [{name: r, when: {path: /a}, give: {sitemap.priority: 0.3}}]\n"
    closed = "pages: {/a: {here_and_below: {access: {everyone: none}}}}\n"
    kinds = {finding.kind for finding in davlo.open_site(small(rule + closed)).check().findings}
    assert "private-with-priority" not in kinds


def test_an_error_that_was_accepted_on_other_pages_is_new(small: Small) -> None:
    folder = small(
        """
layouts: {plain: {areas: [content]}, wide: {areas: [content, right]}}
bands: {foot: {fits: [content], blocks: []}}
everywhere: {layout.name: plain, band.right: foot}
pages: {/a: {here: {layout.name: wide}}}
accept: [{kind: band-does-not-fit, when: {path: /a}, because: It is meant}]
"""
    )
    site = davlo.open_site(folder)
    assert "band-does-not-fit" not in [one.kind for one in site.check().findings]
    reach = site.reach(davlo.Change().say("layout.name", "wide", here="/a/b"))
    assert [(one.kind, tuple(one.pages)) for one in reach.new_errors] == [("band-does-not-fit", ("/a/b",))]
    with pytest.raises(davlo.ChangeRefused):
        site.write(davlo.Change().say("layout.name", "wide", here="/a/b"))
    assert reach.findings.gone == ()


def test_two_pages_on_one_line_have_a_finding_each(small: Callable[..., Path]) -> None:
    value = "{here_and_below: {sitemap.priority: {by_depth: {top: 1.0, step: 0.2, floor: 0.1}}}}"
    closed = "people: {groups: {crew: []}}\neverywhere: {access: {everyone: []}}\n"
    site = davlo.open_site(small(f"{closed}pages: {{/a: {value}, /c/d: {value}}}\n", "path\n/\n/a\n/c\n/c/d\n"))
    found = [one for one in site.check().findings if one.kind == "private-with-priority"]
    told = {tuple(one.pages): [said.scope for said in one.statements] for one in found}
    assert told == {("/a",): ["below /a"], ("/c/d",): ["below /c/d"]}
