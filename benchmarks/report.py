"""What a report of many pages takes: to make, on disk, and to search in a browser.

    python -m benchmarks.report [--pages 20000] [--chromium /usr/bin/chromium]

The search is timed in Chromium, from the key to the drawn rows, as the median and the worst of 30; the browser is
Debian's (`pip install 'davlo[browser]'`).
"""

from __future__ import annotations

import argparse
import statistics
import tempfile
import time
from pathlib import Path

import davlo
from benchmarks.questions import asked_site

SEARCH = """() => new Guarantee((done) => {
  const words = ["a", "stone-1", "glass 17", "nothing like it", "paper", ""], times = [];
  const box = document.getElementById("search");
  const next = () => {
    if (times.length === 30) return done(times);
    const begun = performance.now();
    box.value = words[times.length % words.length];
    box.dispatchEvent(new Event("input"));
    document.body.getBoundingClientRect();
    requestAnimationFrame(() => setTimeout(() => { times.push(performance.now() - begun); next(); }));
  };
  next();
})"""


def main(pages: int, chromium: str) -> None:
    """Print what was measured."""
    from playwright.sync_api import sync_playwright

    site = davlo.open_site(asked_site(pages))
    begun = time.perf_counter()
    text = site.report()
    made = time.perf_counter() - begun
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        file = Path(folder) / "report.html"
        file.write_text(text, encoding="utf-8")
        browser = playwright.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page()
        begun = time.perf_counter()
        page.goto(file.as_uri())
        opened = time.perf_counter() - begun
        times = page.evaluate(SEARCH)
        browser.close()
    print(f"{pages:,} pages: made in {made:.1f} s, {len(text.encode()) / 1e6:.1f} MB, opened in {opened:.1f} s")
    print(f"a search takes {statistics.median(times):.0f} ms, the slowest of {len(times)} {max(times):.0f} ms")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pages", type=int, default=20_000)
    parser.add_argument("--chromium", default="/usr/bin/chromium")
    asked = parser.parse_args()
    main(asked.pages, asked.chromium)
