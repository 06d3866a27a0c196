"""Beginning a site folder."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from pathlib import Path

from davlo.files.form.json_schema import SCHEMA, schema_text
from davlo.files.rewrite.yaml_text import flow
from davlo.files.store.own_folder import KEPT_OUT
from davlo.files.store.whole_files import write_new_files

TEMPLATE = Path(__file__).parent / "site"
"""The files of a new site."""


NAME, URL = "My website", "https://www.my-website.example"
"""The name and the address that the files of a new site have."""


def start_site(folder: str | Path, *, name: str = "", url: str = "", languages: Sequence[str] = ()) -> tuple[Path, ...]:
    """Write a small new site into a folder, which is made if it is missing.

    Parameters
    ----------
    folder : path
    name, url : str, optional
        The site's name and address.
    languages : sequence of str, optional
        The site's languages; its pages have the first one.

    Returns
    -------
    tuple of Path
        The files, written whole.

    Raises
    ------
    FileExistsError
        If the folder holds anything already; nothing is written then.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     _ = davlo.start_site(folder + "/mine")
    ...     len(davlo.open_site(folder + "/mine").tree)
    7
    """
    contents = {path.name: path.read_bytes() for path in sorted(TEMPLATE.iterdir()) if path.is_file()}
    contents = _said(contents, name, url, languages)
    contents |= {SCHEMA: schema_text().encode(), **KEPT_OUT}
    return write_new_files(Path(folder), contents)


def _said(contents: Mapping[str, bytes], name: str, url: str, languages: Sequence[str]) -> dict[str, bytes]:
    """The files of a new site with its name, its address and its languages."""
    decisions, pages = contents["davlo.yaml"].decode(), contents["pages.csv"].decode()
    if name:
        decisions = decisions.replace(f"name: {NAME}", f"name: {flow(name)}").replace(
            f"text: © {NAME}", f"text: {flow(f'© {name}')}"
        )
    if url:
        decisions = decisions.replace(URL, flow(url.rstrip("/")))
    if languages:
        decisions = decisions.replace("\n  page_list:", f"\n  languages: {flow([*languages])}\n  page_list:", 1)
        told = io.StringIO()
        header, *rows = csv.reader(io.StringIO(pages))
        table = [[*header, "language"], *([*row, languages[0]] for row in rows)]
        csv.writer(told, lineterminator="\n").writerows(table)
        pages = told.getvalue()
    return {**contents, "davlo.yaml": decisions.encode(), "pages.csv": pages.encode()}
