"""Made-up sites on which more is amiss: what the sites of `tests.sites` leave out, since only findings ask for it."""

from __future__ import annotations

import copy
from random import Random
from typing import Any

from tests.sites import BLOCKS, SiteDict

NEAR = {"heading-show": "heading.show", "sitemap_priority": "sitemap.priority", "heading_shown": "heading.show"}
KINDS = [
    "repeats-inherited",
    "long-title",
    "nobody-may-edit",
    "no-heading",
    "empty-title",
    "outdated-stamp",
    "duplicate-title",
]


def amiss(site: SiteDict, random: Random) -> SiteDict:
    """The same site with more that is amiss."""
    found = copy.deepcopy(site)
    paths = [row["path"] for row in found["rows"]]
    found["languages"] = random.choice([["en", "fr"], ["en"], ["fr", "en"]])
    found["own_content"] = random.choice([True, False])
    column = random.choice(list(NEAR))
    found["filled_elsewhere"] = random.choice([[], ["left"], ["right", "toc"]])
    found["columns"] = [*found["columns"], "translates", column]
    for row in found["rows"]:
        row["language"] = random.choice([row["language"], "de", "fr"])
        row["translates"] = random.choice(["", "", "/gone", *paths])
        row[column] = random.choice(["", "yes"])
    found["more"] = {
        "menu": {"max_entries": random.choice([1, 2, 9])},
        "sitemap": {
            "leave_out": {
                "menu_hidden": random.choice(["yes", "no", "no"]),
                "priority_under": random.choice(["0.2", "0.4", "0.95"]),
            }
        },
        "guarantees": [guarantee(random, number, paths) for number in range(2)],
    }
    found["settings"]["motto"]["required"] = "yes"
    for name in ("spark", "rank", "hue"):
        found["settings"][name]["used_by"] = random.sample([*BLOCKS, "wide", "foot"], random.choice([1, 2]))
    for family in random.sample(["access", "deny"], random.randint(0, 2)):
        found["everywhere"].setdefault(family, {})["nobody"] = ["view"]
    stamped = {(row["path"], row["setting"]) for row in found["stamps"]}
    for path in random.sample(paths, 2):
        if (path, "page.owner") not in stamped:
            found["stamps"].append({"path": path, "setting": "page.owner", "value": "zed.gone", "on": ""})
    for number, value in enumerate(("44", random.choice(["44", "45"]))):
        when = {"in_branch": random.choice(paths)}
        give = {"title.limit": value, "layout.theme": "day"}
        found["rules"].append({"name": f"more {number}", "when": when, "give": give})
    everywhere = {
        "title.pattern": random.choice(["{title}", "{title}{town}", "{translates}"]),
        "sidebar.left": random.choice(["spare", "main"]),
        "sidebar.right": random.choice(["spare", "main"]),
        "layout.name": "wide",
        "look.right": "broad",
        "look.left": "calm",
        "sitemap.priority": random.choice(["0.5", {"by_depth": {"top": "0.9", "step": "0.2", "floor": "0.1"}}]),
    }
    said = {**found["everywhere"], **found["everywhere"].get("lock", {})}
    for name in random.sample(list(everywhere), 4):
        if name not in said:
            found["everywhere"][name] = everywhere[name]
    return found


def guarantee(random: Random, number: int, paths: list[str]) -> dict[str, Any]:
    """A guarantee about a branch."""
    subject = random.choice(["everyone", "signed-in", "owner", "owner-group", "amber.finch", "keepers", "readers"])
    said: dict[str, Any] = random.choice(
        [
            {"has": {"title.limit": random.choice(["40", "60"]), "menu.show": "yes"}},
            {"has": {"look.right": random.choice(["none", "calm"])}},
            {"may": {subject: ["view"]}},
            {"may_not": {subject: ["view", "edit"]}},
        ]
    )
    found = {"name": f"guarantee {number}", "when": {"in_branch": random.choice(paths)}, **said}
    return {**found, "except": {"status": "draft"}} if random.random() < 0.3 else found


def accepts(site: SiteDict, random: Random) -> SiteDict:
    """The same site with entries of `accept`."""
    paths = [row["path"] for row in site["rows"]]
    entries: list[dict[str, Any]] = []
    for kind in random.sample(KINDS, 4):
        entry: dict[str, Any] = {"kind": kind, "because": "it is known"}
        entry |= random.choice([{}, {"when": {"in_branch": random.choice(paths)}}, {"when": {"path": "/none/**"}}])
        entry |= random.choice([{}, {"setting": random.choice(["motto", "title.limit", "sidebar.right"])}])
        entries.append(entry)
    return {**site, "more": {"accept": entries}}
