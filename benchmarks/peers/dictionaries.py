"""Plain Python: a dictionary of pages, and for each page and setting a walk from the page upwards."""

from __future__ import annotations

import csv
import sys
from pathlib import Path

from .given import BUILT_IN, SETTINGS, Given, by_depth, chain, grown, of_type, plain, read

Page = dict[str, str]
Answer = tuple[str, str]
"""A value and its source."""


def resolve(site: Path, out: Path) -> None:
    """Resolve every page, and write a row for each."""
    given = read(site)
    with (site / "pages.csv").open(encoding="utf-8", newline="") as file:
        pages = {row["path"]: row for row in csv.DictReader(file)}
    ancestors = {path: above(path) for path in pages}
    below = {(path, name): text for path, name, text in given.below}
    here = {(path, name): text for path, name, text in given.here}
    here |= {(path, "sidebar.right"): row["sidebar.right"] for path, row in pages.items() if row["sidebar.right"]}
    matched = rules_matched(given, pages, ancestors)
    kinds = {name: of_type(given, name) for name in given.types}
    with out.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["path", *(f"{of}{name}" for name in SETTINGS for of in ("", "source of "))])
        for path, page in pages.items():
            row = [path]
            for name in SETTINGS:
                if name in given.locked:
                    row += given.locked[name], "everywhere"
                    continue
                text = here.get((path, name))
                if text is not None and not text.startswith("+ "):
                    row += plain(name, text), "here"
                    continue
                base, source = inherited(given, name, path, page, ancestors[path], below, matched, kinds)
                row += (base, source) if text is None else (grown(base, text[2:]), "here")
            writer.writerow(row)


def above(path: str) -> list[str]:
    """The pages above a page, the nearest first."""
    found = []
    while path != "/":
        path = path.rpartition("/")[0] or "/"
        found.append(path)
    return found


def rules_matched(
    given: Given, pages: dict[str, Page], ancestors: dict[str, list[str]]
) -> dict[str, dict[str, Answer]]:
    """What rules give each page, the top rule last so that it stays."""
    by_branch: dict[str, list[int]] = {}
    for number, (_, when, _) in enumerate(given.rules):
        by_branch.setdefault(when["in_branch"], []).append(number)
    found: dict[str, dict[str, Answer]] = {}
    for path, page in pages.items():
        numbers = [n for place in (path, *ancestors[path]) if place in by_branch for n in by_branch[place]]
        for number in sorted(numbers, reverse=True):
            rule, when, give = given.rules[number]
            if (
                ("type" not in when or when["type"] in chain(given.types, page["type"]))
                and ("made_with" not in when or when["made_with"] == page["made_with"])
                and ("language" not in when or when["language"] == page["language"])
                and ("depth" not in when or int(when["depth"]) == len(ancestors[path]))
            ):
                answers = {name: (text, f"rule {rule}") for name, text in give.items()}
                found.setdefault(path, {}).update(answers)
    return found


def inherited(
    given: Given,
    name: str,
    path: str,
    page: Page,
    ancestors: list[str],
    below: dict[tuple[str, str], str],
    matched: dict[str, dict[str, Answer]],
    kinds: dict[str, dict[str, Answer]],
) -> Answer:
    """What a page gets of a setting where it says nothing itself, and from where."""
    if path in matched and name in matched[path]:
        return matched[path][name]
    if name != "page.owner":  # a setting whose default is for new pages: what is above counts for new pages alone
        for place in ancestors:
            text = below.get((place, name))
            if text is not None:
                return text, f"below {place}"
        if name in kinds[page["type"]]:
            return kinds[page["type"]][name]
        if name == "sitemap.priority":
            return by_depth(given.priority, len(ancestors)), "everywhere"
        if name in given.everywhere:
            return given.everywhere[name], "everywhere"
    return BUILT_IN[name], "built-in"


if __name__ == "__main__":
    resolve(Path(sys.argv[1]), Path(sys.argv[2]))
