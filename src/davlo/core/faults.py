"""What is wrong with the files, told all at once and each with its place."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple


class Place(NamedTuple):
    """Where something stands: a file, its line (from 1; 0: the whole file), and a column's name or number."""

    file: str
    line: int = 0
    column: str = ""

    def __str__(self) -> str:
        text = f"{self.file}:{self.line}" if self.line else self.file
        return f"{text}, column {self.column}" if self.column else text


class Fault(NamedTuple):
    """One thing that cannot be understood: its place, what is wrong, and what may stand there.

    `word` is what was written and `allowed` the words that could stand in its place; whoever prints the
    fault finds the near ones among them. `hint` says what to type next.
    """

    place: Place
    what: str
    word: str = ""
    allowed: tuple[str, ...] = ()
    hint: str = ""


MOST_TOLD = 20
"""The most faults that an error tells of itself; it holds all."""


class DavloError(Exception):
    """The base of every error that Davlo raises itself; bad arguments may also raise Python's own `TypeError`."""


class SiteError(DavloError):
    """A site whose files cannot be understood.

    Attributes
    ----------
    faults : tuple of Fault
        Every fault that was found, in the order of file and line.
    """

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults: tuple[Fault, ...] = tuple(faults)
        told = [f"{fault.place}: {fault.what}" for fault in self.faults[:MOST_TOLD]]
        more = len(self.faults) - MOST_TOLD
        super().__init__("\n".join([*told, *([f"and {more:,} more faults: .faults"] if more > 0 else [])]))

    def in_state(self, before: str) -> SiteError:
        """These faults with the revision or the folder of each file before its name."""
        return SiteError(
            fault._replace(place=fault.place._replace(file=before + fault.place.file)) for fault in self.faults
        )


class UnknownName(DavloError, KeyError):
    """A page, setting, person or declaration that the site does not have.

    Attributes
    ----------
    what : str
        What was looked for: ``page``, ``setting``, …
    word : str
        The name that is not there.
    allowed : sequence of str
        The names that are.
    hint : str
        What to do first, in a sentence; empty where the names help.
    """

    def __init__(self, what: str, word: str, allowed: Sequence[str], hint: str = "") -> None:
        self.what, self.word, self.allowed, self.hint = what, word, tuple(allowed), hint
        super().__init__(f"there is no {what} {word!r}")

    def __str__(self) -> str:
        return str(self.args[0])


class StoppedAfterWriting(KeyboardInterrupt):
    """Ctrl-C was pressed while files went to their places: they are written."""


class ValueFault(DavloError, ValueError):
    """A value that its setting cannot take; the reader of the file adds the place.

    `kind`: the kind of declaration that `word` names, if the value would be right once that is declared.
    """

    def __init__(self, what: str, word: str = "", allowed: Sequence[str] = (), hint: str = "", kind: str = "") -> None:
        self.what, self.word, self.allowed, self.hint, self.kind = what, word, tuple(allowed), hint, kind
        super().__init__(what)

    def at(self, place: Place) -> Fault:
        """The fault, at its place."""
        return Fault(place, self.what, self.word, self.allowed, self.hint)
