"""Addresses: the URLs of pages, percent-encoded, in each language."""

from __future__ import annotations

import re
import string
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple
from urllib.parse import urlsplit

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..arrays.texts import Texts, byte_table, concatenated, stacked
from ..site.model import SiteModel

LANGUAGE_TAG = re.compile(r"[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*")
"""A language as `hreflang` takes it (BCP 47)."""
_HOST = re.compile(r"[\w.~%:-]+")
_NO_ADDRESS = re.compile(r"[\x00-\x20\x7f-\x9f<>\"\\^`{|}\u2028\u2029\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


_MAY_STAND = byte_table((string.ascii_letters + string.digits + "-._~/?!$&'()*+,;=:@").encode())
"""The bytes that may stand in a path and a query as they are (RFC 3986, sections 3.3 and 3.4)."""
_BLOCK = 1 << 14
"""Addresses encoded at a time."""
_HEX = byte_table(string.hexdigits.encode())
_DIGITS = np.frombuffer(b"0123456789ABCDEF", dtype=np.uint8)


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


def encode_addresses(addresses: Texts) -> Texts:
    """Paths with their queries, or full addresses, as URLs hold them (RFC 3986); what is encoded already stays.

    Example
    -------
    >>> encode_addresses(Texts.of(["/été & co/?q=a b", "/%C3%A9", "/100%"])).tolist()
    ['/%C3%A9t%C3%A9%20&%20co/?q=a%20b', '/%C3%A9', '/100%25']
    """
    texts = addresses.laid_out()
    keeps = _keeps(texts.data)
    if keeps.all():
        return texts
    places = np.flatnonzero(~keeps)
    odd = np.flatnonzero(places.searchsorted(texts.end) > places.searchsorted(texts.start))
    blocks = (texts.take(odd[at : at + _BLOCK]).laid_out() for at in range(0, len(odd), _BLOCK))
    return texts.replaced(odd, stacked([_encoded(block) for block in blocks]))


def _keeps(data: NDArray[np.uint8]) -> Mask:
    """Which bytes stay as they are. bool[bytes]"""
    keeps = _MAY_STAND[data]
    percent = np.flatnonzero(data[:-2] == ord("%"))
    keeps[percent] = _HEX[data[percent + 1]] & _HEX[data[percent + 2]]
    return keeps


def _encoded(texts: Texts) -> Texts:
    """Texts that lie one after the other, with what may not stand in an address encoded."""
    keeps = _keeps(texts.data)
    end = np.cumsum(np.where(keeps, 1, 3))
    encoded = np.empty(int(end[-1]), dtype=np.uint8)
    encoded[end[keeps] - 1] = texts.data[keeps]
    odd, at = texts.data[~keeps], end[~keeps]
    encoded[at - 3], encoded[at - 2], encoded[at - 1] = ord("%"), _DIGITS[odd >> 4], _DIGITS[odd & 15]
    ends = np.append(np.int64(0), end)
    return Texts(encoded, ends[texts.start], ends[texts.end])


class Pattern(NamedTuple):
    """The texts before and after the path in an address, for each language; a full address has none."""

    pieces: tuple[tuple[str, ...], ...]

    @classmethod
    def of(cls, site: SiteModel, languages: tuple[str, ...]) -> Pattern:
        """The pattern of a site's addresses."""
        pieces = (site.url + (site.language_paths or "{path}")).split("{path}")
        return cls(tuple((*(piece.replace("{language}", one) for one in languages), "") for piece in pieces))


@dataclass(frozen=True)
class Published:
    """The addresses that are published of pages, and which of them say the same in other languages.

    Attributes
    ----------
    page : int64[n]
        The page of each address; a page has several where `language_paths` give it one in each language.
    written : Texts, n of them
        The addresses as the inventory writes them; `urls` gives them as they are published.
    language : int32[n]
        The language of each as a number into `languages`; -1 where it has none that an alternate could name.
    languages : tuple of str
    alternate : int64[m]
        Addresses that are alternates, those of a family together, by language.
    begin, end : int64[n]
        Which of these are the alternates of each address, itself among them; none where both are equal.
    ambiguous : int
        How many addresses are no alternates because another of their family has the same language.
    """

    page: NDArray[np.int64]
    written: Texts
    language: Codes
    languages: tuple[str, ...]
    alternate: NDArray[np.int64]
    begin: NDArray[np.int64]
    end: NDArray[np.int64]
    ambiguous: int
    pattern: Pattern
    in_pattern: Codes

    def __len__(self) -> int:
        return len(self.page)

    def urls(self, numbers: NDArray[np.int64] | None = None) -> Texts:
        """These addresses, or all, as they are published: worked out anew, for all take much room."""
        if numbers is None:
            return _urls(self.pattern, self.written, self.in_pattern)
        return _urls(self.pattern, self.written.take(numbers).laid_out(), self.in_pattern[numbers])

    def url_blocks(self) -> Iterator[Texts]:
        """All addresses as they are published, some at a time."""
        for begin in range(0, len(self), _BLOCK):
            yield self.urls(np.arange(begin, min(begin + _BLOCK, len(self))))

    def alternates(self, number: int) -> list[tuple[str, str]]:
        """The alternates of one address: languages and URLs."""
        some = self.alternate[int(self.begin[number]) : int(self.end[number])]
        names = [self.languages[code] for code in self.language[some].tolist()]
        return list(zip(names, self.urls(some), strict=True))


def published(site: SiteModel, pages: NDArray[np.int64]) -> Published:
    """The addresses of these pages: what the inventory says, with its slash, its index file and its query.

    A full address in the inventory is the page's only one. A page that has no language counts as one in the site's
    first language where something translates it.

    Example
    -------
    >>> import davlo, numpy as np
    >>> site = davlo.open_demo()
    >>> found = published(site, np.array([site.tree.number("/visit/tickets")]))
    >>> found.urls().tolist()
    ['https://quillmere.example/visit/tickets']
    """
    family = families(site)
    written = Texts.of_column(site.facts.address).take(pages) if "address" in site.facts.columns else None
    texts = site.facts.written.take(pages)
    if written is not None:
        said = np.flatnonzero(written.end > written.start)
        texts = texts.replaced(said, written.take(said))
    local = texts.begins_with(ord("/"))
    words = site.facts.language.words
    languages = tuple(dict.fromkeys([*site.languages, *sorted(words)]))
    code = np.array([languages.index(word) for word in words], dtype=np.int32)[site.facts.language.codes[pages]]
    blank = code == languages.index("") if "" in languages else np.zeros(len(pages), dtype=bool)
    each = np.ones(len(pages), dtype=np.int64)
    if site.language_paths and site.languages:
        each[blank & local] = len(site.languages)
    entry = np.repeat(np.arange(len(pages)), each)
    code = code[entry]
    several = each[entry] > 1
    first = np.cumsum(each) - each
    code[several] = (np.arange(len(entry)) - first[entry])[several]
    pattern = Pattern.of(site, languages)
    in_pattern = np.where(local[entry], code, len(languages)).astype(np.int32)
    of_family = np.bincount(family, minlength=len(site.tree))[family[pages[entry]]] > 1
    if site.languages:
        code[blank[entry] & ~several & of_family] = 0
    is_tag = np.array([LANGUAGE_TAG.fullmatch(word) is not None for word in languages], dtype=bool)
    code = np.where(is_tag[code], code, -1).astype(np.int32) if len(languages) else code
    alternates = _alternates(code, len(languages), family[pages[entry]])
    return Published(pages[entry], texts.take(entry), code, languages, *alternates, pattern, in_pattern)


def _alternates(
    code: Codes, languages: int, family: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64], int]:
    """The alternates: of each family those whose language no other of it has; where each address's begin and end."""
    can = np.flatnonzero(code >= 0)
    key = family[can] * (languages + 1) + code[can]
    can, key = can[np.argsort(key, kind="stable")], np.sort(key)
    same = key[1:] == key[:-1]
    alone = ~(np.append(same, False) | np.append(False, same)) if len(key) else np.zeros(0, dtype=bool)
    alternate = can[alone]
    upto = np.append(0, np.cumsum(np.bincount(family[alternate], minlength=int(family.max(initial=-1)) + 1)))
    begin, end = upto[family], upto[family + 1]
    is_one = np.zeros(len(code), dtype=bool)
    is_one[alternate] = True
    end = np.where(is_one & (end - begin > 1), end, begin)
    return alternate, begin, end, len(can) - len(alternate)


