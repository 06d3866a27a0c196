"""Writing files: whole or not at all."""

from __future__ import annotations

import errno
import os
import secrets
import tempfile
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from .durable_files import Content, cannot_be_written, flush_folder, undisturbed, write_beside

NEW = ".part"
MOST_KEPT = 40
"""How many letters of a file's name go into its temporary names: a letter has up to 4 bytes, and a name 255."""


def write_whole(path: Path, content: Content) -> None:
    """Write a file so that a crash leaves the old one or the new one.

    Raises OSError if it cannot be written.
    """
    check_regular(path)
    new = path.with_name(name_beside(path) + NEW)
    try:
        write_beside(path, new, content)
        with undisturbed():
            try:
                os.replace(new, path)
            except OSError as error:
                raise cannot_be_written(path, error) from None
            flush_folder(path.parent)
    finally:
        with suppress(OSError):
            new.unlink(missing_ok=True)


def check_regular(path: Path) -> None:
    """Raise OSError if something is there that is no regular file."""
    if path.exists() and not path.is_file():
        raise OSError(errno.EINVAL, "it cannot be written: it is no regular file", str(path))


def name_beside(path: Path) -> str:
    """The beginning of a random name for a file beside another one."""
    return f".{path.name[:MOST_KEPT]}.{secrets.token_hex(8)}"


def write_new_files(folder: Path, contents: Mapping[str, bytes]) -> tuple[Path, ...]:
    """Write files into a new or empty folder, all or none.

    Raises FileExistsError if the folder holds anything already; OSError if they cannot be written.
    """
    check_new(folder)
    try:
        _write_folder(folder, contents)
    except OSError as error:
        raise OSError(error.errno, f"it cannot be written: {error.strerror or error}", str(folder)) from None
    return tuple(folder / name for name in contents)


def check_new(folder: Path) -> None:
    """Raise FileExistsError if a folder is not empty."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise FileExistsError(f"{folder} is there already and is not empty")


def _write_folder(folder: Path, contents: Mapping[str, bytes]) -> None:
    """Write the files into a temporary folder beside the target, then rename it."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder.parent, prefix=f".{folder.name}.") as holder:
        new = Path(holder) / folder.name
        new.mkdir()
        for name, content in contents.items():
            (new / name).parent.mkdir(parents=True, exist_ok=True)
            write_whole(new / name, content)
        if folder.exists():
            folder.rmdir()
        os.replace(new, folder)
