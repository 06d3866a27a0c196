"""Addresses: the URLs of pages, percent-encoded, in each language."""

from __future__ import annotations

import re
from urllib.parse import quote

from .model import SiteModel

_ENCODED = re.compile(r"(%[0-9A-Fa-f]{2})")
_SAFE = "/!$&'()*+,;=:@~"
"""Characters that may stand in a path as they are (RFC 3986, section 3.3)."""


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


def alternates(site: SiteModel) -> dict[int, list[int]]:
    """For each page that is translated or a translation: the pages that say the same, itself among them.

    The first is the one in the site's first language. A `translates` that names a missing page counts for nothing.
    """
    column = site.facts.column("translates")
    original = [site.tree.find(word) if word else -1 for word in column.words]
    families: dict[int, list[int]] = {}
    for page, code in enumerate(column.codes.tolist()):
        first = original[code]
        if first >= 0 and first != page:
            families.setdefault(first, [first]).append(page)
    return {page: family for family in families.values() for page in family}
