"""What a change of the shared files would do to every site, told as the answers come."""

from __future__ import annotations

import pickle
import tempfile
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .site_answers import SiteChange, Told

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change
    from davlo.files.rewrite.line_edits import Edit

IN_MEMORY = 1 << 24
"""Bytes of answers that are kept in memory; more go into a temporary file."""


class EstateReach:
    """What a change of the shared files would do: their edits, and what becomes of each site. `Estate.reach` gives it.

    Going over it gives the answers of the sites in their order, each as soon as it is there; going over it again gives
    the same. What it says of all sites waits for all answers.

    Attributes
    ----------
    change : Change
    edits : tuple of Edit

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     _ = davlo.write_demo_estate(folder + "/gardens")
    ...     estate = davlo.open_estate(folder + "/gardens")
    ...     reach = estate.reach(davlo.Change().say("menu.show", False, estate=True))
    ...     told = [(one.name, one.answer.numbers.changed) for one in reach]
    >>> told, len(reach.changed), reach.unread
    ([('branches/fernhurst', 9), ('branches/saltmarsh', 7), ('garden', 140)], 3, [])
    """

    def __init__(self, change: Change, edits: tuple[Edit, ...], answers: Iterator[Told]) -> None:
        self.change, self.edits, self._answers = change, edits, answers
        self._kept = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115 - it lives as long as the reach
        self._ends = list[int]()
        self._told: list[Told] = []  # the answers without what is large

    def __repr__(self) -> str:
        return f"<EstateReach: {self.change.words}; {len(self._told)} sites asked so far>"

    def __reduce__(self) -> tuple[object, ...]:
        return EstateReach, (self.change, self.edits, iter([*self]))

    def __iter__(self) -> Iterator[Told]:
        number = 0
        while True:
            if number < len(self._ends):
                self._kept.seek(self._ends[number - 1] if number else 0)
                yield pickle.load(self._kept)
            else:
                told = next(self._answers, None)
                if told is None:
                    return
                self._keep(told)
                yield told
            number += 1

    def _keep(self, told: Told) -> None:
        self._kept.seek(0, 2)
        pickle.dump(told, self._kept)
        self._ends.append(self._kept.tell())
        answer: SiteChange | None = told.answer
        self._told.append(told._replace(answer=answer and answer._replace(lines=(), record=None)))

    @property
    def _all(self) -> list[Told]:
        for told in self._answers:
            self._keep(told)
        return self._told

    @property
    def changed(self) -> list[tuple[str, SiteChange]]:
        """The sites in which something changes, with what does, lines and record aside."""
        return [(one.name, one.answer) for one in self._all if one.answer is not None and one.answer.changes]

    @property
    def unread(self) -> list[Told]:
        """The sites that cannot be read now, or could not be read afterwards."""
        return [one for one in self._all if one.answer is None]

    @property
    def errors(self) -> list[tuple[str, str]]:
        """New findings of level error: the site and the message of each."""
        read = (one for one in self._all if one.answer is not None)
        return [(one.name, message) for one in read for message in one.answer.errors]
