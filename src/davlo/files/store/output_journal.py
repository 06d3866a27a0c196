"""Files that leave the site together, such as a sitemap in parts: a crash leaves the old or the new ones.

While Davlo writes into a folder, a note in `.davlo` lists the files, and the random names of their new contents. The
next command of the same user that writes into the same folder finishes the unfinished write, or takes it back.
"""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from ..read.site_file import path_inside
from .durable_files import Content
from .own_folder import OWN, own_folder, write_own
from .sealed_records import read_sealed, sealed
from .whole_files import Place, finish, put_away, write_together
from .write_lock import write_lock

NOTE, VERSION = "unfinished output", 2
"""The kind of record that a note is, and its format's number."""
_NAME = re.compile(r"output-[0-9a-f]{16}\.json")


def is_note(name: str) -> bool:
    """Whether a file in `.davlo` has the name of such a note."""
    return _NAME.fullmatch(name) is not None


class _NotedPlace(NamedTuple):
    """A file by its path in the folder, or in `.davlo` where it is a record, and the names beside it."""

    file: str
    is_record: bool
    new: str | None
    old: str
    expected: str


class _Note(NamedTuple):
    is_complete: bool
    places: tuple[_NotedPlace, ...]


class OutputJournal:
    """The note that a site folder holds while Davlo writes files into another folder.

    `folder`, `to`: the site folder, and the folder for the files. `records`: the names of Davlo's own records that are
    written with them, in `.davlo`.
    """

    def __init__(self, folder: Path, to: Path, records: Iterable[str]) -> None:
        self._folder, self._to, self._records = folder, to, frozenset(records)
        self._name = f"output-{hashlib.sha256(os.fsencode(to.resolve())).hexdigest()[:16]}.json"

    def recover(self) -> bool | None:
        """Finish a write that was cut off, or take it back.

        Returns whether the new files are there now, or else the old ones; None if none was cut off. Raises OSError if
        neither can be done.
        """
        if not self._is_pending():
            return None
        with write_lock(self._folder):
            if not self._is_pending():  # another process was writing, and has finished
                return None
            note = read_sealed(self._folder, self._name, NOTE, VERSION, _Note)
            if note is None:
                return None
            is_complete, places = note.is_complete, [self._as_place(one) for one in note.places]
            if is_complete:
                finish(places)
            if put_away(places):
                self._forget()
        return is_complete

    def write(
        self,
        files: Mapping[Path, Content],
        records: Mapping[str, Content],
        gone: Mapping[Path, str],
        last: Path | None = None,
    ) -> str:
        """Write files, all or none, and with them Davlo's records of them, by name.

        `gone`: files to take away, each with the SHA-256 of what Davlo wrote there; a file with other bytes stays.
        `last`: the file that comes into its place last. Returns why the records could not be written, with which the
        files are written all the same; empty if they were. Raises OSError if a file cannot be written.
        """
        try:
            own = own_folder(self._folder)
            contents = {**files, **{own / name: record for name, record in records.items()}}
            with write_lock(self._folder):
                is_put_away = True
                try:
                    is_put_away = write_together(contents, gone, last, self._note)
                finally:
                    if is_put_away:
                        self._forget()
        except OSError as error:
            if error.filename is None or not Path(error.filename).is_relative_to(self._folder / OWN):
                raise
            write_together(files, gone, last)
            return f"{self._folder / OWN} cannot be written: {error.strerror}"
        return ""

    def _is_pending(self) -> bool:
        return os.path.lexists(self._folder / OWN / self._name)

    def _forget(self) -> None:
        with suppress(OSError):
            (self._folder / OWN / self._name).unlink(missing_ok=True)

    def _note(self, places: Sequence[Place], is_complete: bool) -> None:
        note = _Note(is_complete, tuple(self._as_noted(place) for place in places))
        write_own(self._folder / OWN / self._name, sealed(self._folder, NOTE, VERSION, note))

    def _as_noted(self, place: Place) -> _NotedPlace:
        is_record = place.target.name in self._records and place.target.parent == self._folder / OWN
        root = (self._folder / OWN if is_record else self._to).resolve()
        file = (place.target.parent.resolve() / place.target.name).relative_to(root)
        new = None if place.new is None else place.new.name
        return _NotedPlace(file.as_posix(), is_record, new, place.old.name, place.expected)

    def _as_place(self, noted: _NotedPlace) -> Place:
        above, _, name = noted.file.rpartition("/")
        parent = self._folder / OWN if noted.is_record else path_inside(self._to, above)
        new = None if noted.new is None else parent / noted.new
        return Place(parent / name, new, parent / noted.old, noted.expected)
