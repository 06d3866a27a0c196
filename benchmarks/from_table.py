"""What beginning from a table takes, as a multiple of exporting the site that comes of it.

    python -m benchmarks.from_table [--pages 1000000] [--rounds 1]

The table is made up: addresses four levels deep, titles, types, tags, and six settings that mostly follow the branch or
the type, as a website's own program would give it. Both are whole processes, in turn; the ratio is of medians.
"""

from __future__ import annotations

import argparse
import csv
import shutil
import subprocess
import sys
from collections.abc import Iterator
from functools import partial
from pathlib import Path

from benchmarks.changes import timed

TABLE, BEGUN, OUT = (Path("build/bench") / name for name in ("table.csv", "begun-table", "begun-table.parquet"))
HEADER = [
    "URL",
    "Title",
    "Type",
    "Modified",
    "Tags",
    "Layout",
    "Right sidebar",
    "Footer",
    "Priority",
    "Robots",
    "Owner",
]
TYPES = ["page", "article", "record", "event"]
BRANCHES, PARTS, EXCEPTIONS = 97, 211, 50
"""How many branches the site has, and each of them; one page in as many has another value than its branch."""


def rows(pages: int) -> Iterator[list[str]]:
    """The rows of the table: a home page, and branches of branches."""
    yield [
        "https://www.made-up.example/",
        "Home",
        "page",
        "2026-01-01",
        "",
        "plain",
        "main",
        "legal",
        "1",
        "yes",
        "ida",
    ]
    for number in range(1, pages):
        branch, inner = number % BRANCHES, number // BRANCHES % PARTS
        place = (
            ""
            if number < BRANCHES
            else f"/part-{inner}"
            if number < BRANCHES * PARTS
            else f"/part-{inner}/page-{number}"
        )
        kind = TYPES[branch % len(TYPES)]
        is_odd = number % EXCEPTIONS == 0
        yield [
            f"https://www.made-up.example/branch-{branch}{place}",
            f"Page {number}",
            kind,
            f"2026-{number % 12 + 1:02}-{number % 28 + 1:02}",
            "autumn; indoors" if number % 7 == 0 else "",
            "wide" if kind == "record" else "plain",
            f"side-{branch % 9}" if not is_odd else "quiet",
            "legal",
            "0.8" if kind == "event" else "0.5",
            "no" if is_odd else "yes",
            "ida" if branch % 2 else "rowan",
        ]


def main(pages: int, rounds: int) -> None:
    """Print what was measured."""
    TABLE.parent.mkdir(parents=True, exist_ok=True)
    with TABLE.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([HEADER, *rows(pages)])
    davlo = [sys.executable, "-m", "davlo"]
    commands = {
        "start": [*davlo, "start", str(BEGUN), "--from", str(TABLE)],
        "export": [*davlo, "export", "--to", str(OUT), "--site", str(BEGUN)],
    }

    def run(name: str) -> None:
        if name == "start":
            shutil.rmtree(BEGUN, ignore_errors=True)
        OUT.unlink(missing_ok=True)
        subprocess.run(commands[name], capture_output=True, check=True)

    taken = timed(rounds, {name: partial(run, name) for name in commands})
    for name, seconds in taken.items():
        print(f"{name:8} {seconds:7.2f} s  {seconds / taken['export']:5.2f} x export")


if __name__ == "__main__":
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--pages", type=int, default=1_000_000)
    words.add_argument("--rounds", type=int, default=1)
    given = words.parse_args()
    main(given.pages, given.rounds)
