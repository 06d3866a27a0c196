"""Writes several files of a site together, and keeps a record of each write with what takes it back.

The new files lie complete in a folder of `.davlo` with a random name before the journal names them. Before that,
nothing has happened. Finished writes are kept as records in `.davlo/writes`.
"""

from __future__ import annotations

import errno
import secrets
import shutil
from collections.abc import Mapping
from contextlib import suppress
from functools import partial
from pathlib import Path

from ..read.site_file import path_inside
from ..rewrite.cannot_rewrite import ChangedSince
from .durable_files import flush_folder, write_beside
from .journal import ChangedMeanwhile, Journal, Note, NotedPlace, digest_of_file
from .own_folder import OWN, made, own_folder, own_names, write_own
from .sealed_records import is_own, read_sealed, sealed
from .write_records import KIND, VERSION, WriteRecord

JOURNAL, PARTS, WRITES = "journal.json", "parts-", "writes"
KEPT = 50
"""How many finished writes are kept."""


class SiteJournal:
    """The journal of one site folder. Its methods that write want the site's write lock held."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._own = folder, folder / OWN
        self._journal = Journal(folder, JOURNAL, folder)

    def is_pending(self) -> bool:
        """Whether a write was begun and not finished, by whomever."""
        return self._journal.is_pending()

    def is_own(self) -> bool:
        """Whether this user began a write and it was not finished."""
        return self._journal.pending() is not None

    def mark(self) -> tuple[bool, int]:
        """A value that changes whenever a write begins or ends."""
        try:
            return self.is_pending(), (self._own / WRITES).stat().st_mtime_ns
        except OSError:
            return self.is_pending(), 0

    def writes(self) -> list[WriteRecord]:
        """The finished writes of this user that nobody has taken back, the latest first."""
        found = []
        for number in self._numbers():
            record = read_sealed(self._folder, f"{WRITES}/{_name(number)}", KIND, VERSION, WriteRecord)
            if record is not None and record.number == number:
                found.append(record)
        return found

    def write(self, contents: Mapping[str, bytes | None], record: WriteRecord) -> None:
        """Write files of the site, all or none.

        `contents`: for each file of `record` what it shall hold; None if it shall go. `record`: what is kept about it;
        if it takes another write back, that one's record goes instead. Raises ChangedSince if a file is not the one
        that the record names, up to the moment in which it is replaced; OSError if something cannot be written; the old
        files are there then, or the next command brings them back.
        """
        made(own_folder(self._folder) / WRITES)
        if self.is_pending():
            raise OSError(errno.EBUSY, "the journal of an earlier write cannot be put away", str(self._journal.path))
        self._clear_parts()
        parts = self._own / f"{PARTS}{secrets.token_hex(8)}"
        parts.mkdir(mode=0o700)
        targets = [path_inside(self._folder, one.name) for one in record.files]
        try:
            for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
                if digest_of_file(target) != one.before:
                    raise changed_since(one.name)
                content = contents[one.name]
                if content is not None:
                    write_beside(target, parts / f"{place}.new", content)
            flush_folder(parts)
            places = (
                NotedPlace(one.name, False, f"{place}.new", f"{place}.old", one.before, one.after)
                for place, one in enumerate(record.files)
            )
            note = Note(tuple(places), parts=parts.name, record=record)
            self._journal.put_in_place(note, partial(self._ended, record))
        except ChangedMeanwhile as error:
            raise changed_since(record.files[targets.index(Path(error.filename))].name) from None
        finally:
            if not self.is_pending():
                shutil.rmtree(parts, ignore_errors=True)

    def recover(self) -> tuple[WriteRecord, bool] | None:
        """Finish a write of this user that was cut off, or take it back where it cannot be finished.

        Returns the write, and whether it is finished; None if none was cut off, or it is somebody else's. Raises
        OSError if its files cannot be written.
        """
        note = self._journal.pending()
        if note is None or note.record is None:
            return None
        is_finished = self._journal.recover(note, partial(self._ended, note.record))
        if not self.is_pending():
            shutil.rmtree(self._own / note.parts, ignore_errors=True)
        return note.record, is_finished

    def next_number(self) -> int:
        """The number of the next write."""
        number = max((one.number for one in self.writes()), default=0) + 1
        taken = {*self._numbers()}
        while number in taken:  # somebody else's record
            number += 1
        return number

    def _numbers(self) -> list[int]:
        """The numbers that the names of records have, the latest first."""
        names = own_names(self._own / WRITES) if self._is_folder() else []
        return sorted((int(name[:6]) for name in names if _is_name(name)), reverse=True)

    def _is_folder(self) -> bool:
        """Whether `.davlo` is there and no link."""
        return self._own.is_dir() and not self._own.is_symlink()

    def _clear_parts(self) -> None:
        """Take away what a crash left before its journal was written."""
        for name in own_names(self._own):
            if name.startswith(PARTS):
                shutil.rmtree(self._own / name, ignore_errors=True)

    def _ended(self, record: WriteRecord, is_finished: bool) -> None:
        """Turn the journal into a record of a finished write, or drop the record of the write that was taken back."""
        if not is_finished:
            self._journal.forget()
            return
        writes = made(self._own / WRITES)
        if record.takes_back:
            (writes / _name(record.takes_back)).unlink(missing_ok=True)
        else:
            write_own(writes / _name(record.number), sealed(self._folder, KIND, VERSION, record))
        self._journal.forget()
        flush_folder(writes)
        own = [number for number in self._numbers() if is_own(self._folder, f"{WRITES}/{_name(number)}", KIND)]
        for number in own[KEPT:]:
            with suppress(OSError):
                (writes / _name(number)).unlink()


def changed_since(name: str) -> ChangedSince:
    """The error about a file that another program changed while Davlo worked."""
    return ChangedSince(f"somebody else changed {name} while Davlo worked: run this again")


def _name(number: int) -> str:
    return f"{number:06}.json"


def _is_name(name: str) -> bool:
    return name.isascii() and name[:6].isdecimal() and name[6:] == ".json"
