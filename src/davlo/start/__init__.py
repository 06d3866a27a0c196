"""Beginning a site folder."""

from __future__ import annotations

from pathlib import Path

from davlo.files.form.json_schema import SCHEMA, schema_text
from davlo.files.store.own_folder import KEPT_OUT
from davlo.files.store.whole_files import write_new_files

TEMPLATE = Path(__file__).parent / "site"
"""The files of a new site."""


def start_site(folder: str | Path) -> tuple[Path, ...]:
    """Write a small new site into a folder, which is made if it is missing.

    Parameters
    ----------
    folder : path

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
    contents |= {SCHEMA: schema_text().encode(), **KEPT_OUT}
    return write_new_files(Path(folder), contents)
