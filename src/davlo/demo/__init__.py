"""The demo: the website of the Quillmere Botanic Garden, which is made up."""

from __future__ import annotations

from pathlib import Path

from davlo.files.store.own_folder import KEPT_OUT
from davlo.files.store.whole_files import write_new_files
from davlo.site import Site, open_site

GARDEN = Path(__file__).parent / "garden"


def open_demo() -> Site:
    """The demo site, as `open_site` reads it.

    Example
    -------
    >>> import davlo
    >>> davlo.open_demo().url
    'https://quillmere.example'
    """
    return open_site(GARDEN)


def write_demo(folder: str | Path) -> tuple[Path, ...]:
    """Write the demo site's files into a folder, which is made where it is missing.

    Returns
    -------
    tuple of Path
        The files, written whole.

    Raises
    ------
    FileExistsError
        If the folder holds anything already; nothing is written then.
    """
    contents = {path.name: path.read_bytes() for path in sorted(GARDEN.iterdir()) if path.is_file()}
    return write_new_files(Path(folder), {**contents, **KEPT_OUT})
