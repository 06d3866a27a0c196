"""The addresses of pages, and which pages say the same in other languages."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from urllib.parse import unquote, urlsplit

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo.core.arrays.texts import Texts
from davlo.core.outcomes.sitemap.addresses import encode_addresses, published
from tests.conftest import Run

Small = Callable[..., Path]


def encode_path(path: str) -> str:
    return encode_addresses(Texts.of(["/before%", path, "41"]))[1]


def urls(site: davlo.Site, path: str) -> list[str]:
    return published(site, np.array([site.page_number(path)])).urls().tolist()


def alternates(site: davlo.Site) -> dict[str, list[tuple[str, str]]]:
    """The alternates of each address, without the site's host."""
    found = published(site, np.arange(len(site.tree)))
    pairs = {url: found.alternates(number) for number, url in enumerate(found.urls())}
    return {
        u.removeprefix(site.url): [(lang, v.removeprefix(site.url)) for lang, v in p] for u, p in pairs.items() if p
    }


@given(st.text(st.characters(exclude_characters="%?", exclude_categories=["Cs"]), max_size=12))
def test_an_encoded_path_is_ascii_and_decodes_to_itself(path: str) -> None:
    encoded = encode_path("/" + path)
    assert encoded.isascii()
    assert unquote(encoded) == "/" + path
    assert urlsplit(f"https://small.example{encoded}").path == encoded
    assert encode_path(encoded) == encoded


def test_a_percent_sign_that_encodes_nothing_is_encoded() -> None:
    assert encode_path("/100%/%C3%A9/%zz") == "/100%25/%C3%A9/%25zz"


PAGES = "path,language,translates\n/,en,\n/a,en,\n/fr/a,fr,/a\n/de/a,de,/a\n/b,,\n/c,fr,/gone\n"


@pytest.mark.parametrize(
    ("paths", "found"),
    [
        ("", {"/b": ["https://small.example/b"], "/fr/a": ["https://small.example/fr/a"]}),
        (
            ", language_paths: '/{language}{path}'",
            {"/b": ["https://small.example/en/b", "https://small.example/fr/b"], "/c": ["https://small.example/fr/c"]},
        ),
    ],
)
def test_addresses_in_each_language(paths: str, found: dict[str, list[str]], small: Small) -> None:
    folder = small(pages=PAGES)
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]", "[en, fr]" + paths)
    (folder / "davlo.yaml").write_text(text)
    site = davlo.open_site(folder)
    assert {path: urls(site, path) for path in found} == found


def test_alternates_are_families_in_the_order_of_the_languages(small: Small) -> None:
    site = davlo.open_site(small(pages=PAGES))
    family = [("en", "/a"), ("fr", "/fr/a"), ("de", "/de/a")]
    assert alternates(site) == {"/a": family, "/fr/a": family, "/de/a": family}


def test_a_blank_language_is_the_first_where_something_translates_the_page(small: Small) -> None:
    site = davlo.open_site(small(pages="path,language,translates\n/a,,\n/fr/a,fr,/a\n/b,,\n"))
    family = [("en", "/a"), ("fr", "/fr/a")]
    assert alternates(site) == {"/a": family, "/fr/a": family}


def test_of_two_translations_into_one_language_neither_is_an_alternate(small: Small, run: Run) -> None:
    folder = small(pages="path,language,translates\n/a,en,\n/x,fr,/a\n/y,fr,/a\n/de/a,de,/a\n")
    family = [("en", "/a"), ("de", "/de/a")]
    assert alternates(davlo.open_site(folder)) == {"/a": family, "/de/a": family}
    told = run("sitemap", "--to", "-", "--site", str(folder)).err
    assert told.startswith("2 addresses are not listed as alternates: another translation of the same page has")


@pytest.mark.parametrize(
    ("cell", "address", "url"),
    [
        ("/c-api/", "", "/c-api/"),
        ("/a?x=1&y=2", "", "/a?x=1&y=2"),
        ("/f%C3%BChrung", "", "/f%C3%BChrung"),
        ("/führung", "", "/f%C3%BChrung"),
        ("/visit/index.html#map", "", "/visit/index.html"),
        ("https://small.example/a/", "", "/a/"),
        ("/a", "/b/?q=ü", "/b/?q=%C3%BC"),
        ("/a", "https://small.example/c/#d", "/c/"),
    ],
)
def test_what_is_published_is_the_address_as_it_stood(cell: str, address: str, url: str, small: Small) -> None:
    site = davlo.open_site(small(pages=f"path,address\n{cell},{address}\n"))
    assert urls(site, cell) == [f"https://small.example{url}"]


def test_the_slash_stays_also_with_paths_of_languages(small: Small) -> None:
    folder = small(pages="path,language\n/api/?v=2,\nhttps://small.example/x/,fr\n")
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]", "[en, fr], language_paths: '/{language}{path}'")
    (folder / "davlo.yaml").write_text(text)
    site = davlo.open_site(folder)
    assert urls(site, "/api?v=2") == ["https://small.example/en/api/?v=2", "https://small.example/fr/api/?v=2"]
    assert urls(site, "/x") == ["https://small.example/x/"]
