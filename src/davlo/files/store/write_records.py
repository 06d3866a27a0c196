"""Records of writes: what was changed in which files, when and by whom, and how to take it back."""

from __future__ import annotations

import zlib
from typing import NamedTuple

from ..rewrite.line_edits import Edit, line_edits, moved_edits, reversed_edits

KIND, VERSION = "write", 2
"""The kind of record, and its format's number, which changes when a record changes its meaning."""
MOST_TEXT = 4 << 20
"""The longest file, in bytes, that a record keeps."""


class LineEdit(NamedTuple):
    """Lines of a file that became others: the number of the first, and the text before and after."""

    line: int
    old: str
    new: str


class FileChange(NamedTuple):
    """What a write does to one file."""

    name: str  # as the site names it
    before: str | None  # SHA-256 of its bytes; None where it is not there
    after: str | None  # SHA-256 of its bytes; None where it is not there
    edits: tuple[LineEdit, ...]  # from the top of the file; the lines are numbered as they were before
    # the file as it was after the write, packed by zlib, so that the write can be taken back when other lines have
    # changed; empty if it is longer than 4 MB
    packed: bytes = b""

    def reversed(self, now: bytes) -> list[Edit]:
        """The edits that take it back, in the file as it is now.

        Raises CannotRewrite if lines that it wrote have changed since, or which ones is not known.
        """
        back = reversed_edits([Edit(self.name, *edit) for edit in self.edits])
        if not self.packed:
            return back
        text = zlib.decompress(self.packed).decode("utf-8", "surrogateescape")
        since = [*line_edits(self.name, text, now.decode("utf-8", "surrogateescape"))]
        return moved_edits(back, since)


class WriteRecord(NamedTuple):
    """One write."""

    number: int  # from 1
    at: str  # date and time, ISO 8601
    by: str  # the person in whose name it was made; empty for the administrator
    sentence: str  # what it did
    files: tuple[FileChange, ...]
    takes_back: int = 0  # the number of the write that it takes back; 0 for none
    moved: tuple[tuple[str, str], ...] = ()  # the old and the new addresses of the pages that it moves


def packed(content: bytes | None) -> bytes:
    """A file as a record keeps it; empty if it is too long, or is gone."""
    return zlib.compress(content, 1) if content is not None and len(content) <= MOST_TEXT else b""
