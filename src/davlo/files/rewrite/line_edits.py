"""Edits of a file: lines to replace."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.lines import line_ends, lines_of

from .cannot_rewrite import CannotRewrite


class Edit(NamedTuple):
    """Lines to replace: the file, the number of the first, and the text before and after, each with its line ends."""

    file: str
    line: int
    old: str
    new: str


def line_edits(file: str, before: str, after: str) -> Iterator[Edit]:
    """The lines that differ between two texts, each run of them an edit.

    Example
    -------
    >>> list(line_edits("a.yaml", "a: 1\\nb: 2\\n", "a: 1\\nb: 3\\n"))
    [Edit(file='a.yaml', line=2, old='b: 2\\n', new='b: 3\\n')]
    """
    old, new = lines_of(before), lines_of(after)
    head = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), min(len(old), len(new)))
    most = min(len(old), len(new)) - head
    pairs = enumerate(zip(reversed(old), reversed(new), strict=False))
    tail = min(most, next((i for i, (a, b) in pairs if a != b), most))
    middle = old[head : len(old) - tail], new[head : len(new) - tail]
    for tag, i, j, k, m in difflib.SequenceMatcher(None, *middle, autojunk=False).get_opcodes():
        if tag != "equal":
            yield Edit(file, head + i + 1, "".join(middle[0][i:j]), "".join(middle[1][k:m]))


def reversed_edits(edits: Sequence[Edit]) -> list[Edit]:
    """The edits that undo other edits of one file, which are sorted from the top of the file.

    Example
    -------
    >>> reversed_edits([Edit("a.yaml", 2, "b: 2\\n", ""), Edit("a.yaml", 5, "", "c: 3\\n")])
    [Edit(file='a.yaml', line=2, old='', new='b: 2\\n'), Edit(file='a.yaml', line=4, old='c: 3\\n', new='')]
    """
    found, moved = [], 0
    for edit in edits:
        found.append(Edit(edit.file, edit.line + moved, edit.new, edit.old))
        moved += len(lines_of(edit.new)) - len(lines_of(edit.old))
    return found


def moved_edits(edits: Sequence[Edit], since: Sequence[Edit]) -> list[Edit]:
    """Edits of a file as they are after other edits of it, which touch none of the same lines.

    Parameters
    ----------
    edits, since : sequence of Edit
        Both of the same text, sorted from its top.

    Raises
    ------
    CannotRewrite
        If lines of one of them have changed.

    Example
    -------
    >>> moved_edits([Edit("a.yaml", 5, "b: 2\\n", "b: 1\\n")], [Edit("a.yaml", 1, "", "# by hand\\n")])
    [Edit(file='a.yaml', line=6, old='b: 2\\n', new='b: 1\\n')]
    """
    found, waiting, moved = [], [*reversed(since)], 0
    for edit in edits:
        end = edit.line + len(lines_of(edit.old))
        while waiting and waiting[-1].line + len(lines_of(waiting[-1].old)) <= edit.line:
            other = waiting.pop()
            moved += len(lines_of(other.new)) - len(lines_of(other.old))
        # lines put in before the first or after the last line of an edit do not touch it
        if waiting and waiting[-1].line < end:
            raise CannotRewrite(f"line {waiting[-1].line + moved} of {edit.file} has changed since")
        found.append(edit._replace(line=edit.line + moved))
    return found


def edited(content: bytes, edits: Sequence[Edit]) -> bytes:
    """A file's bytes with its edits made; a byte-order mark, and bytes that are no UTF-8, stay.

    Raises
    ------
    ValueError
        If a line is not what an edit says that it is.

    Example
    -------
    >>> edited(b"a: 1\\r\\nb: 2", [Edit("a.yaml", 2, "b: 2", "b: 3")])
    b'a: 1\\r\\nb: 3'
    """
    starts = np.concatenate([np.zeros(1, dtype=np.int64), line_ends(content)])
    parts, at = [], 0
    for edit in edits:
        old = edit.old.encode("utf-8", "surrogateescape")
        begin = int(starts[edit.line - 1]) if edit.line <= len(starts) else len(content)
        if begin < at or content[begin : begin + len(old)] != old:
            raise ValueError(f"line {edit.line} of {edit.file} is no longer what it was")
        parts += [content[at:begin], edit.new.encode("utf-8", "surrogateescape")]
        at = begin + len(old)
    return b"".join([*parts, content[at:]])
