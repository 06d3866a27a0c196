"""Built HTML pages: read by the web's open conventions, whatever their bytes are."""

from __future__ import annotations

import gzip
import os
from pathlib import Path

import pytest

from davlo.core.faults import SiteError, ValueFault
from davlo.files.built.built_folder import read_built_folder
from davlo.files.built.built_page import BuiltPage
from davlo.files.built.html_document import MOST_BYTES
from davlo.files.built.html_page import html_page
from davlo.files.built.selectors import read_selectors
from davlo.files.built.sitemap_files import read_sitemaps

TRAIL = (("Home", "/"), ("Visit", "/visit/"))
LD = (
    '<script type="application/ld+json">{"@graph": [{"@type": "BreadcrumbList", "itemListElement": ['
    '{"position": 2, "item": {"@id": "/visit/", "name": "Visit"}}, {"position": 1, "name": "Home", "item": "/"}]},'
    '{"@type": "Article", "dateModified": "2026-03-04T10:00:00Z"}]}</script>'
)


def read(text: str) -> BuiltPage:
    """The page `/visit/tickets.html` with this text."""
    return html_page(text.encode(), "visit/tickets.html", "/visit/tickets.html")


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("<svg><title>Drawing</title></svg><head><title> A &amp;\n B </title></head>", {"title": "A & B"}),
        ("<main><h1>Prices <a href='#prices'>¶</a></h1></main><h1>Other</h1>", {"heading": "Prices"}),
        ("<header><h1>Brand</h1></header><h1>Prices</h1>", {"heading": "Prices", "heading_tag": "h1"}),
        ("<title>Prices - A</title><h3>Menu</h3><h2>Prices</h2>", {"heading": "Prices", "heading_tag": "h2"}),
        ("<main><p>x</p></main><h1>Aside</h1>", {"heading": ""}),
        ("<html lang=' fr-CA '>", {"language": "fr-CA"}),
        ("<html xmlns='http://www.w3.org/1999/xhtml' xml:lang='fr'>", {"language": "fr"}),
        ("<link rel=canonical href='/visit/'>", {"canonical": "/visit/"}),
        ("<link rel='alternate' hreflang=fr href=../fr/>", {"alternates": (("fr", "/fr/"),)}),
        ("<base href='https://b.example/x/'><link rel=canonical href=y>", {"canonical": "https://b.example/x/y"}),
        ("<meta name=ROBOTS content='NoIndex, follow'>", {"may_index": False}),
        ("<meta name=robots content=none>", {"may_index": False}),
        ("<meta name=robots content='index'>", {"may_index": True}),
        ("<meta http-equiv=refresh content='0; url=../new.html#x'>", {"leads_to": "/new.html"}),
        ("<meta name=dcterms.modified content=2026-03-04T10:00:00>", {"modified": "2026-03-04"}),
        ("<meta http-equiv=last-modified content='Wed, 04 Mar 2026 10:00:00 GMT'>", {"modified": "2026-03-04"}),
        ("<meta name=date content=yesterday>", {"created": ""}),
        (LD, {"trail": TRAIL, "modified": "2026-03-04"}),
        (
            "<nav aria-label=Breadcrumbs><a href=/>Home</a> <a href=/visit/>Visit</a></nav>",
            {"trail": TRAIL, "areas": ()},
        ),
        ("<p><a href=/>Home</a> › <a href=/visit/>Visit</a> › Tickets</p>", {"trail": TRAIL}),
        ("<p><a href=/>Home</a> | <a href=/visit/>Visit</a></p>", {"trail": ()}),
        (
            "<ul><li>Us<li><a href=/>Home</a><li><a href=/visit/>Visit</a><li>Tickets</ul><h1>Tickets</h1>",
            {"trail": TRAIL},
        ),
        ("<ul><li><a href=/>Home</a><li><a href=/visit/>Visit</a><li>Maps</ul><h1>Tickets</h1>", {"trail": ()}),
        ("<link rel='up top' href=/visit/>", {"up": "/visit/"}),
        ("<a rel=next href=/a>x</a><a rel='nofollow up' href=/visit/>^</a>", {"up": "/visit/"}),
        ("<a accesskey=n href=/a>x</a><a accesskey=u href=./>Up</a>", {"up": "/visit/"}),
        (
            "<main><h1>Prices <button>Copy</button><a href=#p title='Permalink to this'>here</a></h1>",
            {"heading": "Prices"},
        ),
        (
            "<main><h1><a href=#p>Prices</a> 2026</h1><h1>More</h1>",
            {"heading": "Prices 2026", "more_headings": ("More",)},
        ),
        ("<meta name=googlebot content=noindex><meta name=robots content=all>", {"noindex": ("googlebot",)}),
        ("<link rel=canonical href=/a><link rel=canonical href=/b>", {"canonicals": ("/a", "/b")}),
        ('<script type="application/ld+json">{"a": ' + "[" * 100_000, {"trail": ()}),
        ("<a href='http://[::1'>x</a><link rel=canonical href='http://[x'>", {"canonical": ""}),
    ],
)
def test_what_a_page_says_of_itself(text: str, shown: dict[str, object]) -> None:
    page = read(text)
    assert {name: getattr(page, name) for name in shown} == shown


