"""Edits of a site's files on a screen: a diff of lines, at most as many as fit."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from davlo.core.wording import count
from davlo.words.edits import diff_lines

from .screen import longest_line, say

if TYPE_CHECKING:
    from davlo.files.rewrite.line_edits import Edit


def print_edits(edits: Sequence[Edit], indent: str, most: int | None, to_see_all: str) -> None:
    """Print the lines that go and come, under the name of each file.

    `edits`: the edits, those of one file together. `indent`: what to print before each line. `most`: how many lines to
    print at most; None prints all. One edit is always printed, if need be its first lines. `to_see_all`: what to type
    to see all.
    """
    longest = longest_line()
    width = longest and longest - len(indent)
    room, file = most, ""
    for number, edit in enumerate(edits):
        lines = diff_lines(edit, width)
        if number and room is not None and len(lines) > room:
            say(f"{indent}and {count(len(edits) - number, 'more edit')}: {to_see_all}")
            return
        if edit.file != file:
            file = edit.file
            say(f"{indent}{file}")
        shown = lines if room is None else lines[: max(room, 1)]
        for line in shown:
            say(f"{indent}{line}")
        if len(shown) < len(lines):
            say(f"{indent}      … {count(len(lines) - len(shown), 'more line')}: {to_see_all}")
        room = None if room is None else room - len(lines)
