"""The demo: the website of the Quillmere Botanic Garden, which is made up."""

from __future__ import annotations

from pathlib import Path

from davlo.files.store.own_folder import KEPT_OUT
from davlo.files.store.whole_files import write_new_files
from davlo.site import Site, open_site

GARDEN = Path(__file__).parent / "garden"
ESTATE = Path(__file__).parent / "estate"
"""What the estate of the demo has besides the garden: its own files, and two sister gardens."""


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
    return write_new_files(Path(folder), {**_files(GARDEN), **KEPT_OUT})


def write_demo_estate(folder: str | Path) -> tuple[Path, ...]:
    """Write an estate into a folder, which is made where it is missing: the garden and two made-up sister gardens.

    Returns
    -------
    tuple of Path
        The files, written whole.

    Raises
    ------
    FileExistsError
        If the folder holds anything already; nothing is written then.
    """
    garden = {f"garden/{name}": content for name, content in {**_files(GARDEN), **KEPT_OUT}.items()}
    return write_new_files(Path(folder), {**_files(ESTATE), **garden, **KEPT_OUT})


def _files(folder: Path) -> dict[str, bytes]:
    """The files of a folder and of those in it, by their names."""
    paths = (path for path in sorted(folder.rglob("*")) if path.is_file() and "__pycache__" not in path.parts)
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in paths}
