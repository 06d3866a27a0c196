"""What is quick once a site is read: resolving, against one gather; reach, against resolving all; growth; YAML.

    python -m benchmarks.inside [--pages 1000000] [--rounds 5]

Every pair is measured side by side, in turn, in one process; the medians are told.
"""

from __future__ import annotations

import argparse
import gc
import statistics
import time
from collections.abc import Callable
from functools import partial

import numpy as np
import yaml

import davlo
from benchmarks.make import VALUES
from benchmarks.results import keep
from benchmarks.size import site_of
from davlo.cli.machine import keep_memory
from davlo.core.change.steps.statement_reach import StatementEdit, reach
from davlo.core.site.settings.scopes import ScopeKind
from davlo.effective import Effective
from davlo.files.read.yaml.yaml_nodes import read_yaml

LINES = 100_000
TABLE = 60_000
SIZES = (10_000, 100_000, 1_000_000)
SHARE = 0.01


def medians(rounds: int, **works: Callable[[], object]) -> dict[str, float]:
    """Seconds of each declaration of work, all of them in turn each round."""
    taken: dict[str, list[float]] = {name: [] for name in works}
    for _ in range(rounds):
        for name, work in works.items():
            begin = time.perf_counter()
            result = work()
            taken[name].append(time.perf_counter() - begin)
            del result  # what becomes of it is not timed
    return {name: statistics.median(times) for name, times in taken.items()}


def resolve(effective: Effective) -> None:
    """The 24 settings in use, of every page, into codes of values and sources."""
    for name in VALUES:
        effective.resolved(effective.site.setting_number(name), keep=False)


def resolving(pages: int, rounds: int) -> None:
    """Resolving and decoding against one gather of as many int32."""
    effective = davlo.open_site(site_of(pages)).resolve()
    assert effective.site.scope_pages
    random = np.random.default_rng(1)
    table = random.integers(0, 1 << 30, TABLE, dtype=np.int32)
    codes = random.integers(0, TABLE, pages * len(VALUES))
    found = medians(rounds, resolve=lambda: resolve(effective), gather=lambda: table[codes])
    each = 1e9 / pages / len(VALUES)
    print(f"resolving 24 settings of {pages:,} pages   {found['resolve'] * 1000:8.1f} ms", end="")
    print(f"   {found['resolve'] * each:6.2f} ns a page-setting")
    print(f"one gather of as many int32              {found['gather'] * 1000:8.1f} ms", end="")
    print(f"   {found['gather'] * each:6.2f} ns;  ratio {found['resolve'] / found['gather']:.2f}")
    keep(f"gather {pages}", {**found, "ratio": found["resolve"] / found["gather"]})
    reaching(effective, found["resolve"], rounds)


def reaching(effective: Effective, whole: float, rounds: int) -> None:
    """What changes when a statement of a branch of a hundredth of the pages is added, changed or taken away."""
    site = effective.site
    size = site.tree.end - np.arange(len(site.tree))
    branch = int(np.argmin(np.abs(size - SHARE * len(site.tree))))
    setting = site.setting_number("sidebar.right")
    effective.resolved(setting)
    add = StatementEdit(setting, ScopeKind.BELOW, branch, "side-3")
    assert site.statements.find(setting, ScopeKind.BELOW, branch) < 0
    # for the other two a statement that is there: the one whose branch is nearest in size
    statements = site.statements
    below = np.flatnonzero((statements.scope == ScopeKind.BELOW) & (statements.target >= 0))
    there = int(below[np.argmin(np.abs(size[statements.target[below]] - SHARE * len(site.tree)))])
    spoken, target = int(statements.setting[there]), int(statements.target[there])
    effective.resolved(spoken)
    other = next(word for word in statements.words[spoken].items if word != statements.said(there))
    edits = {
        "added": add,
        "changed": StatementEdit(spoken, ScopeKind.BELOW, target, other),
        "taken away": StatementEdit(spoken, ScopeKind.BELOW, target, gone=True),
    }
    for name, edit in edits.items():
        found = medians(
            max(rounds, 5) * 3,
            without=partial(reach, effective, edit),
            paths=partial(lambda edit: reach(effective, edit).paths(), edit),
        )
        ratios = {key: whole / seconds for key, seconds in found.items()}
        told = f"reach: a statement {name} on {size[edit.target]:,} pages, {len(reach(effective, edit)):,} change"
        print(
            f"{told:70}{found['without'] * 1000:7.2f} ms, resolving all takes {ratios['without']:.0f} times that;",
            end="",
        )
        print(f" with their paths {found['paths'] * 1000:.2f} ms, {ratios['paths']:.0f} times")
        keep(f"reach {name}", {**found, "ratio": ratios["without"], "ratio with paths": ratios["paths"]})


def growing(rounds: int, most: int) -> None:
    """The time a page of resolving, from 10,000 pages to 1,000,000, in turn."""
    sites = {pages: davlo.open_site(site_of(pages)).resolve() for pages in SIZES if pages <= most}
    for effective in sites.values():
        assert effective.site.scope_pages
    works = {str(pages): (lambda effective=effective: resolve(effective)) for pages, effective in sites.items()}
    found = medians(rounds, **works)
    before = 0.0
    for pages in sites:
        each = found[str(pages)] / pages * 1e9 / len(VALUES)
        step = f", {each / before:.2f} times the step before" if before else ""
        print(f"resolving {pages:>9,} pages: {each:6.2f} ns a page-setting{step}")
        before = each
    keep("growth", {str(pages): found[str(pages)] / pages * 1e9 / len(VALUES) for pages in sites})


def reading(rounds: int) -> None:
    """A davlo.yaml of 100,000 lines as nodes with their lines, against counting the parser's bare events."""
    said = ("{heading.show: no, sidebar.right: side-3}", "{layout.name: open, access: {editors: [view, edit]}}")
    lines = [f"  /branch-{i // 100}/page-{i}:\n    below: {said[i % 2]}" for i in range(LINES // 2)]
    content = "pages:\n" + "\n".join(lines) + "\n"

    def count_events() -> int:
        return sum(1 for _ in yaml.parse(content, Loader=yaml.CLoader))

    gc.disable()  # for both: Davlo reads so, too
    found = medians(rounds, nodes=lambda: read_yaml(content, "davlo.yaml"), events=count_events)
    gc.enable()
    print(
        f"{LINES:,} lines of YAML: nodes with lines {found['nodes']:.2f} s, bare events {found['events']:.2f} s;",
        end="",
    )
    print(f"  ratio {found['nodes'] / found['events']:.2f}")
    keep("yaml", {**found, "ratio": found["nodes"] / found["events"]})


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure what is quick once a site is read.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=5)
    told = parser.parse_args()
    keep_memory()  # as every command does
    reading(told.rounds)
    resolving(told.pages, told.rounds)
    growing(told.rounds, told.pages)
