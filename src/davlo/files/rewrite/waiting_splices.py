"""Splices that wait, so that a file is parsed once for many of them and not once for each."""

from __future__ import annotations

from bisect import bisect_right, insort

from .yaml_entries import Item, Keys
from .yaml_text import Splice, YamlText


class WaitingSplices:
    """Splices of one state of the files, by file, and the keys that they are about.

    `about`: the keys that the next splice is about; empty if it does not wait.
    """

    def __init__(self) -> None:
        self.splices: dict[str, list[Splice]] = {}  # from the top of each file
        self.about: Keys = ()
        self._about: set[tuple[str, ...]] = set()
        self._beginnings: set[tuple[str, ...]] = set()

    def concerns(self, about: Keys) -> bool:
        """Whether a splice is about these keys, about what holds them, or about something in them."""
        words = _words(about)
        return words in self._beginnings or not self._about.isdisjoint(_beginnings(words))

    def meets(self, file: str, text: YamlText, splice: Splice) -> bool:
        """Whether a splice of the same text must be made after those that wait.

        Lines put in at the same place, and into the same node, do not meet.
        """
        waiting = self.splices.get(file, [])
        place = bisect_right(waiting, splice.begin, key=_begin)
        for one in waiting[max(place - 1, 0) : place + 1]:
            if one.begin == splice.begin:
                is_line = one.begin == one.end == splice.end and text.content[one.begin - 1 : one.begin] in ("\n", "\r")
                if not is_line or one.within is not splice.within:
                    return True
            elif splice.begin < one.end and one.begin < splice.end:
                return True
        return False

    def add(self, file: str, splice: Splice, about: Keys) -> None:
        """Let a splice wait; the next one does not, unless it says so."""
        insort(self.splices.setdefault(file, []), splice, key=_begin)
        self._about.add(_words(about))
        self._beginnings |= _beginnings(_words(about))
        self.about = ()


def _begin(splice: Splice) -> int:
    return splice.begin


def _beginnings(words: tuple[str, ...]) -> set[tuple[str, ...]]:
    return {words[:count] for count in range(1, len(words) + 1)}


def _words(keys: Keys) -> tuple[str, ...]:
    """Keys as words, which can be compared."""
    return tuple(key if isinstance(key, str) else key.word if isinstance(key, Item) else key.path for key in keys)
