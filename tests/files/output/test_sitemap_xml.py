"""The sitemap is written by the open protocol."""

from __future__ import annotations

import datetime
import tracemalloc
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from lxml import etree

import davlo
import davlo.core.outcomes.sitemap.addresses as addresses
import davlo.files.output.sitemap_xml as sitemap
from davlo.core.outcomes.sitemap.sitemap_entries import sitemap_entries
from davlo.core.resolve.effective import EffectiveModel
from davlo.files.output.write_sitemap import make_sitemap
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
NS = {"s": sitemap.NAMESPACE, "x": sitemap.XHTML}


def texts(tree: etree._Element, path: str) -> list[str]:
    found = tree.xpath(path, namespaces=NS)
    assert isinstance(found, list)
    return [str(getattr(node, "text", node)) for node in found]


def test_the_garden(own: Path, run: Run, tmp_path: Path) -> None:
    target = tmp_path / "sitemap.xml"
    outcome = run("sitemap", "--to", str(target), "--today", "2026-11-25", "--site", str(own))
    assert (outcome.status, outcome.out) == (0, "")
    assert outcome.err == f"wrote {target}: 132 addresses\n"
    root = etree.parse(str(target)).getroot()
    assert root.tag == f"{{{sitemap.NAMESPACE}}}urlset"
    locs = texts(root, "s:url/s:loc")
    assert len(locs) == len(set(locs)) == 132
    assert locs[:2] == ["https://quillmere.example/", "https://quillmere.example/visit"]
    tickets = root.xpath("s:url[s:loc='https://quillmere.example/visit/tickets']", namespaces=NS)[0]
    assert isinstance(tickets, etree._Element)
    assert [etree.QName(child).localname for child in tickets][:4] == ["loc", "lastmod", "changefreq", "priority"]
    assert texts(tickets, "s:priority") == ["0.9"]
    assert texts(tickets, "x:link/@hreflang") == ["en", "fr"]
    assert texts(tickets, "x:link/@href")[1] == "https://quillmere.example/fr/visiter/billets"
    assert run("sitemap", "--to", "-", "--today", "2026-11-25", "--site", str(own)).out == target.read_text()


def test_addresses_are_encoded_and_languages_have_their_own(small: Small, run: Run) -> None:
    folder = small(pages="path,language,modified\n/,,2026-01-02T03:04:05+01:00\n/été & co,fr,2027-01-01\n")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("[en, fr]", "[en, fr], language_paths: '/{language}{path}'"))
    outcome = run("sitemap", "--to", "-", "--today", "2026-06-01", "--site", str(folder))
    root = etree.fromstring(outcome.out.encode())
    assert texts(root, "s:url/s:loc") == [
        "https://small.example/en/",
        "https://small.example/fr/",
        "https://small.example/fr/%C3%A9t%C3%A9%20&%20co",
    ]
    assert texts(root, "s:url/s:lastmod") == ["2026-01-02T03:04:05+01:00"] * 2
    assert texts(root, "s:url[1]/x:link/@hreflang") == ["en", "fr"]
    assert outcome.err == "1 page modified after 2026-06-01: listed without a date\n"


