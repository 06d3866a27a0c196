"""Each kind of finding happens on a small site, says what and where, and goes away when it is mended."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import pytest

import davlo
from davlo.core.findings import KINDS, Kind
from tests import findings_reference
from tests.core.test_resolve import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
PIECES = """
layouts: {plain: {areas: [content, footer]}, wide: {based_on: plain, areas: [content, left, footer]}}
sidebars: {main: {}, slim: {}}
bands: {legal: {fits: [footer]}, loud: {fits: [footer]}}
blocks: {form: {kind: text}, link: {kind: text}}
people: {names: [amber.finch, bruno.wray], admins: [bruno.wray], groups: {keepers: [amber.finch]}}
"""
OPEN = "access: {keepers: [view, edit]}"


class Case(NamedTuple):
    """A site on which a kind happens; `mended` is the same without it."""

    decisions: str
    mended: str
    pages: tuple[str, ...]
    setting: str | None
    says: str
    inventory: str = "path,title,type\n/,Home,\n/a,A,note\n/a/b,B,note\n"
    stamps: str = ""


CASES = {
    "lock-overrules": Case(
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{here: {{band.footer: loud}}}}}}",
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{here: {{band.footer: legal}}}}}}",
        ("/a",),
        "band.footer",
        "locked to legal by everywhere (davlo.yaml:",
    ),
    "lock-clash": Case(
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{below: {{lock: {{band.footer: loud}}}}}}}}",
        f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\npages: {{/a: {{below: {{lock: {{band.footer: legal}}}}}}}}",
        ("/a/b",),
        "band.footer",
        "so 1 other lock cannot hold on 1 page",
    ),
    "type-below-clash": Case(
        f"everywhere: {{{OPEN}}}\ntypes: {{note: {{give: {{title.limit: 40}}}}}}\npages: {{/a: {{below: {{title.limit: 50}}}}}}",
        f"everywhere: {{{OPEN}}}\ntypes: {{note: {{give: {{title.limit: 40}}}}}}\npages: {{/a: {{below: {{title.limit: 50}}}}}}\n"
        "rules: [{name: which holds, when: {type: note, below: /a}, give: {title.limit: 50}}]",
        ("/a/b",),
        "title.limit",
        "says title.limit is 40, below /a",
    ),
    "rules-overlap": Case(
        f"everywhere: {{{OPEN}}}\nrules:\n  - {{name: upper, when: {{type: note}}, give: {{title.limit: 40}}}}\n"
        "  - {name: lower, when: {in_branch: /a}, give: {title.limit: 50}}",
        f"everywhere: {{{OPEN}}}\nrules:\n  - {{name: upper, when: {{type: note}}, give: {{title.limit: 40}}}}\n"
        "  - {name: lower, when: {in_branch: /a}, except: {type: note}, give: {title.limit: 50}}",
        ("/a", "/a/b"),
        "title.limit",
        'the rule "upper" (davlo.yaml:11) gives 40 and wins; the rule "lower" (davlo.yaml:12) gives 50',
    ),
    "no-effect": Case(
        f"everywhere: {{{OPEN}, title.limit: 40}}\npages: {{/a: {{here: {{title.limit: 40}}}}}}",
        f"everywhere: {{{OPEN}, title.limit: 40}}\npages: {{/a: {{here: {{title.limit: 41}}}}}}",
        ("/a",),
        "title.limit",
        "1 page says title.limit: 40 and would get the same from everywhere",
    ),
    "behind-default": Case(
        f"everywhere: {{{OPEN}}}\nsettings: {{blocks.content: {{flow: stamped}}}}\ntypes: {{note: {{give: {{blocks.content: [link]}}}}}}",
        f"everywhere: {{{OPEN}}}\nsettings: {{blocks.content: {{flow: stamped}}}}\n"
        "types: {note: {give: {blocks.content: [link]}}}\npages: {/a: {here: {blocks.content: [link]}}, "
        "/a/b: {here: {blocks.content: none}}}",
        ("/a", "/a/b"),
        "blocks.content",
        "1 page has an older stamp and 1 page has no stamp",
        stamps="path,setting,value\n/a,blocks.content,form\n",
    ),
    "no-such-area": Case(
        f"everywhere: {{{OPEN}, layout.name: plain, sidebar.left: main}}",
        f"everywhere: {{{OPEN}, layout.name: wide, sidebar.left: main}}",
        ("/", "/a", "/a/b"),
        "sidebar.left",
        "the layout plain, chosen by everywhere (davlo.yaml:9), has no area left",
    ),
    "cut-off-in-menu": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here: {{menu.show: no}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here_and_below: {{menu.show: no}}}}}}",
        ("/a/b",),
        "menu.show",
        "/a above it is hidden from the menu by the page itself (davlo.yaml:10)",
    ),
    "duplicate-title": Case(
        f"everywhere: {{{OPEN}}}",
        f'everywhere: {{{OPEN}, title.pattern: "{{title}}, {{parent}}"}}',
        ("/a", "/a/b"),
        "title.pattern",
        'share the document title "Tea"',
        inventory="path,title,type\n/,Home,\n/a,Tea,\n/a/b,tea,\n",
    ),
    "nobody-can-edit": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{below: {{fresh_access: yes, access: {{keepers: [view]}}}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{below: {{fresh_access: yes, access: {{keepers: [view, edit]}}}}}}}}",
        ("/a/b",),
        None,
        "no one but an admin may edit 1 page",
    ),
    "open-below-closed": Case(
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here: {{access: {{everyone: none}}}}}}}}",
        f"everywhere: {{{OPEN}}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}}}}}",
        ("/a/b",),
        "access.everyone",
        "anyone may view 1 page as it is built in, but not /a above",
    ),
    "private-with-priority": Case(
        f"everywhere: {{{OPEN}, sitemap.priority: 0.4}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}, "
        "below: {sitemap.priority: 0.9}}}",
        f"everywhere: {{{OPEN}, sitemap.priority: 0.4}}\npages: {{/a: {{here_and_below: {{access: {{everyone: none}}}}}}}}",
        ("/a/b",),
        "sitemap.priority",
        "below /a (davlo.yaml:10) gives a sitemap priority (0.9) to 1 page that no visitor may view",
    ),
    "promise-broken": Case(
        f"everywhere: {{{OPEN}, title.limit: 40}}\npromises: [{{name: short titles, when: {{type: note}}, has: {{title.limit: 60}}}}]",
        f"everywhere: {{{OPEN}}}\npromises: [{{name: short titles, when: {{type: note}}, has: {{title.limit: 60}}}}]",
        ("/a", "/a/b"),
        "title.limit",
        'the promise "short titles" (davlo.yaml:10) is broken on 2 pages: title.limit should be 60 and is 40 from everywhere',
    ),
}


def findings_of(small: Small, case: Case, decisions: str, kind: str) -> list[davlo.Finding]:
    types = "" if "types:" in decisions else "types: {note: {label: Note}}\n"
    folder = small(
        PIECES + decisions + "\n" + types, case.inventory, {"stamps.csv": case.stamps} if case.stamps else {}
    )
    return [finding for finding in davlo.open_site(folder).check().findings if finding.kind == kind]


def test_every_kind_has_a_case() -> None:
    assert [kind.name for kind in KINDS if kind.name not in CASES] == []


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_it_happens_and_goes_away(kind: Kind, small: Small) -> None:
    case = CASES[kind.name]
    found = findings_of(small, case, case.decisions, kind.name)
    assert [(finding.pages, finding.setting, finding.level) for finding in found] == [
        (case.pages, case.setting, kind.level)
    ]
    assert case.says in found[0].message
    assert found[0].fix
    assert findings_of(small, case, case.mended, kind.name) == []


PROMISES = [
    ("cannot: {everyone: [view]}", "/a", "a visitor may view: access.everyone gives it (built-in)"),
    ("can: {amber.finch: [delete]}", "/a", "amber.finch may not delete: no access statement gives delete"),
    ("cannot: {keepers: [edit]}", "/a", "amber.finch may edit: access.keepers gives it (everywhere, davlo.yaml:9)"),
    ("cannot: {bruno.wray: [edit]}", "/a", ""),
    ("can: {owner: [edit]}", "/a", ""),
]


@pytest.mark.parametrize(("promise", "page", "says"), PROMISES)
def test_promises_about_access(promise: str, page: str, says: str, small: Small) -> None:
    decisions = f"everywhere: {{{OPEN}}}\npromises: [{{name: p, when: {{in_branch: /a, depth: '1'}}, {promise}}}]\n"
    found = [f for f in davlo.open_site(small(PIECES + decisions)).check().findings if f.kind == "promise-broken"]
    assert [f.pages for f in found] == ([(page,)] if says else [])
    assert all(says in f.message for f in found)


@pytest.mark.parametrize(
    ("accept", "left"),
    [
        ("{kind: no-effect, because: meant}", 0),
        ("{kind: no-effect, when: {path: /a}, because: meant}", 1),
        ("{setting: title.limit, because: meant}", 0),
        ("{kind: no-effect, setting: menu.show, because: meant}", 2),
        ("{kind: no-effect, piece: '40', because: meant}", 0),
    ],
)
def test_an_accept_silences_the_pages_it_means(accept: str, left: int, small: Small) -> None:
    decisions = f"everywhere: {{{OPEN}, title.limit: 40}}\npages:\n  /a: {{here: {{title.limit: 40}}}}\n"
    decisions += f"  /a/b: {{here: {{title.limit: 40}}}}\naccept: [{accept}]\n"
    report = davlo.open_site(small(PIECES + decisions)).check()
    findings = [finding for finding in report.findings if finding.kind == "no-effect"]
    assert sum(len(finding.pages) for finding in findings) == left
    assert all(f"{left} page" in finding.message for finding in findings)
    assert sum(len(finding.pages) for finding in report.accepted if finding.kind == "no-effect") == 2 - left


def test_a_lock_with_many_exceptions_is_one_finding(small: Small) -> None:
    rows = "path,band.footer\n" + "".join(f"/p{i},loud\n" for i in range(40))
    found = (
        davlo.open_site(small(PIECES + f"everywhere: {{{OPEN}, lock: {{band.footer: legal}}}}\n", rows))
        .check()
        .findings
    )
    assert [(f.kind, len(f.pages), len(f.statements)) for f in found] == [("lock-overrules", 40, 41)]


def test_drafts_count_as_their_access_says_for_open_below_closed(small: Small) -> None:
    pages = "path,status\n/,live\n/a,draft\n/a/b,live\n"
    found = davlo.open_site(small(PIECES + f"everywhere: {{{OPEN}}}\n", pages)).check().findings
    assert "open-below-closed" not in [finding.kind for finding in found]


@of_made_up_sites(60)
def test_findings_are_about_the_pages_and_settings_the_reference_names(site: SiteDict) -> None:
    wanted = findings_reference.all_findings(site)
    found: dict[str, set[tuple[str, str | None]]] = {}
    for finding in open_made_up(site).check().findings:
        found.setdefault(finding.kind, set()).update((path, finding.setting) for path in finding.pages)
    for kind in (k.name for k in KINDS if k.name not in ("duplicate-title", "promise-broken")):
        assert (kind, found.get(kind, set()) ^ wanted.get(kind, set())) == (kind, set())


@of_made_up_sites(12)
def test_what_is_idle_is_what_no_page_would_miss(site: SiteDict) -> None:
    enumerated, idle, hidden, dead = findings_reference.idle(site)
    report = open_made_up(site).check()
    found = {(one.scope, f.setting) for f in report.findings if f.kind == "idle-default" for one in f.statements}
    assert found & enumerated ^ idle == set()
    for kind, names in (("hidden-rule", hidden), ("dead-rule", dead)):
        told = {one.scope.partition(" ")[2] for f in report.findings if f.kind == kind for one in f.statements}
        assert (kind, told) == (kind, names)
