"""Document titles as marks, to find those that are alike, long or empty without holding all of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.path_finder import fingerprints
from ..arrays.texts import Texts
from ..outcomes.placeholders import Filling, filled
from ..resolve.effective import EffectiveModel

PATTERN = "title.pattern"
BLOCK = 1 << 17
"""Titles held at a time."""


class Titles(NamedTuple):
    """What findings need to know about all document titles, without holding them."""

    mark: NDArray[np.int64]  # int64[pages]: a fingerprint of the title without letter case and spaces around it
    length: NDArray[np.int64]  # int64[pages]: how many characters it has
    blank: Mask  # bool[pages]: where it is empty or only spaces


def titles_of(effective: EffectiveModel) -> Titles:
    """The titles, some pages at a time."""
    pages = len(effective.site.tree)
    found = Titles(np.zeros(pages, np.int64), np.zeros(pages, np.int64), np.zeros(pages, dtype=bool))
    filling = Filling(effective, PATTERN)
    for begin in range(0, pages, BLOCK):
        some = slice(begin, min(begin + BLOCK, pages))
        texts = Texts.of_column(filling.of(np.arange(some.start, some.stop)))
        texts = texts if _is_laid_out(texts) else texts.laid_out()
        folded = folded_title(texts)
        found.mark[some] = fingerprints(folded).view(np.int64)
        found.length[some] = texts.characters()
        found.blank[some] = folded.end == folded.start
    return found


def title_texts(effective: EffectiveModel, pages: NDArray[np.int64]) -> Texts:
    """The document titles of these pages."""
    return Texts.of_column(filled(effective, PATTERN, pages))


def folded_title(texts: Texts) -> Texts:
    """The texts without letter case, and without spaces around them; those beyond ASCII are folded one by one."""
    found = texts if _is_laid_out(texts) else texts.laid_out()
    capital = (found.data >= ord("A")) & (found.data <= ord("Z"))
    high = np.flatnonzero(found.data >= 128)
    found = Texts(found.data + capital.view(np.uint8) * np.uint8(32), found.start, found.end).stripped()
    odd = np.zeros(len(texts), dtype=bool)
    odd[found.start.searchsorted(high, "right") - 1] = True
    numbers = np.flatnonzero(odd)
    folded = Texts.of(text.casefold().strip() for text in texts.take(numbers).tolist())
    return found.replaced(numbers, folded) if len(numbers) else found


def _is_laid_out(texts: Texts) -> bool:
    """Whether the texts lie one after the other, with nothing before, between or after."""
    ends = len(texts) == 0 or (int(texts.start[0]) == 0 and int(texts.end[-1]) == len(texts.data))
    return ends and bool((texts.start[1:] == texts.end[:-1]).all())
