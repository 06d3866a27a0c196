"""What beginning from built pages takes, and comparing them with the site, as multiples of parsing the same files.

    python -m benchmarks.from_pages [FOLDER] [--pages 2000] [--rounds 3]

The parser is lxml's, in one process; `davlo start --from` and `davlo compare` are commands of their own. In each round
all three run once, in turn; the ratios are of medians. Without FOLDER the pages are made up: a navigation of 300 links
that opens by section, a table of contents of their own, and 30 paragraphs.
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
from functools import partial
from pathlib import Path

from benchmarks.changes import timed

BUILT, BEGUN = Path("build/bench/public"), Path("build/bench/begun")
SECTIONS, LINKS = 20, 300
PARSE = (
    "import sys, pathlib; from lxml import etree\n"
    "for file in pathlib.Path(sys.argv[1]).rglob('*.html'):\n"
    "    etree.fromstring(file.read_bytes(), etree.HTMLParser(huge_tree=True))"
)


def made_up_pages(folder: Path, pages: int) -> None:
    """Write pages in sections, each with the same navigation, open where the page is."""
    shutil.rmtree(folder, ignore_errors=True)
    links = "".join(f"<li><a href=/section-{at % SECTIONS}/page-{at}.html>Page {at}</a>" for at in range(LINKS))
    for number in range(pages):
        file = folder / f"section-{number % SECTIONS}" / f"page-{number}.html"
        file.parent.mkdir(parents=True, exist_ok=True)
        own = f"<a href={file.name}>Page {number}</a>"
        contents = "".join(f"<li><a href=#p{at}>Part {at} of {number}</a>" for at in range(9))
        words = "".join(f"<p id=p{at}>Some words of page {number}, and {own}." for at in range(30))
        head = f"<html lang=en><title>Page {number} - Made up</title><header>Made up</header>"
        main = f"<nav><ul>{links}<li>{own}</ul></nav><main><h1>Page {number}</h1>{words}</main>"
        end = f"<aside><ul>{contents}</ul></aside><footer>Quay 3</footer>"
        file.write_text(head + main + end, encoding="utf-8")


def main(folder: Path | None, pages: int, rounds: int) -> None:
    """Print what was measured."""
    if folder is None:
        folder = BUILT
        made_up_pages(folder, pages)
    davlo = [sys.executable, "-m", "davlo"]
    commands = {
        "parsing": [sys.executable, "-c", PARSE, str(folder)],
        "start": [*davlo, "start", str(BEGUN), "--from", str(folder)],
        "compare": [*davlo, "compare", str(folder), "--site", str(BEGUN)],
    }

    def run(name: str) -> None:
        if name == "start":
            shutil.rmtree(BEGUN, ignore_errors=True)
        subprocess.run(commands[name], capture_output=True, check=True)

    taken = timed(rounds, {name: partial(run, name) for name in commands})
    for name, seconds in taken.items():
        print(f"{name:8} {seconds:7.2f} s  {seconds / taken['parsing']:5.2f} x parsing")


if __name__ == "__main__":
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("folder", nargs="?", type=Path)
    words.add_argument("--pages", type=int, default=2000)
    words.add_argument("--rounds", type=int, default=3)
    given = words.parse_args()
    main(given.folder, given.pages, given.rounds)
