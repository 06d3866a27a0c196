"""What each kind of finding takes of a check, on a large made-up site, in one process.

    python -m benchmarks.kinds [--pages 100000]

`all of a setting` is what the kinds about decisions share: the fold of each setting on sample pages.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Iterator
from contextlib import contextmanager

import davlo
from benchmarks.size import site_of
from davlo.core.findings.context import FindingContext
from davlo.core.findings.kinds.every_kind import KINDS

SHARED = "all of a setting"


def main(pages: int) -> None:
    """Measure, and print a line a kind: its share, its time, how many findings."""
    site = davlo.open_site(site_of(pages))
    context = FindingContext(site.resolve())
    taken: dict[str, float] = {}
    found: dict[str, int] = {}

    @contextmanager
    def timing(name: str) -> Iterator[None]:
        begin = time.perf_counter()
        yield
        taken[name] = taken.get(name, 0.0) + time.perf_counter() - begin

    for setting in context.settings_said():
        with timing(SHARED):
            context.effects.note(context.folded(setting))
        for kind in KINDS:
            if kind.of_setting:
                with timing(kind.name):
                    bound = kind.bound(context).of(context.site.catalogue[setting].name)
                    some = list(kind.of_setting(context, bound, context.folded(setting)))
                found[kind.name] = found.get(kind.name, 0) + len(some)
    context.effects.filled = True
    for kind in KINDS:
        if kind.find:
            with timing(kind.name):
                some = list(kind.find(context, kind.bound(context)))
            found[kind.name] = found.get(kind.name, 0) + len(some)
    whole = sum(taken.values())
    print(f"{pages:,} pages{'':14}share  seconds  findings")
    for name, seconds in sorted(taken.items(), key=lambda one: -one[1]):
        print(f"{name:24}{seconds / whole:6.1%}{seconds:9.3f}{found.get(name, 0):10,}")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure what each kind of finding takes.")
    parser.add_argument("--pages", type=int, default=100_000)
    main(parser.parse_args().pages)
