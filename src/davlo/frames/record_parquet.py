"""Page records as Parquet: a column for each group, with the types that their forms have."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq
from numpy.typing import NDArray

from davlo.core.arrays.texts import Texts
from davlo.core.progress import work
from davlo.core.records.forms import Form
from davlo.core.records.page_record import record_form
from davlo.core.records.record import Field, Group, RecordPages
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR
from davlo.core.site.source import SourceColumns, Sources

from .json_text import json_text
from .parquet import strings
from .record_schema import DEFINITIONS

PART = 1 << 15
"""Pages written at a time."""
_SCALARS = {"string": pa.large_string(), "boolean": pa.bool_(), "integer": pa.int64(), "number": pa.float64()}


def write_records(
    effective: EffectiveModel,
    to: Path,
    settings: Sequence[int] | None = None,
    pages: NDArray[np.int64] | None = None,
    viewer: str = VISITOR,
) -> None:
    """The records of all pages, or of some, as a Parquet file; with all settings, or with some."""
    records = RecordPages(effective, pages, viewer=viewer)
    form = record_form(records, settings)
    schema = pa.schema(_fields(form))
    with work("writing the records", len(records)) as step, pq.ParquetWriter(str(to), schema) as writer:
        done, written = 0, None
        with ThreadPoolExecutor(1) as thread:  # while one part is written, the next is made
            for part in records.parts(PART):
                step(f"page {done:,} of {len(records):,}")
                table = pa.Table.from_arrays([_array(one, part) for one in _members(form)], schema=schema)
                if written is not None:
                    written.result()
                written = thread.submit(writer.write_table, table)
                done += len(part)
            if written is not None:
                written.result()


def arrow_type(form: Form, depth: int = 0) -> pa.DataType:
    """The type of values of a form; a list of names with values is a map, and a block within a block is JSON."""
    if "$ref" in form:
        name = form["$ref"].rpartition("/")[2]
        return arrow_type(DEFINITIONS[name], depth + 1) if depth == 0 else pa.large_string()
    kinds = [form["type"]] if isinstance(form["type"], str) else form["type"]
    kind = next(one for one in kinds if one != "null")
    if kind == "array":
        return pa.list_(arrow_type(form["items"], depth))
    if kind == "object" and "properties" in form:
        return pa.struct([pa.field(name, arrow_type(one, depth)) for name, one in form["properties"].items()])
    if kind == "object":
        return pa.map_(pa.string(), arrow_type(form["additionalProperties"], depth))
    return pa.date32() if form.get("format") == "date" else _SCALARS[kind]


def _members(group: Group) -> list[Field[Any] | Group]:
    """The fields and groups of a group; groups without members, which no Parquet file can hold, are left out."""
    return [one for one in group.members if isinstance(one, Field) or one.members]


def _fields(group: Group) -> list[pa.Field]:
    """The schema of a group's members."""
    return [
        pa.field(one.name, pa.struct(_fields(one)) if isinstance(one, Group) else arrow_type(one.form))
        for one in _members(group)
    ]


def _array(member: Field[Any] | Group, records: RecordPages) -> pa.Array:
    """A field or a group of all these pages."""
    if isinstance(member, Group):
        inner = [_array(one, records) for one in _members(member)]
        return pa.StructArray.from_arrays(inner, fields=_fields(member))
    kind, (codes, values) = arrow_type(member.form), records.values(member)
    if isinstance(values, Texts):
        there = codes >= 0
        found = strings(values.take(np.where(there, codes, 0))) if len(values) else pa.nulls(len(codes), kind)
        return found if there.all() else pc.if_else(pa.array(there), found, pa.scalar(None, kind))
    if isinstance(values, Sources):
        words = _sources(values.columns(), kind)
    else:
        used = np.bincount(codes[codes >= 0], minlength=len(values)).tolist()
        told = (_as_arrow(member.as_json(one), kind) if uses else None for one, uses in zip(values, used, strict=True))
        words = pa.array(list(told), kind)
    return words.take(pa.array(codes, mask=codes < 0))


def _sources(found: SourceColumns, kind: pa.DataType) -> pa.Array:
    """Sources as Parquet has them; null is the file and line of what is built in."""
    scope = strings(found.scope.words).take(pa.array(found.scope.codes))
    file = strings(found.file.words).take(pa.array(found.file.codes, mask=found.file.codes == 0))
    line = pa.array(found.line, kind.field("line").type, mask=found.line == 0)
    return pa.StructArray.from_arrays([scope, file, line, pa.array(found.locked)], fields=list(kind))


def _as_arrow(value: Any, kind: pa.DataType) -> Any:
    """A value of JSON as pyarrow takes it."""
    if value is None:
        return None
    if pa.types.is_list(kind):
        return [_as_arrow(one, kind.value_type) for one in value]
    if pa.types.is_map(kind):
        return [(name, _as_arrow(one, kind.item_type)) for name, one in value.items()]
    if pa.types.is_struct(kind):
        return {name: _as_arrow(one, kind.field(name).type) for name, one in value.items()}
    if pa.types.is_date32(kind):
        return np.datetime64(value, "D").item()
    return json_text(value) if isinstance(value, dict) else value
