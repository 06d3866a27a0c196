"""`.davlo`: Davlo's own folder in a site folder. It can be deleted. Davlo checks what it holds before using it."""

from __future__ import annotations

import errno
import stat
from pathlib import Path

OWN = ".davlo"


def own_folder(folder: Path) -> Path:
    """The folder `.davlo` of a site folder, made if it is missing.

    Raises
    ------
    OSError
        If it cannot be made, or is a link or anything else than a folder.
    """
    own = folder / OWN
    own.mkdir(exist_ok=True)
    check_folder(own)
    return own


def check_folder(path: Path) -> None:
    """Refuse a link, or anything else than a folder: what is written there would go somewhere else."""
    if not stat.S_ISDIR(path.lstat().st_mode):
        raise OSError(errno.ENOTDIR, "it is a link, and no folder", str(path))
