"""Names of pages: the path that a written name means. Every file, call and command uses this module."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple
from urllib.parse import unquote, urlsplit

INDEX = ("index.html",)
"""The index files of a site that names none: the file that a server shows for a folder."""
_ADDRESS = re.compile(r"https?://", re.IGNORECASE)
_CODES = re.compile(r"(?:%[0-9A-Fa-f]{2})+")
_KEPT_CODES = re.compile(r"(%(?:2[35F]|3F))", re.IGNORECASE)
"""A percent-encoded number sign, per cent sign, slash or question mark is part of the path, and stays encoded."""


def starts_of(path: str) -> Iterator[str]:
    """The paths that a path begins with, the longest first; `/` is the last one.

    Example
    -------
    >>> [*starts_of("/visit/cafe/menu")]
    ['/visit/cafe', '/visit', '/']
    """
    while path != "/":
        path = path.rpartition("/")[0] or "/"
        yield path


class NamedPage(NamedTuple):
    """What the name of a page says."""

    path: str  # the path by which the page is known
    written: str  # the name as it was written, without a fragment: with its slash, index file and percent-encoding
    fragment: str  # the place in the page, with its `#`; empty if the name has none


class PageNames:
    """Reads names of pages.

    A slash or a fragment at the end, the name of an index file, the site's own host and percent-encoded letters do not
    make another page.

    `url`: the site's own address. `index`: the names of index files. `written_url`: the site's own address with its
    host as davlo.yaml writes it, if that is not ASCII.

    Example
    -------
    >>> names = PageNames("https://quillmere.example")
    >>> names.path("/visit/"), names.path("https://quillmere.example/visit/index.html#map"), names.path("/caf%C3%A9")
    ('/visit', '/visit', '/café')
    >>> names.path("https://other.example/")
    'https://other.example/'
    """

    def __init__(self, url: str, index: tuple[str, ...] = INDEX, written_url: str = "") -> None:
        parts = urlsplit(url)
        self.host, self.base, self.index = parts.netloc.lower(), parts.path.rstrip("/"), index
        self._begin = f"{parts.scheme}://{parts.netloc}{self.base}/"
        self._hosts = {self.host, urlsplit(written_url or url).netloc.lower()}

    def path(self, name: str) -> str:
        """The path that a name means; a name that cannot be a page's is returned unchanged."""
        return self.read(name).path

    def read(self, name: str) -> NamedPage:
        """The path that a name means, and how it is written."""
        name = name.strip()
        local = self._local(name)
        if not local.startswith("/"):
            return NamedPage(name, name, "")
        whole, sharp, fragment = local.partition("#")
        path, mark, query = whole.partition("?")
        return NamedPage(self._plain(decoded(path)) + mark + query, name.partition("#")[0], sharp + fragment)

    def published(self, name: str) -> str:
        """The address of a page as it is published, without the site's own host and without a fragment.

        Example
        -------
        >>> PageNames("https://quillmere.example").published("https://quillmere.example/visit/#map")
        '/visit/'
        """
        return self._local(name.strip()).partition("#")[0]

    @staticmethod
    def is_address(text: str) -> bool:
        """Whether it is a full address, of whatever host."""
        return bool(_ADDRESS.match(text))

    def _local(self, name: str) -> str:
        """The part of an address after the site's own; any other name unchanged."""
        if name.startswith(self._begin):  # most addresses of a sitemap or a table
            return name[len(self._begin) - 1 :]
        if not self.is_address(name):
            return name
        try:
            parts = urlsplit(name)
        except ValueError:
            return name
        after = name[name.index("://") + 3 + len(parts.netloc) :]
        if parts.netloc.lower() not in self._hosts or not f"{parts.path}/".startswith(f"{self.base}/"):
            return name
        local = after[len(self.base) :]
        return local if local.startswith("/") else f"/{local}"

    def _plain(self, path: str) -> str:
        """A path without the slashes and the index files at its end."""
        while True:
            path = path.rstrip("/")
            folder, slash, last = path.rpartition("/")
            if not slash or last not in self.index:
                return path or "/"
            path = folder


def decoded(path: str) -> str:
    """A path with its percent-encoded letters as letters; what acts in an address or on a terminal stays encoded.

    A path that could be decoded again stays as it is: it would be another page the second time.

    Example
    -------
    >>> decoded("/f%C3%BChrung"), decoded("/a%2Fb"), decoded("/100%25"), decoded("/%%34%31")
    ('/führung', '/a%2Fb', '/100%25', '/%%34%31')
    """
    if "%" not in path:
        return path
    found = _CODES.sub(_letters, path)
    return path if _CODES.sub(_letters, found) != found else found


def _letters(codes: re.Match[str]) -> str:
    """A run of codes as letters; what is no UTF-8 or cannot be printed stays encoded."""
    return "".join(
        part if _KEPT_CODES.fullmatch(part) or not _is_text(part) else unquote(part)
        for part in _KEPT_CODES.split(codes[0])
    )


def _is_text(codes: str) -> bool:
    try:
        return unquote(codes, errors="strict").isprintable()
    except UnicodeDecodeError:
        return False
