"""How the time grows with the size of a site: each shape at a size and at four times that, in one run.

    python -m benchmarks.growth

A ratio near 4 is what a step for each row takes; n log n a little more, and the square of n 16. What does not depend on
the size makes ratios smaller.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.results import keep
from benchmarks.shapes import SHAPES, write_shape

SIZES = {"a glob of many parts": 200, "people in groups": 500, "a chain of includes": 1000}
SIZE = 10_000
CHAIN = 1_000
"""The size of chains: a type that is based on a thousand others has a thousand sources."""


def seconds(name: str, size: int, folder: Path) -> float:
    """How long a command takes for a shape, as a process of its own."""
    words = write_shape(name, size, folder)
    begin = time.perf_counter()
    done = subprocess.run([sys.executable, "-m", "davlo", *words], capture_output=True, check=False)
    assert done.returncode in (0, 1, 2), done.stderr
    return time.perf_counter() - begin


def main() -> None:
    """Measure every shape, and print a row for each."""
    rows = {}
    for name in SHAPES:
        size = SIZES.get(name, CHAIN if name.startswith(("a chain", "a circle", "blocks")) else SIZE)
        with tempfile.TemporaryDirectory() as folder:
            once = seconds(name, size, Path(folder) / "once")
            more = seconds(name, 4 * size, Path(folder) / "more")
        rows[name] = {"size": size, "seconds": round(once, 2), "of four times the size": round(more / once, 1)}
        print(
            f"{name:40} {size:>7,} {once:6.2f} s   four times the size: {more / once:4.1f} times the time", flush=True
        )
    keep("growth of shapes", rows)


if __name__ == "__main__":
    main()
