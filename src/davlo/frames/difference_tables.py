"""A difference as rows for CSV, and as a record for JSON."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

from davlo.core.change.change_reach import ChangeReach
from davlo.core.change.differences.causes import Cause
from davlo.core.change.differences.comparison import OF_OUTCOMES, PARTS, Comparison
from davlo.core.change.differences.difference import Difference
from davlo.core.change.differences.difference_rows import AccessRow, DeclarationChange, OutcomeRow, Pages, ValueRow
from davlo.core.outcomes.declaration_contents import Content
from davlo.core.site.settings.values import Plain, format_value, json_value
from davlo.core.site.source import Source

from .json_text import json_text

COLUMNS = (
    *("path", "setting", "before", "after", "source_before", "source_after"),
    *("locked_before", "locked_after", "shown_before", "shown_after"),
)


def difference_rows(difference: Difference) -> Iterator[list[str]]:
    """A row for every page and setting that differ, each cell as a table writes it; blank where there is none.

    Example
    -------
    >>> import davlo
    >>> found = davlo.open_demo().reach(davlo.Change().say("sidebar.right", "main", here="/visit/tickets"))
    >>> next(difference_rows(found))
    ['/visit/tickets', 'sidebar.right', 'visit-planning', 'main', 'below /visit', 'here', 'no', 'no', 'yes', 'yes']
    """
    for row in difference.rows():
        yield [
            row.path,
            row.setting,
            *(_cell(value, source) for value, source in _sides(row)),
            *("" if source is None else source.words for _, source in _sides(row)),
            *("" if source is None else format_value(source.locked) for _, source in _sides(row)),
            *("" if shown is None else format_value(shown) for shown in (row.shown_before, row.shown_after)),
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
    return {key: make() for key, make in _parts_of(difference).items()}


def comparison_record(found: Comparison, parts: Sequence[str] = PARTS) -> dict[str, Any]:
    """A comparison for JSON: the difference, with its causes and details; all parts, or some.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
    >>> record = comparison_record(site.difference(after), ["values", "menu"])
    >>> list(record), record["causes"][0]["what"], record["causes"][0]["file"]
    (['values', 'outcomes', 'causes'], 'says', 'the change')
    """
    keys = {*parts, *(["outcomes"] if {*parts} & {*OF_OUTCOMES} else []), *(["causes"] if "values" in parts else [])}
    makers = _parts_of(found)
    makers["outcomes"] = lambda: [
        row._asdict() for part in OF_OUTCOMES if part in parts for row in _outcome_rows(found, part)
    ]
    makers["causes"] = lambda: [_cause_record(found, one) for one in found.causes]
    makers["details"] = lambda: {name: _paths(found, pages) for name, pages in found.details.items()}
    return {key: make() for key, make in makers.items() if key in keys}


def _cause_record(found: Comparison, one: Cause) -> dict[str, Any]:
    return {
        "what": one.what,
        "setting": one.setting,
        "state": "before" if one.is_before else "after",
        "scope": one.source.words if one.source else None,
        "file": one.source.file or None if one.source else None,
        "line": one.source.line or None if one.source else None,
        "detail": one.detail or None,
        "pages": _paths(found, one.pages),
    }


def _outcome_rows(found: Comparison, part: str) -> Iterator[OutcomeRow]:
    paths = found.before.site.tree.paths
    return (row for one in found.outcomes_of(part) for row in one.rows(paths))


def _paths(found: Comparison, pages: Pages) -> list[str]:
    return found.before.site.tree.paths.take(pages).tolist()


def part_rows(
    found: Comparison, part: str, told: Callable[[Any], str] | None = None
) -> tuple[tuple[str, ...], Iterator[list[str]]]:
    """One part of a comparison as rows, and their header.

    `told`: what makes a text of a field's value (default: JSON, where it is no text).

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> header, rows = part_rows(site.difference(site.apply(davlo.Change().drop_page("/visit/thanks"))), "pages")
    >>> header, list(rows)
    (('what', 'before', 'after'), [['gone', '/visit/thanks', '']])
    """
    if part == "values":
        return COLUMNS, difference_rows(found)
    header, rows = _rows(found, part, told or cell_text)
    return header, ([str(cell) for cell in row] for row in rows)


def comparison_sheets(
    found: Comparison, parts: Sequence[str] = PARTS, told: Callable[[Any], str] | None = None
) -> dict[str, tuple[Sequence[str], list[list[str]]]]:
    """For each part that differs its header and rows, as a workbook has them.

    `told`: what makes a text of a field's value (default: JSON, where it is no text).

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> sheets = comparison_sheets(site.difference(site.apply(davlo.Change().drop_page("/visit/thanks"))))
    >>> list(sheets), len(sheets["pages"][1])
    (['pages', 'findings'], 1)
    """
    tables = {part: part_rows(found, part, told) for part in parts if found.differs_in(part)}
    return {part: (header, list(rows)) for part, (header, rows) in tables.items()}


def _rows(
    found: Comparison, part: str, told: Callable[[Any], str]
) -> tuple[tuple[str, ...], Iterable[Sequence[object]]]:
    if part in OF_OUTCOMES:
        cells = (row._replace(before=told(row.before), after=told(row.after)) for row in _outcome_rows(found, part))
        return OutcomeRow._fields, cells
    if part == "access":
        return AccessRow._fields, found.access
    if part == "pages":
        rows = [("new", "", path) for path in found.new] + [("gone", path, "") for path in found.gone]
        return ("what", "before", "after"), [*rows, *(("moved", *pair) for pair in found.moved)]
    if part == "details":
        each = ((name, path) for name, pages in found.details.items() for path in _paths(found, pages))
        return ("detail", "path"), each
    if part == "declarations":
        return ("what", "kind", "name"), [(one.what, one.kind, one.name) for one in found.declarations]
    changed = [one.after for one in found.findings.changed]
    sides = zip(("new", "gone", "changed"), (*found.findings[:2], changed), strict=True)
    findings = (
        (what, one.level, one.kind, one.name, one.setting or "", len(one.pages), one.message)
        for what, some in sides
        for one in some
    )
    return ("what", "level", "kind", "name", "setting", "pages", "message"), findings


def _parts_of(difference: Difference) -> dict[str, Callable[[], Any]]:
    """What gives each part of a difference, as JSON holds it."""
    kept = difference.no_effect if isinstance(difference, ChangeReach) else ()
    paths = difference.after.site.tree.paths
    return {
        "values": lambda: [_record(row) for row in difference.rows()],
        "pages": lambda: {
            "new": list(difference.new),
            "gone": list(difference.gone),
            "moved": [{"before": before, "after": after} for before, after in difference.moved],
        },
        "declarations": lambda: [_declaration(one) for one in difference.declarations],
        "access": lambda: [one._asdict() for one in difference.access],
        "outcomes": lambda: [one._asdict() for one in difference.outcomes],
        "findings": lambda: {
            "new": [one.as_json() for one in difference.findings.new],
            "gone": [one.as_json() for one in difference.findings.gone],
            "changed": [
                {**one.after.as_json(), "pages_before": list(one.before.pages)} for one in difference.findings.changed
            ],
        },
        "no_effect": lambda: [
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


def cell_text(value: Any) -> str:
    """A value of a field as a cell has it: a text as it is, all else as JSON."""
    return value if isinstance(value, str) else "" if value is None else json_text(value)


def _declaration(one: DeclarationChange) -> dict[str, Any]:
    keys = {key: {"before": _held(before), "after": _held(after)} for key, (before, after) in one.keys.items()}
    return {"kind": one.kind, "name": one.name, "what": one.what, "keys": keys}


def _held(content: Content | None) -> Any:
    if isinstance(content, Mapping):
        return {key: _held(inner) for key, inner in content.items()}
    return list(content) if isinstance(content, tuple) else content


def _record(row: ValueRow) -> dict[str, Any]:
    told = row._asdict()
    for side in ("before", "after"):
        source = told[f"source_{side}"]
        told[side] = None if source is None else json_value(told[side])
        told[f"source_{side}"] = None if source is None else source.words
        told[f"locked_{side}"] = None if source is None else source.locked
    return {name: told[name] for name in COLUMNS}


def _sides(row: ValueRow) -> tuple[tuple[Plain, Source | None], ...]:
    return (row.before, row.source_before), (row.after, row.source_after)


def _cell(value: Plain, source: Source | None) -> str:
    return "" if source is None else format_value(value)
