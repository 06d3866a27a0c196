"""The sites that benchmarks are made on are sites, and the same seed gives the same one."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from benchmarks.make import VALUES, make
from benchmarks.peers import dictionaries, frames, sql

import davlo
from davlo.frames.text_tables import wide


def test_a_made_site_is_read_and_uses_its_settings(tmp_path: Path) -> None:
    make(2000, 1, tmp_path / "one")
    make(2000, 1, tmp_path / "two")
    for path in (tmp_path / "one").iterdir():
        assert path.read_bytes() == (tmp_path / "two" / path.name).read_bytes()
    site = davlo.open_site(tmp_path / "one")
    effective = site.resolve()
    assert len(site.tree) == 2000
    assert 2 <= int(site.tree.depth.max()) <= 8
    assert len(site.rules) == 200
    assert len(VALUES) == 24
    for name in VALUES:
        number = site.setting_number(name)
        assert len(site.statements.of_setting(number)) > 0
        assert np.count_nonzero(effective.resolved(number).source >= 0) > 0


def test_the_most_children_are_with_a_few_pages(tmp_path: Path) -> None:
    make(2000, 2, tmp_path)
    tree = davlo.open_site(tmp_path).tree
    children = np.sort(np.bincount(tree.parent[tree.parent >= 0], minlength=len(tree)))[::-1]
    assert children[:20].sum() > children.sum() / 4


PEERS: dict[str, Callable[[Path, Path], None]] = {
    "dictionaries.csv": dictionaries.resolve,
    "frames.parquet": frames.resolve,
    "sql.parquet": sql.resolve,
}


@pytest.mark.exhaustive
@pytest.mark.parametrize("peer", PEERS)
def test_a_peer_gives_the_same_answer(peer: str, tmp_path: Path) -> None:
    make(3000, 3, tmp_path / "site")
    site = davlo.open_site(tmp_path / "site")
    texts = b"".join(wide(site.resolve(), [site.setting_number(name) for name in VALUES]).csv())
    wanted = pd.read_csv(io.BytesIO(texts), dtype=str, keep_default_na=False)
    out = tmp_path / peer
    PEERS[peer](tmp_path / "site", out)
    table = pd.read_csv(out, dtype=str, keep_default_na=False) if peer.endswith(".csv") else pd.read_parquet(out)
    found = table.astype(str).set_index("path").loc[wanted["path"]].reset_index()
    assert len(found) == len(table) == 3000
    for name in wanted.columns:
        differ = wanted[name] != found[name]
        assert not differ.any(), (name, wanted[name][differ].tolist()[:3], found[name][differ].tolist()[:3])
