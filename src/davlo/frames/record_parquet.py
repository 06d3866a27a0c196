"""Page records as Parquet: a column for each group, with the types that their forms have."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from numpy.typing import NDArray

from davlo.core.arrays.texts import Texts
from davlo.core.progress import work
from davlo.core.records.forms import Form
from davlo.core.records.page_record import record_form
from davlo.core.records.record import Field, Group, RecordPages
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR

from .json_text import json_text
from .parquet import strings
from .record_schema import DEFINITIONS

PART = 1 << 16
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
    columns = _columns(form, records)
    schema = pa.schema([pa.field(name, kind) for name, kind, _ in columns])
    bounds = [*range(0, len(records), PART), len(records)] if len(records) else [0, 0]
    with work("writing the records", len(bounds) - 1) as step, pq.ParquetWriter(str(to), schema) as writer:
        for begin, end in pairwise(bounds):
            step(f"{len(records):,} pages")
            part = slice(begin, end)
            writer.write_table(pa.Table.from_arrays([rows(part) for _, _, rows in columns], schema=schema))


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


_Rows: TypeAlias = "Callable[[slice], pa.Array]"
"""What gives the rows of a slice of the pages."""


def _columns(group: Group, records: RecordPages) -> list[tuple[str, pa.DataType, _Rows]]:
    """The fields and groups of a group; groups without members, which no Parquet file can hold, are left out."""
    return [_column(one, records) for one in group.members if isinstance(one, Field) or one.members]


def _column(member: Field[Any] | Group, records: RecordPages) -> tuple[str, pa.DataType, _Rows]:
    """A field or a group: its name, its type, and what gives its rows."""
    if isinstance(member, Group):
        inner = _columns(member, records)
        fields = [pa.field(name, kind) for name, kind, _ in inner]

        def rows(part: slice) -> pa.Array:
            return pa.StructArray.from_arrays([of(part) for _, _, of in inner], fields=fields)

        return member.name, pa.struct(fields), rows
    kind, (codes, values) = arrow_type(member.form), records.values(member)
    if isinstance(values, Texts):
        words = strings(values)
    else:
        used = np.bincount(codes[codes >= 0], minlength=len(values)).tolist()
        told = (_as_arrow(member.as_json(one), kind) if uses else None for one, uses in zip(values, used, strict=True))
        words = pa.array(list(told), kind)
    return member.name, kind, lambda part: words.take(pa.array(codes[part], mask=codes[part] < 0))


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
