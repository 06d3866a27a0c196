"""Where lines end: at LF, CRLF or CR, and nowhere else.

`str.splitlines` also ends a line at a vertical tab, a form feed, U+0085, U+2028 and others. No file that Davlo reads
counts these as ends of lines, nor do editors: a place that counted them would name another line.
"""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n)|[^\r\n]+")


def lines_of(text: str) -> list[str]:
    """The lines of a text, each with its end.

    Example
    -------
    >>> lines_of("a\\r\\nb\\x0bc\\rd")
    ['a\\r\\n', 'b\\x0bc\\r', 'd']
    """
    return _LINE.findall(text)


def line_of(text: str, place: int) -> int:
    """The number of the line, from 1, that a place of a text is in.

    Example
    -------
    >>> line_of("a\\u2028b\\r\\nc", 5)
    2
    """
    before = text[:place]
    ends = before.count("\n") + before.count("\r") - before.count("\r\n")
    return ends + 1 - (before.endswith("\r") and text[place : place + 1] == "\n")


def line_ends(block: bytes, after_return: bool = False) -> NDArray[np.int64]:
    """Where lines end in a part of a file, one past each LF, CRLF or CR; a CR at its end is left to the next part.

    Parameters
    ----------
    block : bytes
    after_return : bool
        Whether the part before ended in a CR.

    Returns
    -------
    int64[n]

    Example
    -------
    >>> line_ends(b"a\\r\\nb\\nc").tolist()
    [3, 5]
    """
    data = np.frombuffer(block, dtype=np.uint8)
    newline = np.flatnonzero(data == ord("\n")) + 1
    if b"\r" not in block and not after_return:
        return newline
    alone = np.flatnonzero((data[:-1] == ord("\r")) & (data[1:] != ord("\n"))) + 1
    first = [0] if after_return and not block.startswith(b"\n") else []
    return np.sort(np.concatenate([np.array(first, dtype=np.int64), newline, alone]))
