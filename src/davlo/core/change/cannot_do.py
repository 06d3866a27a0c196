"""A step of a change that cannot be done."""

from __future__ import annotations

from collections.abc import Iterable


class CannotDo(Exception):
    """A step that cannot be done; says why."""

    def __init__(self, what: str, word: str = "", allowed: Iterable[str] = ()) -> None:
        self.what, self.word, self.allowed = what, word, tuple(allowed)
        super().__init__(what)
