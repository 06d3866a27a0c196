"""What was published is remembered, and told when it is no longer what would be published."""

from __future__ import annotations

import copy
import datetime
import json
import shutil
import tempfile
from collections.abc import Callable, Iterator
from itertools import permutations
from pathlib import Path
from random import Random

import numpy as np

import davlo
from davlo.core.outcomes.sitemap.sitemap_entries import sitemap_entries
from davlo.core.outcomes.sitemap.sitemap_marks import drift, told
from davlo.files.output.sitemap_xml import UrlElements
from tests.conftest import Run
from tests.sites import SiteDict, of_made_up_sites, write_site

Small = Callable[..., Path]
TODAY = datetime.date(2026, 6, 1)


def stale(folder: Path, run: Run, *words: str) -> list[dict[str, str]]:
    found: list[dict[str, str]] = json.loads(
        run("check", "--kind", "sitemap-stale", "--format", "json", "--site", str(folder), *words).out
    )
    return found


def told_by_page(site: davlo.Site) -> dict[str, set[object]]:
    """What the sitemap tells of each page, as it writes it."""
    listed = np.flatnonzero(site.resolve().outcomes.sitemap == 0)
    entries = sitemap_entries(site.resolve(), listed, TODAY)
    elements, found = UrlElements(entries), dict[str, set[object]]()
    for number, page in enumerate(entries.published.page.tolist()):
        found.setdefault(site.tree.paths[page], set()).add(elements.bytes(number, number + 1))
    return found


def with_dates(site: SiteDict, random: Random) -> None:
    """Dates and translations for a made-up site, which has none."""
    site["columns"] = [*site["columns"], "modified", "translates"]
    dates = ["", "2026-01-02", "2026-01-02T10:00+01:00", "2026-01-02T09:00", "2027-01-01"]
    paths = [row["path"] for row in site["rows"]]
    for row in site["rows"]:
        row["modified"] = random.choice(dates)
        row["translates"] = random.choice(["", "", "/gone", *paths])


def variants(site: SiteDict, random: Random) -> Iterator[SiteDict]:
    """The same site, with something else about it in turn."""
    yield site
    for column, word in (
        ("status", "draft"),
        ("modified", "2026-02-02"),
        ("modified", "2027-02-02"),
        ("language", "fr"),
        ("translates", site["rows"][0]["path"]),
    ):
        other = copy.deepcopy(site)
        for row in random.sample(other["rows"], 2):
            row[column] = word
        yield other
    yield {**site, "rows": site["rows"][:-1] if len(site["rows"]) > 3 else site["rows"]}
    for name, value in (("sitemap.changefreq", "weekly"), ("sitemap.priority", "0.35")):
        other = copy.deepcopy(site)
        other["everywhere"].get("lock", {}).pop(name, None)
        other["everywhere"][name] = value
        yield other


@of_made_up_sites(3)
def test_what_would_be_told_otherwise_is_what_the_files_would_hold(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with_dates(site, random)
    states = []
    for variant in variants(site, random):
        with tempfile.TemporaryDirectory() as name:
            read = davlo.open_site(write_site(variant, Path(name)))
        listed = np.flatnonzero(read.resolve().outcomes.sitemap == 0)
        entries = sitemap_entries(read.resolve(), listed, TODAY)
        states.append((read, entries, told_by_page(read), told(read.resolve(), entries)))
    for (_, _, was, before), (read, entries, now, _) in permutations(states, 2):
        found, paths = drift(read.resolve(), entries, before), list(read.tree.paths)
        assert {paths[p] for p in np.flatnonzero(found.new)} == now.keys() - was.keys()
        assert {paths[p] for p in np.flatnonzero(found.changed)} == {p for p in now if p in was and now[p] != was[p]}
        assert {paths[p] for p in np.flatnonzero(found.gone)} == (was.keys() - now.keys()) & set(paths)
        assert found.lost == len(was.keys() - now.keys() - set(paths))


def test_a_sitemap_is_stale_when_it_would_be_another_or_is_old(garden: Path, run: Run, tmp_path: Path) -> None:
    folder, target = tmp_path / "garden", tmp_path / "public" / "sitemap.xml"
    shutil.copytree(garden, folder)
    target.parent.mkdir()
    site = ("--site", str(folder))
    assert stale(folder, run) == []
    assert run("sitemap", "--to", str(target), "--today", "2027-06-01", *site).status == 0
    assert stale(folder, run, "--today", "2027-06-04") == []
    old = stale(folder, run, "--today", "2027-06-05")[0]
    assert old["message"].endswith("is stale: it is 4 days old, and sitemap.stale_after_days is 3")
    pages = folder / "pages.csv"
    pages.write_text(pages.read_text(encoding="utf-8").replace("/visit/thanks,", "/visit/thank-you,"), encoding="utf-8")
    (folder / "values.csv").write_text("where,setting,value\n", encoding="utf-8")
    late = stale(folder, run, "--today", "2027-06-01")[0]
    assert ", written on 2027-06-01, is stale: " in late["message"]
    assert "pages would be listed differently" in late["message"]
    again = late["fix"].removeprefix("write it again: davlo ").split()
    assert (again[:2], again[3]) == (["sitemap", "--to"], "--site")
    assert run(*again, "--today", "2027-06-01").status == 0
    assert stale(folder, run, "--today", "2027-06-01") == []
    target.unlink()  # it was moved to where it is served
    assert stale(folder, run, "--today", "2027-06-01") == []
    target.write_text("<urlset/>", encoding="utf-8")
    assert "something else has changed the file" in stale(folder, run, "--today", "2027-06-01")[0]["message"]


def test_addresses_that_are_joined_count_too(small: Small, run: Run) -> None:
    folder = small("sitemap: {add_addresses_from: [shop.csv]}\n", files={"shop.csv": "loc\nhttps://shop.example/a\n"})
    assert run("sitemap", "--to", str(folder / "sitemap.xml"), "--site", str(folder)).status == 0
    assert stale(folder, run) == []
    (folder / "shop.csv").write_text("loc\nhttps://shop.example/b\n", encoding="utf-8")
    assert "shop.csv changed since then" in stale(folder, run)[0]["message"]


def test_nothing_is_noted_of_what_is_only_printed(small: Small, run: Run) -> None:
    folder = small()
    assert run("sitemap", "--to", "-", "--site", str(folder)).status == 0
    assert not (folder / ".davlo").exists()


def test_a_folder_that_cannot_be_written_gets_no_record(small: Small, run: Run) -> None:
    folder = small(files={".davlo": "a file where the folder would be"})
    outcome = run("sitemap", "--to", str(folder / "sitemap.xml"), "--site", str(folder))
    assert (outcome.status, "check cannot tell when it is stale" in outcome.err) == (0, True)
