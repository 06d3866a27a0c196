"""Puts several files into their places together: a crash leaves the old files or the new ones.

All new files lie complete under temporary names before a note in `.davlo` names them. From then on the next command of
the same user finishes what was cut off, or takes it back.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple, TypeAlias

from ..read.site_file import path_inside
from .durable_files import cannot_be_written, flush_folder, keep_old, sha256_of, undisturbed
from .own_folder import OWN, write_own
from .sealed_records import read_sealed, sealed
from .write_records import WriteRecord

VERSION = 3
"""The number of the format of a note."""


Ended: TypeAlias = "Callable[[bool], None]"
"""Called at the end of a write: whether the new files are there, or else the old ones."""


class Place(NamedTuple):
    """A file that is written or taken away, and the temporary names that are in use meanwhile."""

    target: Path
    new: Path  # what it becomes; no such file if it is taken away
    old: Path  # another name of the file that is there now; no such file if there is none
    before: str | None  # SHA-256 of the file that is there now; None: there is none
    after: str | None  # SHA-256 of what it becomes; None: it is taken away


class NotedPlace(NamedTuple):
    """A place as a note holds it."""

    file: str  # its path in the folder that is written to, or in `.davlo`
    is_own: bool  # whether it is in `.davlo`
    new: str
    old: str
    before: str | None
    after: str | None


class Note(NamedTuple):
    """What is being written."""

    places: tuple[NotedPlace, ...]
    is_complete: bool = True  # whether all new files are there
    parts: str = ""  # the folder in `.davlo` with the temporary names; empty: they are beside the files
    record: WriteRecord | None = None  # what becomes the record of the write


class ChangedMeanwhile(OSError):
    """A file that another program changed while Davlo worked."""

    def __init__(self, path: Path) -> None:
        super().__init__(errno.EBUSY, "somebody else changed it while Davlo worked: run this again", str(path))


class Journal:
    """A note in `.davlo`, and what it is about. Whoever writes holds the site's write lock.

    `folder`, `to`: the site folder, and the folder whose files are written. `name`: the file of the note.
    """

    def __init__(self, folder: Path, name: str, to: Path) -> None:
        self._folder, self._name, self._to = folder, name, to

    @property
    def path(self) -> Path:
        """Where the note lies."""
        return self._folder / OWN / self._name

    def is_pending(self) -> bool:
        """Whether a write was begun and not finished, by whomever."""
        return os.path.lexists(self.path)

    def pending(self) -> Note | None:
        """What this user began to write and did not finish."""
        kind = kind_of_note(self._name)
        return read_sealed(self._folder, self._name, kind, VERSION, Note) if self.is_pending() else None

    def note(self, note: Note) -> None:
        """Note what is being written; raises OSError if that cannot be done."""
        write_own(self.path, sealed(self._folder, kind_of_note(self._name), VERSION, note))

    def forget(self) -> None:
        """Take the note away; raises OSError if that cannot be done."""
        self.path.unlink(missing_ok=True)
        flush_folder(self.path.parent)

    def places(self, note: Note) -> list[Place]:
        """The places of a note. Links are followed as far as they stay in the folder."""
        found = []
        for one in note.places:
            above, _, name = one.file.rpartition("/")
            if one.is_own:
                target = self._folder / OWN / one.file
            elif note.parts:
                target = path_inside(self._to, one.file)
            else:
                target = path_inside(self._to, above) / name
            parts = self._folder / OWN / note.parts if note.parts else target.parent
            found.append(Place(target, parts / one.new, parts / one.old, one.before, one.after))
        return found

    def put_in_place(self, note: Note, ended: Ended, *, is_noted: bool = True) -> None:
        """Note that all new files are complete, and put them into their places.

        `ended`: called when all new files are there (True) or all old ones (False), while the note is still there; it
        takes the note and the temporary names away. `is_noted`: without a note a crash is not taken back. Raises
        ChangedMeanwhile if a file is not the one that the note names, up to the moment in which it is replaced; OSError
        if something cannot be written. The old files are there then, or the next command brings them back.
        """
        places = self.places(note)
        with undisturbed():
            try:
                if is_noted:
                    self.note(note)
                _forward(places)
            except OSError:
                _back(places)
                ended(False)
                raise
            with suppress(OSError):  # the files are in place: the next command does the rest
                ended(True)

    def recover(self, note: Note, ended: Ended) -> bool:
        """Finish what was cut off, or take it back where it cannot be finished; tells which.

        `ended`: as for `put_in_place`. Raises OSError if the files cannot be written.
        """
        with undisturbed():
            places = self.places(note) if note.is_complete else []
            if note.is_complete and all(map(_can_be_finished, places)):
                with suppress(ChangedMeanwhile):
                    _forward(places)
                    with suppress(OSError):
                        ended(True)
                    return True
            _back(places)
            ended(False)
        return False


def kind_of_note(name: str) -> str:
    """The kind of record that a note of this name is: no other note can stand in its place."""
    return f"unfinished write {name}"


def digest_of_file(path: Path) -> str | None:
    """SHA-256 of a file, in hexadecimal digits; None if it is not there.

    Raises OSError if it cannot be read.
    """
    with suppress(FileNotFoundError):
        return sha256_of(path)
    return None


def _forward(places: Sequence[Place]) -> None:
    """Put the new files into their places, as far as they are not there already.

    The file that is there is kept under a second name, and compared, right before it is replaced. It is compared
    again after that: if an editor saved into the same file meanwhile, what it saved comes back.
    """
    for place in places:
        target, old = place.target, place.old
        try:
            is_done = not target.exists() if place.after is None else not place.new.exists()
            if is_done:
                continue
            if place.before is not None and target.exists():
                old.unlink(missing_ok=True)
                keep_old(target, old)
                if _digest(old) != place.before or not _is_one_file(old, target):
                    raise ChangedMeanwhile(target)
            elif place.before is not None or os.path.lexists(target):
                raise ChangedMeanwhile(target)
            if place.after is None:
                target.unlink()
            else:
                os.replace(place.new, target)
            if place.before is not None and _digest(old) != place.before:
                os.replace(old, target)
                raise ChangedMeanwhile(target)
        except ChangedMeanwhile:
            raise
        except OSError as error:
            raise cannot_be_written(target, error) from None
    _flush(places)


def _back(places: Sequence[Place]) -> None:
    """Put the old files back in place of the new ones; a file that another program has changed since stays."""
    for place in places:
        now = digest_of_file(place.target)
        if now == place.before or now != place.after:  # it is the old file, or another program has changed it
            continue
        if place.before is None:
            place.target.unlink()
        elif _digest(place.old) == place.before:
            os.replace(place.old, place.target)
    _flush(places)


def _can_be_finished(place: Place) -> bool:
    """Whether a place holds the new file, or the old one while the new one is ready."""
    now = digest_of_file(place.target)
    return now == place.after or (now == place.before and (place.after is None or _digest(place.new) == place.after))


def _flush(places: Sequence[Place]) -> None:
    for parent in {place.target.parent for place in places}:
        flush_folder(parent)


def _is_one_file(one: Path, other: Path) -> bool:
    """Whether two names are one file, or, where the file system has no links, files of one size and time."""
    a, b = one.stat(), other.stat()
    return (a.st_ino, a.st_dev) == (b.st_ino, b.st_dev) or (a.st_size, a.st_mtime_ns) == (b.st_size, b.st_mtime_ns)


def _digest(part: Path) -> str | None:
    """SHA-256 of a file under a temporary name; None if it is missing, is a link or cannot be read."""
    with suppress(OSError):
        return sha256_of(part, follow=False)
    return None
