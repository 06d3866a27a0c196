"""What reading a site's files leaves to know, for whoever edits them."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Codes
from ..faults import Place
from .settings.values import Value

NO_LINES: Codes = np.zeros((0, 2), dtype=np.int32)


class RolePlace(NamedTuple):
    """A role that is named in a file: by statements of a setting, or (without a setting) by something else."""

    role: str
    setting: str = ""
    file: str = ""
    said: Value = None
    """What the statements say, with the names of roles."""


class FileNotes(NamedTuple):
    """What reading a site's files leaves to know."""

    digests: Mapping[str, str] = MappingProxyType({})
    """Which bytes each text file held when it was read, so that an edit of another file is refused."""
    setting_columns: tuple[str, ...] = ()
    """The columns of the page list that are named as settings."""
    role_places: Mapping[RolePlace, Codes] = MappingProxyType({})
    """The lines on which statements name roles, while they hold the roles' actions, and other places that name roles;
    a line stands as often as it names the role."""
    twin_lines: Codes = NO_LINES
    """Lines of the page list that repeat another line's page, each with that line. int32[n, 2]"""
    fragment_lines: Codes = NO_LINES
    """Lines of the page list that name a place in a page and are dropped, each with the page's line. int32[n, 2]"""
    idle_uses: Mapping[str, Place] = MappingProxyType({})
    """The presets that some scope uses although they set nothing, each with the first such place."""
    first: tuple[str, ...] = ("davlo.yaml",)
    """The files in which declarations and decisions begin; of an estate's house style all of its shared files."""
    shared: tuple[str, ...] = ()
    """The files of the estate that the site begins with, as the site names them: `../house-style.yaml`."""

    def lines_of(self, line: int) -> tuple[int, ...]:
        """The lines of the page list for the same page, which must agree; this line among them."""
        others, firsts = self.twin_lines.T
        return (line, *others[firsts == line].tolist())

    def lines_naming(self, line: int) -> tuple[int, ...]:
        """The lines of the page list that name the page of a line, whatever else they say."""
        others, firsts = self.fragment_lines.T
        return (*self.lines_of(line), *others[firsts == line].tolist())


NO_NOTES = FileNotes()
