"""The sources of values as words, for columns of tables."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, distinct
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.source import scope_of

ONE_A_SITE = (ScopeKind.EVERYWHERE, ScopeKind.STAMP, ScopeKind.HERE)
"""Scopes that one word names, whatever they are for."""
SOURCE_OF = "source of "
"""The prefix of the column that holds a setting's sources."""


def smallest(words: int) -> type[np.signedinteger]:
    """The smallest integer type for this many words."""
    return np.int8 if words <= 1 << 7 else np.int16 if words <= 1 << 15 else np.int32


def source_words(site: SiteModel, setting: int) -> tuple[list[str], NDArray[np.signedinteger]]:
    """What the sources of a setting's values mean, scopes in words; and the code of what is built in, and of each
    statement of the setting."""
    statements, span = site.statements, site.statements.of_setting(setting)
    scope = statements.scope[span.start : span.stop].astype(np.int64)
    one_a_site = np.zeros(len(ScopeKind), dtype=bool)
    one_a_site[list(ONE_A_SITE)] = True
    target = np.where(one_a_site[scope], 0, statements.target[span.start : span.stop])
    first, which = distinct((scope << 32) + target + (1 << 31))
    words = ["built-in", *_words(site, scope[first], target[first])]
    table = np.zeros(len(span) + 1, dtype=smallest(len(words)))
    table[1:] = which + 1
    return words, table


def _words(site: SiteModel, scope: NDArray[np.int64], target: NDArray[np.int64]) -> Iterator[str]:
    """These scopes in words. Paths of branches, which may be many, are read together."""
    branches = iter(site.tree.paths.take(target[(scope == ScopeKind.BELOW) & (target >= 0)]).tolist())
    for one, number in zip(scope.tolist(), target.tolist(), strict=True):
        is_branch = one == ScopeKind.BELOW and number >= 0
        yield f"below {next(branches)}" if is_branch else str(scope_of(site, ScopeKind(one), number))


def winner_of(site: SiteModel, setting: int, source: Codes) -> NDArray[np.intp]:
    """The index into such a table of the statements that won; -1 is built-in. int64[n]"""
    return np.maximum(source.astype(np.intp) - (site.statements.of_setting(setting).start - 1), 0)
