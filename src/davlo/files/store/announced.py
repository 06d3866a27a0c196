"""What search engines were told: Davlo's own record, `.davlo/announced.json` in the site folder.

It can be deleted; then all addresses count as new. Davlo checks it before using it.
"""

from __future__ import annotations

import base64
import binascii
import datetime
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from davlo.core.arrays.texts import Marks
from davlo.core.outcomes.addresses import is_web_address

from ..read.site_file import read_site_file
from .own_folder import OWN, own_folder
from .whole_files import write_whole

RECORD = "announced.json"
VERSION = 1
"""The format's number; it changes when the record, or its marks, change their meaning."""


class Announced(NamedTuple):
    """What a search engine was told.

    Attributes
    ----------
    on : str
        The date of the last time, as 2026-05-01.
    addresses : sequence of str
    marks : uint64[n]
        A mark for what each page was then.
    """

    on: str
    addresses: Sequence[str]
    marks: Marks


NOTHING = Announced("", (), np.zeros(0, dtype=np.uint64))


def announced_to(folder: Path, endpoint: str) -> Announced:
    """What the search engine at an address was told; nothing if there is no valid record."""
    try:
        one = _records(folder)[endpoint]
        on = str(one["on"])
        datetime.date.fromisoformat(on)
        addresses = [str(address) for address in one["addresses"]]
        marks = np.frombuffer(base64.b64decode(one["marks"], validate=True), dtype="<u8").astype(np.uint64)
        if len(marks) != len(addresses) or not all(map(is_web_address, addresses)):
            return NOTHING
        return Announced(on, addresses, marks)
    except (ValueError, TypeError, AttributeError, LookupError, binascii.Error):
        return NOTHING


def note_announced(folder: Path, endpoint: str, told: Announced) -> None:
    """Note what the search engine at an address was told.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    one = {
        "on": told.on,
        "addresses": list(told.addresses),
        "marks": base64.b64encode(told.marks.astype("<u8").tobytes()).decode(),
    }
    record = {"version": VERSION, "told": {**_records(folder), endpoint: one}}
    write_whole(own_folder(folder) / RECORD, json.dumps(record, indent=1).encode() + b"\n")


def _records(folder: Path) -> Mapping[str, Any]:
    """The records of all search engines, as they are in the file."""
    try:
        record = json.loads(read_site_file(folder, f"{OWN}/{RECORD}"))
        told = record["told"]
        return dict(told) if record["version"] == VERSION else {}
    except (OSError, ValueError, TypeError, LookupError, RecursionError):
        return {}
