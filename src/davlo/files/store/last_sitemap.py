"""What was published last: Davlo's own record of it, `.davlo/sitemap.json` in the site folder.

It can be deleted; then nothing is known to be stale. What it says is checked before it is believed.
"""

from __future__ import annotations

import base64
import binascii
import datetime
import hashlib
import json
import os
import shlex
from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np

from davlo.core.outcomes.sitemap_marks import Published, Told

from .whole_files import write_whole

OWN = ".davlo"
RECORD = "sitemap.json"
VERSION = 1
"""Another one where the record, or the fingerprints in it, come to mean something else."""
_NOTHING = Told(np.zeros(0, dtype=np.uint64), np.zeros(0, dtype=np.uint64))


def remember(folder: Path, to: Path, files: Mapping[str, bytes], joins: Sequence[str], told: Told, on: str) -> None:
    """Note in the site folder what sitemap was written, and where.

    Parameters
    ----------
    folder : Path
        The site folder.
    to : Path
        The sitemap, or its index.
    files : mapping of str to bytes
        All files that were written beside each other, by name.
    joins : sequence of str
        The files of addresses that were joined to it.
    told : Told
        What it lists for the site's own pages.
    on : str
        The date, as 2026-05-01.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    record = {
        "version": VERSION,
        "written": on,
        "to": os.path.relpath(to, folder),
        "files": {name: hashlib.sha256(content).hexdigest() for name, content in files.items()},
        "joined": _joined(folder, joins),
        "pages": _encoded(told.page),
        "entries": _encoded(told.entry),
    }
    own = folder / OWN
    own.mkdir(exist_ok=True)
    write_whole(own / RECORD, json.dumps(record, indent=1).encode() + b"\n")


def last_published(folder: Path, joins: Sequence[str]) -> Published | None:
    """What sitemap was written last, and what has become of it; None where nothing is known.

    Parameters
    ----------
    folder : Path
        The site folder.
    joins : sequence of str
        The files of addresses that are joined to it now.
    """
    path = folder / OWN / RECORD
    if not path.is_file():
        return None
    try:
        record = json.loads(path.read_bytes())
        if record["version"] != VERSION:
            raise ValueError("another version of davlo wrote it")
        to = folder / str(record["to"])
        files = {str(name): str(digest) for name, digest in record["files"].items()}
        before = {str(name): str(digest) for name, digest in record["joined"].items()}
        told = Told(_decoded(record["pages"]), _decoded(record["entries"]))
        if len(told.page) != len(told.entry) or bool((told.page[1:] < told.page[:-1]).any()):
            raise ValueError("it does not fit together")
        written = datetime.date.fromisoformat(record["written"])
    except (OSError, ValueError, TypeError, AttributeError, LookupError, RecursionError, binascii.Error) as error:
        why = str(error) if type(error) is ValueError else "it is damaged"
        return Published("sitemap.xml", _again(folder, "sitemap.xml"), datetime.date.min, _NOTHING, broken=why)
    now = _joined(folder, joins)
    differing = tuple(sorted(name for name in {*before, *now} if before.get(name) != now.get(name)))
    altered = any(_differs(to.parent / Path(name).name, digest) for name, digest in files.items())
    file = os.path.relpath(to)
    return Published(file, _again(folder, file), written, told, altered, differing)


def _again(folder: Path, file: str) -> str:
    """The command that writes a sitemap, as one would type it in the current folder."""
    here = Path.cwd()
    site = "" if folder.resolve() in (here, *here.parents) else f" --site {shlex.quote(os.path.relpath(folder))}"
    return f"davlo sitemap --to {shlex.quote(file)}{site}"


def _joined(folder: Path, joins: Sequence[str]) -> dict[str, str]:
    return {name: _digest(folder / name) for name in joins}


def _differs(path: Path, digest: str) -> bool:
    """Whether a file is there, and is another one. One that is gone may have been moved to where it is served."""
    return path.is_file() and _digest(path) != digest


def _digest(path: Path) -> str:
    """SHA-256 of a file, in hexadecimal digits; empty where it cannot be read."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError:
        return ""


def _encoded(marks: np.ndarray[tuple[int, ...], np.dtype[np.uint64]]) -> str:
    return base64.b64encode(marks.astype("<u8").tobytes()).decode()


def _decoded(text: str) -> np.ndarray[tuple[int, ...], np.dtype[np.uint64]]:
    return np.frombuffer(base64.b64decode(text, validate=True), dtype="<u8").astype(np.uint64)
