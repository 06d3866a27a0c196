"""An estate of very many sites without a page: all of them answer, and the client holds one answer at a time."""

from __future__ import annotations

import csv
import io
import os
import tracemalloc
from pathlib import Path

from tests.conftest import Run

SITES = int(os.environ.get("DAVLO_EMPTY_SITES", "150"))
"""How many sites; by hand 10,000: `make test-hostile EMPTY=10000` (three minutes on two cores)."""
MOST_A_SITE = 4096
"""The most memory that the answer of one more site may take. Unit: bytes."""


def estate(folder: Path, sites: int) -> Path:
    """An estate of so many sites without pages. Davlo cannot read every seventh of them."""
    folder.mkdir()
    (folder / "estate.yaml").write_text('davlo: 1\nestate: {name: E}\nsites: ["s/*"]\nshared: [all.yaml]\n')
    (folder / "all.yaml").write_text("everywhere: {menu.show: no}\n")
    for number in range(sites):
        site = folder / "s" / f"{number:05}"
        site.mkdir(parents=True)
        broken = "no-such-key: 1\n" if number % 7 == 3 else ""
        (site / "davlo.yaml").write_text(f"davlo: 1\nsite: {{name: N, url: 'https://n.example'}}\n{broken}")
        (site / "pages.csv").write_text("path\n")
    return folder


def test_every_site_of_very_many_has_a_row_and_what_cannot_be_read_a_line(tmp_path: Path, run: Run) -> None:
    peaks = []
    for sites in (SITES // 3, SITES):
        folder = estate(tmp_path / f"estate-{sites}", sites)
        tracemalloc.start()
        got = run("estate", "sites", "--estate", str(folder), "--format", "csv")
        peaks.append(tracemalloc.get_traced_memory()[1])
        tracemalloc.stop()
        broken = len(range(3, sites, 7))
        rows = [*csv.DictReader(io.StringIO(got.out))]
        assert (got.status, len(rows), len({row["site"] for row in rows})) == (2, sites - broken, sites - broken)
        assert [row["site"] for row in rows] == sorted(row["site"] for row in rows)
        assert got.err.count("no-such-key") == broken
    assert peaks[1] - peaks[0] < MOST_A_SITE * (SITES - SITES // 3)
