"""The page list, read beside everything else from the moment that the section `site` is."""

from __future__ import annotations

from collections.abc import Callable
from threading import Event
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.in_background import in_background
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.catalogue import Catalogue

from ..sections.site_section import About, read_about
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Node
from .csv_sheets import Sheet
from .large_csv import release_memory
from .page_list import PageList, read_page_list
from .page_paths import Paths
from .row_sources import Rows


class Pages(NamedTuple):
    """The rows of the page list, their tree, and what was found wrong with them."""

    sheet: Sheet
    page_list: PageList
    reader: Reader


class PageListInBackground:
    """Reads the page list, in another thread if it takes long."""

    def __init__(self, source: Rows) -> None:
        self.source = source
        self._catalogue: Catalogue | None = None
        self._settings_are_read = Event()
        self._begun: About | None = None
        self._result: Callable[[], Pages] | None = None

    def __enter__(self) -> PageListInBackground:
        return self

    def __exit__(self, *wrong: object) -> None:
        self._settings_are_read.set()  # or never will be: do not wait for them
        release_memory()

    def seen(self, section: str, node: Node) -> None:
        """Begin, if this section of davlo.yaml names a file that takes long to read."""
        if section == "site":
            about = read_about(node, node.place, Reader())
            if self.source.is_slow(about.page_list):
                self._begin(about)

    def begin(self, about: About, catalogue: Catalogue) -> None:
        """Begin now, unless reading has begun."""
        self._catalogue = catalogue
        self._settings_are_read.set()
        if self._begun != about:
            self._begin(about)

    def _begin(self, about: About) -> None:
        self._begun = about
        is_slow = self.source.is_slow(about.page_list)
        self._result = in_background(lambda: self._read(about), is_slow)
        if is_slow:
            self.source.import_reader(about.page_list)

    def _read(self, about: About) -> Pages:
        reader = Reader()
        found = self.source.page_list(about.page_list, reader, self._is_known)
        # without a page list there is no site; the statements are still read, so that all faults are reported
        sheet = found or Sheet(about.page_list.label, ("path",), {"path": Column.of([])}, np.zeros(0, dtype=np.int32))
        return Pages(sheet, read_page_list(sheet, Paths(about.names), reader), reader)

    def _is_known(self, column: str) -> bool:
        """Whether a column has a meaning; that waits until the settings are read."""
        if column in STANDARD:
            return True
        self._settings_are_read.wait()
        return self._catalogue is not None and self._catalogue.could_be(column)

    def result(self) -> Pages:
        """What was read, when it is."""
        assert self._result is not None
        return self._result()
