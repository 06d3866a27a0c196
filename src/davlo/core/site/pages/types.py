"""The types of pages: which there are, and which is based on which."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Mask
from ...faults import Place


class Type(NamedTuple):
    """A declared type of page."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    based_on: str = ""
    without: tuple[str, ...] = ()

    @property
    def is_declared(self) -> bool:
        """Whether somebody declares it: `page` is there in any case."""
        return self.name != "page" or self.place.line > 0


class Types:
    """All types: the declared ones, bases first, then `page`, then those that only the page list names.

    `base`: the number of the type each is based on, or -1.
    """

    def __init__(self, declared: Mapping[str, Type], found: Iterable[str]) -> None:
        self.declared = dict(declared)
        self.names: list[str] = []
        self.base: list[int] = []
        self._number: dict[str, int] = {}
        for name in (*declared, "page", *found):
            self._add(name)

    def _add(self, name: str) -> None:
        """Number a type, after those it is based on."""
        chain: dict[str, None] = {}
        while name and name not in self._number and name not in chain:
            chain[name] = None
            declared = self.declared.get(name)
            name = declared.based_on if declared else ""
        base = self._number.get(name, -1)
        for name in reversed(chain):
            self._number[name] = len(self.names)
            self.names.append(name)
            self.base.append(base)
            base = self._number[name]

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
        table = self.based_on(self.find(name) for name in names)
        return table[type_of] if len(table) else np.zeros(len(type_of), dtype=bool)

    def with_pages(self, type_of: NDArray[np.intp]) -> Mask:
        """Which types have a page, of their own or of types based on them. bool[types]"""
        found: Mask = np.bincount(type_of, minlength=len(self)) > 0
        for number in range(len(self) - 1, -1, -1):
            if found[number] and self.base[number] >= 0:
                found[self.base[number]] = True
        return found

    def based_on(self, numbers: Iterable[int]) -> Mask:
        """Which types are one of these, or based on one. bool[types]"""
        wanted = set(numbers)
        found = np.zeros(len(self), dtype=bool)
        for number, base in enumerate(self.base):  # a base has a smaller number than what is based on it
            found[number] = number in wanted or (base >= 0 and found[base])
        return found
