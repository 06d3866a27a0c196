"""What Davlo writes, against `table` in the same run, as whole processes.

    python -m benchmarks.outputs [--pages 1000000] [--few 10000] [--rounds 3]

In each round every command runs once, in turn. The ratios are of medians.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from pathlib import Path
from typing import NamedTuple

from benchmarks.results import FOLDER, keep
from benchmarks.size import run, site_of

DAVLO = [sys.executable, "-m", "davlo"]
DRAWING = [sys.executable, "-c", "import davlo.cli.questions.picture, davlo.draw.branches"]


class Measured(NamedTuple):
    """The median of a command's seconds and MB."""

    seconds: float
    memory: float


def measured(commands: dict[str, list[str]], pages: int, rounds: int) -> dict[str, Measured]:
    """The median of each command on a site with this number of pages."""
    return measured_in(site_of(pages), commands, rounds)


def measured_in(folder: Path, commands: dict[str, list[str]], rounds: int) -> dict[str, Measured]:
    """The median of each command on the site in a folder."""
    site = ["--site", str(folder)]
    taken: dict[str, list[tuple[float, float]]] = {name: [] for name in commands}
    for _ in range(rounds):
        for name, words in commands.items():
            taken[name].append(run(words if words is DRAWING else [*DAVLO, *words, *site]))
    return {name: Measured(*map(statistics.median, zip(*some, strict=True))) for name, some in taken.items()}


def main(pages: int, few: int, rounds: int) -> None:
    """Measure, and print a line for each ratio."""
    sitemap, parquet, csv = (str(FOLDER / name) for name in ("sitemap.xml", "out.parquet", "out.csv"))
    many = measured(
        {
            "export": ["export", "--to", parquet],
            "csv": ["export", "--to", csv],
            "sitemap": ["sitemap", "--to", sitemap],
            "check": ["check"],
        },
        pages,
        rounds,
    )
    for name, goal in (("csv", "2.5, 1.6"), ("sitemap", "3"), ("check", "2.5, 1.6")):
        _tell(f"{name} against export, {pages:,} pages", many[name], many["export"], goal)
    some = measured(
        {
            "csv": ["export", "--to", csv],
            "jsonl": ["export", "--format", "jsonl", "--to", str(FOLDER / "out.jsonl")],
            "long": ["export", "--long"],
            "imports": DRAWING,
            "map": ["picture", "--map", "sidebar.right", "--to", str(FOLDER / "map.png")],
        },
        few,
        rounds,
    )
    for name in ("jsonl", "long"):
        _tell(f"{name} against csv, {few:,} pages", some[name], some["csv"], "2")
    more = some["map"].seconds - some["imports"].seconds
    print(f"a map of {few:,} pages takes {more:.2f} seconds more than its imports (goal: 1.5)")


def _tell(what: str, one: Measured, other: Measured, goal: str) -> None:
    ratios = {"x time": one.seconds / other.seconds, "x memory": one.memory / other.memory}
    print(f"{what:36} {ratios['x time']:5.2f} x time {ratios['x memory']:5.2f} x memory (goal: {goal})", flush=True)
    keep(what, ratios)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure what Davlo writes against table.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--few", type=int, default=10_000)
    parser.add_argument("--rounds", type=int, default=3)
    told = parser.parse_args()
    main(told.pages, told.few, told.rounds)
