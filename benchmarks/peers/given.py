"""What a made site says, as texts: what all peers begin from."""

from __future__ import annotations

import csv
from pathlib import Path
from typing import Any, NamedTuple

import yaml

from benchmarks.make import LISTS, VALUES

BUILT_IN = dict.fromkeys(VALUES, "none") | {
    "heading.show": "yes",
    "title.pattern": "{title}",
    "title.limit": "60",
    "menu.show": "yes",
    "menu.label": "{title}",
    "layout.width": "as-layout",
    "robots.index": "yes",
    "sitemap.include": "yes",
    "sitemap.priority": "0.5",
    "promo": "no",
    "audio": "",
    **dict.fromkeys(LISTS, ""),
}
SETTINGS = tuple(VALUES)


class Given(NamedTuple):
    """Statements as texts: `below` and `here` by path and setting, `rules` with their names, the top one first."""

    everywhere: dict[str, str]
    locked: dict[str, str]
    priority: tuple[float, float, float]
    types: dict[str, tuple[str, dict[str, str]]]
    below: list[tuple[str, str, str]]
    rules: list[tuple[str, dict[str, str], dict[str, str]]]
    here: list[tuple[str, str, str]]


def read(site: Path) -> Given:
    """The statements of a made site; those of single pages are in values.csv, and in a column of the page list."""
    with (site / "davlo.yaml").open(encoding="utf-8") as file:
        told: dict[str, Any] = yaml.load(file, Loader=yaml.CBaseLoader)
    everywhere = told["everywhere"]
    formula = everywhere.pop("sitemap.priority")["by_depth"]
    locked = flat(everywhere.pop("lock"))
    types = {name: (body.get("based_on", ""), flat(body["give"])) for name, body in told["types"].items()}
    below = [(path, name, text) for path, body in told["pages"].items() for name, text in flat(body["below"]).items()]
    rules = []
    for rule in told["rules"]:
        when = {**rule["when"], **rule["when"].get("details", {})}
        when.pop("details", None)
        rules.append((rule["name"], when, flat(rule["give"])))
    with (site / "values.csv").open(encoding="utf-8", newline="") as file:
        here = [(row["where"][5:], row["setting"], row["value"]) for row in csv.DictReader(file)]
    priority = (float(formula["top"]), float(formula["step"]), float(formula["floor"]))
    return Given(flat(everywhere), locked, priority, types, below, rules, here)


def flat(body: dict[str, Any]) -> dict[str, str]:
    """A body as texts; the subjects of `access` become settings."""
    found: dict[str, str] = {}
    for name, value in body.items():
        if name == "access":
            found |= {f"access.{who}": actions for who, actions in flat(value).items()}
        else:
            found[name] = "; ".join(value) if isinstance(value, list) else value
    return {name: plain(name, value) for name, value in found.items()}


def plain(name: str, value: str) -> str:
    """None of a list is the empty list."""
    return "" if value == "none" and (name in LISTS or name.startswith("access.")) else value


def grown(base: str, more: str) -> str:
    """A list with more at its end; nothing twice."""
    return "; ".join(dict.fromkeys([*filter(None, base.split("; ")), *more.split("; ")]))


def by_depth(priority: tuple[float, float, float], depth: int) -> str:
    """The priority of a page at a depth."""
    top, step, floor = priority
    return f"{max(floor, round(top - step * depth, 4)):g}"


def of_type(given: Given, name: str) -> dict[str, tuple[str, str]]:
    """What a type and its bases give, and which of them gives it."""
    found: dict[str, tuple[str, str]] = {}
    for each in chain(given.types, name):
        found |= {setting: (text, f"type {each}") for setting, text in given.types[each][1].items()}
    return found


def chain(types: dict[str, tuple[str, dict[str, str]]], name: str) -> list[str]:
    """A type and those it is based on, the root base first."""
    found = [name]
    while types.get(found[0], ("", {}))[0]:
        found.insert(0, types[found[0]][0])
    return found
