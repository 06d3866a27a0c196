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
    """The pages of a folder.

    Raises OSError if the folder cannot be listed.
    """
    files, pages, left_out = sorted(_files(folder)), list[BuiltPage](), list[tuple[str, str]]()
    inside = folder.resolve()
    with work("reading the pages", len(files)) as step:
        for name in files:
            step(name)
            path = folder / name
            try:
                if not path.resolve().is_relative_to(inside):
                    left_out.append((name, "it is a link that leads out of the folder"))
                    continue
                with io.BufferedReader(open_regular(path)) as file:
                    content = file.read(MOST_BYTES + 1)
                pages.append(html_page(content, name, address_of(name), selectors))
            except ValueFault as error:
                left_out.append((name, error.what))
            except OSError as error:
                left_out.append((name, f"it cannot be read: {error.strerror or error}"))
    return BuiltFolder(tuple(with_own_headings(pages)), tuple(left_out))


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
    """The HTML files, from the folder on, with `/` between; hidden ones are left out."""

    def told(error: OSError) -> None:
        if Path(error.filename or "") == folder:
            raise error

    for above, folders, files in os.walk(folder, onerror=told):
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in files:
            if name.lower().endswith(ENDINGS) and not name.startswith("."):
                yield (Path(above) / name).relative_to(folder).as_posix()
