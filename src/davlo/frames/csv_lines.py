"""CSV as Davlo writes it (RFC 4180, with the ends of lines that are asked for). No other module writes it."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence
from typing import Protocol


class TakesText(Protocol):
    """Anything that text can be written to."""

    def write(self, text: str, /) -> object: ...


def write_csv(out: TakesText, rows: Iterable[Sequence[str]], between: str = ",", end: str = "\n") -> None:
    """Write rows; a cell with a quote, a separator, CR or LF in it stands in quotes, so that it reads back.

    Python's writer quotes CR and LF only if they are in its own ends of lines; so it is given both.

    Example
    -------
    >>> import io
    >>> out = io.StringIO()
    >>> write_csv(out, [["path", "title"], ["/a", "two\\rlines"]])
    >>> out.getvalue()
    'path,title\\n/a,"two\\rlines"\\n'
    """
    csv.writer(_Ended(out, end), delimiter=between, lineterminator="\r\n").writerows(rows)


class _Ended:
    """Takes rows that end in CR LF, one piece each, and gives them another line end."""

    def __init__(self, out: TakesText, end: str) -> None:
        self._write, self._end = out.write, end

    def write(self, row: str) -> object:
        return self._write(row[:-2] + self._end)
