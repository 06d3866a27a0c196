"""What types had best say of a setting, so that branches and single pages need to say little: found by trying."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..cached import cached_property
from ..site.model import SiteModel
from .least_statements import LeastStatements
from .wanted import NOTHING, VALUE, Wanted

MANY = 20_000
"""On a site of more pages, only statements of types that would suit more pages are tried."""
TRIALS = 1_000_000
"""The most pages that all trials of other statements of types may look at together."""


class TypeStatements:
    """Trials of what types say of one setting.

    `values`: how many codes of values there are. `everywhere`: int32[pages]: what each page gets from what everywhere
    says. `may`: bool[types]: the types whose statements may be others.

    Notes
    -----
    One type after the other is tried without its statement, and with each value that its pages want, as long as that
    makes it fewer statements, and until `TRIALS` is spent.
    """

    def __init__(self, site: SiteModel, wanted: Wanted, values: int, everywhere: Codes, may: Mask) -> None:
        self.site, self.wanted, self.values, self.everywhere, self.may = site, wanted, values, everywhere, may

    def best(self, least: LeastStatements, types: Codes, by_type: Codes, fixed: int = 0) -> tuple[Codes, Codes, int]:
        """The best statements of types that are tried, what pages get by them, and how many statements that needs.

        `types`: int32[types]: what each type says at first, as a code; NOTHING. `by_type`: int32[pages]: what each page
        gets by that where no branch speaks. `fixed`: how many statements count beside these.
        """
        best = int(least.count(by_type) + fixed + np.count_nonzero(types[self.may] != NOTHING))
        trials = TRIALS // max(len(self.site.tree), 1)
        tried, better = 0, bool(self.may.any())
        while better:
            better = False
            for number, value in self._likely(types):
                if tried >= trials:
                    return types, by_type, best
                tried += 1
                other = types.copy()
                other[number] = value
                others = by_types(self.site, other, self.everywhere)
                needed = int(least.count(others) + fixed + np.count_nonzero(other[self.may] != NOTHING))
                if needed < best:
                    types, by_type, best, better = other, others, needed, True
                    break
        return types, by_type, best

    def _likely(self, types: Codes) -> list[tuple[int, int]]:
        """Other statements of types, those first by which most pages more would get what they want.

        On a large site those alone by which more pages would.
        """
        counts, least = self._wanted_by_type, -len(self.site.tree) if len(self.site.tree) <= MANY else 0
        base, have, found = self.site.types.base, self._table(types), []
        for number in np.flatnonzero(self.may).tolist():
            mine = np.zeros(len(types), dtype=bool)  # the types that get what this one says
            for other in range(number, len(types)):
                mine[other] = other == number or (base[other] >= 0 and mine[base[other]] and types[other] == NOTHING)
            gets = counts[mine].sum(axis=0)
            now = counts[mine, have[mine]].sum()
            above = have[base[number]] if base[number] >= 0 else self._common
            for value in [NOTHING, *np.flatnonzero(gets).tolist()]:
                gain = int(gets[above if value == NOTHING else value] - now) + (value == NOTHING)
                if value != types[number] and gain > least:
                    found.append((-gain, number, value))
        return [(number, value) for _, number, value in sorted(found)]

    @cached_property
    def _wanted_by_type(self) -> NDArray[np.int64]:
        """How many pages of each type want each value. int64[types, values]"""
        types, width = len(self.site.types), self.values
        key = np.multiply(self.site.details.type_of, width, dtype=np.int32, casting="unsafe")
        key += self.wanted.value
        others = key[np.flatnonzero(self.wanted.need != VALUE)]
        counts = [np.bincount(some, minlength=types * width) for some in (key, others)]
        return (counts[0] - counts[1]).reshape(types, width)

    @cached_property
    def _common(self) -> int:
        """The value that most pages get from what everywhere says; of many pages, most of some."""
        some = self.everywhere[:: max(len(self.everywhere) // MANY, 1)]
        return int(np.bincount(some).argmax()) if len(some) else 0

    def _table(self, types: Codes) -> Codes:
        """What most pages of each type get if types say these values. int32[types]"""
        table = types.copy()
        for number, base in enumerate(self.site.types.base):
            if table[number] == NOTHING:
                table[number] = table[base] if base >= 0 else self._common
        return table


def by_types(site: SiteModel, types: Codes, everywhere: Codes) -> Codes:
    """What each page gets where no branch speaks.

    `types`: int32[types]: what types say, as codes; NOTHING. `everywhere`: int32[pages]: what each page gets from what
    everywhere says. Returns int32[pages].
    """
    if (types == NOTHING).all():
        return everywhere
    table = types.copy()
    for number, base in enumerate(site.types.base):
        if table[number] == NOTHING and base >= 0:
            table[number] = table[base]
    mine = table[site.details.type_of]
    return mine if (table != NOTHING).all() else np.where(mine == NOTHING, everywhere, mine)
