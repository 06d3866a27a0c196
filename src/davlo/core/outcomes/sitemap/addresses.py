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

from ...arrays.codebooks import Codes, Mask
from ...arrays.texts import Texts, byte_table, concatenated, stacked
from ...site.model import SiteModel

FOR_OTHERS = "x-default"
"""The word of `hreflang` for the address for readers of all other languages."""
MOST_LETTERS = 2048
"""The most letters of an address in a sitemap (sitemaps.org/schemas/sitemap/0.9/sitemap.xsd, tLoc)."""
LANGUAGE_TAG = re.compile(r"[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*")
"""A language as `hreflang` takes it (BCP 47)."""
_HOST = re.compile(r"[\w.~%:-]+")
_NO_ADDRESS = re.compile(r"[\x00-\x20\x7f-\x9f<>\"\\^`{|}\u2028\u2029\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


_MAY_STAND = byte_table((string.ascii_letters + string.digits + "-._~/?!$&'()*+,;=:@").encode())
"""The bytes that may stand in a path and a query as they are (RFC 3986, sections 3.3 and 3.4)."""
BLOCK = 1 << 14
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
    blocks = (texts.take(odd[at : at + BLOCK]).laid_out() for at in range(0, len(odd), BLOCK))
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
    """The addresses that are published of pages, and which of them say the same in other languages."""

    # int64[n]: the page of each address; a page has several where `language_paths` give it one in each language
    page: NDArray[np.int64]
    written: Texts  # the addresses as the page list writes them; `urls` gives them as they are published
    # int32[n]: the language of each as a number into `languages`; -1 where it has none that an alternate could name
    language: Codes
    languages: tuple[str, ...]
    # int64[m]: addresses that are alternates, those of a family together, by language, then the one for all other
    # languages
    alternate: NDArray[np.int64]
    alternate_language: Codes  # int32[m]: the language of each alternate as a number into `alternate_languages`
    # `begin`, `end`: int64[n]: which of these are the alternates of each address, itself among them; none where both
    # are equal
    begin: NDArray[np.int64]
    end: NDArray[np.int64]
    ambiguous: int  # how many addresses are no alternates because another of their family has the same language
    pattern: Pattern
    in_pattern: Codes

    def __len__(self) -> int:
        return len(self.page)

    @property
    def alternate_languages(self) -> tuple[str, ...]:
        """What `hreflang` calls the languages of alternates."""
        return (*self.languages, FOR_OTHERS)

    def urls(self, numbers: NDArray[np.int64] | None = None) -> Texts:
        """These addresses, or all, as they are published: worked out anew, for all take much room."""
        if numbers is None:
            return _urls(self.pattern, self.written, self.in_pattern)
        return _urls(self.pattern, self.written.take(numbers).laid_out(), self.in_pattern[numbers])

    def too_long(self) -> NDArray[np.int64]:
        """The pages of which a sitemap could not list each address, as one is longer than `MOST_LETTERS`. int64[n]"""
        around = max(sum(map(len, words)) for words in zip(*self.pattern.pieces, strict=True))
        long = np.flatnonzero(3 * (self.written.end - self.written.start) + 3 * around > MOST_LETTERS)
        urls = self.urls(long)
        return np.unique(self.page[long[urls.end - urls.start > MOST_LETTERS]])

    def url_blocks(self) -> Iterator[Texts]:
        """All addresses as they are published, some at a time."""
        for begin in range(0, len(self), BLOCK):
            yield self.urls(np.arange(begin, min(begin + BLOCK, len(self))))

    def alternates(self, number: int) -> list[tuple[str, str]]:
        """The alternates of one address: languages and URLs."""
        some = self.alternate_numbers(number)
        return list(zip(some, self.urls(np.array([*some.values()], dtype=np.int64)), strict=True))

    def alternate_numbers(self, number: int) -> dict[str, int]:
        """The alternates of one address: its places among all addresses, by language."""
        some = slice(int(self.begin[number]), int(self.end[number]))
        names = (self.alternate_languages[code] for code in self.alternate_language[some].tolist())
        return dict(zip(names, self.alternate[some].tolist(), strict=True))


def published(site: SiteModel, pages: NDArray[np.int64]) -> Published:
    """The addresses of these pages: what the page list says, with its slash, its index file and its query.

    A full address in the page list is the page's only one. A page that has no language counts as one in the site's
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
    written = Texts.of_column(site.details.address).take(pages) if "address" in site.details.columns else None
    texts = site.details.written.take(pages)
    if written is not None:
        said = np.flatnonzero(written.end > written.start)
        texts = texts.replaced(said, written.take(said))
    if site.written_url:
        texts = _with_own_host(site, texts)
    local = texts.begins_with(ord("/"))
    words = site.details.language.words
    languages = tuple(dict.fromkeys([*site.languages, *sorted(words)]))
    code = np.array([languages.index(word) for word in words], dtype=np.int32)[site.details.language.codes[pages]]
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
    others = languages.index(site.for_other_languages) if site.for_other_languages in languages else -1
    alternates = _alternates(code, len(languages), family[pages[entry]], others)
    return Published(pages[entry], texts.take(entry), code, languages, *alternates, pattern, in_pattern)


def _with_own_host(site: SiteModel, texts: Texts) -> Texts:
    """Addresses of which the full ones have the site's host as the domain name system knows it."""
    far = np.flatnonzero(~texts.begins_with(ord("/")))
    return texts.replaced(far, Texts.of(site.url + site.page_names.published(texts[at]) for at in far.tolist()))


def _alternates(
    code: Codes, languages: int, family: NDArray[np.int64], others: int
) -> tuple[NDArray[np.int64], Codes, NDArray[np.int64], NDArray[np.int64], int]:
    """The alternates: of each family those whose language no other of it has; where each address's begin and end.

    The one in the language numbered `others` comes once more, at the end of its family: for all other languages.
    """
    can = np.flatnonzero(code >= 0)
    key = family[can] * (languages + 1) + code[can]
    can, key = can[np.argsort(key, kind="stable")], np.sort(key)
    same = key[1:] == key[:-1]
    alone = ~(np.append(same, False) | np.append(False, same)) if len(key) else np.zeros(0, dtype=bool)
    alternate = can[alone]
    is_one = np.zeros(len(code), dtype=bool)
    is_one[alternate] = True
    has_several = is_one & (np.bincount(family[alternate], minlength=int(family.max(initial=-1)) + 1)[family] > 1)
    ambiguous = len(can) - len(alternate)
    language = code[alternate]
    if others >= 0:
        more = alternate[language == others]
        alternate = np.append(alternate, more)
        language = np.append(language, np.full(len(more), languages, dtype=np.int32))
        order = np.argsort(family[alternate], kind="stable")
        alternate, language = alternate[order], language[order]
    upto = np.append(0, np.cumsum(np.bincount(family[alternate], minlength=int(family.max(initial=-1)) + 1)))
    begin, end = upto[family], upto[family + 1]
    return alternate, language, begin, np.where(has_several, end, begin), ambiguous


def _urls(pattern: Pattern, texts: Texts, code: Codes) -> Texts:
    """The URLs of addresses: `code: int32[n]` selects the pattern's words for each."""
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
    """For each page the page that it translates, or itself. int64[pages]

    A `translates` that names a missing page counts for nothing.
    """
    column = site.details.column("translates")
    original = site.tree.find_all(Texts.of(column.words))[column.codes]
    return np.where(original >= 0, original, np.arange(len(site.tree)))


def moved_addresses(before: SiteModel, after: SiteModel, renames: Mapping[str, str]) -> list[tuple[str, str]]:
    """The old and the new addresses of pages that moved; those that are published as before are left out.

    Example
    -------
    >>> import davlo
    >>> from davlo.core.change.steps.change import Change, MovePage
    >>> site = davlo.open_demo()
    >>> after = site.apply(Change((MovePage("/visit/maps", "/maps"),)))
    >>> moved_addresses(site, after, {"/visit/maps": "/maps"})
    [('https://quillmere.example/visit/maps', 'https://quillmere.example/maps')]
    """
    sides = []
    for site, paths in ((before, renames.keys()), (after, renames.values())):
        pages = site.tree.find_all(Texts.of(paths)).astype(np.int64)
        found, urls = published(site, pages), dict[int, list[str]]()
        for page, url in zip(found.page.tolist(), found.urls(), strict=True):
            urls.setdefault(page, []).append(url)
        sides.append([urls[page] for page in pages.tolist()])
    pairs = [pair for old, new in zip(*sides, strict=True) for pair in zip(old, new, strict=False)]
    return [(old, new) for old, new in pairs if old != new]
