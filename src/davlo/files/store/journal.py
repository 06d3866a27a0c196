"""Writes several files of a site together, through a journal: a crash leaves the old files or the new ones.

The new files lie complete in a folder of `.davlo` with a random name before the journal names them. From then on, the
next command of the same user can finish the write; before that, nothing has happened. Finished writes are kept as
records in `.davlo/writes`, each with what takes it back.
"""

from __future__ import annotations

import errno
import os
import secrets
import shutil
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from ..read.site_file import path_inside
from ..rewrite.cannot_rewrite import ChangedSince
from .durable_files import cannot_be_written, flush_folder, keep_old, sha256_of, undisturbed, write_beside
from .own_folder import OWN, made, own_folder, own_names, write_own
from .sealed_records import is_own, read_sealed, sealed
from .write_records import KIND, VERSION, WriteRecord

JOURNAL, PARTS, WRITES = "journal.json", "parts-", "writes"
PENDING = "unfinished write"
"""The kind of record that a journal is."""
KEPT = 50
"""How many finished writes are kept."""


class _Pending(NamedTuple):
    """A write that is under way: the folder in `.davlo` with its parts, and its record."""

    parts: str
    record: WriteRecord


class Journal:
    """The journal of one site folder. Its methods that write want the site's write lock held."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._own = folder, folder / OWN

    @property
    def _path(self) -> Path:
        return self._own / JOURNAL

    def is_pending(self) -> bool:
        """Whether a write was begun and not finished, by whomever."""
        return os.path.lexists(self._path)

    def is_own(self) -> bool:
        """Whether this user began a write and it was not finished."""
        return self._pending() is not None

    def _pending(self) -> _Pending | None:
        return read_sealed(self._folder, JOURNAL, PENDING, VERSION, _Pending) if self.is_pending() else None

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
            raise OSError(errno.EBUSY, "the journal of an earlier write cannot be put away", str(self._path))
        self._clear_parts()
        name, targets = f"{PARTS}{secrets.token_hex(8)}", self._targets(record)
        parts = self._own / name
        parts.mkdir(mode=0o700)
        try:
            for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
                if digest_of_file(target) != one.before:
                    raise changed_since(one.name)
                content = contents[one.name]
                if content is not None:
                    write_beside(target, parts / f"{place}.new", content)
            flush_folder(parts)
            with undisturbed():
                write_own(self._path, sealed(self._folder, PENDING, VERSION, _Pending(name, record)))
                try:
                    self._forward(record, targets, parts)
                except (OSError, ChangedSince) as error:
                    self._back(record, targets, parts)
                    if isinstance(error, ChangedSince):
                        raise
                    raise cannot_be_written(Path(error.filename2 or error.filename or targets[0]), error) from None
                with suppress(OSError):  # the files are in place: the next command files the record
                    self._finish(record)
        finally:
            if not self.is_pending():
                shutil.rmtree(parts, ignore_errors=True)

    def recover(self) -> tuple[WriteRecord, bool] | None:
        """Finish a write of this user that was cut off, or take it back where it cannot be finished.

        Returns the write, and whether it is finished; None if none was cut off, or it is somebody else's. Raises
        OSError if its files cannot be written.
        """
        pending = self._pending()
        if pending is None:
            return None
        record, parts = pending.record, self._own / pending.parts
        targets = self._targets(record)
        with undisturbed():
            can = all(
                now == one.after
                or (now == one.before and (one.after is None or _digest(parts / f"{place}.new") == one.after))
                for place, (one, now) in enumerate(zip(record.files, map(digest_of_file, targets), strict=True))
            )
            if can:
                try:
                    self._forward(record, targets, parts)
                except ChangedSince:
                    can = False
            if not can:
                self._back(record, targets, parts)
            else:
                with suppress(OSError):
                    self._finish(record)
        if not self.is_pending():
            shutil.rmtree(parts, ignore_errors=True)
        return record, can

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

    def _targets(self, record: WriteRecord) -> list[Path]:
        """Where the files of a write lie, links followed as far as they stay in the folder."""
        return [path_inside(self._folder, one.name) for one in record.files]

    def _forward(self, record: WriteRecord, targets: Sequence[Path], parts: Path) -> None:
        """Put the new files into their places, as far as they are not there already.

        The file that is there is kept under a second name, and compared, right before it is replaced. It is compared
        again after that: if an editor saved into the same file meanwhile, what it saved comes back.
        """
        for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
            new, old = parts / f"{place}.new", parts / f"{place}.old"
            is_done = digest_of_file(target) == one.after if one.after is None else not new.exists()
            if is_done:
                continue
            if one.before is not None and target.exists():
                old.unlink(missing_ok=True)
                keep_old(target, old)
                if _digest(old) != one.before or not _is_same(old, target):
                    raise changed_since(one.name)
            elif one.before is not None or os.path.lexists(target):
                raise changed_since(one.name)
            if one.after is None:
                target.unlink()
            else:
                os.replace(new, target)
            if one.before is not None and _digest(old) != one.before:
                os.replace(old, target)
                raise changed_since(one.name)
        for parent in {target.parent for target in targets}:
            flush_folder(parent)

    def _back(self, record: WriteRecord, targets: Sequence[Path], parts: Path) -> None:
        """Put the old files back in place of the new ones, and drop the write."""
        for place, (one, target) in enumerate(zip(record.files, targets, strict=True)):
            old = parts / f"{place}.old"
            now = digest_of_file(target)
            if now == one.before or now != one.after:  # it is the old file, or another program has changed it
                continue
            if one.before is None:
                target.unlink()
            elif _digest(old) == one.before:
                os.replace(old, target)
        for parent in {target.parent for target in targets}:
            flush_folder(parent)
        self._path.unlink()
        flush_folder(self._own)

    def _finish(self, record: WriteRecord) -> None:
        """Turn the journal into a record of a finished write, or drop the record of the write that was taken back."""
        writes = made(self._own / WRITES)
        if record.takes_back:
            (writes / _name(record.takes_back)).unlink(missing_ok=True)
        else:
            write_own(writes / _name(record.number), sealed(self._folder, KIND, VERSION, record))
        self._path.unlink()
        flush_folder(writes)
        flush_folder(self._own)
        own = [number for number in self._numbers() if is_own(self._folder, f"{WRITES}/{_name(number)}", KIND)]
        for number in own[KEPT:]:
            with suppress(OSError):
                (writes / _name(number)).unlink()


def changed_since(name: str) -> ChangedSince:
    """The error about a file that another program changed while Davlo worked."""
    return ChangedSince(f"somebody else changed {name} while Davlo worked: run this again")


def _is_same(one: Path, other: Path) -> bool:
    """Whether two names are one file, or, where the file system has no links, files of one size and time."""
    a, b = one.stat(), other.stat()
    return (a.st_ino, a.st_dev) == (b.st_ino, b.st_dev) or (a.st_size, a.st_mtime_ns) == (b.st_size, b.st_mtime_ns)


def _name(number: int) -> str:
    return f"{number:06}.json"


def _is_name(name: str) -> bool:
    return name.isascii() and name[:6].isdecimal() and name[6:] == ".json"


def digest_of_file(path: Path) -> str | None:
    """SHA-256 of a file, in hexadecimal digits; None if it is not there.

    Raises OSError if it cannot be read.
    """
    with suppress(FileNotFoundError):
        return sha256_of(path)
    return None


def _digest(part: Path) -> str | None:
    """SHA-256 of a part; None if it is missing, is a link or cannot be read."""
    with suppress(OSError):
        return sha256_of(part, follow=False)
    return None