def _urls(pattern: Pattern, texts: Texts, code: Codes) -> Texts:
    """The URLs of addresses as they are written: `code: int32[n]` says with which of the pattern's words."""
    sharp = np.flatnonzero(texts.first(ord("#")) >= 0)
    if len(sharp):
        texts = texts.replaced(sharp, Texts.of(texts[at].partition("#")[0] for at in sharp.tolist()))
    queries = texts.first(ord("?"))
    cut = np.where(queries < 0, texts.end, queries)
    path, query = Texts(texts.data, texts.start, cut), Texts(texts.data, cut, texts.end)
    parts: list[Texts] = []
    for number, piece in enumerate(pattern.pieces):
        parts += [path] if number else []
        parts.append(Texts.of(piece).take(code))
    parts.append(query)
    return encode_addresses(concatenated(parts))


def families(site: SiteModel) -> NDArray[np.int64]:
    """For each page the page that it says the same as: the one it translates, or else itself. int64[pages]

    A `translates` that names a missing page counts for nothing.
    """
    column = site.facts.column("translates")
    original = site.tree.find_all(Texts.of(column.words))[column.codes]
    return np.where(original >= 0, original, np.arange(len(site.tree)))


def moved_addresses(before: SiteModel, after: SiteModel, renames: Mapping[str, str]) -> list[tuple[str, str]]:
    """The old and the new addresses of pages that moved; those that are published as before are left out.

    Example
    -------
    >>> import davlo
    >>> from davlo.core.change.steps import Change, MovePage
    >>> site = davlo.open_demo()
    >>> after = site.apply(Change((MovePage("/visit/maps", "/maps"),)))
    >>> moved_addresses(site, after, {"/visit/maps": "/maps"})
    [('https://quillmere.example/visit/maps', 'https://quillmere.example/maps')]
    """
    found = []
    for old, new in renames.items():
        sides = [
            published(site, np.array([site.tree.number(path)])).urls().tolist()
            for site, path in ((before, old), (after, new))
        ]
        found += [(was, now) for was, now in zip(*sides, strict=False) if was != now]
    return found
