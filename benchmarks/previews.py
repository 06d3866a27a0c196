"""What a change would do, against `export --to FILE.parquet` in the same run, as whole processes.

    python -m benchmarks.previews [--pages 1000000] [--rounds 3]

In each round every command runs once, in turn. The ratios are of medians. With --lists the site has a list of links
three levels deep, and viewpoints.
"""

from __future__ import annotations

import argparse

import davlo
from benchmarks.outputs import measured_in
from benchmarks.questions import asked_site
from benchmarks.results import FOLDER, keep
from benchmarks.size import site_of

EXPORT = "export"
SIDEBAR = "set --everywhere, a sidebar"
GOALS = {"set --here": 1.5, "page set": 1.5, "set --everywhere": 3.0, SIDEBAR: 3.0, "page move": 3.0}


def main(pages: int, rounds: int, has_lists: bool) -> None:
    """Measure, and print a line for each preview."""
    folder = asked_site(pages) if has_lists else site_of(pages)
    tree = davlo.open_site(folder).tree
    page = tree.paths[next(one for one in range(2 * pages // 5, pages) if tree.end[one] == one + 1)]
    commands = {
        EXPORT: ["export", "--to", str(FOLDER / "previews.parquet")],
        "set --here": ["set", "sidebar.right=none", "--here", page],
        "page set": ["page", "set", page, "title=Another"],
        "set --everywhere": ["set", "sitemap.priority=0.4", "--everywhere"],
        SIDEBAR: ["set", "sidebar.right=none", "--everywhere"],
        "page move": ["page", "move", page, "/moved-page"],
    }
    found = measured_in(folder, commands, rounds)
    for name, goal in GOALS.items():
        ratio = found[name].seconds / found[EXPORT].seconds
        print(f"{name:28} {found[name].seconds:6.2f} s {ratio:5.2f} x export (goal: {goal})", flush=True)
        keep(f"{name} against export, {pages:,} pages", {"x time": ratio})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure previews against export.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--lists", action="store_true")
    told = parser.parse_args()
    main(told.pages, told.rounds, told.lists)
