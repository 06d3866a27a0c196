"""The sources of values as words, for columns of tables."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes
from davlo.core.site.model import SiteModel
from davlo.core.site.source import scope_words

SOURCE_OF = "source of "
"""The prefix of the column that holds a setting's sources."""


def smallest(words: int) -> type[np.signedinteger]:
    """The smallest integer type for this many words."""
    return np.int8 if words <= 1 << 7 else np.int16 if words <= 1 << 15 else np.int32


def source_words(site: SiteModel, setting: int) -> tuple[list[str], NDArray[np.signedinteger]]:
    """What the sources of a setting's values mean, scopes in words; and the code of what is built in, and of each
    statement of the setting."""
    statements, span = site.statements, site.statements.of_setting(setting)
    some = slice(span.start, span.stop)
    words, which = scope_words(site, statements.scope[some].astype(np.int64), statements.target[some])
    table = np.zeros(len(span) + 1, dtype=smallest(len(words) + 1))
    table[1:] = which + 1
    return ["built-in", *words], table


def winner_of(site: SiteModel, setting: int, source: Codes) -> NDArray[np.intp]:
    """The index into such a table of the statements that won; -1 is built-in. int64[n]"""
    return np.maximum(source.astype(np.intp) - (site.statements.of_setting(setting).start - 1), 0)
