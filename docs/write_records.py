"""Writes docs/records.md and docs/records.schema.json: what a page record holds, from the record's own form.

python -m docs.write_records
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from davlo.frames.json_text import json_text
from davlo.frames.record_schema import record_schema

HEAD = """# Page records

Made by `python -m docs.write_records` from the form of the record; [records.schema.json](records.schema.json) is the
same as a JSON Schema.

A page record is all that Davlo works out for one page: details, settings, their sources, what readers and search
engines meet, and who may do what. `davlo export --format jsonl` prints one a line; `davlo export --records --to
records.parquet` writes a column for each group; in the library it is `Site.page`. A visitor meets it, unless `--as`
names somebody else. The number in `version` changes when a field goes, or gets another form; new fields may come
without that.

- `davlo export --format jsonl --changed-since HEAD~1` prints only the records that are new or differ, and for each page
  that is gone `{"version": 1, "path": "/old", "gone": true}`. A statement that moved to another line makes no
  difference.
- `davlo export --to looks.css` writes the looks as a style sheet, for the classes that `outcomes.looks` names.
- In Parquet, an object whose keys are names is a map, a date is a date, and a block within a block is JSON.

| field | kind | what it says |
|---|---|---|
"""
_KINDS = {"string": "text", "boolean": "flag", "integer": "whole number", "number": "number"}


def rows(form: Mapping[str, Any], path: str = "") -> Iterator[tuple[str, str, str]]:
    """The fields of an object: their names, kinds and descriptions."""
    for name, one in form["properties"].items():
        yield from _row(f"{path}{name}", one)
    more = form.get("additionalProperties")
    if isinstance(more, Mapping):
        yield from _row(f"{path}NAME", more)


def _row(name: str, form: Mapping[str, Any]) -> Iterator[tuple[str, str, str]]:
    if form.get("type") == "object" and "description" not in form:
        if "properties" in form:
            yield from rows(form, f"{name}.")
        else:
            yield from _row(f"{name}.NAME", form["additionalProperties"])
    else:
        yield name, _kind(form), form.get("description", "")


def _kind(form: Mapping[str, Any]) -> str:
    """The kind of a form, in words."""
    if "$ref" in form:
        return "block"
    if "anyOf" in form:
        return " or ".join(map(_kind, form["anyOf"]))
    kinds = [form["type"]] if isinstance(form["type"], str) else form["type"]
    words = [_word(kind, form) for kind in kinds if kind != "null"]
    return " or ".join([*words, *(["null"] if "null" in kinds else [])])


def _word(kind: str, form: Mapping[str, Any]) -> str:
    if kind == "array":
        return f"list of {_kind(form['items'])}"
    if kind == "object" and "properties" in form:
        return f"object: {', '.join(form['properties'])}"
    if kind == "object":
        return f"{_kind(form['additionalProperties'])} by name"
    return "date" if form.get("format") == "date" else _KINDS[kind]


def page() -> str:
    """The whole page."""
    found = rows(record_schema()["anyOf"][0])
    return HEAD + "".join(f"| `{name}` | {kind} | {help} |\n" for name, kind, help in found)


if __name__ == "__main__":
    folder = Path(__file__).parent
    (folder / "records.md").write_text(page(), encoding="utf-8")
    (folder / "records.schema.json").write_text(f"{json_text(record_schema(), indent=1)}\n", encoding="utf-8")
