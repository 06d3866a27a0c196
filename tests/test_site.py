"""What the library gives of a site: all or some of its settings and pages, as mappings, arrays, frames and tables."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq
import pytest

import davlo
from tests.conftest import Run

SOME = ["title.limit", "heading.show", "layout.name", "sitemap.priority", "blocks.content", "page.owner", "audio-guide"]
PAGES = ["/visit/tickets", "/", "/staff", "/campaigns/spring"]


@pytest.fixture(scope="module")
def site() -> davlo.Site:
    return davlo.open_demo()


def test_some_settings_of_some_pages(site: davlo.Site) -> None:
    whole, some = site.resolve(), site.resolve(SOME, PAGES)
    assert (list(some), len(some)) == (PAGES, 4)
    for path in PAGES:
        expected = {name: whole[path][name] for name in SOME if name in whole[path]}
        assert dict(some[path]) == expected
    with pytest.raises(KeyError):
        some["/visit"]
    with pytest.raises(davlo.UnknownName):
        site.resolve(["heading.shown"])
    with pytest.raises(davlo.UnknownName):
        site.resolve(pages=["/nowhere"])
    codes, words = some.codes("layout.name")
    assert [words[code] for code in codes] == [whole[path]["layout.name"] for path in PAGES]


def missing(value: Any) -> bool:
    return value is None or value is pd.NA or value != value


@pytest.mark.parametrize("pages", [None, PAGES])
def test_a_frame_holds_what_the_mapping_does(site: davlo.Site, pages: list[str] | None) -> None:
    effective = site.resolve(pages=pages)
    frame = effective.to_frame(sources=True)
    assert list(frame.index) == list(effective)
    names = [name for name in frame.columns if not name.startswith("source of ")]
    assert sorted(names) == sorted(site.catalogue.names())
    for path, row in zip(frame.index, frame.to_dict("records"), strict=True):
        told = effective[path]
        for name in names:
            assert row[name] == told[name] if not missing(row[name]) else told.get(name) is None
            has = name in told
            assert row[f"source of {name}"] == str(effective.source(path, name).scope) if has else missing(row[name])
    kinds = {name: str(frame[name].dtype) for name in SOME}
    assert kinds == {
        "title.limit": "Int64",
        "heading.show": "boolean",
        "layout.name": "category",
        "sitemap.priority": "float64",
        "blocks.content": "category",
        "page.owner": "category",
        "audio-guide": "category",
    }


def test_an_arrow_table_is_the_parquet_file(site: davlo.Site, garden: Path, tmp_path: Path, run: Run) -> None:
    run("export", "--to", str(tmp_path / "t.parquet"), "--site", str(garden))
    written = pq.read_table(tmp_path / "t.parquet")
    table = site.resolve().to_arrow()
    assert table.to_pydict() == written.to_pydict()
    some = site.resolve(["heading.show"], PAGES).to_arrow()
    assert some.column("path").to_pylist() == PAGES
    assert some.column_names == ["path", "heading.show", "source of heading.show"]
    frame = site.resolve().to_frame(["layout.name"])
    whole = table.column("layout.name").to_pylist()
    assert [
        name or "none" for name in frame["layout.name"].astype(object).where(frame["layout.name"].notna(), None)
    ] == whole


def test_parts_of_the_pages_make_one_file(site: davlo.Site, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from davlo.frames import parquet

    whole = site.resolve().to_arrow()
    monkeypatch.setattr(parquet, "PART", 7)
    parquet.write_parquet(site.resolve(), False, tmp_path / "t.parquet")
    written = pq.ParquetFile(tmp_path / "t.parquet")
    assert written.num_row_groups > len(site.tree) / 7
    assert pa.Table.to_pydict(written.read()) == whole.to_pydict()


def test_notebooks_show_tables_with_everything_escaped() -> None:
    decisions = {"davlo": 1, "site": {"name": "<script>", "url": "https://s.example"}, "everywhere": {"title.limit": 9}}
    site = davlo.Site.from_frames({"path": ["/<b>"]}, decisions)
    for html in (site._repr_html_(), site.resolve()._repr_html_(), site.resolve(["heading.show"])._repr_html_()):
        assert html.startswith("<table>")
        assert "&lt;script&gt;" in html
        assert "<script>" not in html
        assert "<b>" not in html.replace("<b>&lt;script", "")
    assert '<td style="text-align: left">9</td>' in site.resolve()._repr_html_()
    assert repr(site.resolve(["heading.show"])) == "<Effective: 1 pages of '<script>', 1 settings>"


@pytest.mark.parametrize(("package", "call"), [("pandas", "to_frame"), ("pyarrow", "to_arrow")])
def test_without_the_package_it_says_what_to_install(
    package: str, call: str, site: davlo.Site, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in [
        name for name in sys.modules if name.startswith(("davlo.frames.pandas_frame", "davlo.frames.parquet"))
    ]:
        monkeypatch.delitem(sys.modules, name)
    monkeypatch.setitem(sys.modules, package, None)
    with pytest.raises(ImportError, match="pip install 'davlo\\["):
        getattr(site.resolve(), call)()


def test_a_parquet_file_without_pyarrow(
    garden: Path, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(sys.modules, "pyarrow", None)
    found = run("export", "--to", str(tmp_path / "t.parquet"), "--site", str(garden))
    assert (found.status, "pip install 'davlo[parquet]'" in found.err) == (2, True)
    assert list(tmp_path.iterdir()) == []


def test_codes_are_shared_and_of_the_documented_kind(site: davlo.Site) -> None:
    codes, words = site.resolve().codes("heading.show")
    assert (codes.dtype, codes.shape) == (np.dtype(np.int32), (len(site.tree),))
    assert set(words) <= {True, False}
