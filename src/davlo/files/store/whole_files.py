"""Writing files: whole or not at all."""

from __future__ import annotations

import errno
import os
import shutil
import signal
import tempfile
import threading
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path

from davlo.core.faults import StoppedAfterWriting

Content = bytes | Callable[[Path], None]
"""What a file shall hold, or what writes it, into a file of another name that is there already, and empty."""


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
            _write_part(path, Path(parts[path]), content)
        if last is not None:
            parts[last] = parts.pop(last)
        with _undisturbed():
            _put_in_place(parts)
            for path in gone:
                path.unlink(missing_ok=True)
    finally:
        for name in parts.values():
            Path(name).unlink(missing_ok=True)
    for folder in {path.parent for path in contents}:
        _flush_folder(folder)


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
        raise _cannot_be_written(path, error) from None
    finally:
        for old in filter(None, before.values()):
            Path(old).unlink(missing_ok=True)


def _linked(path: Path) -> str | None:
    """Another name for the file that is there now, or a copy of it; None where there is none."""
    if not path.exists():
        return None
    name = _part_name(path)
    try:
        os.unlink(name)
        os.link(path, name)
    except OSError:  # a file system without links
        shutil.copy2(path, name)
    return name


def _part_name(path: Path) -> str:
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:80]}.", suffix=".part")
    except (OSError, ValueError) as error:
        raise _cannot_be_written(path, error) from None
    os.close(handle)
    return name


def _write_part(path: Path, part: Path, content: Content) -> None:
    """Write what shall be a file into another one beside it, and flush it to the disk."""
    try:
        if callable(content):
            content(part)
        else:
            part.write_bytes(content)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.chmod(part, path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
    except OSError as error:
        raise _cannot_be_written(path, error) from None


def _cannot_be_written(path: Path, error: OSError | ValueError) -> OSError:
    """The error of a file, by its own name and not by that of its part."""
    why = getattr(error, "strerror", None) or str(error)
    return OSError(getattr(error, "errno", None) or errno.EINVAL, f"it cannot be written: {why}", str(path))


@contextmanager
def _undisturbed() -> Iterator[None]:
    """Ctrl-C waits until all files are in their places."""
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    pressed: list[int] = []
    before = signal.signal(signal.SIGINT, lambda number, frame: pressed.append(number))
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)
    if pressed:
        raise StoppedAfterWriting


def _flush_folder(folder: Path) -> None:
    """Flush the names of a folder to the disk, where the system can."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


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
