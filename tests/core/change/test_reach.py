"""Reach: what one edit would change is what the edited site differs in."""

from __future__ import annotations

from copy import deepcopy
from random import Random
from typing import Any

import davlo
from davlo.core.change.steps.statement_reach import StatementEdit, reach
from davlo.core.site.settings.parse_values import read_cell
from davlo.core.site.settings.scopes import OF_PAGES, ScopeKind
from davlo.core.site.settings.values import format_value
from tests.core.resolve.test_fold import open_made_up
from tests.sites import LISTS, WORDS, SiteDict, of_made_up_sites


def values(site: SiteDict, name: str) -> dict[str, str]:
    """A setting's value on every page that has it."""
    effective = open_made_up(site).resolve()
    return {path: format_value(page[name]) for path, page in effective.items() if name in page}


def bodies(site: SiteDict) -> list[tuple[ScopeKind, str, dict[str, Any]]]:
    """Scopes that a statement may be added to: what they are, of what, and their body; it belongs to the site."""
    found: list[tuple[ScopeKind, str, dict[str, Any]]] = [(ScopeKind.EVERYWHERE, "", site["everywhere"])]
    found += [(ScopeKind.TYPE, name, body.setdefault("give", {})) for name, body in site["types"].items()]
    found += [(ScopeKind.RULE, str(number), rule["give"]) for number, rule in enumerate(site["rules"])]
    for row in site["rows"]:
        page = site["pages"].setdefault(row["path"], {})
        found += [(ScopeKind.BELOW, row["path"], page.setdefault("below", {}))]
        found += [(ScopeKind.HERE, row["path"], page.setdefault("here", {}))]
    return found


def edit_one(site: SiteDict, opened: davlo.Site, random: Random) -> StatementEdit | None:
    """Add, change or take away one statement in the description of a site, and what does the same to it when it is
    read; none where it is said in another place, as in a row."""
    scope, of, body = random.choice(bodies(site))
    locks = body.setdefault("lock", {}) if scope < ScopeKind.STAMP else {}
    spoken = [name for name in (*body, *locks) if name in WORDS]
    name = random.choice(spoken if spoken and random.random() < 0.5 else [*WORDS, "topics"])
    setting = opened.setting_number(name)
    find = opened.tree.find if scope in OF_PAGES else opened.types.find
    target = 0 if not of else int(of) if scope == ScopeKind.RULE else find(of)
    is_there = name in body or name in locks
    if not is_there and opened.statements.find(setting, scope, target) >= 0:
        return None
    text = random.choice(WORDS.get(name) or ["t1; t3", "none"])
    gone = is_there and random.random() < 0.4
    locked = scope < ScopeKind.STAMP and random.random() < 0.4
    for said in (body, locks):
        said.pop(name, None)
    if not gone:
        value = text.split("; ") if name in LISTS and text != "none" else text.replace("<empty>", "")
        (locks if locked else body)[name] = value
    return StatementEdit(setting, scope, target, read_cell(opened.catalogue[setting], text), locked, gone)


@of_made_up_sites(4)
def test_reach_is_what_differs_afterwards(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    opened = open_made_up(site)
    effective = opened.resolve()
    for _ in range(4):
        changed = deepcopy(site)
        edit = edit_one(changed, opened, random)
        if edit is None:
            continue
        found = reach(effective, edit)
        name = opened.catalogue[edit.setting].name
        before, after = values(site, name), values(changed, name)
        expected = {path: (before[path], after[path]) for path in before if before[path] != after[path]}
        pairs = [(format_value(one), format_value(other)) for one, other in found.values()]
        assert dict(zip(found.paths(), pairs, strict=True)) == expected


def test_the_demo_is_not_changed() -> None:
    site = davlo.open_demo()
    effective = site.resolve()
    setting, visit = site.setting_number("sidebar.right"), site.tree.number("/visit")
    before = dict(effective["/visit/tickets"])
    edits = [
        StatementEdit(setting, ScopeKind.BELOW, visit, "main"),
        StatementEdit(setting, ScopeKind.BELOW, visit, gone=True),
        StatementEdit(setting, ScopeKind.HERE, visit, "quiet"),
        StatementEdit(setting, ScopeKind.BELOW, -1, "main"),
    ]
    assert [len(reach(effective, edit)) for edit in edits] == [23, 23, 1, 0]
    assert dict(effective["/visit/tickets"]) == before
    assert dict(davlo.open_demo().resolve()["/visit/tickets"]) == before


def test_a_difference_tells_what_is_no_longer_met() -> None:
    site = davlo.open_demo()
    found = site.reach(davlo.Change().say("layout.name", "plain", here="/visit/tickets"))
    rows = {(one.path, one.setting): (one.before, one.after) for one in found.shown}
    assert rows == {("/visit/tickets", name): (True, False) for name in ("sidebar.right", "look.right")}
