"""A difference as rows for CSV, and as a record for JSON."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from davlo.core.change.change_reach import ChangeReach
from davlo.core.change.difference import Difference
from davlo.core.change.difference_rows import ValueRow
from davlo.core.site.source import Source
from davlo.core.site.values import Plain, format_value, json_value

COLUMNS = ("path", "setting", "before", "after", "source_before", "source_after", "met_before", "met_after")


def difference_rows(difference: Difference) -> Iterator[list[str]]:
    """A row for every page and setting that differ, each cell as a table writes it; blank where there is none.

    Example
    -------
    >>> import davlo
    >>> found = davlo.open_demo().reach(davlo.Change().say("sidebar.right", "main", here="/visit/tickets"))
    >>> next(difference_rows(found))
    ['/visit/tickets', 'sidebar.right', 'visit-planning', 'main', 'below /visit', 'here', 'yes', 'yes']
    """
    for row in difference.rows():
        yield [
            row.path,
            row.setting,
            *(_cell(value, source) for value, source in _sides(row)),
            *("" if source is None else source.words for _, source in _sides(row)),
            *("" if met is None else format_value(met) for met in (row.met_before, row.met_after)),
        ]


def difference_record(difference: Difference) -> dict[str, Any]:
    """A difference as JSON holds it.

    Example
    -------
    >>> import davlo
    >>> found = davlo.open_demo().reach(davlo.Change().say("sidebar.right", "main", here="/visit/tickets"))
    >>> record = difference_record(found)
    >>> list(record)
    ['values', 'pages', 'declarations', 'access', 'outcomes', 'findings', 'no_effect']
    >>> record["values"][0]["before"], record["findings"]["new"]
    ('visit-planning', [])
    """
    new, gone = difference.findings
    kept = difference.no_effect if isinstance(difference, ChangeReach) else ()
    paths = difference.after.site.tree.paths
    return {
        "values": [_record(row) for row in difference.rows()],
        "pages": {
            "new": list(difference.new),
            "gone": list(difference.gone),
            "moved": [{"before": before, "after": after} for before, after in difference.moved],
        },
        "declarations": [one._asdict() for one in difference.declarations],
        "access": [one._asdict() for one in difference.access],
        "outcomes": [one._asdict() for one in difference.outcomes],
        "findings": {"new": [one.as_json() for one in new], "gone": [one.as_json() for one in gone]},
        "no_effect": [
            {
                "setting": one.setting,
                "scope": one.scope.sentence,
                "reason": one.reason,
                "by": one.by.words,
                "file": one.by.file or None,
                "line": one.by.line or None,
                "because": one.because or None,
                "pages": paths.take(one.pages).tolist(),
            }
            for one in kept
        ],
    }


def _record(row: ValueRow) -> dict[str, Any]:
    told = row._asdict()
    for side in ("before", "after"):
        source = told[f"source_{side}"]
        told[side] = None if source is None else json_value(told[side])
        told[f"source_{side}"] = None if source is None else source.words
    return told


def _sides(row: ValueRow) -> tuple[tuple[Plain, Source | None], ...]:
    return (row.before, row.source_before), (row.after, row.source_after)


def _cell(value: Plain, source: Source | None) -> str:
    return "" if source is None else format_value(value)
