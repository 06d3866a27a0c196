"""Records of writes: what was changed in which files, when and by whom, and how to take it back."""

from __future__ import annotations

import datetime
import json
from pathlib import Path
from typing import NamedTuple

from davlo.core.outcomes.addresses import is_web_address

from ..read.site_file import read_site_file
from .own_folder import OWN

VERSION = 1
"""The format's number; it changes when a record changes its meaning."""
ENDINGS = (".yaml", ".yml", ".csv")
"""Files of a site that Davlo writes; a record that names others is not believed."""


class LineEdit(NamedTuple):
    """Lines of a file that became others: the number of the first, and the text before and after."""

    line: int
    old: str
    new: str


class FileChange(NamedTuple):
    """What a write does to one file.

    Attributes
    ----------
    name : str
        As the site names it.
    before, after : str or None
        SHA-256 of its bytes; None where it is not there.
    edits : tuple of LineEdit
        From the top of the file; the lines are numbered as they were before.
    """

    name: str
    before: str | None
    after: str | None
    edits: tuple[LineEdit, ...]


class WriteRecord(NamedTuple):
    """One write.

    Attributes
    ----------
    number : int
        From 1.
    at : str
        Date and time, ISO 8601.
    by : str
        The person in whose name it was made; empty for the administrator.
    sentence : str
        What it did.
    files : tuple of FileChange
    takes_back : int
        The number of the write that it takes back; 0 for none.
    moved : tuple of (str, str)
        The old and the new addresses of the pages that it moves.
    """

    number: int
    at: str
    by: str
    sentence: str
    files: tuple[FileChange, ...]
    takes_back: int = 0
    moved: tuple[tuple[str, str], ...] = ()


def as_json(record: WriteRecord) -> bytes:
    """A record as it is kept."""
    files = [{**one._asdict(), "edits": [[*edit] for edit in one.edits]} for one in record.files]
    return json.dumps({"version": VERSION, **record._asdict(), "files": files}, ensure_ascii=False).encode() + b"\n"


def read_record(folder: Path, name: str) -> WriteRecord | None:
    """A record in a file of a site folder; None if it is missing or invalid."""
    try:
        told = json.loads(read_site_file(folder, name))
        if told["version"] != VERSION:
            return None
        files = tuple(
            FileChange(
                _file_name(one["name"]),
                _digest(one["before"]),
                _digest(one["after"]),
                tuple(LineEdit(int(line), str(old), str(new)) for line, old, new in one["edits"]),
            )
            for one in told["files"]
        )
        datetime.datetime.fromisoformat(told["at"])
        number, takes_back = int(told["number"]), int(told["takes_back"])
        if number < 1 or takes_back < 0 or not files:
            return None
        moved = tuple((_address(old), _address(new)) for old, new in told.get("moved", []))
        return WriteRecord(number, told["at"], str(told["by"]), str(told["sentence"]), files, takes_back, moved)
    except (OSError, ValueError, TypeError, AttributeError, LookupError, RecursionError):
        return None


def _file_name(word: object) -> str:
    name = str(word)
    parts = Path(name).parts
    is_inside = not Path(name).is_absolute() and ".." not in parts and OWN not in parts
    if not name.lower().endswith(ENDINGS) or not is_inside or not name.isprintable():
        raise ValueError("no file of a site")
    return name


def _address(word: object) -> str:
    if not is_web_address(str(word)):
        raise ValueError("no address of a page")
    return str(word)


def _digest(word: object) -> str | None:
    return None if word is None else str(word)
