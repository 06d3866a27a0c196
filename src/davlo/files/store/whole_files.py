"""Writing files: whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Mapping
from pathlib import Path


def write_whole(path: Path, content: bytes | Callable[[Path], None]) -> None:
    """Write a file so that a crash leaves the old one or the new one.

    `content` may be what writes it, into a file of another name that is there already, and empty.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    except OSError as error:
        raise OSError(error.errno, f"it cannot be written: {error.strerror}", str(path)) from None
    try:
        with os.fdopen(handle, "wb") as file:
            if callable(content):
                content(Path(name))
            else:
                file.write(content)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(name, path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def write_new_files(folder: Path, contents: Mapping[str, bytes]) -> tuple[Path, ...]:
    """Write files into a new or empty folder, all or none.

    Raises
    ------
    FileExistsError
        If the folder holds anything already.
    OSError
        If they cannot be written.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise FileExistsError(f"{folder} is there already and is not empty")
    try:
        _write_folder(folder, contents)
    except OSError as error:
        raise OSError(error.errno, f"it cannot be written: {error.strerror or error}", str(folder)) from None
    return tuple(folder / name for name in contents)


def _write_folder(folder: Path, contents: Mapping[str, bytes]) -> None:
    """The files in a new folder beside the place, then the folder into its place."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder.parent, prefix=f".{folder.name}.") as holder:
        new = Path(holder) / folder.name
        new.mkdir()
        for name, content in contents.items():
            write_whole(new / name, content)
        if folder.exists():
            folder.rmdir()
        os.replace(new, folder)
