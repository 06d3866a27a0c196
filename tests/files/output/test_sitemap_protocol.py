"""Every sitemap is valid by the protocol's schemas, and another program reads in it what Davlo meant."""

from __future__ import annotations

import datetime
import gzip
from collections.abc import Callable
from functools import cache
from pathlib import Path

import pytest
from lxml import etree
from usp.objects.page import SitemapPage
from usp.tree import sitemap_from_str

import davlo
import davlo.files.output.sitemap_xml as sitemap
from davlo.core.outcomes.sitemap.sitemap_reasons import sitemap_codes
from davlo.files.output.write_sitemap import make_sitemap
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
TODAY = datetime.date(2026, 11, 25)
SCHEMAS = Path(__file__).parent / "schemas"
SHOP = "loc,lastmod,changefreq,priority\nhttps://small.example/shop?item=1&size=2,2026-01-01,daily,0.4\n"


@cache
def schema(root: str) -> etree.XMLSchema:
    names = {"urlset": "sitemap.xsd", "sitemapindex": "siteindex.xsd"}
    return etree.XMLSchema(etree.parse(str(SCHEMAS / names[root])))


def read_by_another(content: bytes) -> list[SitemapPage]:
    """The pages of a sitemap that is valid, as an independent program reads them."""
    root = etree.fromstring(content)
    schema(etree.QName(root).localname).assertValid(root)
    return list(sitemap_from_str(content.decode()).all_pages())


@of_made_up_sites(3)
def test_what_is_written_is_valid_and_read_as_it_was_meant(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    if sitemap_codes(effective).all():
        with pytest.raises(ValueError, match="no page is in the sitemap"):
            make_sitemap(effective, Path(), "sitemap.xml", TODAY)
        return
    made = make_sitemap(effective, Path(), "sitemap.xml", TODAY)
    pages = read_by_another(b"".join(made.files["sitemap.xml"]()))
    entries = made.entries
    assert [page.url for page in pages] == entries.published.urls().tolist()
    assert [page.last_modified and page.last_modified.date().isoformat() for page in pages] == [
        word[:10] or None for word in entries.lastmod.texts()
    ]
    assert [str(page.priority.normalize()) for page in pages] == [
        str(type(page.priority)(word or "0.5").normalize())
        for page, word in zip(pages, entries.priority.texts(), strict=True)
    ]
    assert [
        page.change_frequency.value if page.change_frequency else "" for page in pages
    ] == entries.changefreq.texts()


def test_hosts_in_other_letters_are_punycode(small: Small, run: Run) -> None:
    folder = small(
        "sitemap: {add_addresses_from: [shop.csv]}\n", "path\n/\nhttps://gärten.example/blüte/\n", {"shop.csv": SHOP}
    )
    (folder / "shop.csv").write_text("loc\nhttps://lädchen.example/tee\n", encoding="utf-8")
    text = (folder / "davlo.yaml").read_text().replace("https://small.example", "https://gärten.example")
    (folder / "davlo.yaml").write_text(text, encoding="utf-8")
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert [page.url for page in read_by_another(got.out.encode())] == [
        "https://xn--grten-gra.example/",
        "https://xn--grten-gra.example/bl%C3%BCte/",
        "https://xn--ldchen-bua.example/tee",
    ]
    assert got.err == (
        "addresses of other programs are on xn--ldchen-bua.example: search engines take them only if the robots.txt there names "
        "this sitemap too\n"
    )
    site = davlo.open_site(folder)
    named = [f"https://{host}/bl%C3%BCte" for host in ("gärten.example", "xn--grten-gra.example", "GÄRTEN.example")]
    assert {site.tree.paths[site.page_number(name)] for name in named} == {"/blüte"}
    (folder / "davlo.yaml").write_text(text.replace("gärten", "-ä-"), encoding="utf-8")
    assert "davlo.yaml:2: no host can be called '-ä-.example'" in run("sitemap", "--site", str(folder)).err


def test_the_page_for_other_languages_is_named_where_the_site_says_which(small: Small, run: Run) -> None:
    folder = small(pages="path,language,translates\n/a,en,\n/fr/a,fr,/a\n/de/a,de,/a\n/fr/b,fr,\n")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("[en, fr]", "[en, fr], for_other_languages: fr"))
    root = etree.fromstring(run("sitemap", "--to", "-", "--site", str(folder)).out.encode())
    links = [[link.get("hreflang") for link in url if link.tag.endswith("link")] for url in root]
    assert links == [["en", "fr", "de", "x-default"]] * 3 + [[]]
    assert {link.get("href") for link in root.iter() if link.get("hreflang") == "x-default"} == {
        "https://small.example/fr/a"
    }
    (folder / "davlo.yaml").write_text(text.replace("[en, fr]", "[en, fr], for_other_languages: it"))
    assert "for_other_languages takes one of en, fr, not 'it'" in run("sitemap", "--site", str(folder)).err


