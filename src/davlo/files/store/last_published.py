"""What `crawler-files` wrote last: Davlo's own record of it, `.davlo/published.json` in the site folder.

It can be deleted; then all files count as new. Davlo checks it before using it.
"""

from __future__ import annotations

import datetime
import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from davlo.core.outcomes.addresses import is_web_address

from ..read.site_file import read_site_file
from .own_folder import OWN

RECORD = "published.json"
VERSION = 1
"""The format's number; it changes when the record changes its meaning."""


class PublishedFiles(NamedTuple):
    """The files that were published last.

    Attributes
    ----------
    to : Path
        The folder; it may be gone.
    on : datetime.date
    files : mapping of str to str
        SHA-256 of each, in hexadecimal digits, by name.
    redirects : mapping of str to str
        Old addresses and new ones.
    last_write : int
        The number of the site's last write then; 0 if there was none.
    """

    to: Path
    on: datetime.date
    files: Mapping[str, str]
    redirects: Mapping[str, str]
    last_write: int


def record_of_files(folder: Path, published: PublishedFiles) -> bytes:
    """What to note in a site folder about files that are published."""
    record = {
        "version": VERSION,
        "to": os.path.relpath(published.to, folder),
        "on": published.on.isoformat(),
        "files": dict(published.files),
        "redirects": dict(published.redirects),
        "last_write": published.last_write,
    }
    return json.dumps(record, indent=1).encode() + b"\n"


def last_published_files(folder: Path) -> PublishedFiles | None:
    """What was published last; None if there is no valid record."""
    try:
        record = json.loads(read_site_file(folder, f"{OWN}/{RECORD}"))
        if record["version"] != VERSION:
            return None
        files, redirects = (
            {str(key): str(value) for key, value in record[part].items()} for part in ("files", "redirects")
        )
        if not all(is_web_address(address) for pair in redirects.items() for address in pair):
            return None
        on = datetime.date.fromisoformat(record["on"])
        return PublishedFiles(folder / str(record["to"]), on, files, redirects, int(record["last_write"]))
    except (OSError, ValueError, TypeError, AttributeError, LookupError, RecursionError):
        return None
