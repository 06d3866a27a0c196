"""Edits of a file: lines to replace."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.lines import line_ends, lines_of


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
        old = edit.old.encode()
        begin = int(starts[edit.line - 1]) if edit.line <= len(starts) else len(content)
        if begin < at or content[begin : begin + len(old)] != old:
            raise ValueError(f"line {edit.line} of {edit.file} is no longer what it was")
        parts += [content[at:begin], edit.new.encode()]
        at = begin + len(old)
    return b"".join([*parts, content[at:]])
