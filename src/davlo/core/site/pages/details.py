"""Details: what the page list says of each page."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from threading import Lock
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Column, Mask
from ...arrays.texts import Texts
from .types import Types

STANDARD = (
    "path",
    "address",
    "title",
    "type",
    "parent",
    "language",
    "translates",
    "tags",
    "status",
    "leads_to",
    "created",
    "modified",
    "order",
)
"""The details that have a meaning of their own."""
STATUSES = ("live", "draft", "folder")


class Columns(Mapping[str, Column]):
    """Columns of a table whose rows are reordered when a column is first asked for."""

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

    def __reduce__(self) -> tuple[type[Columns], tuple[Mapping[str, Column], NDArray[np.int64]]]:
        return Columns, ({name: self[name] for name in self}, np.arange(len(self._order)))

    def __contains__(self, name: object) -> bool:
        return name in self._names

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


STRUCTURAL = frozenset(STANDARD) - {"title", "created", "modified"}
"""The columns of the page list that decide more than texts: the tree, what pages are, where they lead."""


class Details(NamedTuple):
    """The details of all pages, in the order of the tree."""

    columns: Mapping[str, Column]  # every column of the page list that is not a setting's; the standard ones always
    types: Types
    # int64[pages]: the number of each page's type. (NumPy gathers by its own kind of number twice as fast.)
    type_of: NDArray[np.intp]
    order: NDArray[np.float64]  # float64[pages]: the `order` for menus; infinite where the cell is blank
    home: int  # the number of the home page, or -1
    written: Texts  # the path of each page as the page list has it: with its slash, or as a full address

    def column(self, name: str) -> Column:
        """A column; blank throughout where the page list lacks it."""
        found = self.columns.get(name)
        return Column.blank(len(self.type_of)) if found is None else found

    def is_blank(self, name: str) -> bool:
        """Whether no page says anything in a column, or it is not there."""
        column = self.column(name)
        return len(column.words) <= 1 and not any(column.words)

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
        """Where the page is neither a draft nor a folder. bool[pages]"""
        return self.status.mask(["live"])

    @property
    def draft(self) -> Mask:
        """Where the page is a draft. bool[pages]"""
        return self.status.mask(["draft"])

    @property
    def folder(self) -> Mask:
        """Where the row is a folder: pages lie beneath it, and it is none itself. bool[pages]"""
        return self.status.mask(["folder"])

    @property
    def leads_away(self) -> Mask:
        """Where the page only sends its readers on. bool[pages]"""
        column = self.column("leads_to")
        return column.where([bool(word) for word in column.words])

    @property
    def readable(self) -> Mask:
        """Where readers find a page: live, and not leading elsewhere. bool[pages]"""
        live = self.live
        return live & ~self.leads_away if "leads_to" in self.columns else live

    @property
    def address(self) -> Column:
        return self.column("address")
