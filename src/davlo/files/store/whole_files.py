"""Writing files: whole or not at all."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Iterable, Mapping
from pathlib import Path

from .durable_files import Content, cannot_be_written, flush_folder, keep_old, undisturbed, write_beside


def write_whole(path: Path, content: Content) -> None:
    """Write a file so that a crash leaves the old one or the new one.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    write_together({path: content})


def write_together(contents: Mapping[Path, Content], gone: Iterable[Path] = (), last: Path | None = None) -> None:
    """Write several files, all or none: each beside its place and flushed, then all into their places.

    Parameters
    ----------
    contents : mapping of Path to bytes or function
    gone : iterable of Path
        Files to take away once the others are there.
    last : Path, optional
        The file that comes into its place last.

    Raises
    ------
    OSError
        If one cannot be written; the old files are as they were.
    """
    parts: dict[Path, str] = {}
    for path in contents:
        if path.exists() and not path.is_file():
            raise OSError(errno.EINVAL, "it cannot be written: it is no regular file", str(path))
    try:
        for path, content in contents.items():
            parts[path] = _part_name(path)
            write_beside(path, Path(parts[path]), content)
        if last is not None:
            parts[last] = parts.pop(last)
        with undisturbed():
            _put_in_place(parts)
            for path in gone:
                path.unlink(missing_ok=True)
    finally:
        for name in parts.values():
            Path(name).unlink(missing_ok=True)
    for folder in {path.parent for path in contents}:
        flush_folder(folder)


def _put_in_place(parts: dict[Path, str]) -> None:
    """Rename parts to what they shall be called, all or none; `parts` keeps those that were not renamed."""
    before: dict[Path, str | None] = {}
    try:
        for path in [*parts]:
            before[path] = _linked(path)
            os.replace(parts[path], path)
            del parts[path]
    except OSError as error:
        for path, old in before.items():
            if old is not None:
                os.replace(old, path)
            elif path not in parts:
                path.unlink(missing_ok=True)
        raise cannot_be_written(path, error) from None
    finally:
        for old in filter(None, before.values()):
            Path(old).unlink(missing_ok=True)


def _linked(path: Path) -> str | None:
    """Another name for the file that is there now, or a copy of it; None where there is none."""
    if not path.exists():
        return None
    name = _part_name(path)
    os.unlink(name)
    keep_old(path, Path(name))
    return name


def _part_name(path: Path) -> str:
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:80]}.", suffix=".part")
    except (OSError, ValueError) as error:
        raise cannot_be_written(path, error) from None
    os.close(handle)
    return name


def write_new_files(folder: Path, contents: Mapping[str, bytes]) -> tuple[Path, ...]:
    """Write files into a new or empty folder, all or none.

    Raises
    ------
    FileExistsError
        If the folder holds anything already.
    OSError
        If they cannot be written.
    """
    check_new(folder)
    try:
        _write_folder(folder, contents)
    except OSError as error:
        raise OSError(error.errno, f"it cannot be written: {error.strerror or error}", str(folder)) from None
    return tuple(folder / name for name in contents)


def check_new(folder: Path) -> None:
    """Raise FileExistsError if a folder holds anything already."""
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise FileExistsError(f"{folder} is there already and is not empty")


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
