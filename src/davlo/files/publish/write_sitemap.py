"""Writing a sitemap: its files whole, and a record of them in `.davlo/`, so that `check` can tell when it is stale."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.faults import Place
from davlo.core.outcomes.sitemap_marks import told
from davlo.core.outcomes.sitemap_reasons import sitemap_codes
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel

from ..store.last_sitemap import parts_gone, record_of, record_path
from ..store.outputs import OWN, refuse_site_files
from ..store.whole_files import write_together
from .sitemap_xml import joined_addresses, sitemap_addresses, sitemap_files


class WrittenSitemap(NamedTuple):
    """A sitemap: its files by name, the index or the only one first, and what to say of it.

    Attributes
    ----------
    files : dict of str to bytes
    addresses : int
        How many addresses it lists, those of other programs too.
    undated : int
        How many pages were modified in the future, and are listed without a date.
    again : tuple of (Place, str)
        Joined addresses that were there already, and so are listed once.
    unnoted : str
        Why the record of it could not be written; empty if it was.
    """

    files: dict[str, bytes]
    addresses: int
    undated: int
    again: tuple[tuple[Place, str], ...] = ()
    unnoted: str = ""


def make_sitemap(effective: EffectiveModel, folder: Path, name: str, today: datetime.date) -> WrittenSitemap:
    """A sitemap as it would be written today; nothing is written.

    Parameters
    ----------
    effective : EffectiveModel
    folder : Path
        The site folder, which holds the files of addresses to join.
    name : str
        The name of the file, as `sitemap.xml`.
    today : datetime.date

    Raises
    ------
    ValueError
        If the name does not end in .xml.
    SiteError
        If a file of addresses to join cannot be understood.
    """
    if not name.endswith(".xml"):
        raise ValueError(f"a sitemap is a file that ends in .xml, not {name!r}")
    with work("working the sitemap out", 2) as step:
        step("addresses")
        found = sitemap_addresses(effective, today)
        joined = joined_addresses(folder, effective.site.sitemap.join, found.found)
        step("files")
        files = sitemap_files([*found.found, *joined.found], name, effective.site.url)
    return WrittenSitemap(files, len(found.found) + len(joined.found), found.ahead, tuple(joined.again))


def write_sitemap(effective: EffectiveModel, folder: Path, to: Path, today: datetime.date) -> WrittenSitemap:
    """Write a sitemap, and note it in the site folder.

    Parameters
    ----------
    to : Path
        The file, or the index with the parts beside it.

    Raises
    ------
    OSError
        If it cannot be written.
    ValueError, SiteError
        As in `make_sitemap`.
    """
    made = make_sitemap(effective, folder, to.name, today)
    files = {to.parent / name: made.files[name] for name in made.files}
    refuse_site_files(effective.site, folder, files)
    files[to] = files.pop(to)  # the index last, when its parts are there
    gone = parts_gone(folder, to, made.files)
    listed = np.flatnonzero(sitemap_codes(effective) == 0)
    marks = told(effective, listed, today)
    record = record_of(folder, to, made.files, effective.site.sitemap.join, marks, today.isoformat())
    try:
        note = record_path(folder)
        write_together({note: record, **files}, gone)
    except OSError as error:
        if error.filename is None or not Path(error.filename).is_relative_to(folder / OWN):
            raise
        write_together(files, gone)
        return made._replace(unnoted=f"{folder / OWN} cannot be written: {error.strerror}")
    return made
