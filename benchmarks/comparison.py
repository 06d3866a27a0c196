"""What comparing two states of a site takes, as a multiple of printing all its values.

    python -m benchmarks.comparison [--pages 1000000] [--rounds 3]

Each is a command of its own, with its reading: `davlo compare`, with everything that it tells, and `davlo export`. The
other state is the same but for two defaults of everywhere, which change a value on almost every page. In each round
both run once, in turn; the ratio is of medians.
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
from pathlib import Path

from benchmarks.changes import timed
from benchmarks.questions import asked_site

CHANGES = (("  sidebar.right: side-0\n", "  sidebar.right: side-1\n"), ("{title} at {site}'\n", "{title} on {site}'\n"))


def other_state(folder: Path) -> Path:
    """A copy of a site with two other defaults."""
    other = folder.with_name(f"other-{folder.name}")
    shutil.rmtree(other, ignore_errors=True)
    shutil.copytree(folder, other)
    decisions = (other / "davlo.yaml").read_text(encoding="utf-8")
    for old, new in CHANGES:
        assert old in decisions
        decisions = decisions.replace(old, new, 1)
    (other / "davlo.yaml").write_text(decisions, encoding="utf-8")
    return other


def main(pages: int, rounds: int) -> None:
    """Print what was measured."""
    folder = asked_site(pages)
    other = other_state(folder)

    def command(*words: str) -> None:
        called = [sys.executable, "-m", "davlo", *words, "--site", str(folder)]
        subprocess.run(called, check=True, stdout=subprocess.DEVNULL)

    found = timed(
        rounds, {"davlo export": lambda: command("export"), "davlo compare": lambda: command("compare", str(other))}
    )
    ratio = found["davlo compare"] / found["davlo export"]
    told = ", ".join(f"{name} {seconds:.1f} s" for name, seconds in found.items())
    print(f"{pages:,} pages: {told}; {ratio:.2f} times")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    main(asked.pages, asked.rounds)