@pytest.mark.parametrize(
    ("text", "areas"),
    [
        (
            "<header>A</header><nav>B</nav><main>C</main><aside>D</aside><footer>E</footer>",
            "masthead menu content aside footer",
        ),
        ("<div role=banner>A</div><div role=main>C</div><div role=complementary>D</div>", "masthead content aside"),
        ("<header><nav>B</nav></header><main>C</main>", "masthead content"),
        (
            "<main><article><header>A</header><aside>note</aside></article><aside>D</aside><nav>x</nav></main>",
            "content aside",
        ),
        ("<main><section><aside aria-label=Near>D</aside></section></main>", "content aside"),
        ("<aside>A</aside><aside>B</aside><div role=presentation>x</div>", "aside aside-2"),
        ("<p>none</p>", ""),
    ],
)
def test_areas_are_the_landmarks(text: str, areas: str) -> None:
    assert " ".join(area.name for area in read(text).areas) == areas


def test_blocks_are_the_parts_of_an_area() -> None:
    page = read(
        "<aside><div><h2>Near</h2><ul><li><a href=/a>A</a><li><a href=b.html>B</a></ul>"
        "<h2>Hours</h2><p>Daily <b>10</b> to 17<img alt=clock></p></div></aside>"
        "<nav><ul><li><a href=/>Home</a></li><li aria-current=page>Tickets</li></ul></nav>"
    )
    aside, menu = page.areas
    near, hours = aside.blocks
    assert (near.heading, near.links, near.is_list) == ("Near", (("A", "/a"), ("B", "/visit/b.html")), True)
    assert (hours.heading, hours.text, hours.is_list) == ("Hours", "Daily 10 to 17 clock", False)
    assert menu.blocks[0].links == (("Home", "/"), ("Tickets", "/visit/tickets.html"))
    assert (menu.blocks[0].is_navigation, near.is_navigation) == (True, False)


def test_selectors_name_areas_and_details_that_landmarks_do_not_tell() -> None:
    found = read_selectors(
        b"areas: {right: 'div.side', content: '#body'}\n"
        b"details: {type: {select: body, attribute: data-kind}, author: .by}\nskip: [.ad]\n",
        "parts.yaml",
    )
    text = "<body data-kind=event><div class=side>A<p class=ad>Buy</p></div><div id=body><h1>T</h1><p class=by>Ida</p></div>"
    page = html_page(text.encode(), "a.html", "/a.html", found)
    assert [(area.name, [block.text for block in area.blocks]) for area in page.areas] == [
        ("right", ["A"]),
        ("content", []),
    ]
    assert (page.heading, page.details) == ("T", (("type", "event"), ("author", "Ida")))
    with pytest.raises(SiteError) as error:
        read_selectors(b"areas: {right: 'div..', Big: p}\nfact: {}\nskip: 3..\n", "parts.yaml")
    assert [fault.place.line for fault in error.value.faults] == [2, 1, 1, 3]


