"""A site folder made of what somebody has: tables, sitemaps, built pages, rows of a database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from davlo.files.store.own_folder import KEPT_OUT
from davlo.files.store.whole_files import check_new, write_new_files

from .site_from_seen import StartedSite, site_from_seen
from .sources import read_sources


def start_site_from(
    folder: str | Path,
    sources: Sequence[str | Path],
    *,
    meanings: Mapping[str, str] | None = None,
    areas: str | Path | None = None,
    query: str = "",
    url: str = "",
    name: str = "",
    languages: Sequence[str] = (),
) -> StartedSite:
    """Write a site folder made of what somebody has: its values become defaults and exceptions.

    Nothing is fetched; the sources are read from disk, as hostile input.

    Parameters
    ----------
    folder : path
        It is made where it is missing.
    sources : sequence of path
        Tables (.csv, .xlsx), sitemaps (.xml, .gz), folders of HTML pages, or `database:NAME`. The first counts where
        they say different things.
    meanings : mapping of str to str, optional
        Details or settings by the columns of tables; `-` leaves a column out, `setting:NAME` makes it a setting of the
        site's own.
    areas : path, optional
        A file that names areas and details of built pages by CSS selectors.
    query : str, optional
        What to ask a database; its address comes from the environment.
    url, name : str, optional
        The site's address and its name; else what the sources tell.
    languages : sequence of str, optional
        The site's languages, the first one that of pages whose language no source tells; else what the sources tell.

    Returns
    -------
    StartedSite
        What was written, and what was guessed and lost.

    Raises
    ------
    SiteError
        If a source cannot be understood; it lists every fault.
    FileExistsError
        If the folder holds anything already; nothing is written then.

    Example
    -------
    >>> import davlo, pathlib, tempfile
    >>> with tempfile.TemporaryDirectory() as holder:
    ...     table = pathlib.Path(holder, "pages.csv")
    ...     _ = table.write_text("URL,Title,Sidebar\\n/,Home,main\\n/a,A,main\\n/b,B,main\\n")
    ...     made = davlo.start_site_from(holder + "/mine", [table])
    ...     made.pages, made.values, made.statements, made.exceptions
    (3, 3, 1, 0)
    """
    check_new(Path(folder))
    seen = read_sources(sources, meanings or {}, areas, query, url)
    if name:
        seen = replace(seen, name=name)
    if languages:
        spoken = seen.details.get("language", [""] * len(seen.addresses))
        details = {**seen.details, "language": [code or languages[0] for code in spoken]}
        seen = replace(seen, languages=tuple(languages), details=details)
    made = site_from_seen(seen)
    write_new_files(Path(folder), {**made.contents, **KEPT_OUT})
    return made
