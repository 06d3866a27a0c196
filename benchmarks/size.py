"""How Davlo does on a large made-up site, as whole processes, against the floor; medians and peak memory.

    python -m benchmarks.size [--pages 100000] [--rounds 5] [--check]

The site is made once, in build/bench. In each round every command runs once, in turn.
"""

from __future__ import annotations

import argparse
import os
import statistics
import sys
import time
from pathlib import Path

from .make import make


def run(words: list[str]) -> tuple[float, float]:
    """Seconds and MB of a process; what it prints is dropped."""
    begin = time.perf_counter()
    child = os.fork()
    if child == 0:
        null = os.open(os.devnull, os.O_RDWR)
        for stream in (0, 1, 2):
            os.dup2(null, stream)
        os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
        os.execv(words[0], words)
    _, _, used = os.wait4(child, 0)
    return time.perf_counter() - begin, used.ru_maxrss / 1024  # Linux tells kilobytes


def prepare(folder: Path, pages: int) -> Path:
    """The site, its table, and the same columns as the floor takes them."""
    site = folder / f"site-{pages}"
    if not (site / "davlo.yaml").exists():
        print(f"== making a site of {pages} pages in {site}")
        make(pages, 1, site)
    print("== working the table out once, for the floor")
    table = folder / f"table-{pages}.parquet"
    run([sys.executable, "-m", "davlo", "table", "--to", str(table), "--site", str(site)])
    # in a process of its own: a large parent would count towards the memory of those it forks
    run([sys.executable, "-m", "benchmarks.floor", "prepare", str(table), str(folder / f"table-{pages}.arrow")])
    return site


def main(pages: int, rounds: int, check: bool) -> None:
    """Measure, and print a line a command."""
    folder = Path("build/bench")
    folder.mkdir(parents=True, exist_ok=True)
    site = prepare(folder, pages)
    davlo = [sys.executable, "-m", "davlo"]
    arrow, out = folder / f"table-{pages}.arrow", folder / "out.parquet"
    commands = {
        "floor": [sys.executable, "-m", "benchmarks.floor", "write", str(site), str(arrow), str(out)],
        "table --to out.parquet": [*davlo, "table", "--to", str(out), "--site", str(site)],
        "show /": [*davlo, "show", "/", "--site", str(site)],
        "why / sidebar.right": [*davlo, "why", "/", "sidebar.right", "--site", str(site)],
    }
    if check:
        commands["check"] = [*davlo, "check", "--format", "json", "--site", str(site)]
    taken: dict[str, list[tuple[float, float]]] = {name: [] for name in commands}
    for number in range(rounds):
        print(f"== round {number + 1} of {rounds}", flush=True)
        for name, words in commands.items():
            taken[name].append(run(words))
    floor = [statistics.median(column) for column in zip(*taken["floor"], strict=True)]
    print(f"\n{pages} pages{'':21}seconds  x floor     MB  x floor")
    for name, pairs in taken.items():
        seconds, memory = (statistics.median(column) for column in zip(*pairs, strict=True))
        print(f"{name:32}{seconds:7.2f}{seconds / floor[0]:9.2f}{memory:7.0f}{memory / floor[1]:9.2f}")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure Davlo on a large site.")
    parser.add_argument("--pages", type=int, default=100_000)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--check", action="store_true", help="`davlo check` too, which takes long")
    told = parser.parse_args()
    main(told.pages, told.rounds, told.check)