def test_sitemaps_on_disk_are_joined_with_alternates_that_are_mutual(small: Small, run: Run) -> None:
    def url(path: str, *links: str) -> str:
        each = "".join(
            f'<x:link rel="alternate" hreflang="{one[1:3]}" href="https://small.example{one}"/>' for one in links
        )
        return f"<url><loc>https://small.example{path}</loc><lastmod>2026-02-03T04:05:06Z</lastmod>{each}</url>"

    both = ("/en/tea", "/fr/tea")
    part = f'<urlset xmlns="{sitemap.NAMESPACE}" xmlns:x="{sitemap.XHTML}">'
    part += (
        url("/en/tea", *both) + url("/fr/tea", *both) + url("/en/mug", "/en/mug", "/fr/tea") + url("/") + "</urlset>"
    )
    index = "<sitemapindex><sitemap><loc>https://small.example/shop-1.xml.gz</loc></sitemap></sitemapindex>"
    folder = small("sitemap: {add_addresses_from: [shop/shop.xml]}\n", "path\n/\n")
    (folder / "shop").mkdir()
    (folder / "shop" / "shop.xml").write_text(index)
    (folder / "shop" / "shop-1.xml.gz").write_bytes(gzip.compress(part.encode()))
    got = run("sitemap", "--to", "-", "--site", str(folder))
    pages = read_by_another(got.out.encode())
    assert [page.url.removeprefix("https://small.example") for page in pages] == ["/", "/en/tea", "/fr/tea", "/en/mug"]
    assert [page.alternates and len(page.alternates) for page in pages] == [None, 2, 2, None]
    assert got.err == (
        "1 address of other programs, there already and so listed once; the first: https://small.example/ (shop/shop-1.xml.gz:1)\n"
        "alternates of 1 address of other programs are left out: they do not name each other both ways; the first: "
        "https://small.example/en/mug\n"
    )
    summary = run("sitemap", "--site", str(folder)).out
    assert "1 of 1 page are in the sitemap.\n3 addresses of other programs are in it, from shop/shop.xml.\n" in summary
    target = folder / "sitemap.xml"
    run("sitemap", "--to", str(target), "--site", str(folder))
    assert "is stale" not in run("check", "--site", str(folder)).out
    (folder / "shop" / "shop-1.xml.gz").write_bytes(gzip.compress(part.replace("/en/mug", "/en/cup").encode()))
    assert "shop/shop-1.xml.gz changed since then" in run("check", "--format", "json", "--site", str(folder)).out
    (folder / "shop" / "shop-1.xml.gz").unlink()
    wrong = run("sitemap", "--site", str(folder))
    assert (wrong.status, "shop/shop.xml: it lists shop-1.xml.gz, which is not beside it" in wrong.err) == (2, True)


def test_packed_files_hold_what_the_plain_ones_do(
    small: Small, run: Run, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(sitemap, "MOST_ADDRESSES", 2)
    folder = small(pages="path\n/a\n/b\n/c\n")
    for name in ("plain.xml", "packed.xml.gz"):
        assert run("sitemap", "--to", str(tmp_path / name), "--site", str(folder)).status == 0
    packed = {name: gzip.decompress((tmp_path / f"packed{name}.xml.gz").read_bytes()) for name in ("", "-1", "-2")}
    assert packed["-1"] == (tmp_path / "plain-1.xml").read_bytes()
    assert [len(read_by_another(packed[name])) for name in ("-1", "-2")] == [2, 1]
    index = etree.fromstring(packed[""])
    schema("sitemapindex").assertValid(index)
    assert index[0][0].text == "https://small.example/packed-1.xml.gz"
    before = (tmp_path / "packed-1.xml.gz").read_bytes()
    assert run("sitemap", "--to", str(tmp_path / "packed.xml.gz"), "--site", str(folder)).status == 0
    assert (tmp_path / "packed-1.xml.gz").read_bytes() == before
    assert run("check", "--site", str(folder)).status == 0


def test_what_the_protocol_has_no_room_for_is_left_out_or_refused(small: Small, run: Run) -> None:
    long = "/" + "é" * 400
    folder = small(pages=f"path\n/a\n{long}\n")
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert (got.status, got.out.count("<loc>"), got.err.startswith("1 page left out: a sitemap takes no")) == (
        0,
        1,
        True,
    )
    folder = small("everywhere: {sitemap.include: no}\n", "path\n/a\n")
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert (got.status, got.err) == (
        2,
        "Usage: davlo sitemap [OPTIONS]\nTry 'davlo sitemap --help' for help.\n\nError: no page is in the sitemap, and "
        "the protocol allows no empty one (davlo sitemap --left-out)\n",
    )
