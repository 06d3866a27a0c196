"""An estate of very many sites without a page: each has a row, or a line that says why not."""

from __future__ import annotations

import csv
import io
import os
import re
from pathlib import Path

from tests.conftest import Run

SITES = int(os.environ.get("DAVLO_EMPTY_SITES", "150"))
"""How many sites; by hand 10,000: `make test-hostile EMPTY=10000`."""


def estate(folder: Path, sites: int) -> Path:
    """Write an estate of sites without pages; every seventh has a key that Davlo does not know."""
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
    folder = estate(tmp_path / "estate", SITES)
    got = run("estate", "sites", "--estate", str(folder), "--format", "csv")
    broken = [f"s/{number:05}" for number in range(3, SITES, 7)]
    names = [row["site"] for row in csv.DictReader(io.StringIO(got.out))]
    assert (got.status, names) == (2, [f"s/{number:05}" for number in range(SITES) if number % 7 != 3])
    assert re.findall("the site (.*) is left out", got.err) == broken
    assert got.err.count("no-such-key") == len(broken)
