"""`check` against `table` on large sites of different shapes, as whole processes.

    python -m benchmarks.large_shapes [--pages 1000000] [--rounds 3]

The ratios are of medians, in one run: the goal is at most 2.5 times the time and 1.6 times the memory.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

from benchmarks.results import FOLDER, keep
from benchmarks.size import run

BRANCHES = 1_000
"""How many branches a shape has; some shapes make a statement about each."""
HEAD = "davlo: 1\nsite: {name: Shape, url: 'https://shape.example'}\n"
PLAIN = "everywhere: {title.pattern: '{title} at {site}', access: {everyone: [view], ida.marsh: [edit]}}\n"
PEOPLE = "people: {names: [ida.marsh]}\n"


class LargeShape(NamedTuple):
    """A shape: its decisions, and the path of each page (default: in a thousand branches)."""

    decisions: Callable[[], Iterator[str]]
    path: Callable[[int, int], str] = lambda page, pages: (
        f"/branch-{page % BRANCHES}" + (f"/page-{page}" if page >= BRANCHES else "")
    )


def _plain() -> Iterator[str]:
    yield PEOPLE + PLAIN


def _below(values: Callable[[int], str]) -> Callable[[], Iterator[str]]:
    def decisions() -> Iterator[str]:
        yield PEOPLE + PLAIN + "pages:\n"
        yield from (f"  /branch-{i}: {{below: {{{values(i)}}}}}\n" for i in range(BRANCHES))

    return decisions


def _many_findings() -> Iterator[str]:
    """Statements for pages that are not there, and such as change nothing."""
    yield PEOPLE + PLAIN + "pages:\n"
    for i in range(BRANCHES):
        yield f"  /gone-{i}: {{here: {{menu.show: no}}}}\n"
        yield f"  /branch-{i}: {{here: {{title.pattern: '{{title}} at {{site}}', title.limit: 5}}}}\n"


def _rules() -> Iterator[str]:
    yield PEOPLE + PLAIN + "rules:\n"
    for i in range(BRANCHES):
        yield f"  - {{name: rule {i}, when: {{in_branch: /branch-{i}}}, give: {{title.limit: {40 + i % 50}}}}}\n"


def _groups() -> Iterator[str]:
    people = [f"person-{i}" for i in range(200)]
    yield f"people:\n  names: [ida.marsh, {', '.join(people)}]\n  groups:\n"
    yield from (f"    group-{i}: [{', '.join(people[i : i + 20])}]\n" for i in range(180))
    yield PLAIN + "pages:\n"
    for i in range(BRANCHES):
        yield f"  /branch-{i}: {{below: {{access: {{group-{i % 180}: [view, edit]}}}}}}\n"


def _deep(page: int, pages: int) -> str:
    """Chains of fifty pages, each below the one before."""
    chain, level = divmod(page, 50)
    return f"/chain-{chain}" + "".join(f"/{step}" for step in range(1, level + 1))


SHAPES = {
    "many causes": LargeShape(_below(lambda i: f"title.limit: {5 + i % 60}, title.pattern: '{{title}} of branch {i}'")),
    "many findings": LargeShape(_many_findings),
    "many rules": LargeShape(_rules),
    "many groups": LargeShape(_groups),
    "flat": LargeShape(_plain, lambda page, pages: f"/page-{page}"),
    "deep": LargeShape(_plain, _deep),
}


def write(shape: LargeShape, pages: int, folder: Path) -> None:
    """Write a site of a shape."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "davlo.yaml").write_text(HEAD + "".join(shape.decisions()))
    with (folder / "pages.csv").open("w") as file:
        file.write("path,title\n/,Home\n")
        file.writelines(f"{shape.path(page, pages)},Page {page} of the garden\n" for page in range(pages - 1))


def main(pages: int, rounds: int) -> None:
    """Measure every shape, and print a line for each."""
    print(f"{pages:,} pages{'':8}table s   check s    x time  x memory")
    for name, shape in SHAPES.items():
        site = FOLDER / f"large-{name.replace(' ', '-')}-{pages}"
        if not (site / "pages.csv").exists():
            write(shape, pages, site)
        davlo, out = [sys.executable, "-m", "davlo"], str(FOLDER / "out.parquet")
        words = {
            "table": [*davlo, "export", "--to", out, "--site", str(site)],
            "check": [*davlo, "check", "--site", str(site)],
        }
        taken = {key: [run(some) for _ in range(rounds)] for key, some in words.items()}
        (table, room), (check, more) = (
            [statistics.median(column) for column in zip(*taken[key], strict=True)] for key in words
        )
        print(f"{name:20}{table:9.2f}{check:10.2f}{check / table:10.2f}{more / room:10.2f}", flush=True)
        keep(f"shape {name} {pages}", {"x time": check / table, "x memory": more / room})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure check against table on sites of different shapes.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    told = parser.parse_args()
    main(told.pages, told.rounds)
