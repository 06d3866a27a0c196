"""Writes several files of a site together, through a journal: a crash leaves the old files or the new ones.

The new files lie complete in `.davlo/parts` before the journal names them. From then on, the next command can finish
the write; before that, nothing has happened. Finished writes are kept as records in `.davlo/writes`, each with what
takes it back.
"""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from ..read.site_file import open_regular, path_inside
from ..rewrite.cannot_rewrite import ChangedSince
from .durable_files import cannot_be_written, flush_folder, keep_old, replace_at_once, undisturbed, write_beside
from .own_folder import OWN, check_folder, own_folder
from .write_records import WriteRecord, as_json, read_record

JOURNAL, PARTS, WRITES = "journal.json", "parts", "writes"
KEPT = 50
"""How many finished writes are kept."""


class Journal:
    """The journal of one site folder. Its methods that write want the site's write lock held.

    Parameters
    ----------
    folder : Path
    """

    def __init__(self, folder: Path) -> None:
        self._folder, self._own = folder, folder / OWN

    @property
    def _path(self) -> Path:
        return self._own / JOURNAL

    def is_pending(self) -> bool:
        """Whether a write was begun and not finished."""
        return os.path.lexists(self._path)

    def mark(self) -> tuple[bool, int]:
        """A value that changes whenever a write begins or ends."""
        try:
            return self.is_pending(), (self._own / WRITES).stat().st_mtime_ns
        except OSError:
            return self.is_pending(), 0

    def writes(self) -> list[WriteRecord]:
        """The finished writes that nobody has taken back, the latest first; records that are damaged are left out."""
        found = []
        with suppress(OSError):
            check_folder(self._own)
            for number in self._numbers():
                record = read_record(self._folder, f"{OWN}/{WRITES}/{_name(number)}")
                if record is not None and record.number == number:
                    found.append(record)
        return found

    def write(self, contents: Mapping[str, bytes | None], record: WriteRecord) -> None:
        """Write files of the site, all or none.

        Parameters
        ----------
        contents : mapping of str to bytes or None
            For each file of `record` what it shall hold; None if it shall go.
        record : WriteRecord
            What is kept about it; if it takes another write back, that one's record goes instead.

        Raises
        ------
        ChangedSince
            If a file is not the one that the record names.
        OSError
            If something cannot be written; the old files are there then, or the next command brings them back.
        """
        _made(own_folder(self._folder) / WRITES)
        if self.is_pending():
            raise OSError(errno.EBUSY, "the journal of an earlier write cannot be put away", str(self._path))
        parts, targets = self._empty_parts(), self._targets(record)
        try:
            for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
                if digest_of_file(target) != one.before:
                    raise ChangedSince(f"somebody else changed {one.name} while Davlo worked: run this again")
                content = contents[one.name]
                if content is not None:
                    write_beside(target, parts / f"{place}.new", content)
                if one.before is not None:
                    keep_old(target, parts / f"{place}.old")
            flush_folder(parts)
            with undisturbed():
                replace_at_once(self._path, as_json(record))
                try:
                    self._forward(record, targets)
                except OSError as error:
                    self._back(record, targets)
                    raise cannot_be_written(Path(error.filename2 or error.filename or targets[0]), error) from None
                with suppress(OSError):  # the files are in place: the next command files the record
                    self._finish(record)
        finally:
            if not self.is_pending():
                shutil.rmtree(parts, ignore_errors=True)

    def recover(self) -> tuple[WriteRecord, bool] | None:
        """Finish a write that was cut off, or take it back where it cannot be finished.

        Returns
        -------
        (WriteRecord, bool), or None
            The write, and whether it is finished; None if none was cut off.

        Raises
        ------
        OSError
            If the journal cannot be believed, or its files cannot be written.
        """
        if not self.is_pending():
            return None
        check_folder(self._own)
        record = read_record(self._folder, f"{OWN}/{JOURNAL}")
        if record is None:
            told = "the journal of a write is damaged: look at the site's files, then delete it"
            raise OSError(errno.EINVAL, told, str(self._path))
        targets, parts = self._targets(record), self._own / PARTS
        with undisturbed():
            can = all(
                digest_of_file(target) in (one.before, one.after)
                and (
                    digest_of_file(target) == one.after
                    or one.after is None
                    or digest_of_file(parts / f"{place}.new") == one.after
                )
                for place, (one, target) in enumerate(zip(record.files, targets, strict=True))
            )
            if can:
                self._forward(record, targets)
                with suppress(OSError):
                    self._finish(record)
            else:
                self._back(record, targets)
        if not self.is_pending():
            shutil.rmtree(parts, ignore_errors=True)
        return record, can

    def next_number(self) -> int:
        """The number of the next write."""
        return max(self._numbers(), default=0) + 1

    def _numbers(self) -> list[int]:
        """The numbers of the finished writes, the latest first."""
        names = os.listdir(self._own / WRITES) if (self._own / WRITES).is_dir() else []
        return sorted(int(name[:6]) for name in names if name[:6].isdecimal() and name == _name(int(name[:6])))[::-1]

    def _empty_parts(self) -> Path:
        parts = self._own / PARTS
        if os.path.lexists(parts):
            check_folder(parts)
            shutil.rmtree(parts)
        parts.mkdir()
        return parts

    def _targets(self, record: WriteRecord) -> list[Path]:
        """Where the files of a write lie, links followed as far as they stay in the folder."""
        return [path_inside(self._folder, one.name) for one in record.files]

    def _forward(self, record: WriteRecord, targets: Sequence[Path]) -> None:
        """Put the new files into their places, as far as they are not there already."""
        for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
            if one.after is None:
                target.unlink(missing_ok=True)
            elif (self._own / PARTS / f"{place}.new").exists():
                os.replace(self._own / PARTS / f"{place}.new", target)
        for parent in {target.parent for target in targets}:
            flush_folder(parent)

    def _back(self, record: WriteRecord, targets: Sequence[Path]) -> None:
        """Put the old files back in place of the new ones, and drop the write."""
        for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
            old = self._own / PARTS / f"{place}.old"
            now = digest_of_file(target)
            if now == one.before or now != one.after:  # it is the old file, or another program has changed it
                continue
            if one.before is None:
                target.unlink()
            elif digest_of_file(old) == one.before:
                os.replace(old, target)
        for parent in {target.parent for target in targets}:
            flush_folder(parent)
        self._path.unlink()
        flush_folder(self._own)

    def _finish(self, record: WriteRecord) -> None:
        """Turn the journal into a record of a finished write, or drop the record of the write that was taken back."""
        writes = _made(self._own / WRITES)
        if record.takes_back:
            (writes / _name(record.takes_back)).unlink(missing_ok=True)
            self._path.unlink()
        else:
            os.replace(self._path, writes / _name(record.number))
        flush_folder(writes)
        flush_folder(self._own)
        for number in self._numbers()[KEPT:]:
            with suppress(OSError):
                (writes / _name(number)).unlink()


def _made(folder: Path) -> Path:
    """A folder of Davlo's own, made if it is missing."""
    folder.mkdir(exist_ok=True)
    check_folder(folder)
    return folder


def _name(number: int) -> str:
    return f"{number:06}.json"


def digest_of_file(path: Path) -> str | None:
    """SHA-256 of a file, in hexadecimal digits; None if it is not there.

    Raises
    ------
    OSError
        If it cannot be read.
    """
    try:
        with open_regular(path) as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except FileNotFoundError:
        return None
