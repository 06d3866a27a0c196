"""Many sites at once: `check`, `export` and the reach of a shared default on one worker and on two.

    python -m benchmarks.estate [--sites 2000] [--pages 2000000]

The sites are made up, of 50 to 5,000 pages, by benchmarks/make.py; they share a file of defaults. Every question is
asked through a Dask scheduler with one worker, then with two. Printed beside: what a site costs besides its own work
(small sites asked through the scheduler, against the same loop in one process), the memory of the client, and whether
the answers stay the same byte for byte while a worker is killed twice.
"""

from __future__ import annotations

import argparse
import datetime
import hashlib
import os
import resource
import signal
import tempfile
import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from benchmarks.make import make
from benchmarks.results import FOLDER, keep
from davlo.core.change.steps.change import Change
from davlo.estate.estate import Estate
from davlo.estate.site_answers import Told, ask, overview
from davlo.files.read.estate.estate_file import read_estate_file, site_folders

TODAY = datetime.date(2026, 12, 2)
HOUSE = """everywhere:
  title.limit: 70
  sitemap.changefreq: weekly
  menu.label: "{title}"
  lock: {heading.text: "{title}"}
blocks: {sisters: {kind: text, text: Our sister sites}}
"""


def estate_of(sites: int, pages: int) -> Path:
    """The folder of an estate with this many sites and pages; it is made if it is missing."""
    folder = FOLDER / f"estate-{sites}-{pages}"
    if (folder / "estate.yaml").exists():
        return folder
    random = np.random.default_rng(7)
    shares = np.exp(random.normal(0, 1, sites))
    sizes = np.clip(shares / shares.sum() * pages, 50, 5_000).astype(int)
    for number, size in enumerate(sizes.tolist()):
        make(size, number, folder / f"site-{number:05}")
    (folder / "house-style.yaml").write_text(HOUSE)
    (folder / "estate.yaml").write_text(
        'davlo: 1\nestate: {name: Many sites}\nsites: ["site-*"]\nshared: [house-style.yaml]\n'
    )
    return folder


def small_estate(sites: int, folder: Path) -> Path:
    """An estate of sites with one page each."""
    for number in range(sites):
        site = folder / f"site-{number:05}"
        site.mkdir(parents=True)
        (site / "davlo.yaml").write_text("davlo: 1\nsite: {name: Small, url: 'https://small.example'}\n")
        (site / "pages.csv").write_text("path\n/\n")
    (folder / "estate.yaml").write_text('davlo: 1\nestate: {name: Small}\nsites: ["site-*"]\n')
    return folder


def digest(told: Iterable[Told]) -> str:
    """A digest of all answers, in their order."""
    found = hashlib.sha256()
    for one in told:
        found.update(msgspec.json.encode([one.name, one.answer, one.faults], enc_hook=_plain, order="deterministic"))
    return found.hexdigest()


def _plain(value: object) -> Any:
    return sorted(value) if isinstance(value, frozenset) else str(value)


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    begun = time.perf_counter()
    result = work()
    return time.perf_counter() - begun, result


def main(sites: int, pages: int) -> None:
    """Print what was measured."""
    from distributed import LocalCluster

    file = read_estate_file(estate_of(sites, pages))
    seconds: dict[str, float] = {}
    answers = set[str]()
    change = Change().say("title.limit", 64, estate=True)
    local: Any = LocalCluster
    for workers in (1, 2):
        with local(n_workers=workers, threads_per_worker=1, processes=True, dashboard_address=None) as cluster:
            estate = Estate(file, cluster.scheduler_address)
            next(iter(estate.overview(TODAY)))  # the workers import what they need
            with tempfile.TemporaryDirectory() as to:
                seconds[f"export, {workers}"], told = timed(lambda: [*estate.export(to)])  # noqa: B023
            assert not any(one.faults for one in told)
            seconds[f"check, {workers}"], found = timed(lambda: digest(estate.check(TODAY)))  # noqa: B023
            answers.add(found)
            if workers == 2:
                seconds["reach, 2"], _ = timed(lambda: estate.reach(change).changed)  # noqa: B023
                answers.add(_while_killed(cluster, lambda: digest(estate.check(TODAY))))  # noqa: B023
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    beyond = _overhead(min(sites, 400))
    for name, took in seconds.items():
        print(f"{name}: {took:.1f} s")
    for question in ("export", "check"):
        print(f"{question}: 2 workers are {seconds[f'{question}, 1'] / seconds[f'{question}, 2']:.2f} times as fast")
    print(f"the reach of a shared default: {seconds['reach, 2'] / seconds['export, 2']:.2f} times an export")
    print(f"a site beyond its own work: {1000 * beyond:.1f} ms; the client: {memory:.0f} MB")
    print(f"the answers of all runs are {'the same' if len(answers) == 1 else 'DIFFERENT'}")
    keep("estate", {**seconds, "beyond": beyond, "client": memory, "same": float(len(answers) == 1)})


def _while_killed(cluster: Any, work: Callable[[], str]) -> str:
    """Do something while a worker is killed twice."""

    def kill() -> None:
        for _ in range(2):
            time.sleep(5)
            pids = [worker.process.pid for worker in cluster.workers.values() if worker.process]
            if pids:
                os.kill(pids[0], signal.SIGKILL)

    killer = threading.Thread(target=kill, daemon=True)
    killer.start()
    found = work()
    killer.join()
    return found


def _overhead(sites: int) -> float:
    """What asking a small site through a scheduler with one worker takes, beyond asking it in a loop."""
    from distributed import LocalCluster

    with tempfile.TemporaryDirectory() as folder:
        file = read_estate_file(small_estate(sites, Path(folder)))
        alone, _ = timed(lambda: [ask(file, one, overview, TODAY) for one in site_folders(file)])
        local: Any = LocalCluster
        with local(n_workers=1, threads_per_worker=1, processes=True, dashboard_address=None) as cluster:
            estate = Estate(file, cluster.scheduler_address)
            timed(lambda: [*estate.overview(TODAY)])
            through, _ = timed(lambda: [*estate.overview(TODAY)])
    return (through - alone) / sites


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sites", type=int, default=2_000)
    parser.add_argument("--pages", type=int, default=2_000_000)
    words = parser.parse_args()
    main(words.sites, words.pages)
