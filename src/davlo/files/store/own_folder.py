"""`.davlo`: Davlo's own folder in a site folder. It can be deleted. Whoever made the site folder made this one, too.

So nothing in it is opened through a link, and nothing is believed but what `sealed_records` accepts.
"""

from __future__ import annotations

import errno
import os
import secrets
import stat
from contextlib import suppress
from io import FileIO
from pathlib import Path

from ..read.site_file import open_regular
from .durable_files import flush_folder, write_beside

OWN, IGNORE = ".davlo", ".gitignore"
KEPT_OUT = {f"{OWN}/{IGNORE}": b"*\n"}
"""The file that keeps the folder out of version control, by its name in a new site folder."""
MOST_ENTRIES = 10_000
"""How many names of a folder in `.davlo` are looked at; Davlo keeps some fifty."""


def own_folder(folder: Path) -> Path:
    """The folder `.davlo` of a site folder, made if it is missing, and kept out of version control.

    Raises OSError if it cannot be made, or is a link or anything else than a folder.
    """
    own = made(folder / OWN)
    if is_new(folder):
        write_own(own / IGNORE, KEPT_OUT[f"{OWN}/{IGNORE}"])
    return own


def is_new(folder: Path) -> bool:
    """Whether Davlo has written nothing yet in a site folder, as far as its own folder tells."""
    return not os.path.lexists(folder / OWN / IGNORE)


def made(path: Path) -> Path:
    """A folder of Davlo's own, made if it is missing.

    Raises OSError if it cannot be made, or is a link or anything else than a folder.
    """
    with suppress(FileExistsError):
        path.mkdir()
    check_folder(path)
    return path


def check_folder(path: Path) -> None:
    """Refuse a link, or anything else than a folder: what is written there would go somewhere else."""
    if not stat.S_ISDIR(path.lstat().st_mode):
        raise OSError(errno.ENOTDIR, "it is a link, and no folder", str(path))


def open_own(folder: Path, name: str) -> FileIO:
    """Open a file of `.davlo` to read its bytes; neither the file nor a folder on the way may be a link.

    Raises OSError if it is not there, is a link or no regular file, or cannot be read.
    """
    path = folder / OWN / name
    for above in (folder / OWN, path.parent):
        check_folder(above)
    return open_regular(path, follow=False)


def write_own(path: Path, content: bytes) -> None:
    """Write a file of `.davlo` whole, by way of a new file beside it with a random name.

    Raises OSError if it cannot be written.
    """
    part = path.with_name(f".{path.name}.{secrets.token_hex(8)}")
    try:
        write_beside(path, part, content)
        os.replace(part, path)
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
    flush_folder(path.parent)


def own_names(path: Path) -> list[str]:
    """The names in a folder of Davlo's own, at most `MOST_ENTRIES`; none if it is missing or a link."""
    found: list[str] = []
    with suppress(OSError):
        check_folder(path)
        with os.scandir(path) as entries:
            for entry in entries:
                if len(found) >= MOST_ENTRIES:
                    break
                found.append(entry.name)
    return found
