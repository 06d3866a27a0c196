"""How long small answers take, as a multiple of importing what they stand on.

    python -m benchmarks.start [ROUNDS]

Each round runs every command once, in turn, in a pipe; the median of the rounds is taken.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from davlo.demo import write_demo

FLOOR = "python -c 'import numpy, yaml, click'"
BARE = "python -c pass"


def main(rounds: int) -> None:
    """Measure, and print a line a command."""
    with tempfile.TemporaryDirectory() as folder:
        site = str(Path(folder) / "garden")
        write_demo(site)
        davlo = [sys.executable, "-m", "davlo"]
        commands = {
            BARE: [sys.executable, "-c", "pass"],
            FLOOR: [sys.executable, "-c", "import numpy, yaml, click"],
            "davlo --help": [*davlo, "--help"],
            "davlo show /visit/tickets": [*davlo, "show", "/visit/tickets", "--site", site],
            "davlo why /visit/tickets sidebar.right": [
                *davlo,
                "why",
                "/visit/tickets",
                "sidebar.right",
                "--site",
                site,
            ],
            "davlo check": [*davlo, "check", "--site", site],
        }
        # an installed package has its bytecode beside it; a machine that forbids to write it would compile each time
        env = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
        times: dict[str, list[float]] = {name: [] for name in commands}
        for _ in range(rounds + 1):
            for name, words in commands.items():
                begin = time.perf_counter()
                subprocess.run(words, capture_output=True, check=False, env=env)
                times[name].append(time.perf_counter() - begin)
    medians = {name: statistics.median(taken[1:]) for name, taken in times.items()}
    for name, median in medians.items():
        against = BARE if name == "davlo --help" else FLOOR
        print(f"{name:40} {median * 1000:6.0f} ms  {median / medians[against]:5.2f} x {against}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 15)