HOSTILE = {
    "ten thousand levels": b"<main>" + b"<div>" * 10_000 + b"<h1>x</h1>",
    "levels of navigation": b"<nav>" * 10_000 + b"<a href=/>x</a>",
    "links in links": b"<aside>" + b"<a href=/x><b>" * 20_000,
    "marks in marks": b"<nav>" + b"<b aria-current=page>" * 20_000,
    "headings in headings": b"<aside>" + b"<h2><h3>" * 20_000 + b"x",
    "many attributes": b"<p " + b" ".join(b"a%d=1" % number for number in range(100_000)) + b">x",
    "attributes in quotes": b"<p " + b" ".join(b"a%d='>'" % number for number in range(100_000)) + b">x",
    "many landmarks": b"<aside><a href=/>x</a></aside>" * 20_000,
    "a script that writes": b"<script>document.write('<title>bad</title>')</script><title>good</title>",
    "entities that grow": b'<!DOCTYPE html [<!ENTITY a "aa"><!ENTITY b "&a;&a;&a;">]><title>&b;</title>',
    "an entity of another file": b'<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><title>&a;</title>',
    "a wrong charset": b"<meta charset=utf-8><title>caf\xe9</title>",
    "a charset that is none": b"<meta charset=zlib><title>x</title>",
    "two bytes a letter": "<title>caf\u00e9</title>".encode("utf-16"),
    "a NUL": b"<title>a\0b</title>",
    "no HTML": bytes(range(256)) * 100,
    "comments without an end": b"<!-- " * 200_000,
    "unclosed quotes": b'<a href="' * 100_000,
}


NO_PAGES = ("comments without an end",)


@pytest.mark.parametrize("kind", HOSTILE)
def test_a_hostile_page_ends_in_a_message_or_in_less_of_a_page(kind: str) -> None:
    if kind in NO_PAGES:
        with pytest.raises(ValueFault, match="it holds no elements"):
            html_page(HOSTILE[kind], "a.html", "/a.html")
        return
    page = html_page(HOSTILE[kind], "a.html", "/a.html")
    expected = {
        "ten thousand levels": ("amiss", "its elements are nested too deep: it is read down to there"),
        "a script that writes": ("title", "good"),
        "entities that grow": ("title", "&b;"),
        "an entity of another file": ("title", "&a;"),
        "a wrong charset": ("amiss", "it says that it is in utf-8, and is not"),
        "a charset that is none": ("title", "x"),
        "two bytes a letter": ("title", "café"),
        "a NUL": ("title", "a\ufffdb"),
    }
    if kind in expected:
        name, value = expected[kind]
        assert getattr(page, name) == value
    assert len(page.areas) <= 12


def test_a_folder_is_read_and_nothing_outside_it(tmp_path: Path) -> None:
    (tmp_path / "secret.html").write_text("<title>Secret</title>", encoding="utf-8")
    folder = tmp_path / "public"
    for name in ("index.html", "visit/index.html", "visit/prices 50%.html", ".git/x.html", "notes.txt", "visit/.html"):
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text(f"<title>{name}</title>", encoding="utf-8")
    (folder / "link.html").symlink_to(tmp_path / "secret.html")
    (folder / "empty.html").write_bytes(b"")
    os.mkfifo(folder / "pipe.html")
    with (folder / "large.html").open("wb") as file:
        file.truncate(MOST_BYTES + 1)
    found = read_built_folder(folder)
    assert [page.address for page in found.pages] == ["/", "/visit/", "/visit/prices 50%25.html"]
    assert {name: why.split(",")[0].split(" bytes")[0][:24] for name, why in found.left_out} == {
        "empty.html": "it holds no elements",
        "large.html": "it has 67",
        "link.html": "it is a link that leads ",
        "pipe.html": "it cannot be read: it is",
        "visit/.html": "its name begins with a d",
    }


def test_a_hostile_sitemap_is_read_no_further_than_its_folder(tmp_path: Path) -> None:
    (tmp_path / "maps").mkdir()
    (tmp_path / "outside.xml").write_text(
        "<urlset><url><loc>https://a.example/x</loc></url></urlset>", encoding="utf-8"
    )
    index = "<sitemapindex><sitemap><loc>https://a.example/../outside.xml</loc></sitemap></sitemapindex>"
    (tmp_path / "maps" / "map.xml").write_text(index, encoding="utf-8")
    found = read_sitemaps(tmp_path / "maps" / "map.xml")
    assert (found.addresses, found.missing) == ([], ["outside.xml"])
    for content, told in (
        (b'<!DOCTYPE u [<!ENTITY a "x">]><urlset><url><loc>&a;</loc></url></urlset>', None),
        (gzip.compress(b"<urlset>")[:12], "it cannot be unpacked"),
        (b"<urlset><url>", "it is no XML that can be read"),
    ):
        (tmp_path / "maps" / "odd.xml").write_bytes(content)
        if told is None:
            assert read_sitemaps(tmp_path / "maps" / "odd.xml").addresses == []
        else:
            with pytest.raises(SiteError, match=told):
                read_sitemaps(tmp_path / "maps" / "odd.xml")
