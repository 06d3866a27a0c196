"""Edits of a file: lines that become others."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from davlo.core.arrays.lines import lines_of


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


def apply_edits(content: str, edits: Sequence[Edit]) -> str:
    """A file's text with its edits made."""
    lines = lines_of(content)
    for edit in sorted(edits, key=lambda one: -one.line):
        count = len(lines_of(edit.old))
        lines[edit.line - 1 : edit.line - 1 + count] = lines_of(edit.new)
    return "".join(lines)
