"""What somebody has of their site, read from disk: a table, sitemaps, a folder of built pages, rows of a database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from davlo.core.faults import Fault, Place, SiteError
from davlo.files.built.built_folder import ENDINGS, read_built_folder
from davlo.files.built.crawler_files import ROBOTS, robots_lines, sitemap_of
from davlo.files.built.selectors import NO_SELECTORS, Selectors, read_areas
from davlo.files.built.sitemap_files import GZIP, read_sitemaps
from davlo.files.read.sections.publication import read_robots
from davlo.files.read.site_file import open_regular
from davlo.files.read.yaml.node_reader import Reader
from davlo.files.read.yaml.yaml_nodes import Items, Scalar

from .seen_pages import seen_in_pages
from .seen_site import Remark, SeenSite
from .seen_sitemaps import seen_in_sitemaps
from .seen_tables import seen_in_database, seen_in_file
from .together import together

DATABASE = "database:"
_XML = (b"<", b"\xef\xbb\xbf<", b"\xff\xfe<", b"\xfe\xff\x00<", GZIP)


class HowToRead(NamedTuple):
    """What people say about their sources."""

    meanings: Mapping[str, str] = {}  # details or settings by the columns of tables
    selectors: Selectors = NO_SELECTORS  # what finds areas and details of built pages
    query: str = ""  # the query of a database


def read_sources(
    sources: Sequence[str | Path], meanings: Mapping[str, str], areas: str | Path | None, query: str, url: str
) -> SeenSite:
    """What several sources show of a site, put together.

    Parameters
    ----------
    sources : sequence of path
        Tables (.csv, .xlsx), sitemaps (.xml, .gz), folders of HTML pages, or `database:NAME`.
    meanings : mapping of str to str
        Details or settings by the columns of tables.
    areas : path or None
        A file that names areas and details of built pages by CSS selectors.
    query : str
        What to ask a database.
    url : str
        The site's address; empty: what the sources tell.

    Raises
    ------
    SiteError
        If a source cannot be understood, or lacks what was said about it; it lists every fault.
    """
    selectors = NO_SELECTORS if areas is None else read_areas(Path(areas))
    if areas is not None and not any(Path(source).is_dir() for source in sources):
        raise SiteError([Fault(Place(str(areas)), "it is for a folder of HTML pages, and no source is one")])
    how = HowToRead(meanings, selectors, query)
    seen = together([read_source(str(source), how) for source in sources], url)
    columns = tuple(one.column for one in seen.columns)
    unknown = [column for column in meanings if column not in columns]
    if unknown:
        what = "--column names the column {!r}, and no source has it"
        raise SiteError(Fault(Place("sources"), what.format(column), column, columns) for column in unknown)
    return seen


def is_table(source: str | Path) -> bool:
    """Whether a source is a table: a blank cell of it says that there is nothing."""
    name = str(source)
    return name.startswith(DATABASE) or (not Path(name).is_dir() and not name.lower().endswith((".xml", ".gz")))


def read_source(source: str, how: HowToRead) -> SeenSite:
    """What a source shows of a site: one page at least.

    `source`: a file, a folder, or `database:NAME`. Raises SiteError if it cannot be understood.
    """
    seen = _read(source, how)
    if not seen.addresses:
        hint = "name the folder that holds the HTML pages" if Path(source).is_dir() else ""
        raise SiteError([Fault(Place(source), "it shows no page", hint=hint)])
    return seen


def _in_folder(folder: Path, how: HowToRead) -> SeenSite:
    """What a folder of built pages shows, with the sitemap and the robots.txt in it.

    The dates of the sitemap count; what it leaves out is left out of it.
    """
    seen = seen_in_pages(read_built_folder(folder, how.selectors), folder.name)
    lines = robots_lines(folder)
    reader = Reader()
    read_robots(Items([Scalar(line.text, line.place, bare=True) for line in lines or ()], Place(ROBOTS)), reader)
    wrong = {fault.place.line for fault in reader.faults}
    own = [line.text for line in lines or () if line.key != "sitemap" and line.place.line not in wrong]
    while own and not own[-1]:
        own.pop()
    seen = replace(seen, robots=tuple(own))
    if wrong:
        what = f"lines of {ROBOTS} that crawlers cannot understand are left out: {len(wrong)}"
        seen = replace(seen, lost=(*seen.lost, Remark(what, 0, reader.faults[0].what)))
    path = sitemap_of(folder, lines)
    if path is None or not seen.addresses:
        return seen
    try:
        listed = seen_in_sitemaps(read_sitemaps(path), path.name)
    except SiteError as error:
        return replace(seen, lost=(*seen.lost, *(Remark(f"{folder.name}/{one}") for one in error.faults)))
    dates = {name: texts for name, texts in listed.details.items() if name == "modified"}
    return together([SeenSite(listed.addresses, dates), seen, listed]) if dates else together([seen, listed])


def _read(source: str, how: HowToRead) -> SeenSite:
    if source.startswith(DATABASE):
        if not how.query:
            hint = "--query 'select path, title from pages'"
            raise SiteError([Fault(Place(source), "a database needs a query", hint=hint)])
        return seen_in_database(source.removeprefix(DATABASE), how.query, how.meanings)
    path = Path(source)
    try:
        if path.is_dir():
            return _in_folder(path, how)
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
