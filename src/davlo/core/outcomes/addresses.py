"""Addresses: the URLs of pages, percent-encoded, in each language."""

from __future__ import annotations

import re
from urllib.parse import quote, urlsplit

import numpy as np
from numpy.typing import NDArray

from ..arrays.texts import Texts
from ..site.model import SiteModel

_ENCODED = re.compile(r"(%[0-9A-Fa-f]{2})")
_HOST = re.compile(r"[\w.~%:-]+")
_NO_ADDRESS = re.compile(r"[\x00-\x20\x7f-\x9f<>\"\\^`{|}\u2028\u2029\u202a-\u202e\u2066-\u2069\ud800-\udfff]")
_SAFE = "/!$&'()*+,;=:@~"
"""Characters that may stand in a path as they are (RFC 3986, section 3.3)."""


def is_web_address(text: str) -> bool:
    """Whether a text is an absolute address of the web, with a host and no letter that no address may hold (RFC 3986).

    Example
    -------
    >>> is_web_address("https://garden.example/a"), is_web_address("https://exa mple"), is_web_address("https://[::1")
    (True, False, False)
    """
    try:
        parts = urlsplit(text)
        port = parts.port
    except ValueError:
        return False
    return (
        parts.scheme in ("http", "https")
        and bool(parts.hostname)
        and _HOST.fullmatch(parts.hostname or "") is not None
        and _NO_ADDRESS.search(text) is None
        and (port is None or port > 0)
    )


def encode_path(path: str) -> str:
    """A path as a URL holds it (RFC 3986); what is percent-encoded already stays.

    Example
    -------
    >>> encode_path("/été & co/%C3%A9")
    '/%C3%A9t%C3%A9%20&%20co/%C3%A9'
    """
    return "".join(part if _ENCODED.fullmatch(part) else quote(part, safe=_SAFE) for part in _ENCODED.split(path))


def addresses(site: SiteModel, page: int) -> list[tuple[str, str]]:
    """The page's URLs, each with its language; several where there are `language_paths` and the language is blank."""
    path, language = site.tree.paths[page], site.facts.language[page]
    if not site.language_paths:
        return [(language, site.url + encode_path(path))]
    languages = [language] if language else list(site.languages) or [""]
    return [
        (each, site.url + encode_path(site.language_paths.replace("{language}", each).replace("{path}", path)))
        for each in languages
    ]


def families(site: SiteModel) -> NDArray[np.int64]:
    """For each page the page that it says the same as: the one it translates, or else itself. int64[pages]

    Pages with the same number are each other's alternates. A `translates` that names a missing page counts for nothing.
    """
    column = site.facts.column("translates")
    original = site.tree.find_all(Texts.of(column.words))[column.codes]
    return np.where(original >= 0, original, np.arange(len(site.tree)))


def alternates(site: SiteModel) -> dict[int, list[int]]:
    """For each page that has alternates: all that say the same, the one in the first language first."""
    family = families(site)
    found: dict[int, list[int]] = {}
    for page in np.flatnonzero(family != np.arange(len(family))).tolist():
        first = int(family[page])
        found.setdefault(first, [first] if family[first] == first else []).append(page)
    return {page: members for members in found.values() for page in members}
