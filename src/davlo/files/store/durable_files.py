"""Single steps of writing that reach the disk. A step that fails names its file."""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from davlo.core.faults import StoppedAfterWriting

from ..read.site_file import open_regular

Content = bytes | Callable[[Path], None]
"""The new contents of a file, or a function that writes them into another file, which exists and is empty."""


def write_beside(target: Path, part: Path, content: Content, mode: int | None = None) -> None:
    """Write what shall become a file into a new file, and flush that to the disk.

    `target`, `part`: the file, and the new one, which may not be there yet, not even as a link. `mode`: the permissions
    (default: the target's). Raises OSError if it cannot be written; it names the target.
    """
    try:
        no_link = getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0)
        handle = os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | no_link, 0o600)
        with os.fdopen(handle, "wb") as file:
            if not callable(content):
                file.write(content)
        if callable(content):
            content(part)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        there = target.stat() if mode is None and target.exists() else None
        os.chmod(part, there.st_mode & 0o777 if there else 0o666 & ~_umask() if mode is None else mode)
        if there:
            _keep_owner(part, there)
    except (OSError, ValueError) as error:
        raise cannot_be_written(target, error) from None


def _keep_owner(part: Path, there: os.stat_result) -> None:
    """Give a file the owner and the group of the one that it replaces, where this user may."""
    now = part.stat()
    if (now.st_uid, now.st_gid) != (there.st_uid, there.st_gid):
        with suppress(OSError):
            os.chown(part, there.st_uid, there.st_gid)


def sha256_of(path: Path, *, follow: bool = True) -> str:
    """SHA-256 of a regular file, in hexadecimal digits.

    Raises OSError if it is not there, is no regular file or, unless links are followed, a link, or cannot be read.
    """
    with open_regular(path, follow=follow) as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def keep_old(path: Path, name: Path) -> None:
    """Another name for a file that is there, or a copy of it where the file system has no links."""
    try:
        os.link(path, name)
    except OSError:
        shutil.copy2(path, name)
        with name.open("rb") as file:
            os.fsync(file.fileno())


def flush_folder(folder: Path) -> None:
    """Flush the names of a folder to the disk, where the system can."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def cannot_be_written(path: Path, error: OSError | ValueError) -> OSError:
    """An error with the file's own name instead of that of its temporary part."""
    why = getattr(error, "strerror", None) or str(error)
    why = why.removeprefix("it cannot be written: ")
    return OSError(getattr(error, "errno", None) or errno.EINVAL, f"it cannot be written: {why}", str(path))


@contextmanager
def undisturbed() -> Iterator[None]:
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


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
