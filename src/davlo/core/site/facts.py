"""Facts: what the inventory says of each page."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from threading import Lock
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Column, Mask
from ..faults import Place

STANDARD = (
    "path",
    "title",
    "type",
    "parent",
    "language",
    "translates",
    "tags",
    "status",
    "created",
    "modified",
    "order",
)
"""The facts that have a meaning of their own."""


class Type(NamedTuple):
    """A declared type of page."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    based_on: str = ""
    without: tuple[str, ...] = ()


class Types:
    """All types: the declared ones, bases first, then `page`, then those that only the inventory names.

    Attributes
    ----------
    names : list of str
    base : list of int
        The number of the type each is based on, or -1.
    """

    def __init__(self, declared: Mapping[str, Type], found: Iterable[str]) -> None:
        self.declared = dict(declared)
        self.names: list[str] = []
        self.base: list[int] = []
        self._number: dict[str, int] = {}
        for name in (*declared, "page", *found):
            self._add(name)

    def _add(self, name: str) -> None:
        if name in self._number:
            return
        declared = self.declared.get(name)
        base = declared.based_on if declared else ""
        if base:
            self._add(base)
        self._number[name] = len(self.names)
        self.names.append(name)
        self.base.append(self._number[base] if base else -1)

    def __len__(self) -> int:
        return len(self.names)

    def find(self, name: str) -> int:
        """The type's number, or -1."""
        return self._number.get(name, -1)

    def chain(self, number: int) -> list[int]:
        """The type and those it is based on, the root base first."""
        found = [number]
        while self.base[found[-1]] >= 0:
            found.append(self.base[found[-1]])
        return found[::-1]

    def label(self, number: int) -> str:
        """What a person calls the type."""
        declared = self.declared.get(self.names[number])
        return (declared.label if declared else "") or self.names[number]

    def pages_of(self, type_of: NDArray[np.intp], names: Iterable[str]) -> Mask:
        """Where the page is of one of these types, or of one based on it. bool[pages]"""
        wanted = {self.find(name) for name in names}
        table = np.array([bool(wanted & set(self.chain(t))) for t in range(len(self))], dtype=bool)
        return table[type_of] if len(table) else np.zeros(len(type_of), dtype=bool)


class Columns(Mapping[str, Column]):
    """Columns of a table, their rows put in another order when a column is first asked for."""

    def __init__(self, columns: Mapping[str, Column], order: NDArray[np.int64]) -> None:
        self._names = tuple(columns)
        self._given = dict(columns)
        self._order = order
        self._ordered: dict[str, Column] = {}
        self._one_at_a_time = Lock()

    def __getitem__(self, name: str) -> Column:
        found = self._ordered.get(name)
        if found is None:
            with self._one_at_a_time:  # threads may ask for one column at once
                found = self._ordered.get(name)
                if found is None:
                    found = self._ordered[name] = self._given.pop(name).take(self._order)
        return found

    def __contains__(self, name: object) -> bool:
        return name in self._names

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


class Facts(NamedTuple):
    """The facts of all pages, in the order of the tree.

    Attributes
    ----------
    columns : mapping of str to Column
        Every column of the inventory that is not a setting's; the standard ones always.
    type_of : int64[pages]
        The number of each page's type. (NumPy gathers by its own kind of number twice as fast.)
    order : float64[pages]
        The `order` for menus; infinite where the cell is blank.
    home : int
        The number of the home page, or -1.
    """

    columns: Mapping[str, Column]
    types: Types
    type_of: NDArray[np.intp]
    order: NDArray[np.float64]
    home: int

    def column(self, name: str) -> Column:
        """A column; blank throughout where the inventory lacks it."""
        found = self.columns.get(name)
        return Column.blank(len(self.type_of)) if found is None else found

    @property
    def title(self) -> Column:
        return self.columns["title"]

    @property
    def language(self) -> Column:
        return self.columns["language"]

    @property
    def tags(self) -> Column:
        return self.columns["tags"]

    @property
    def status(self) -> Column:
        return self.columns["status"]

    @property
    def live(self) -> Mask:
        """Where the page is no draft. bool[pages]"""
        return self.status.mask(["live"])
