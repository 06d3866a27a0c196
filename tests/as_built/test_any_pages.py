"""Pages of any site, built as they were decided, have no mistake; and of mistakes made at random, just these are found."""

from __future__ import annotations

import re
import tempfile
from html import unescape
from pathlib import Path
from random import Random
from typing import Any
from urllib.parse import unquote

import davlo
from davlo.files.read.sections.hosts import with_small_host
from tests.sites import SiteDict, of_made_up_sites, write_site

from .site_pages import build

WRONG = "https://made-up.example/wrong"


def open_to_all(node: Any) -> Any:
    """A description of a site without what would keep a visitor from viewing its pages."""
    if isinstance(node, dict):
        return {key: open_to_all(inner) for key, inner in node.items() if key not in ("everyone", "fresh_access")}
    return [open_to_all(inner) for inner in node] if isinstance(node, list) else node


@of_made_up_sites(5)
def test_of_mistakes_made_at_random_just_these_are_found(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    site = {**open_to_all(site), "language_paths": random.choice(["", "/{language}{path}"])}
    with tempfile.TemporaryDirectory() as name:
        opened, folder = davlo.open_site(write_site(site, Path(name))), Path(name) / "html"
        folder.mkdir()
        files = build(opened, folder)
        if not files:
            return
        sitemap = opened.publication(folder).contents.get("sitemap.xml")
        if sitemap:  # the same addresses, written in another way
            text = b"".join(sitemap()).replace(b"HTTPS://Made-Up.example", b"https://made-up.example")
            (folder / "sitemap.xml").write_text(unquote(text.decode()), encoding="utf-8")
        assert opened.compare_built(folder).mistakes == ()
        paths, expected = [*files.values()], set[tuple[str, str, str]]()
        for file, path in files.items():
            expected |= made_mistake(file, opened.page(path), paths, random)
        if not any('lang="' in file.read_text("utf-8").replace('lang=""', "") for file in files if file.exists()):
            expected = {one for one in expected if one[0] != "language"}  # no page says any, so none is compared
        if any(file.exists() for file in files):
            found = opened.compare_built(folder).mistakes
            assert {(one.what, one.page, one.shows) for one in found} == expected


@of_made_up_sites(4)
def test_a_site_that_is_begun_from_pages_has_no_mistake_in_them(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as name:
        opened, folder = davlo.open_site(write_site(open_to_all(site), Path(name))), Path(name) / "html"
        folder.mkdir()
        if build(opened, folder):
            davlo.start_site_from(Path(name) / "begun", [folder])
            begun = davlo.open_site(Path(name) / "begun")
            assert begun.compare_built(folder).mistakes == ()
            clashes = ("type-below-clash", "no-such-area", "lock-clash", "cut-off-in-menu", "unused-declaration")
            assert not [one for one in begun.check().findings if one.kind in clashes]


def made_mistake(file: Path, record: davlo.PageRecord, built: list[str], random: Random) -> set[tuple[str, str, str]]:
    """Make a mistake in a page, or none; gives what should be found."""
    path = record.path
    text, kind = (
        file.read_text(encoding="utf-8"),
        random.choice(
            ["none", "gone", "title", "robots", "address", "words", "no words", "bot", "two", "headings", "refresh"]
        ),
    )
    if "refresh" in text:
        if kind != "address":
            return set()
        file.write_text(re.sub(r"url=[^\"]*", f"url={WRONG}", text), encoding="utf-8")
        return {("leads to", path, "/wrong")}
    if kind == "gone" and built.count(path) == 1:
        file.unlink()
        return {("in the page list, and not built", path, "")}
    if kind == "title":
        file.write_text(re.sub("<title>[^<]*", "<title>Wrong", text), encoding="utf-8")
        return {("document title", path, "Wrong")}
    if kind == "robots":
        tag = '<meta name="robots" content="noindex">'
        file.write_text(text.replace(tag, "") if tag in text else text.replace("</head>", f"{tag}</head>"), "utf-8")
        return {("robots", path, "index" if tag in text else "noindex")}
    if kind == "address":
        file.write_text(re.sub(r'canonical" href="[^"]*', f'canonical" href="{WRONG}', text), encoding="utf-8")
        return {("canonical", path, WRONG)}
    if kind == "no words" and 'lang=""' not in text:
        file.write_text(re.sub('lang="[^"]*"', "", text), encoding="utf-8")
        return {("language", path, "nothing")}
    if kind == "bot" and "noindex" not in text:
        file.write_text(text.replace("</head>", '<meta name="googlebot" content="noindex"></head>'), "utf-8")
        return {("robots", path, "noindex (googlebot)")}
    if kind == "two":
        file.write_text(text.replace("</head>", f'<link rel="canonical" href="{WRONG}"></head>'), "utf-8")
        own = re.search(r'canonical" href="([^"]*)', text)
        return {("canonical", path, f"2 addresses: {with_small_host(unescape(own[1]))}, {WRONG}")} if own else set()
    if kind == "headings" and "<h1>" in text and len(record["headings"]) == 1:
        file.write_text(text.replace("</main>", f"<h1>One more {path}</h1></main>"), encoding="utf-8")
        return {("second h1", path, f"2 h1 (One more {path})")}
    if kind == "refresh" and WRONG.removeprefix("https://made-up.example") != path:
        file.write_text(
            text.replace("</head>", f'<meta http-equiv="refresh" content="0; url={WRONG}"></head>'), "utf-8"
        )
        return {("leads to", path, "/wrong")}
    if kind == "words" and 'lang=""' not in text:
        file.write_text(re.sub('lang="[^"]*', 'lang="de', text), encoding="utf-8")
        return {("language", path, "de")}
    return set()
