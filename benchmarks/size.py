"""How Davlo does on a large made-up site, as whole processes: against the floor, and against peers.

    python -m benchmarks.size [--pages 100000] [--rounds 5] [--check] [--peers]

The site is made once, in build/bench. In each round every command runs once, in turn; medians and peak memory are told.
"""

from __future__ import annotations

import argparse
import os
import statistics
import sys
import time
from pathlib import Path

from benchmarks.make import make
from benchmarks.results import FOLDER, keep

SLOW = ("dictionaries",)
"""Peers that run in the first round alone: they take minutes."""


def run(words: list[str]) -> tuple[float, float]:
    """Seconds and MB of a process; what it prints is dropped."""
    os.sync()  # what others wrote is on the disk: nobody waits for it
    begin = time.perf_counter()
    child = os.fork()
    if child == 0:
        null = os.open(os.devnull, os.O_RDWR)
        for stream in (0, 1, 2):
            os.dup2(null, stream)
        os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
        os.execv(words[0], words)
    _, status, used = os.wait4(child, 0)
    if os.waitstatus_to_exitcode(status) not in (0, 1):
        raise SystemExit(f"this failed: {' '.join(words)}")
    return time.perf_counter() - begin, used.ru_maxrss / 1024  # Linux tells kilobytes


def site_of(pages: int) -> Path:
    """The folder of a made site of so many pages; it is made where it is missing."""
    site = FOLDER / f"site-{pages}"
    if not (site / "davlo.yaml").exists():
        print(f"== making a site of {pages} pages in {site}", flush=True)
        make(pages, 1, site)
    return site


def prepare(pages: int) -> Path:
    """The site, its table, and the same columns as the floor takes them."""
    site = site_of(pages)
    print("== working the table out once, for the floor", flush=True)
    table = FOLDER / f"table-{pages}.parquet"
    run([sys.executable, "-m", "davlo", "export", "--to", str(table), "--site", str(site)])
    # in a process of its own: a large parent would count towards the memory of those it forks
    run([sys.executable, "-m", "benchmarks.floor", "prepare", str(table), str(FOLDER / f"table-{pages}.arrow")])
    return site


def commands(pages: int, site: Path, check: bool, peers: bool) -> dict[str, list[str]]:
    """What is run, by name; the floor first."""
    davlo, out = [sys.executable, "-m", "davlo"], FOLDER / "out.parquet"
    columns, floor = FOLDER / f"table-{pages}.arrow", [sys.executable, "-m", "benchmarks.floor"]
    found = {
        "floor": [*floor, "write", str(site), str(columns), str(out)],
        "floor, pyarrow's own options": [*floor, "plain", str(site), str(columns), str(out)],
        "export --to out.parquet": [*davlo, "export", "--to", str(out), "--site", str(site)],
        "show /": [*davlo, "show", "/", "--site", str(site)],
        "why / sidebar.right": [*davlo, "why", "/", "sidebar.right", "--site", str(site)],
    }
    if check:
        found["check"] = [*davlo, "check", "--site", str(site)]
    if peers:
        for name, ending in (("sql", "parquet"), ("frames", "parquet"), ("dictionaries", "csv")):
            target = FOLDER / f"peer.{ending}"
            found[name] = [sys.executable, "-m", f"benchmarks.peers.{name}", str(site), str(target)]
    return found


def main(pages: int, rounds: int, check: bool, peers: bool) -> None:
    """Measure, and print a line a command."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    works = commands(pages, prepare(pages), check, peers)
    taken: dict[str, list[tuple[float, float]]] = {name: [] for name in works}
    for number in range(rounds):
        print(f"== round {number + 1} of {rounds}", flush=True)
        for name, words in works.items():
            if number == 0 or name not in SLOW:
                taken[name].append(run(words))
    middle = {name: [statistics.median(column) for column in zip(*pairs, strict=True)] for name, pairs in taken.items()}
    floor, table = middle["floor"], middle["export --to out.parquet"]
    print(f"\n{pages:,} pages{'':19}seconds  x floor  x table     MB  x floor  x table")
    for name, (seconds, memory) in middle.items():
        against = f"{seconds / floor[0]:9.2f}{seconds / table[0]:9.2f}"
        print(f"{name:32}{seconds:7.2f}{against}{memory:7.0f}{memory / floor[1]:9.2f}{memory / table[1]:9.2f}")
        ratios = {"x floor": seconds / floor[0], "x table": seconds / table[0], "x memory": memory / floor[1]}
        keep(f"{name} {pages}", {"seconds": seconds, "MB": memory, **ratios})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure Davlo on a large site.")
    parser.add_argument("--pages", type=int, default=100_000)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--check", action="store_true", help="`davlo check` too")
    parser.add_argument("--peers", action="store_true", help="the three ways to do it by hand, too")
    told = parser.parse_args()
    main(told.pages, told.rounds, told.check, told.peers)
