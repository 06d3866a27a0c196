"""Records in `.davlo`, each sealed: no other module writes or reads one.

A record is a line that says what it is, and the record itself as JSON. The line holds a code (HMAC with SHA-256, RFC
2104) made with the user's key, for the kind of record and the real path of the site folder. A record without the right
code was made by somebody else, on another machine or for another folder: it is not read.
"""

from __future__ import annotations

import datetime
import getpass
import hashlib
import hmac
import io
import json
import os
import socket
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

import msgspec

from .own_folder import OWN, open_own
from .user_key import NoKey, user_key

Record = TypeVar("Record")
VERSION = 1
"""The number of the format; each kind has one of its own beside it."""
MOST_IN_LINE = 4096
"""The most bytes of the line."""
MOST_BYTES = 1 << 30
"""The most bytes of a record."""
MOST_LETTERS = 80


class Maker(NamedTuple):
    """Who made a record, as its line says."""

    user: str
    host: str
    at: str  # date and time, ISO 8601


class _Line(msgspec.Struct, frozen=True):
    davlo: int
    kind: str
    version: int
    maker: Maker
    size: int
    sha256: str
    code: str = ""


def sealed(folder: Path, kind: str, version: int, record: Any) -> bytes:
    """A record as it is kept.

    `folder`: the site folder. `kind`: what it is; a record of one kind is not taken for another. `version`: the number
    of the kind's format. `record`: tuples, texts, numbers and bytes. Raises NoKey if there is no place for the user's
    key.
    """
    key = user_key(folder, make=True)
    assert key is not None
    body = json.dumps(msgspec.to_builtins(record)).encode() + b"\n"
    line = _Line(VERSION, kind, version, this_maker(), len(body), hashlib.sha256(body).hexdigest())
    line = msgspec.structs.replace(line, code=_code(key, folder, line))
    return msgspec.json.encode(line) + b"\n" + body


def read_sealed(folder: Path, name: str, kind: str, version: int, record: type[Record]) -> Record | None:
    """A record of this user; None if it is missing, was made by somebody else, or for another folder.

    `folder`: the site folder. `name`: the file in `.davlo`. `kind`, `version`: as it was sealed.
    """
    try:
        with io.BufferedReader(open_own(folder, name)) as file:
            line = _line_of(file.readline(MOST_IN_LINE))
            if not _is_own(folder, line, kind) or line.version != version or line.size > MOST_BYTES:
                return None
            body = file.read(line.size + 1)
        if len(body) != line.size or hashlib.sha256(body).hexdigest() != line.sha256:
            return None
        return msgspec.convert(json.loads(body), record)
    except (OSError, ValueError, RecursionError):  # msgspec's errors are ValueErrors
        return None


def is_own(folder: Path, name: str, kind: str) -> bool:
    """Whether a file in `.davlo` is a record of this user; only its line is read."""
    try:
        with io.BufferedReader(open_own(folder, name)) as file:
            return _is_own(folder, _line_of(file.readline(MOST_IN_LINE)), kind)
    except (OSError, ValueError, RecursionError):
        return False


def keyed_name(folder: Path, text: str) -> str:
    """A name for a file that tells nothing about a text to those without the key; empty if there is no key."""
    try:
        key = user_key(folder)
    except NoKey:
        return ""
    return "" if key is None else hmac.digest(key, text.encode("utf-8", "replace"), "sha256").hex()[:16]


def maker_of(folder: Path, name: str) -> Maker:
    """Who made a record that is not believed, as its line says; else who owns the file, and when it was changed."""
    try:
        with io.BufferedReader(open_own(folder, name)) as file:
            user, host, at = (text[:MOST_LETTERS] for text in _line_of(file.readline(MOST_IN_LINE)).maker)
            return Maker(user, host, datetime.datetime.fromisoformat(at).isoformat(timespec="minutes"))
    except (OSError, ValueError, RecursionError):
        pass
    try:
        there = (folder / OWN / name).lstat()
        at = datetime.datetime.fromtimestamp(there.st_mtime).astimezone().isoformat(timespec="minutes")
        return Maker(_owner(there.st_uid), "", at)
    except (OSError, ValueError, OverflowError):
        return Maker("somebody", "", "")


def _owner(number: int) -> str:
    try:
        import pwd

        return pwd.getpwuid(number).pw_name
    except (ImportError, KeyError):
        return "somebody"


def this_maker() -> Maker:
    """This user, now."""
    try:
        user = getpass.getuser()
    except (OSError, KeyError):
        user = "somebody"
    now = datetime.datetime.now().astimezone().isoformat(timespec="seconds")
    user, host = (text[:MOST_LETTERS].encode("utf-8", "replace").decode() for text in (user, socket.gethostname()))
    return Maker(user, host, now)


def _line_of(raw: bytes) -> _Line:
    return msgspec.json.decode(raw, type=_Line)


def _is_own(folder: Path, line: _Line, kind: str) -> bool:
    try:
        key = user_key(folder)
    except NoKey:
        return False
    if key is None or line.kind != kind:
        return False
    return hmac.compare_digest(_code(key, folder, line).encode(), line.code.encode("utf-8", "surrogatepass"))


def _code(key: bytes, folder: Path, line: _Line) -> str:
    told = msgspec.json.encode((os.fsencode(os.path.realpath(folder)), msgspec.structs.replace(line, code="")))
    return hmac.digest(key, told, "sha256").hex()
