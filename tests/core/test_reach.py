"""Reach: what one edit would change is what the edited site differs in."""

from __future__ import annotations

from copy import deepcopy
from random import Random
from typing import Any

import davlo
from davlo.core.reach import Edit, reach
from davlo.core.statements import Scope
from davlo.core.values import format_value, read_cell
from tests.core.test_resolve import open_made_up
from tests.sites import LISTS, WORDS, SiteDict, of_made_up_sites


def values(site: SiteDict, name: str) -> dict[str, str]:
    """A setting's value on every page that has it."""
    effective = open_made_up(site).resolve()
    return {path: format_value(page[name]) for path, page in effective.items() if name in page}


def bodies(site: SiteDict) -> list[tuple[Scope, str, dict[str, Any]]]:
    """Scopes that a statement may be added to: what they are, of what, and their body; it belongs to the site."""
    found: list[tuple[Scope, str, dict[str, Any]]] = [(Scope.EVERYWHERE, "", site["everywhere"])]
    found += [(Scope.TYPE, name, body.setdefault("give", {})) for name, body in site["types"].items()]
    for row in site["rows"]:
        page = site["pages"].setdefault(row["path"], {})
        found += [(Scope.BELOW, row["path"], page.setdefault("below", {}))]
        found += [(Scope.HERE, row["path"], page.setdefault("here", {}))]
    return found


@of_made_up_sites(30)
def test_reach_is_what_differs_afterwards(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    opened = open_made_up(site)
    effective = opened.resolve()
    for _ in range(4):
        changed = deepcopy(site)
        scope, of, body = random.choice(bodies(changed))
        spoken = [name for name in body if name in WORDS]
        name = random.choice(spoken if spoken and random.random() < 0.5 else [*WORDS, "topics"])
        setting = opened.setting_number(name)
        target = opened.types.find(of) if scope == Scope.TYPE else opened.tree.find(of) if of else 0
        if name not in body and opened.statements.find(setting, scope, target) >= 0:
            continue  # it is said in another place, as a lock or in a row
        text = random.choice(WORDS.get(name) or ["t1; t3", "none"])
        gone = name in body and random.random() < 0.4
        if gone:
            del body[name]
        else:
            body[name] = text.split("; ") if name in LISTS and text != "none" else text.replace("<empty>", "")
        found = reach(effective, Edit(setting, scope, target, read_cell(opened.catalogue[setting], text), gone=gone))
        before, after = values(site, name), values(changed, name)
        expected = {path: (before[path], after[path]) for path in before if before[path] != after[path]}
        pairs = [(format_value(one), format_value(other)) for one, other in found.values()]
        has = {opened.tree.paths[page] for page in opened.has(setting).nonzero()[0].tolist()}
        told = dict(zip(found.paths(), pairs, strict=True))
        assert {path: pair for path, pair in told.items() if path in has} == expected


def test_the_demo_is_not_changed() -> None:
    site = davlo.open_demo()
    effective = site.resolve()
    setting, visit = site.setting_number("sidebar.right"), site.tree.number("/visit")
    before = dict(effective["/visit/tickets"])
    edits = [
        Edit(setting, Scope.BELOW, visit, "main"),
        Edit(setting, Scope.BELOW, visit, gone=True),
        Edit(setting, Scope.HERE, visit, "quiet"),
        Edit(setting, Scope.BELOW, -1, "main"),
    ]
    assert [len(reach(effective, edit)) for edit in edits] == [23, 23, 1, 0]
    assert dict(effective["/visit/tickets"]) == before
    assert dict(davlo.open_demo().resolve()["/visit/tickets"]) == before
