"""A finding: its kind, its pages, the statements in dispute, and what to do; worked out when asked for."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, overload

import numpy as np
from numpy.typing import NDArray

from ..arrays.path_finder import Finder
from ..arrays.texts import Texts
from ..faults import Place
from ..letters import visible
from ..site.model import SiteModel
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.values import format_value
from ..site.source import scope_of, source_of
from ..site.statements.new_statements import Form
from ..wording import count
from .mending import Remedy

LEVELS = ("error", "warning", "note")
MOST_OF_CAUSE = 64
"""How many statements of a finding its cause names at most."""
COUNTS = re.compile(r"\d[\d,.]*( pages?\b)?")
"""Numbers and counts in a message, which change while the cause stays."""


class Said(NamedTuple):
    """One statement in dispute: its scope, file, line and value in words."""

    scope: str
    file: str
    line: int
    value: str

    @property
    def place(self) -> Place:
        return Place(self.file, self.line)


class Pages(Sequence[str]):
    """Pages of a site, as paths: each is made when it is asked for.

    `numbers`: int64[n]: their numbers, ascending.
    """

    __slots__ = ("_paths", "numbers")

    def __init__(self, paths: Texts, numbers: NDArray[np.int64]) -> None:
        self._paths = paths
        self.numbers = numbers

    @property
    def of(self) -> Texts:
        """The paths of all pages of the site."""
        return self._paths

    def __len__(self) -> int:
        return len(self.numbers)

    @overload
    def __getitem__(self, place: int) -> str: ...

    @overload
    def __getitem__(self, place: slice) -> tuple[str, ...]: ...

    def __getitem__(self, place: int | slice) -> str | tuple[str, ...]:
        if isinstance(place, slice):
            return tuple(self._paths.take(self.numbers[place]).tolist())
        return self._paths[int(self.numbers[place])]

    def __iter__(self) -> Iterator[str]:
        return iter(self._paths.take(self.numbers).tolist())

    def __eq__(self, other: object) -> bool:
        return tuple(self) == tuple(other) if isinstance(other, Sequence) else NotImplemented

    def __hash__(self) -> int:
        return hash(tuple(self))

    def __repr__(self) -> str:
        return repr(tuple(self))


class KnownPages:
    """Finds which pages of one state of a site are among those of another, by their paths."""

    def __init__(self) -> None:
        self._numbers: dict[tuple[int, int], NDArray[np.int64]] = {}
        self._states: list[Texts] = []
        """The paths of the states, kept so that each stays known by its identity."""

    def cover(self, pages: Pages, others: Sequence[Pages]) -> bool:
        """Whether each of some pages is among others, of an earlier state; false where there are none to be among."""
        if not others:
            return False
        numbers = [self.numbers_in(pages, one) for one in others]
        if len(numbers) == 1 and np.array_equal(numbers[0], pages.numbers):
            return True
        return bool(np.isin(pages.numbers, np.concatenate(numbers)).all())

    def numbers_in(self, pages: Pages, others: Pages) -> NDArray[np.int64]:
        """The numbers that pages of another state have in that of `pages`; -1 where they are not there. int64[n]"""
        now, before = pages.of, others.of
        if now is before:
            return others.numbers
        if (id(now), id(before)) not in self._numbers:
            found = Finder(now).find(before).astype(np.int64)
            self.note(before, now, np.flatnonzero(found >= 0), found[found >= 0])
        return self._numbers[id(now), id(before)][others.numbers]

    def note(self, before: Texts, after: Texts, first: NDArray[np.int64], second: NDArray[np.int64]) -> None:
        """Take over which pages two states both have: the paths of each, and the numbers in each, int64[n]."""
        self._states += [before, after]
        for one, other, here, there in ((before, after, first, second), (after, before, second, first)):
            numbers = np.full(len(one), -1, dtype=np.int64)
            numbers[here] = there
            self._numbers[id(other), id(one)] = numbers


class Statements(Sequence[Said]):
    """Statements in dispute, each described when it is asked for."""

    __slots__ = ("_site", "numbers")

    def __init__(self, site: SiteModel, numbers: tuple[int, ...]) -> None:
        self._site = site
        self.numbers = numbers

    def __len__(self) -> int:
        return len(self.numbers)

    @overload
    def __getitem__(self, place: int) -> Said: ...

    @overload
    def __getitem__(self, place: slice) -> tuple[Said, ...]: ...

    def __getitem__(self, place: int | slice) -> Said | tuple[Said, ...]:
        if isinstance(place, slice):
            return tuple(map(self._told, self.numbers[place]))
        return self._told(self.numbers[place])

    def _told(self, number: int) -> Said:
        source = source_of(self._site, number)
        return Said(str(self._scope(number)), source.file, source.line, self._value(number))

    def _value(self, number: int) -> str:
        if self._site.statements.form[number] == Form.FRESH:
            return "fresh_access"
        return format_value(self._site.statements.said(number)) or "empty"

    def _scope(self, number: int) -> Scope:
        """The scope that a line speaks in: a `here_and_below` speaks in two."""
        statements = self._site.statements
        scope = scope_of(self._site, ScopeKind(int(statements.scope[number])), int(statements.target[number]))
        return Scope.here_and_below(scope.name) if self._site.statements.both[number] else scope

    def causes(self) -> tuple[object, ...]:
        """The settings and the scopes with the pages they are for: what stays while lines and values change."""
        said = self._site.statements
        names = (self._site.catalogue[int(said.setting[number])].name for number in self.numbers[:MOST_OF_CAUSE])
        return tuple((name, *self._scope(number)) for name, number in zip(names, self.numbers, strict=False))

    def __repr__(self) -> str:
        return repr(tuple(self))


@dataclass(frozen=True, slots=True, repr=False)
class Finding:
    """One thing that `check` reports.

    Attributes
    ----------
    kind, level : str
    setting : str or None
    pages : Pages
        A sequence of paths: every page with this cause, in the order of the tree.
    statements : sequence of Said
        The statements in dispute.
    message, fix : str
        Sentences a colleague understands.
    ways : tuple of Remedy
        What else would mend it than taking its statements away (`remedies` gives all ways).
    name : str
        A short name that stays the same while the cause does; `check` gives it.
    """

    kind: str
    level: str
    setting: str | None
    pages: Pages
    statements: Sequence[Said]
    message: str
    fix: str
    ways: tuple[Remedy, ...] = ()
    name: str = ""
    _cause: tuple[object, ...] = field(default=(), repr=False, compare=False)

    def __repr__(self) -> str:
        named = f" {self.name}" if self.name else ""
        return f"<Finding{named}: {self.level} {self.kind}, {count(len(self.pages), 'page')}: {visible(self.message)}>"

    @property
    def cause(self) -> tuple[object, ...]:
        """What the finding is about, without lines and counts, which change while the cause stays."""
        if not self._cause:
            object.__setattr__(self, "_cause", self._make_cause())
        return self._cause

    def _make_cause(self) -> tuple[object, ...]:
        if isinstance(self.statements, Statements):
            said = self.statements.causes()
        else:
            said = tuple((one.scope, one.value) for one in self.statements)
        return (self.kind, self.setting, said or COUNTS.sub("N", self.message))

    def as_json(self) -> dict[str, object]:
        """The finding as JSON holds it."""
        return {
            "kind": self.kind,
            "name": self.name,
            "level": self.level,
            "setting": self.setting,
            "pages": list(self.pages),
            "statements": [
                {"scope": s.scope, "file": s.file, "line": s.line, "value": s.value} for s in self.statements
            ],
            "message": self.message,
            "fix": self.fix,
        }
