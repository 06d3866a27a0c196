"""What a change costs: its reach against resolving everything once, and writing it against reading the site.

    python -m benchmarks.changes [--pages 1000000] [--lines 100000] [--rounds 5]

All in one process; in each round everything runs once, in turn. The ratios are of medians.
"""

from __future__ import annotations

import argparse
import statistics
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

import davlo
from benchmarks.questions import asked_site
from benchmarks.results import FOLDER
from davlo.core.resolve.effective import EffectiveModel

PAGES_OF_ENTRY = 3
"""How many lines of YAML each page takes."""


def timed(rounds: int, works: dict[str, Callable[[], object]]) -> dict[str, float]:
    """The median time of each piece of work. Unit: seconds."""
    found: dict[str, list[float]] = {name: [] for name in works}
    for _ in range(rounds):
        for name, work in works.items():
            begun = time.perf_counter()
            work()
            found[name].append(time.perf_counter() - begun)
    return {name: statistics.median(times) for name, times in found.items()}


def reaches(pages: int, rounds: int) -> dict[str, float]:
    """What the reach of a statement takes, for a branch of 1 % of the pages and for all of them."""
    site = davlo.open_site(asked_site(pages))
    tree = site.tree
    size = tree.end - np.arange(len(tree))
    branch = tree.paths[int(np.argmin(abs(size - len(tree) // 100)))]
    small = davlo.Change().say("sidebar.right", "none", below=branch)
    whole = davlo.Change().say("sidebar.right", "none", everywhere=True)
    site.resolve()["/"]["sidebar.right"]

    def resolve_all() -> None:
        effective = EffectiveModel(site)
        for number in range(len(site.catalogue)):
            effective.resolved(number)

    return timed(
        rounds,
        {
            "resolving everything once": resolve_all,
            "1 % of the pages: how many change": lambda: site.reach(small).count(),
            "1 % of the pages: the sentence": lambda: site.reach(small).numbers,
            "all pages: how many change": lambda: site.reach(whole).count(),
            "all pages: the sentence": lambda: site.reach(whole).numbers,
            "findings before and after": lambda: site.reach(small).findings,
        },
    )


def long_yaml(lines: int) -> Path:
    """A site with a `davlo.yaml` of this many lines, a third of them comments."""
    folder, entries = FOLDER / f"yaml-{lines}", lines // PAGES_OF_ENTRY
    folder.mkdir(parents=True, exist_ok=True)
    head = "davlo: 1\nsite: {name: Long, url: 'https://long.example'}\n"
    head += "sidebars: {main: {blank: yes}, side: {blank: yes}}\n"
    head += "layouts: {plain: {areas: [content, right]}}\neverywhere:\n  title.limit: 50\npages:\n"
    paths = [f"/p{number % 100}/q{number}" for number in range(entries)]
    body = (
        f"  {path}:\n    # page {number}\n    here: {{sidebar.right: {'main' if number % 3 else 'side'}}}\n"
        for number, path in enumerate(paths)
    )
    (folder / "davlo.yaml").write_text(head + "".join(body), encoding="utf-8")
    rows = ["path", "/", *(f"/p{number}" for number in range(100)), *paths]
    (folder / "pages.csv").write_text("\n".join(rows) + "\n", encoding="utf-8")
    return folder


def writing(lines: int, rounds: int) -> dict[str, float]:
    """What writing one value into a long YAML file takes."""
    folder = long_yaml(lines)
    site = davlo.open_site(folder)
    change = davlo.Change().say("title.limit", 40, everywhere=True)

    def write() -> None:
        site.write(change, even_so=True)

    def undo() -> None:
        davlo.open_site(folder).undo()

    return timed(
        rounds,
        {
            "reading it": lambda: davlo.open_site(folder),
            "the edits alone": lambda: site.edits(change, is_written=True),
            "writing: edits, reading back, journal": write,
            "reading and taking back": undo,
        },
    )


def main(pages: int, lines: int, rounds: int) -> None:
    """Print what was measured, and each as a multiple of the first."""
    for title, found in (
        (f"{pages:,} pages", reaches(pages, rounds)),
        (f"a davlo.yaml of {lines:,} lines", writing(lines, rounds)),
    ):
        first = next(iter(found.values()))
        print(title)
        for name, seconds in found.items():
            print(f"  {name:42} {seconds * 1000:9.1f} ms  {seconds / first:8.3f} x  (1 / {first / seconds:.1f})")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--lines", type=int, default=100_000)
    parser.add_argument("--rounds", type=int, default=5)
    asked = parser.parse_args()
    main(asked.pages, asked.lines, asked.rounds)
