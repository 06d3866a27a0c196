"""How long an HTML page takes to be read: seconds a megabyte, of an ordinary page and of hostile ones.

    python -m benchmarks.built_pages [--megabytes 5]

No page may take more than a second a megabyte, whatever stands in it. Each page is made of one piece, repeated.
"""

from __future__ import annotations

import argparse
import time
from contextlib import suppress

from davlo.core.faults import ValueFault
from davlo.files.built.html_page import html_page

PIECES = {
    "an ordinary page": b"<p>Some words of a page, with <a href='/visit/'>a link</a> and <em>a mark</em>.</p>\n",
    "nothing but tags": b"<p>x</p>",
    "levels": b"<div>",
    "levels of navigation": b"<nav><a href=/>x</a>",
    "links in links": b"<aside><a href=/x><b>",
    "marks in marks": b"<nav><b aria-current=page>",
    "headings in headings": b"<aside><h2><h3>",
    "first headings": b"<main><h1></h1>",
    "landmarks": b"<aside><a href=/>x</a></aside>",
    "landmarks in landmarks": b"<section><aside>x",
    "lists in lists": b"<ul><li>x<li>",
    "lists of links": b"<ul><li><a href=/>x</a><li>y</ul>",
    "links beside links": b"<a href=/>x</a> \xe2\x80\xba ",
    "parts of an area": b"<div><h2>x</h2></div>",
    "tables": b"<table><tr><td>x",
    "text of an area": b"some words ",
    "links of an area": b"<a href=/x>x</a>",
    "one tag of attributes": b"abc=1 ",
    "tags of attributes": b"<p " + b" ".join(b"a%d=1" % number for number in range(99)) + b">x",
    "quotes without an end": b'<a href="',
    "comments without an end": b"<!-- ",
    "entities": b"&amp;&bogus;&#65;",
    "alternates": b"<link rel=alternate hreflang=fr href=/x>",
    "metas": b"<meta name=robots content=index>",
}
BEFORE = {
    "lists in lists": b"<ul><li>x<li>",
    "lists of links": b"<ul><li><a href=/>x</a><li>y</ul>",
    "links beside links": b"<a href=/>x</a> \xe2\x80\xba ",
    "parts of an area": b"<aside>",
    "text of an area": b"<aside>",
    "links of an area": b"<nav>",
    "one tag of attributes": b"<p ",
}


def main(megabytes: float) -> None:
    """Print what was measured."""
    print(f"{'':26} {'s a MB':>8}")
    for name, piece in PIECES.items():
        content = BEFORE.get(name, b"") + piece * int(megabytes * 1e6 / len(piece))
        begun = time.perf_counter()
        with suppress(ValueFault):
            html_page(content, "page.html", "/page.html")
        taken = (time.perf_counter() - begun) / (len(content) / 1e6)
        print(f"{name:26} {taken:8.3f}{'  too slow' if taken > 1 else ''}", flush=True)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megabytes", type=float, default=5)
    main(parser.parse_args().megabytes)
