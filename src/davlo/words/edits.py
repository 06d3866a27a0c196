"""Edits of files as people know them: the lines that go, and the lines that come."""

from __future__ import annotations

from typing import Protocol

from davlo.core.arrays.lines import lines_of
from davlo.core.letters import visible
from davlo.core.wording import shortened

LEAD = 24
"""How many letters are left before the first difference in two long lines."""


class EditLike(Protocol):
    """Lines to replace in a file."""

    @property
    def file(self) -> str: ...

    @property
    def line(self) -> int: ...

    @property
    def old(self) -> str: ...

    @property
    def new(self) -> str: ...


def diff_lines(edit: EditLike, width: int | None = None) -> list[str]:
    """The lines of an edit: `-` before those that go, each with its number, and `+` before those that come.

    Parameters
    ----------
    edit
        Lines to replace.
    width
        How many letters a line may have; longer ones are cut, after and if need be before what differs.

    Example
    -------
    >>> from davlo.files.rewrite.line_edits import Edit
    >>> print("\\n".join(diff_lines(Edit("davlo.yaml", 79, "  below: {menu.show: no}\\n", "  below: {}\\n"))))
       79 -   below: {menu.show: no}
          +   below: {}
    """
    old, new = ([line.rstrip("\r\n") for line in lines_of(text)] for text in (edit.old, edit.new))
    signed = [(f"{edit.line + i:5} -", text) for i, text in enumerate(old)]
    signed += [(f"{edit.line + i if not old else '':>5} +", text) for i, text in enumerate(new)]
    room = None if width is None else max(width - 8, LEAD * 2)
    start = 0
    if room is not None and len(old) == len(new) == 1 and max(len(old[0]), len(new[0])) > room:
        start = max(0, _alike(old[0], new[0]) - LEAD)
    found = []
    for sign, text in signed:
        told = visible(f"…{text[start:]}" if start else text)
        found.append(f"{sign} {told if room is None else shortened(told, room)}".rstrip())
    return found


def _alike(one: str, other: str) -> int:
    """How many letters two texts begin with alike; no word is cut."""
    head = next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
    while head and _is_of_word(one[head - 1]) and any(_is_of_word(text[head : head + 1]) for text in (one, other)):
        head -= 1
    return head


def _is_of_word(letter: str) -> bool:
    return letter.isalnum() or letter in tuple("-._/")
