"""Writing files: whole or not at all."""

from __future__ import annotations

import errno
import os
import secrets
import tempfile
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

from .durable_files import Content, cannot_be_written, flush_folder, keep_old, sha256_of, undisturbed, write_beside

NEW, OLD = ".part", ".old"
MOST_KEPT = 40
"""How many letters of a file's name go into its temporary names: a letter has up to 4 bytes, and a name 255."""


class Place(NamedTuple):
    """A file that is written or taken away, and the names beside it that are in use meanwhile.

    Attributes
    ----------
    target : Path
    new : Path, or None
        What it becomes; None if it is taken away.
    old : Path
        The file that was there; no such file if there was none.
    expected : str
        SHA-256 of the file that is taken away; with other bytes it stays. Empty for any bytes.
    """

    target: Path
    new: Path | None
    old: Path
    expected: str = ""


def write_whole(path: Path, content: Content) -> None:
    """Write a file so that a crash leaves the old one or the new one.

    Raises OSError if it cannot be written.
    """
    write_together({path: content})


def write_together(
    contents: Mapping[Path, Content],
    gone: Mapping[Path, str] = MappingProxyType({}),
    last: Path | None = None,
    noted: Callable[[Sequence[Place], bool], None] = lambda places, is_complete: None,
) -> bool:
    """Write several files and take others away, all or none: each new file is complete before the first one is moved.

    `contents`: they are written beside in this order, so the last can tell of the others. `gone`: files to take away
    once the others are there, each with the SHA-256 that it must have; empty for any bytes. `last`: the file that comes
    into its place last. `noted`: called with the places before anything is written, and with True once all new files
    are complete: `finish` or `put_away` can then end what a crash cuts off. Returns whether all names beside the files
    are gone. Raises OSError if one cannot be written; the old files are as they were.
    """
    for path in contents:
        if path.exists() and not path.is_file():
            raise OSError(errno.EINVAL, "it cannot be written: it is no regular file", str(path))
    places: list[Place] = []
    try:
        places += [_place(path, is_written=True) for path in contents]
        places += [_place(path, is_written=False, expected=digest) for path, digest in gone.items()]
        noted(places, False)
        for place in places:
            if place.new is not None:
                write_beside(place.target, place.new, contents[place.target])
        with undisturbed():
            return _put_in_place(sorted(places, key=lambda place: (place.new is None, place.target == last)), noted)
    finally:
        for place in places:
            _taken_away(place.new)


def _put_in_place(places: Sequence[Place], noted: Callable[[Sequence[Place], bool], None]) -> bool:
    """Give complete files their names, all or none."""
    try:
        for place in places:
            _keep(place)
        noted(places, True)
        finish(places)
    except OSError:
        for place in places:
            _put_back(place)
        raise
    return put_away(places)


def _keep(place: Place) -> None:
    try:
        if place.target.exists():
            keep_old(place.target, place.old)
    except OSError as error:
        raise cannot_be_written(place.target, error) from None


def _put_back(place: Place) -> None:
    """Give the old file its name again; if that cannot be done, it stays beside."""
    with suppress(OSError):
        is_as_it_was = place.target.exists() if place.new is None else place.new.exists()
        if place.old.exists() and not is_as_it_was:
            os.replace(place.old, place.target)
        elif not is_as_it_was:
            place.target.unlink(missing_ok=True)
        place.old.unlink(missing_ok=True)


def finish(places: Sequence[Place]) -> None:
    """Put the new files where they belong, and take away those that go, as far as that is not done yet.

    Raises OSError if it cannot be done.
    """
    for place in places:
        try:
            if place.new is not None and place.new.exists():
                os.replace(place.new, place.target)
            elif place.new is None and place.old.exists() and place.expected in ("", sha256_of(place.old)):
                place.target.unlink(missing_ok=True)
        except OSError as error:
            raise cannot_be_written(place.target, error) from None
    for folder in {place.target.parent for place in places}:
        flush_folder(folder)


def put_away(places: Sequence[Place]) -> bool:
    """Take the names beside the files away; tells whether all are gone."""
    gone = [_taken_away(path) for place in places for path in (place.new, place.old)]
    return all(gone)


def _taken_away(path: Path | None) -> bool:
    with suppress(OSError):
        if path is not None:
            path.unlink(missing_ok=True)
        return True
    return False


def _place(path: Path, *, is_written: bool, expected: str = "") -> Place:
    beside = f".{path.name[:MOST_KEPT]}.{secrets.token_hex(8)}"
    return Place(path, path.with_name(beside + NEW) if is_written else None, path.with_name(beside + OLD), expected)


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
