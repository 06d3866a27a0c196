"""What a lock does: nothing stronger changes the value. Every resolver asks here which statement wins."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask


def ranks_at(places: NDArray[np.int64], locked: Mask, size: int) -> NDArray[np.int64]:
    """The rank of statements that replace one another: of two on a page, the one of higher rank wins.

    A lock beats all that is not locked, and of two locks the weaker one wins.

    `places`: int64[n]: the places of some statements among those of a setting, the weakest first. `locked`: bool[n]:
    whether each of them is locked. `size`: how many statements the setting has. Returns int64[n].

    Example
    -------
    >>> ranks_at(np.arange(4), np.array([False, True, False, True]), 4).tolist()
    [0, 6, 2, 4]
    """
    return np.where(locked, 2 * size - 1 - places, places)


def counted(locked: Sequence[bool]) -> int:
    """How many candidates of a page count, the weakest first: all up to the first lock.

    Example
    -------
    >>> counted([False, True, False]), counted([False, False])
    (2, 2)
    """
    return next((place + 1 for place, is_locked in enumerate(locked) if is_locked), len(locked))
