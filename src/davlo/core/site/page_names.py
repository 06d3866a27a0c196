"""Names of pages: the path that people mean by what they write. Every file, call and command asks here."""

from __future__ import annotations

import re
from urllib.parse import unquote, urlsplit

_ADDRESS = re.compile(r"https?://", re.IGNORECASE)
_KEEPS_CODES = re.compile(r"%2f|%25", re.IGNORECASE)
"""A slash or a per cent sign that is percent-encoded is no slash of the path."""


class PageNames:
    """Reads names of pages: a full address of the site's own host is its path, and a slash at the end is dropped.

    Parameters
    ----------
    url : str
        The site's own address.

    Example
    -------
    >>> names = PageNames("https://quillmere.example")
    >>> names.path("/visit/"), names.path("https://quillmere.example/visit"), names.path("https://other.example/")
    ('/visit', '/visit', 'https://other.example/')
    """

    def __init__(self, url: str) -> None:
        parts = urlsplit(url)
        self.host, self.base = parts.netloc.lower(), parts.path.rstrip("/")

    def path(self, name: str) -> str:
        """The path that a name means; a name that cannot be a page's stays as it is."""
        return self.without_slash(self.of_address(name.strip()))

    @staticmethod
    def is_address(text: str) -> bool:
        """Whether it is a full address, of whatever host."""
        return bool(_ADDRESS.match(text))

    @staticmethod
    def without_slash(path: str) -> str:
        """A path without the slashes at its end."""
        return path.rstrip("/") or "/" if path.startswith("/") else path

    def of_address(self, address: str) -> str:
        """The path in an address of the site's own host; anything else as it is."""
        if not self.is_address(address):
            return address
        try:
            parts = urlsplit(address)
        except ValueError:
            return address
        if parts.netloc.lower() != self.host or not f"{parts.path}/".startswith(f"{self.base}/"):
            return address
        path = parts.path[len(self.base) :] or "/"
        path = path if _KEEPS_CODES.search(path) else unquote(path, errors="surrogateescape")
        if not path.isprintable():
            path = parts.path[len(self.base) :]
        return path + (f"?{parts.query}" if parts.query else "")
