"""A folder of built HTML pages, in any layout; links that lead out of the folder are not followed."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple
from urllib.parse import quote

from davlo.core.faults import ValueFault
from davlo.core.progress import work

from ..read.site_file import open_regular
from .built_page import BuiltPage
from .html_document import MOST_BYTES
from .html_page import html_page
from .page_headings import with_own_headings
from .reading_processes import read_in_order
from .selectors import NO_SELECTORS, Selectors

ENDINGS = (".html", ".htm", ".xhtml")
INDEX_FILES = ("index.html", "index.htm", "index.xhtml")
_KEPT = "/!$&'()*+,;=:@~ "
"""Letters of a path that need no percent-encoding here, beside letters of any script."""


class BuiltFolder(NamedTuple):
    """What a folder of built pages holds."""

    pages: tuple[BuiltPage, ...]  # by file name
    # files that cannot be read as pages, and why, in a sentence without its subject
    left_out: tuple[tuple[str, str], ...]


def read_built_folder(folder: Path, selectors: Selectors = NO_SELECTORS) -> BuiltFolder:
    """The pages of a folder, read on all cores if they are many.

    Raises OSError if the folder cannot be listed.
    """
    files, pages, left_out = sorted(_files(folder)), list[BuiltPage](), list[tuple[str, str]]()
    with work("reading the pages", len(files)) as step:
        for name, found in zip(files, read_in_order(_Reader(folder, selectors).page, files), strict=True):
            step(name)
            if isinstance(found, str):
                left_out.append((name, found))
            else:
                pages.append(found)
    return BuiltFolder(tuple(with_own_headings(pages)), tuple(left_out))


class _Reader:
    """Reads the pages of a folder; `selectors` find areas and details that the conventions do not tell."""

    def __init__(self, folder: Path, selectors: Selectors) -> None:
        self._folder, self._inside, self._selectors = folder, folder.resolve(), selectors

    def page(self, name: str) -> BuiltPage | str:
        """The page of a file, or why it cannot be read, in a sentence without its subject."""
        path = self._folder / name
        if path.name.startswith("."):
            return "its name begins with a dot: it is hidden"
        try:
            if not path.resolve().is_relative_to(self._inside):
                return "it is a link that leads out of the folder"
            with io.BufferedReader(open_regular(path)) as file:
                content = file.read(MOST_BYTES + 1)
            return html_page(content, name, address_of(name), self._selectors)
        except ValueFault as error:
            return error.what
        except OSError as error:
            return f"it cannot be read: {error.strerror or error}"


def address_of(name: str) -> str:
    """The path at which a server shows a file of the folder.

    Example
    -------
    >>> address_of("visit/index.html"), address_of("visit.html"), address_of("50% off?.html")
    ('/visit/', '/visit.html', '/50%25 off%3F.html')
    """
    above, _, last = name.rpartition("/")
    shown = f"{above}/" if above else ""
    whole = shown if last.lower() in INDEX_FILES else name
    encoded = "".join(letter if letter.isalnum() else quote(letter, safe=_KEPT + "-._") for letter in whole)
    return f"/{encoded}"


def _files(folder: Path) -> Iterator[str]:
    """The HTML files, from the folder on, with `/` between; hidden folders are left out."""

    def told(error: OSError) -> None:
        if Path(error.filename or "") == folder:
            raise error

    for above, folders, files in os.walk(folder, onerror=told):
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in files:
            if name.lower().endswith(ENDINGS):
                yield (Path(above) / name).relative_to(folder).as_posix()
