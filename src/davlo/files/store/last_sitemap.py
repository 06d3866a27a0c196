"""What was published last: Davlo's own record of it, `.davlo/sitemap.json` in the site folder.

It can be deleted; then Davlo does not know whether a sitemap is stale. Davlo checks it before using it.
"""

from __future__ import annotations

import base64
import binascii
import datetime
import hashlib
import json
import os
import shlex
from collections.abc import Collection, Iterable, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.outcomes.sitemap_marks import Published, Told

from ..built.sitemap_files import ENDINGS
from ..read.site_file import open_site_file, read_site_file
from .journal import digest_of_file
from .own_folder import OWN

RECORD = "sitemap.json"
VERSION = 3
"""The format's number; it changes when the record, or its fingerprints, change their meaning."""
_NOTHING = Told(np.zeros(0, dtype=np.uint64), np.zeros(0, dtype=np.uint64))


def record_of(
    folder: Path, to: Path, digests: Mapping[str, str], added_from: Sequence[str], told: Told, on: str, command: str
) -> bytes:
    """What to note in the site folder about a sitemap that is written, and where.

    Parameters
    ----------
    folder : Path
        The site folder.
    to : Path
        The sitemap, or its index.
    digests : mapping of str to str
        SHA-256 of each file that is written, by name.
    added_from : sequence of str
        The files of addresses added to it, with the parts of an index.
    told : Told
        What it lists for the site's own pages.
    on : str
        The date, as 2026-05-01.
    command : str
        The command that writes it: sitemap or crawler-files.
    """
    record = {
        "version": VERSION,
        "written": on,
        "command": command,
        "to": os.path.relpath(to, folder),
        "files": dict(digests),
        "added": _added(folder, added_from),
        "pages": _encoded(told.page),
        "entries": _encoded(told.entry),
    }
    return json.dumps(record, indent=1).encode() + b"\n"


def parts_gone(folder: Path, to: Path, files: Collection[str]) -> list[Path]:
    """The files that Davlo wrote for the same sitemap, that belong to it no more, and that nobody has changed since."""
    record = _read_record(folder)
    if isinstance(record, _Record) and os.path.realpath(record.to) == os.path.realpath(to):
        old = {to.parent / name: digest for name, digest in record.files.items() if name not in files}
        return [path for path, digest in old.items() if _digest(path) == digest]
    return []


class _Record(NamedTuple):
    """The record of the sitemap written last; where it cannot be believed, `broken` says why."""

    to: Path
    files: dict[str, str]
    added: dict[str, str]
    told: Told
    written: datetime.date
    command: str


def _read_record(folder: Path) -> _Record | str | None:
    """The record; why it cannot be believed, or None where there is none that can be read."""
    try:
        content = read_site_file(folder, f"{OWN}/{RECORD}")
    except OSError:
        return None
    try:
        record = json.loads(content)
        if record["version"] != VERSION:
            raise ValueError("another version of davlo wrote it")
        files, added = (_digests(record[key]) for key in ("files", "added"))
        to = _name(record["to"])
        if not to.endswith(ENDINGS) or any(Path(name).name != name for name in files):
            raise ValueError("it does not name a sitemap")
        told = Told(_decoded(record["pages"]), _decoded(record["entries"]))
        if len(told.page) != len(told.entry) or bool((told.page[1:] < told.page[:-1]).any()):
            raise ValueError("it does not fit together")
        return _Record(
            folder / to,
            files,
            added,
            told,
            datetime.date.fromisoformat(record["written"]),
            str(record.get("command", "")),
        )
    except (ValueError, TypeError, AttributeError, LookupError, RecursionError, binascii.Error) as error:
        return str(error) if type(error) is ValueError else "it is damaged"


def _digests(record: dict[str, str]) -> dict[str, str]:
    return {_name(name): str(digest) for name, digest in record.items()}


def _name(word: object) -> str:
    """A file's name in the record: it can be printed, and there can be such a file."""
    name = str(word)
    if "\0" in name or not name.isprintable():
        raise ValueError("it names a file that cannot be")
    return name


def last_published(folder: Path, added_from: Sequence[str]) -> Published | None:
    """The sitemap that was written last, and its state now; None if none is known.

    Parameters
    ----------
    folder : Path
        The site folder.
    added_from : sequence of str
        The files of addresses added to it now.
    """
    record = _read_record(folder)
    if record is None:
        return None
    if isinstance(record, str):
        return Published("sitemap.xml", _again(folder, "--to sitemap.xml"), datetime.date.min, _NOTHING, broken=record)
    to, before = record.to, record.added
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


def _encoded(marks: np.ndarray[tuple[int, ...], np.dtype[np.uint64]]) -> str:
    return base64.b64encode(marks.astype("<u8").tobytes()).decode()


def _decoded(text: str) -> np.ndarray[tuple[int, ...], np.dtype[np.uint64]]:
    return np.frombuffer(base64.b64decode(text, validate=True), dtype="<u8").astype(np.uint64)
