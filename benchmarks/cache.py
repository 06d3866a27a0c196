"""What a cache of the page list's columns would save at best: reading anew, against checking and loading a cache.

    python -m benchmarks.cache [--pages 1000000] [--rounds 5]

The cache is tried as plainly as it can be: the arrays that reading makes, in one file, its name the digest of what was
read, its own digest beside it. Before it is used both digests are made again, since neither file may be trusted.
"""

from __future__ import annotations

import argparse
import hashlib
import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from benchmarks.inside import medians
from benchmarks.results import FOLDER, keep
from benchmarks.size import run, site_of
from davlo.core.faults import Place
from davlo.core.site.pages.details import Details
from davlo.core.site.pages.page_names import PageNames
from davlo.files.read.rows.page_list import PageList, read_details, read_page_list
from davlo.files.read.rows.page_paths import Paths
from davlo.files.read.rows.row_sources import read_page_list_sheet
from davlo.files.read.sections.site_section import Source
from davlo.files.read.yaml.node_reader import Reader


def read(site: Path) -> tuple[PageList, Details]:
    """The page list as its columns and its tree, read anew."""
    reader = Reader()
    sheet = read_page_list_sheet(site, Source("pages.csv", Place("davlo.yaml")), reader, lambda name: "." not in name)
    assert sheet
    page_list = read_page_list(sheet, Paths(PageNames("https://large.example")), reader)
    return page_list, read_details(sheet, page_list, {}, {"sidebar.right"}, "/", reader)


def arrays_of(page_list: PageList, details: Details) -> list[NDArray[np.generic]]:
    """All arrays that a cache would hold."""
    tree = page_list.tree
    columns = [details.columns[name].codes for name in ("title", "type", "language", "status", "made_with", "modified")]
    return [tree.paths.data, tree.paths.start, tree.paths.end, tree.parent, tree.depth, tree.end, tree.line, *columns]


def load(site: Path, cache: Path) -> list[NDArray[np.generic]]:
    """The same arrays from the cache, after both digests were made again."""
    hashlib.sha256((site / "pages.csv").read_bytes()).digest()
    content = cache.read_bytes()
    hashlib.sha256(content).digest()
    arrays, at = [], 0
    for size in np.frombuffer(content, dtype=np.int64, count=16).tolist():
        arrays.append(np.frombuffer(content, dtype=np.uint8, count=size, offset=128 + at))
        at += size
    return arrays  # type: ignore[return-value]


def main(pages: int, rounds: int) -> None:
    """Measure, and tell what share of a whole `davlo show` it would save."""
    site, cache = site_of(pages), FOLDER / "cache"
    arrays = [np.ascontiguousarray(array) for array in arrays_of(*read(site))]
    sizes = np.zeros(16, dtype=np.int64)
    sizes[: len(arrays)] = [array.nbytes for array in arrays]
    cache.write_bytes(sizes.tobytes() + b"".join(array.tobytes() for array in arrays))
    found = medians(rounds, read=lambda: read(site), load=lambda: load(site, cache))
    whole = sorted(run([sys.executable, "-m", "davlo", "show", "/", "--site", str(site)])[0] for _ in range(rounds))
    found["show"] = whole[rounds // 2]
    saved = found["read"] - found["load"]
    size = cache.stat().st_size >> 20
    print(f"reading the page list anew {found['read']:.2f} s; checking and loading {size} MB {found['load']:.2f} s;")
    print(f"a cache would save {saved:.2f} s of the {found['show']:.2f} s of a whole `davlo show`")
    keep(f"cache {pages}", found)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Measure what a cache would save.")
    parser.add_argument("--pages", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=5)
    told = parser.parse_args()
    main(told.pages, told.rounds)
