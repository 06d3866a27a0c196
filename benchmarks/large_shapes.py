"""Every command that asks, against `export` to Parquet, on large sites of different shapes, as whole processes.

    python -m benchmarks.large_shapes [--pages 1000000] [--rounds 3] [--only check,show]

A line for each shape and command: seconds, and the ratios of time and of memory to `export`, of medians in one run. The
goals for time: 2.5 for `check`, 0.5 for `show` and `why`, 2 for CSV, 12 for `--long`, 6 for `condense`; for memory 1.6.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from benchmarks.results import FOLDER, keep
from benchmarks.size import run

BRANCHES = 1_000
"""How many branches a shape has; some shapes make a statement about each."""
HEAD = "davlo: 1\nsite: {name: Shape, url: 'https://shape.example'}\n"
HEAD_WITH_VALUES = HEAD.replace("}\n", ", values: [values.csv]}\n")
PLAIN = "everywhere: {title.pattern: '{title} at {site}', access: {everyone: [view], ida.marsh: [edit]}}\n"
PEOPLE = "people: {names: [ida.marsh]}\n"


class LargeShape(NamedTuple):
    """A shape: its decisions, the path of each page (default: in a thousand branches), and its table of values."""

    decisions: Callable[[], Iterator[str]]
    path: Callable[[int, int], str] = lambda page, pages: (
        f"/branch-{page % BRANCHES}" + (f"/page-{page}" if page >= BRANCHES else "")
    )
    values: Callable[[int], Iterator[str]] | None = None


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


OWN = 20
"""How many settings of its own the shape of long tables has."""


def _long_values() -> Iterator[str]:
    """Settings of the site's own, of which a long table says values for single pages."""
    yield HEAD_WITH_VALUES
    yield PEOPLE + PLAIN + "settings:\n"
    yield from (f"  own-{i}: {{kind: text, used_by: program}}\n" for i in range(OWN))


def _value_rows(pages: int) -> Iterator[str]:
    yield from (f"here /branch-{i}/child-{i},own-{i % OWN},value {i % 7919}\n" for i in range(0, pages // 2, 2))


SHAPES = {
    "many causes": LargeShape(_below(lambda i: f"title.limit: {5 + i % 60}, title.pattern: '{{title}} of branch {i}'")),
    "many findings": LargeShape(_many_findings),
    "many rules": LargeShape(_rules),
    "many groups": LargeShape(_groups),
    "flat": LargeShape(_plain, lambda page, pages: f"/page-{page}"),
    "deep": LargeShape(_plain, _deep),
    "long tables of values": LargeShape(
        _long_values,
        lambda page, pages: f"/branch-{page // 2}" + (f"/child-{page // 2}" if page % 2 else ""),
        _value_rows,
    ),
}
COMMANDS = {
    "export": ("export", "--to", "OUT.parquet"),
    "export csv": ("export", "--to", "OUT.csv"),
    "export long": ("export", "--long", "--to", "OUT.csv"),
    "export records": ("export", "--records", "--to", "OUT.jsonl"),
    "check": ("check",),
    "tree": ("tree",),
    "show": ("show", "PAGE"),
    "why": ("why", "PAGE", "title.limit"),
    "list": ("list",),
    "access": ("access",),
    "menus": ("menus",),
    "sitemap": ("sitemap",),
    "set": ("set", "title.limit=70", "--below", "PAGE"),
    "condense": ("condense",),
}
"""The commands, by what their lines are called; `export` first."""


def write(shape: LargeShape, pages: int, folder: Path) -> None:
    """Write a site of a shape."""
    folder.mkdir(parents=True, exist_ok=True)
    decisions = "".join(shape.decisions())
    (folder / "davlo.yaml").write_text(decisions if decisions.startswith("davlo:") else HEAD + decisions)
    if shape.values:
        with (folder / "values.csv").open("w") as file:
            file.write("where,setting,value\n")
            file.writelines(shape.values(pages))
    with (folder / "pages.csv").open("w") as file:
        file.write("path,title\n/,Home\n")
        file.writelines(f"{shape.path(page, pages)},Page {page} of the garden\n" for page in range(pages - 1))


def main(pages: int, rounds: int, only: Sequence[str]) -> None:
    """Measure every shape, and print a line for each command."""
    asked = {name: words for name, words in COMMANDS.items() if name in ("export", *only) or not only}
    for name, shape in SHAPES.items():
        site = FOLDER / f"large-{name.replace(' ', '-')}-{pages}"
        if not (site / "pages.csv").exists():
            write(shape, pages, site)
        print(f"{name}, {pages:,} pages{'':10}s    x time  x memory", flush=True)
        base: tuple[float, float] | None = None
        for command, words in asked.items():
            page, out = shape.path(min(1500, pages - 2), pages), str(FOLDER / "out")
            typed = [one.replace("OUT", out).replace("PAGE", page) for one in words]
            taken = [run([sys.executable, "-m", "davlo", *typed, "--site", str(site)]) for _ in range(rounds)]
            seconds, room = (statistics.median(column) for column in zip(*taken, strict=True))
            base = base or (seconds, room)
            x_time, x_room = seconds / base[0], room / base[1]
            print(f"  {command:30}{seconds:9.2f}{x_time:10.2f}{x_room:10.2f}", flush=True)
            keep(f"shape {name} {command} {pages}", {"x time": x_time, "x memory": x_room})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure every command against export on sites of different shapes.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", metavar="COMMANDS", help="commands, separated by commas")
    told = parser.parse_args()
    main(told.pages, told.rounds, [one for one in told.only.split(",") if one])
