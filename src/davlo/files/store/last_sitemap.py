"""What was published last: Davlo's own record of it, `.davlo/sitemap.json` in the site folder.

It can be deleted; then Davlo does not know whether a sitemap is stale.
"""

from __future__ import annotations

import datetime
import hashlib
import os
import shlex
from collections.abc import Collection, Iterable, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.texts import Marks
from davlo.core.outcomes.sitemap.sitemap_marks import Published, Told

from ..read.site_file import open_site_file
from .journal import digest_of_file
from .sealed_records import read_sealed, sealed

RECORD = "sitemap.json"
KIND, VERSION = "sitemap", 4
"""The kind of record, and its format's number, which changes when the record or its fingerprints change meaning."""


def record_of(
    folder: Path, to: Path, digests: Mapping[str, str], added_from: Sequence[str], told: Told, on: str, command: str
) -> bytes:
    """What to note in the site folder about a sitemap that is written, and where.

    `folder`: the site folder. `to`: the sitemap, or its index. `digests`: SHA-256 of each file that is written, by
    name. `added_from`: the files of addresses added to it, with the parts of an index. `told`: what it lists for the
    site's own pages. `on`: the date, as 2026-05-01. `command`: the command that writes it: sitemap or crawler-files.
    """
    record = _Record(
        datetime.date.fromisoformat(on),
        command,
        os.fsencode(os.path.relpath(to, folder)),
        dict(digests),
        _added(folder, added_from),
        _as_bytes(told.page),
        _as_bytes(told.entry),
    )
    return sealed(folder, KIND, VERSION, record)


def parts_gone(folder: Path, to: Path, files: Collection[str]) -> dict[Path, str]:
    """The files that Davlo wrote for the same sitemap, and that belong to it no more, each with its SHA-256."""
    record = _read_record(folder)
    if record is None or os.path.realpath(folder / os.fsdecode(record.to)) != os.path.realpath(to):
        return {}
    return {to.parent / name: digest for name, digest in record.files.items() if name not in files}


class _Record(NamedTuple):
    """The record of the sitemap written last. `pages` and `entries` are little-endian uint64."""

    written: datetime.date
    command: str
    to: bytes
    files: dict[str, str]
    added: dict[str, str]
    pages: bytes
    entries: bytes

    @property
    def told(self) -> Told:
        return Told(_as_marks(self.pages), _as_marks(self.entries))


def _read_record(folder: Path) -> _Record | None:
    return read_sealed(folder, RECORD, KIND, VERSION, _Record)


def last_published(folder: Path, added_from: Sequence[str]) -> Published | None:
    """The sitemap that was written last, and its state now; None if none is known.

    `folder`: the site folder. `added_from`: the files of addresses added to it now.
    """
    record = _read_record(folder)
    if record is None:
        return None
    to, before = folder / os.fsdecode(record.to), record.added
    now = _added(folder, dict.fromkeys([*added_from, *before]))
    differing = tuple(sorted(name for name in {*before, *now} if before.get(name) != now.get(name)))
    altered = any(_differs(to.parent / name, digest) for name, digest in record.files.items())
    file = os.path.relpath(to)
    again = f"--to {shlex.quote(file)}"
    if record.command == "crawler-files":
        again = f"--to {shlex.quote(os.path.relpath(to.parent))} --write"
    return Published(file, _again(folder, again, record.command), record.written, record.told, altered, differing)


def _again(folder: Path, words: str, command: str = "sitemap") -> str:
    """The command that writes a sitemap, as one would type it in the current folder."""
    here = Path.cwd()
    site = "" if folder.resolve() in (here, *here.parents) else f" --site {shlex.quote(os.path.relpath(folder))}"
    return f"davlo {command if command == 'crawler-files' else 'sitemap'} {words}{site}"


def _added(folder: Path, added_from: Iterable[str]) -> dict[str, str]:
    """The digest of each file of addresses; empty where it cannot be read."""
    found = {}
    for name in added_from:
        try:
            with open_site_file(folder, name) as file:
                found[name] = hashlib.file_digest(file, "sha256").hexdigest()
        except OSError:
            found[name] = ""
    return found


def _differs(path: Path, digest: str) -> bool:
    """Whether a file is there and has changed. A file that is gone may have been moved to the server."""
    now = _digest(path)
    return bool(now) and now != digest


def _digest(path: Path) -> str:
    """SHA-256 of a file, in hexadecimal digits; empty where it cannot be read."""
    try:
        return digest_of_file(path) or ""
    except OSError:
        return ""


def _as_bytes(marks: Marks) -> bytes:
    return marks.astype("<u8").tobytes()


def _as_marks(content: bytes) -> Marks:
    return np.frombuffer(content, dtype="<u8").astype(np.uint64)
