"""What `crawler-files` wrote last: Davlo's own record of it, `.davlo/published.json` in the site folder.

It can be deleted; then all files count as new.
"""

from __future__ import annotations

import datetime
import os
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from .sealed_records import read_sealed, sealed

RECORD = "published.json"
KIND, VERSION = "published files", 2
"""The kind of record, and its format's number, which changes when the record changes its meaning."""


class PublishedFiles(NamedTuple):
    """The files that were published last."""

    to: Path  # the folder; it may be gone
    on: datetime.date
    files: Mapping[str, str]  # SHA-256 of each, in hexadecimal digits, by name
    redirects: Mapping[str, str]  # old addresses and new ones
    last_write: int  # the number of the site's last write then; 0 if there was none


class _Record(NamedTuple):
    to: bytes
    on: datetime.date
    files: dict[str, str]
    redirects: dict[str, str]
    last_write: int


def record_of_files(folder: Path, published: PublishedFiles) -> bytes:
    """What to note in a site folder about files that are published."""
    to, on, files, redirects, last_write = published
    record = _Record(os.fsencode(os.path.relpath(to, folder)), on, dict(files), dict(redirects), last_write)
    return sealed(folder, KIND, VERSION, record)


def last_published_files(folder: Path) -> PublishedFiles | None:
    """What was published last; None if there is no record of this user."""
    record = read_sealed(folder, RECORD, KIND, VERSION, _Record)
    return record and PublishedFiles(folder / os.fsdecode(record.to), *record[1:])
