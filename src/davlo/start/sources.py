"""What somebody has of their site, read from disk: a table, sitemaps, a folder of built pages, rows of a database."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from davlo.core.faults import Fault, Place, SiteError
from davlo.files.built.built_folder import ENDINGS, read_built_folder
from davlo.files.built.selectors import NO_SELECTORS, Selectors
from davlo.files.built.sitemap_files import GZIP, read_sitemaps
from davlo.files.read.site_file import open_regular

from .seen_pages import seen_in_pages
from .seen_site import SeenSite
from .seen_sitemaps import seen_in_sitemaps
from .seen_tables import seen_in_database, seen_in_file

DATABASE = "database:"
_XML = (b"<", b"\xef\xbb\xbf<", b"\xff\xfe<", b"\xfe\xff\x00<", GZIP)


class HowToRead(NamedTuple):
    """What people say about their sources."""

    meanings: Mapping[str, str] = {}  # details or settings by the columns of tables
    selectors: Selectors = NO_SELECTORS  # what finds areas and details of built pages
    query: str = ""  # the query of a database


def read_source(source: str, how: HowToRead) -> SeenSite:
    """What a source shows of a site: one page at least.

    `source`: a file, a folder, or `database:NAME`. Raises SiteError if it cannot be understood.
    """
    seen = _read(source, how)
    if not seen.addresses:
        hint = "name the folder that holds the HTML pages" if Path(source).is_dir() else ""
        raise SiteError([Fault(Place(source), "it shows no page", hint=hint)])
    return seen


def _read(source: str, how: HowToRead) -> SeenSite:
    if source.startswith(DATABASE):
        if not how.query:
            hint = "--query 'select path, title from pages'"
            raise SiteError([Fault(Place(source), "a database needs a query", hint=hint)])
        return seen_in_database(source.removeprefix(DATABASE), how.query, how.meanings)
    path = Path(source)
    try:
        if path.is_dir():
            return seen_in_pages(read_built_folder(path, how.selectors), path.name)
        with open_regular(path) as file:
            begin = file.read(512)
            is_xml = begin.lstrip().startswith(_XML)
            content = b"" if is_xml else begin + file.readall()
        if path.suffix.lower() in ENDINGS:
            hint = f"name the folder that holds the pages: --from {path.parent}"
            raise SiteError([Fault(Place(source), "one page is no site", hint=hint)])
        if is_xml:
            return seen_in_sitemaps(read_sitemaps(path), path.name)
        return seen_in_file(content, how.meanings, path.name)
    except FileNotFoundError:
        raise SiteError([Fault(Place(source), "there is no such file or folder")]) from None
    except OSError as error:
        raise SiteError([Fault(Place(source), f"it cannot be read: {error.strerror or error}")]) from None
