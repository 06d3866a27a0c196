"""The addresses of pages, and which pages say the same in other languages."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from urllib.parse import unquote, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo.core.outcomes.addresses import addresses, alternates, encode_path

Small = Callable[..., Path]


@given(st.text(st.characters(exclude_characters="%", exclude_categories=["Cs"]), max_size=12))
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
    assert {path: [url for _, url in addresses(site, site.tree.number(path))] for path in found} == found


def test_alternates_are_families_with_the_first_language_first(small: Small) -> None:
    site = davlo.open_site(small(pages=PAGES))
    found = {site.tree.paths[p]: [site.tree.paths[q] for q in family] for p, family in alternates(site).items()}
    family = ["/a", "/fr/a", "/de/a"]
    assert found == {"/a": family, "/fr/a": family, "/de/a": family}
