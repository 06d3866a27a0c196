"""Restamping gives each page what a new page would get, and changes no other page."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
import pytest

import davlo
from davlo.core.change.steps.apply import apply
from davlo.core.change.steps.restamp import restamp_change
from davlo.core.faults import ValueFault
from davlo.core.resolve.fold import fold_stages
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import format_value
from tests.conftest import Run, write_small
from tests.sites import SiteDict, of_made_up_sites, write_site


@of_made_up_sites(3)
def test_pages_get_what_a_new_page_would_get(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as name:
        opened = davlo.open_site(write_site(site, Path(name)))
    before = opened.resolve()
    for over_own, new in ((False, False), (True, False), (False, True), (True, True)):
        restamping = restamp_change(opened, over_own=over_own, new=new)
        after = apply(opened, restamping.change)
        now = after.resolve()
        for number, setting in enumerate(opened.catalogue.settings):
            if setting.default_for != "new-pages":
                assert opened.difference(after).settings == () or setting.name not in {
                    one.setting for one in opened.difference(after).settings
                }
                continue
            live = fold_stages(opened.statements, number, opened.scope_pages, True)
            here = {int(opened.statements.target[row]) for row in opened.statements.of_setting(number, ScopeKind.HERE)}
            for page in range(len(opened.tree)):
                path = opened.tree.paths[page]
                if not opened.has(number)[page]:
                    continue
                default = live.words[int(live.live_value[page])]
                has_stamp = live.base_source[page] >= 0
                is_asked = live.live_source[page] >= 0 and not live.closed[page] and (has_stamp or new)
                if page in here:
                    continue
                expected = default if is_asked else before[path][setting.name]
                assert now[path][setting.name] == expected, (path, setting.name)
        left = restamp_change(after, over_own=over_own, new=new)
        assert [one.pages for one in left.counts] == [0] * len(left.counts)


DECISIONS = (
    "settings: {blocks.content: {default_for: new-pages}}\n"
    "layouts: {plain: {areas: [content]}}\n"
    "blocks: {one: {kind: text, text: A}, two: {kind: text, text: B}, three: {kind: text, text: C}}\n"
    "everywhere: {layout.name: plain, blocks.content: [one, two]}\n"
    "pages: {/b: {here: {blocks.content: [three]}}}\n"
)
STAMPS = "path,setting,value,on,source\n/a,blocks.content,three; one,2024-01-01,everywhere\n/b,blocks.content,one,,\n"


@pytest.mark.parametrize(
    ("words", "values"),
    [
        ([], {"/a": "one; two", "/b": "three", "/": ""}),
        (["--add"], {"/a": "three; one; two", "/b": "three", "/": ""}),
        (["--over-own"], {"/a": "one; two", "/b": "one; two", "/": ""}),
        (["--add", "--over-own"], {"/a": "three; one; two", "/b": "three; one; two", "/": ""}),
        (["--new", "--page", "/"], {"/a": "three; one", "/b": "three", "/": "one; two"}),
    ],
    ids=lambda one: " ".join(one) if isinstance(one, list) else "",
)
def test_the_ways_of_spreading(tmp_path: Path, run: Run, words: list[str], values: dict[str, str]) -> None:
    folder = write_small(tmp_path, DECISIONS, "path\n/\n/a\n/b\n", {"stamps.csv": STAMPS})
    old = {path.name: path.read_bytes() for path in folder.iterdir()}
    args = ("--today", "2026-03-04", "--site", str(folder))
    assert run("page", "restamp", *words, *args).status == 0
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == old
    assert run("page", "restamp", *words, "--write", *args).status == 0
    effective = davlo.open_site(folder).resolve()
    assert {path: format_value(effective[path]["blocks.content"]) for path in values} == values
    rows = (folder / "stamps.csv").read_text().splitlines()
    source = "" if "--add" in words else "everywhere"
    assert any(row.endswith(f",2026-03-04,{source}") for row in rows)
    assert run("undo", "--write", "--site", str(folder)).status == 0
    assert {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()} == old


def test_what_has_no_default_for_new_pages_is_refused() -> None:
    site = davlo.open_demo()
    with pytest.raises(ValueFault, match=r"sidebar\.right has its default for all pages"):
        restamp_change(site, ["sidebar.right"])
    with pytest.raises(ValueFault, match=r"page\.owner is no list"):
        restamp_change(site, ["page.owner"], add=True)
    none = np.zeros(len(site.tree), dtype=bool)
    assert restamp_change(site, pages=none).change.steps == ()


def test_one_page_of_several_is_chosen(run: Run, garden: Path) -> None:
    got = run("page", "restamp", "--in-branch", "/visit", "--site", str(garden))
    assert got.out == "no page would change\nblocks.content: 1 page has no stamp yet (--new)\n"
    got = run("page", "restamp", "--type", "event", "--when", "tag=none-such", "--site", str(garden))
    assert got.out == "no page would change\n"
