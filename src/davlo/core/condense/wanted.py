"""What pages are to have of a setting, and what branches and pages say of it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask

ANY, VALUE, ITSELF, INHERITED = range(4)
"""What a page needs: whatever comes down to it will do; it is to have a value; it says its value itself, whatever comes
down to it; a value must come down to it, for it cannot say one."""

NOTHING, CHANGES = -1, -2
"""What a page says of its branch: nothing that must stay; a change of what comes down to it, which must stay."""


class Wanted(NamedTuple):
    """What each page is to have of a setting."""

    value: Codes  # int32[pages]: the value, as a code
    need: NDArray[np.int8]  # int8[pages]: ANY, VALUE, ITSELF or INHERITED
    below: Codes  # int32[pages]: what its branch says and goes on saying, as a code; NOTHING or CHANGES
    # int32[pages]: what comes down to a page whose branch CHANGES it, as a code; NOTHING where no branch above speaks
    comes: Codes

    def part(self, some: slice) -> Wanted:
        """What some pages, side by side, are to have."""
        return Wanted(self.value[some], self.need[some], self.below[some], self.comes[some])


class Said(NamedTuple):
    """What branches and single pages say of a setting."""

    below: Codes  # int32[pages]: what the page says of what is below it, as a code; NOTHING
    here: Mask  # bool[pages]: whether it says its own value, in a statement of its own
    both: Mask  # bool[pages]: whether its own value is said with what it says of its branch, in one statement

    @classmethod
    def nothing(cls, pages: int) -> Said:
        """Nobody says anything."""
        return cls(np.full(pages, NOTHING, dtype=np.int32), np.zeros(pages, dtype=bool), np.zeros(pages, dtype=bool))

    def part(self, some: slice) -> Said:
        """What some pages, side by side, say."""
        return Said(self.below[some], self.here[some], self.both[some])

    def any(self) -> Mask:
        """The pages that say something. bool[pages]"""
        found: Mask = (self.below != NOTHING) | self.here
        return found

    def size(self) -> int:
        """How many statements that is."""
        return int(np.count_nonzero(self.below != NOTHING)) + int(np.count_nonzero(self.here))
