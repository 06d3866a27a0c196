"""What a report of many pages takes: to make, beside `davlo export`; on disk; to open, look at and search in a browser.

    python -m benchmarks.report [--pages 20000] [--chromium /usr/bin/chromium]

`export` and `report` are whole processes, the best of three each. A search is timed in Chromium from the key to the
drawn rows, as the median and the worst of 30; the browser is Debian's (`pip install 'davlo[browser]'`).
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import tempfile
import time
from pathlib import Path

from benchmarks.questions import asked_site

SEARCH = """() => new Promise((done) => {
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


VIEW = """(view) => new Promise((done) => {
  const begun = performance.now();
  location.hash = "#" + view;
  addEventListener("hashchange", () => {
    document.body.getBoundingClientRect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun)));
  }, { once: true });
})"""


def _seconds(*command: str) -> float:
    begun = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - begun


def main(pages: int, chromium: str) -> None:
    """Print what was measured."""
    from playwright.sync_api import sync_playwright

    site = str(asked_site(pages))
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        file, table = Path(folder) / "report.html", Path(folder) / "values.parquet"
        exported, made = (
            min(_seconds("davlo", command, "--to", str(to), "--site", site) for _ in range(3))
            for command, to in (("export", table), ("report", file))
        )
        browser = playwright.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page()
        begun = time.perf_counter()
        page.goto(file.as_uri())
        opened = time.perf_counter() - begun
        times = page.evaluate(SEARCH)
        views = {view: page.evaluate(VIEW, view) for view in [*page.evaluate("views.map((one) => one[0])")[1:], "tree"]}
        browser.close()
        size = file.stat().st_size / 1e6
    print(f"{pages:,} pages: made in {made:.1f} s, {made / exported:.1f} times what export takes ({exported:.1f} s)")
    print(f"{size:.1f} MB, opened in {opened:.1f} s")
    print("; ".join(f"{view} in {milliseconds:.0f} ms" for view, milliseconds in views.items()))
    print(f"a search takes {statistics.median(times):.0f} ms, the slowest of {len(times)} {max(times):.0f} ms")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pages", type=int, default=20_000)
    parser.add_argument("--chromium", default="/usr/bin/chromium")
    asked = parser.parse_args()
    main(asked.pages, asked.chromium)
