"""Pages and their settings as columns of codes, compressed as runs, for a page in a browser."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.grouping import run_edges
from davlo.core.outcomes.shown_values import ShownValues
from davlo.core.records.outcome_fields import ADDRESS, HEADING_SAID
from davlo.core.records.page_record import record_form
from davlo.core.records.record import PageRecord, RecordPages
from davlo.core.records.settings_of_page import group_of
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES
from davlo.core.site.settings.values import marked
from davlo.core.site.source import source_of

Pages = NDArray[np.int64]
NOTHING: dict[str, Any] = {"words": [""], "runs": []}
DETAILS = ("language", "tags", "status", "created", "modified")
NAMING = ("leads_to", "translates")
"""Details that name other pages."""
OF_PEOPLE = (*ACCESS_FAMILIES, "page")
"""The families of settings that name people and groups."""


def runs(codes: NDArray[np.integer]) -> list[int]:
    """Codes as pairs, one after the other: a code, and how many times it stands there.

    Example
    -------
    >>> runs(np.array([4, 4, 4, 0]))
    [4, 3, 0, 1]
    """
    if not len(codes):
        return []
    edges = run_edges(codes)
    return np.stack([codes[edges[:-1]], np.diff(edges)], axis=1).ravel().tolist()


class DistinctRecords:
    """Records that are alike, each once.

    Example
    -------
    >>> known = DistinctRecords()
    >>> [known.number(one) for one in (["a"], ["b"], ["a"])], known.records
    ([0, 1, 0], [['a'], ['b']])
    """

    def __init__(self) -> None:
        self.records: list[Any] = []
        self._numbers: dict[str, int] = {}

    def number(self, record: Any) -> int:
        """The number of a record, which is noted if it is new."""
        number = self._numbers.setdefault(repr(record), len(self.records))
        if number == len(self.records):
            self.records.append(record)
        return number


def coded(words: Sequence[str]) -> dict[str, Any]:
    """Texts as runs of codes, and what the codes mean.

    Example
    -------
    >>> coded(["a", "a", "b"])
    {'words': ['a', 'b'], 'runs': [0, 2, 1, 1]}
    """
    known: dict[str, int] = {}
    codes = np.array([known.setdefault(word, len(known)) for word in words], dtype=np.int64)
    return {"words": [*known], "runs": runs(codes)}


def page_columns(effective: EffectiveModel, pages: Pages, parents: Pages, viewed: bool) -> dict[str, Any]:
    """What the pages are: paths, titles, details, and the lines of their records, a column each.

    `pages`: int64[n]: the pages of the report, ascending. `parents`: int64[n]: the place among them of the page above
    each; -1 where there is none. `viewed`: whether the report is for one viewer: nothing names pages then that are not
    in it.
    """
    site, records = effective.site, RecordPages(effective, pages, names_others=not viewed)
    kinds = [site.types.label(kind) for kind in site.details.type_of[pages].tolist()]
    names = DETAILS if viewed else (*DETAILS, *NAMING)
    details = {
        name: coded(site.details.columns[name].take(pages).texts()) for name in names if name in site.details.columns
    }
    return {
        "path": site.tree.paths.take(pages).tolist(),
        "title": site.details.title.take(pages).texts(),
        "parent": parents.tolist(),
        "type": coded(kinds),
        "details": {name: column for name, column in details.items() if column["words"] != [""]},
        "address": _other_addresses(records),
        "headings": _other_headings(records),
        "lines": _lines(records),
    }


def _other_addresses(records: RecordPages) -> dict[str, str]:
    """The published addresses that are not the site's address and the path, by the page's place among these."""
    codes, words = records.values(ADDRESS)
    paths, urls = records.site.tree.paths.take(records.pages).tolist(), list(words)
    told = ((at, urls[code] if code >= 0 else "") for at, code in enumerate(codes.tolist()))
    return {str(at): url for at, url in told if url != records.site.url + paths[at]}


def _other_headings(records: RecordPages) -> dict[str, str]:
    """The headings that differ from the page's title, by the page's place among these; empty: no heading."""
    codes, words = records.values(HEADING_SAID)
    titles = records.site.details.title.take(records.pages).texts()
    headings = [words[code] for code in codes.tolist()]
    return {str(at): one for at, (one, title) in enumerate(zip(headings, titles, strict=True)) if one != title}


def _lines(records: RecordPages) -> dict[str, Any]:
    """What readers and search engines meet on each page, for people, by what it is; areas are drawn instead."""
    form = record_form(records, ())
    rows = [dict(PageRecord(records, form, row).lines(without=("areas", "shows"))) for row in range(len(records))]
    labels = dict.fromkeys(label for row in rows for label in row)
    return {label: coded([row.get(label, "") for row in rows]) for label in labels}


def setting_columns(effective: EffectiveModel, pages: Pages, viewed: bool) -> list[dict[str, Any]]:
    """What the pages get: for each setting its values, their sources, and why some are not shown.

    `pages`: int64[n]. `viewed`: whether the report is for one viewer: it names no statements, people or groups then,
    only whether a page says it itself, and whether it is an exception.
    """
    site, shown, found = effective.site, effective.shared(ShownValues), list[dict[str, Any]]()
    scopes = np.append(site.statements.scope, ScopeKind.BUILT_IN)
    for number, setting in enumerate(site.catalogue.settings):
        has = site.has(number)[pages]
        if not has.any() or (viewed and setting.name.partition(".")[0] in OF_PEOPLE and not setting.own):
            continue
        resolved = effective.resolved(number)
        value, source = resolved.value[pages], resolved.source[pages]
        words, codes = np.unique(value, return_inverse=True)
        said, said_by = np.unique(source, return_inverse=True)
        exceptions = np.isin(pages, effective.exceptions(setting.name).pages)
        column: dict[str, Any] = {
            "name": setting.name,
            "group": group_of(setting),
            "label": setting.label,
            "help": setting.help,
            "values": [marked(resolved.words[word]) for word in words.tolist()],
            "runs": runs(np.where(has, codes, -1)),
            "own": runs((scopes[source] == ScopeKind.HERE).astype(np.int64)),
            "exceptions": runs((exceptions & has).astype(np.int64)),
            "not_shown": coded(shown.reasons(number).take(pages).texts()) if shown.is_asked(number) else NOTHING,
        }
        if not viewed:
            column["sources"] = [_source(effective, statement) for statement in said.tolist()]
            column["by"] = runs(said_by)
        found.append(column)
    return found


def _source(effective: EffectiveModel, statement: int) -> list[Any]:
    """Where a value came from: the scope, the file with its line, whether it is locked, the reason."""
    site = effective.site
    source = source_of(site, statement)
    because = site.statements.reasons[int(site.statements.because[statement])] if statement >= 0 else ""
    return [source.words, f"{source.file}:{source.line}" if source.file else "", int(source.locked), because]
