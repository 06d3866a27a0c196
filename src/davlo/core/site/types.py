"""The types of pages: which there are, and which is based on which."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..faults import Place


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
