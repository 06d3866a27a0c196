"""The statements in which two states of a site differ: those that came, went, or say something else."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codebook
from ...site.model import SiteModel
from ...site.settings.scopes import OF_PAGES, ScopeKind
from ...site.settings.values import Value
from ...site.statements.new_statements import Form
from .difference import Difference

Keys = NDArray[np.int64]


class StatementDifference(NamedTuple):
    """A statement that stands in one of two states only; one that says something else stands in each."""

    setting: str
    scope: ScopeKind
    page: int  # for a scope of pages: its page's number in the state in which it stands; -1 if there is no such page
    value: Value
    is_new: bool  # whether it stands in the second state


def statement_differences(difference: Difference) -> Iterator[StatementDifference]:
    """The statements that stand in one of two states only. Those that differ only in file and line are the same.

    Example
    -------
    >>> import davlo
    >>> reach = davlo.open_demo().reach(davlo.Change().say("menu.show", False, here="/visit/maps"))
    >>> [(one.setting, one.scope.word, one.value, one.is_new) for one in statement_differences(reach)]
    [('menu.show', 'here', False, True)]
    """
    sites = difference.before.site, difference.after.site
    for name in dict.fromkeys(setting.name for site in sites for setting in site.catalogue.settings):
        numbers = [site.catalogue.find(name) for site in sites]
        keys = _keys(difference, numbers)
        for side in (0, 1):
            number, site = numbers[side], sites[side]
            if number is not None:
                span = site.statements.of_setting(number)
                differs = ~np.isin(keys[side], keys[1 - side])
                if numbers[1 - side] is None:  # a fresh_access is about all settings of access: others tell of it
                    differs &= site.statements.form[span.start : span.stop] != Form.FRESH
                for at in (np.flatnonzero(differs) + span.start).tolist():
                    yield _of_statement(site, at, name, bool(side))


def _of_statement(site: SiteModel, at: int, name: str, is_new: bool) -> StatementDifference:
    said = site.statements
    scope, target = ScopeKind(int(said.scope[at])), int(said.target[at])
    value = said.words[int(said.setting[at])].items[int(said.value[at])]
    return StatementDifference(name, scope, max(target, -1) if scope in OF_PAGES else -1, value, is_new)


def _keys(difference: Difference, numbers: Sequence[int | None]) -> tuple[Keys, Keys]:
    """For each statement of a setting in each state a number, the same for those that say the same."""
    sites = difference.before.site, difference.after.site
    said = [site.statements for site in sites]
    pairs = [*zip(numbers, said, strict=True)]
    spans = [range(0) if n is None else of.of_setting(n) for n, of in pairs]
    rows = [slice(span.start, span.stop) for span in spans]
    values = [Codebook[Value]() if n is None else of.words[n] for n, of in pairs]
    columns = [
        [keys[some] for keys, some in zip(difference.source_keys, rows, strict=True)],
        [of.form[some].astype(np.int64) for of, some in zip(said, rows, strict=True)],
    ]
    for name, books in (
        ("value", [book.items for book in values]),
        ("because", [of.reasons.items for of in said]),
        ("preset", [[preset for preset, _ in of.presets.items] for of in said]),
    ):
        known: dict[object, int] = {}
        tables = [np.array([known.setdefault((type(w), w), len(known)) for w in book] or [0]) for book in books]
        columns.append([table[getattr(of, name)[some]] for table, of, some in zip(tables, said, rows, strict=True)])
    first, keys = len(columns[0][0]), np.zeros(sum(map(len, columns[0])), dtype=np.int64)
    for both in columns:
        _, codes = np.unique(np.concatenate(both), return_inverse=True)
        _, keys = np.unique(keys * (int(codes.max(initial=0)) + 1) + codes, return_inverse=True)
    return keys[:first], keys[first:]