def test_the_clock_can_be_set(small: Small, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = small(pages="path,modified\n/,2026-06-02\n")
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1780272000")  # 2026-06-01
    assert "<lastmod>" not in run("sitemap", "--to", "-", "--site", str(folder)).out
    assert "<lastmod>2026-06-02<" in run("sitemap", "--to", "-", "--today", "2026-06-02", "--site", str(folder)).out


@pytest.mark.parametrize(("bound", "most"), [("MOST_ADDRESSES", 2), ("MOST_BYTES", 300)])
def test_a_large_site_has_an_index_and_parts(
    bound: str, most: int, small: Small, run: Run, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(sitemap, bound, most)
    folder = small(pages="path\n/a\n/b\n/c\n/d\n/e\n")
    target = tmp_path / "sitemap.xml"
    assert run("sitemap", "--to", str(target), "--site", str(folder)).status == 0
    parts = texts(etree.parse(str(target)).getroot(), "s:sitemap/s:loc")
    assert parts == [f"https://small.example/sitemap-{i}.xml" for i in range(1, len(parts) + 1)]
    files = [tmp_path / part.rsplit("/", 1)[1] for part in parts]
    locs = [loc for file in files for loc in texts(etree.parse(str(file)).getroot(), "s:url/s:loc")]
    assert locs == [f"https://small.example/{name}" for name in "abcde"]
    assert all(file.stat().st_size <= 300 for file in files) or bound == "MOST_ADDRESSES"
    assert len(parts) >= 3
    refused = run("sitemap", "--to", "-", "--site", str(folder))
    assert (refused.status, f"takes {len(parts) + 1} files" in refused.err) == (2, True)


def test_addresses_of_other_programs_are_joined(small: Small, run: Run) -> None:
    shop = "loc,lastmod,changefreq,priority\nhttps://small.example/shop?item=1&size=2,2026-01-01,daily,0.4\n"
    folder = small("sitemap: {add_addresses_from: [shop.csv]}\n", "path\n/\n", {"shop.csv": shop})
    root = etree.fromstring(run("sitemap", "--to", "-", "--site", str(folder)).out.encode())
    assert texts(root, "s:url[2]/*") == ["https://small.example/shop?item=1&size=2", "2026-01-01", "daily", "0.4"]
    (folder / "shop.csv").write_text("loc,priority\nshop,2\n")
    wrong = run("sitemap", "--to", "-", "--site", str(folder))
    assert wrong.status == 2
    assert "shop.csv:2, column loc" in wrong.err
    assert "shop.csv:2, column priority" in wrong.err


def test_addresses_are_put_together_some_at_a_time(garden: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    whole = run("sitemap", "--to", "-", "--today", "2026-11-25", "--site", str(garden)).out
    monkeypatch.setattr(sitemap, "_BLOCK", 5)
    monkeypatch.setattr(addresses, "BLOCK", 3)
    assert run("sitemap", "--to", "-", "--today", "2026-11-25", "--site", str(garden)).out == whole
    assert "hreflang" in whole


def test_memory_does_not_grow_with_the_file() -> None:
    paths = [f"/{branch}/the-page-of-number-{page}" for page in range(30_000) for branch in ("en", "fr", "de")]
    settings = {"davlo": 1, "site": {"name": "Wide", "url": "https://wide.example", "languages": ["en", "fr", "de"]}}
    rows = {
        "path": paths,
        "language": [path[1:3] for path in paths],
        "translates": [path.replace(path[1:3], "en", 1) if path[1:3] != "en" else "" for path in paths],
    }
    effective = davlo.Site.from_frames(rows, settings).resolve()
    made = make_sitemap(effective, Path(), "sitemap.xml", datetime.date(2026, 11, 25))
    tracemalloc.start()
    size = sum(len(chunk) for chunks in made.files.values() for chunk in chunks())
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert size > 30_000_000
    assert most < size / 3


@of_made_up_sites(5)
def test_each_address_lists_its_own_alternates(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    assert_alternates(effective)


def assert_alternates(effective: EffectiveModel) -> int:
    """Every address in the file has the alternates that it should have; how many there are."""
    entries = sitemap_entries(effective, np.arange(len(effective.site.tree)), datetime.date(2026, 11, 25))
    elements, own = sitemap.UrlElements(entries), entries.published
    spaces = f'xmlns="{sitemap.NAMESPACE}" xmlns:xhtml="{sitemap.XHTML}"'
    root = etree.fromstring(f"<urlset {spaces}>".encode() + elements.bytes(0, len(elements)) + b"</urlset>")
    links = [
        [(str(link.get("hreflang")), str(link.get("href"))) for link in url.findall(f"{{{sitemap.XHTML}}}link")]
        for url in root
    ]
    assert links == [own.alternates(number) for number in range(len(own))]
    return sum(map(len, links))


def test_pages_without_alternates_and_ambiguous_ones_take_none_from_others(small: Small) -> None:
    rows = "/,,\n/a,en,\n/alone,en,\n/b,en,\n/fr/a,fr,/a\n/fr/a2,fr,/a\n/fr/alone,fr,\n/fr/b,fr,/b\n/de/a,de,/a\n"
    effective = davlo.open_site(small(pages=f"path,language,translates\n{rows}")).resolve()
    assert assert_alternates(effective) == 4 + 4  # /a with /de/a, since two French pages are ambiguous; /b with /fr/b
