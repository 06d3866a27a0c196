"""What kinds of values the page record holds, in the words of JSON Schema (json-schema.org, draft 2020-12).

Each field names its form once; the schema of a record and the columns of a Parquet file are made from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, TypeAlias

Form: TypeAlias = "Mapping[str, Any]"
VERSION = 1
"""The version of the page record: it changes when a field goes, or gets another form."""
TEXT: Form = MappingProxyType({"type": "string"})
FLAG: Form = MappingProxyType({"type": "boolean"})
INTEGER: Form = MappingProxyType({"type": "integer"})
NUMBER: Form = MappingProxyType({"type": "number"})
DAY: Form = MappingProxyType({"type": "string", "format": "date"})
BLOCK: Form = MappingProxyType({"$ref": "#/$defs/block"})
"""A block that shows; it may hold blocks itself."""
_OF_KINDS = {"flag": FLAG, "integer": INTEGER, "number": NUMBER, "date": DAY}
_NEVER_NONE = ("flag", "text")


def list_of(form: Form) -> Form:
    """A list of values of one form."""
    return {"type": "array", "items": dict(form)}


def by_name(form: Form) -> Form:
    """An object whose keys are names, and whose values have one form."""
    return {"type": "object", "additionalProperties": dict(form)}


def members(required: Mapping[str, Form], optional: Mapping[str, Form] = MappingProxyType({})) -> Form:
    """An object with these keys and no others."""
    every = {name: dict(form) for name, form in {**required, **optional}.items()}
    return {"type": "object", "properties": every, "required": [*required], "additionalProperties": False}


def or_null(form: Form) -> Form:
    """A value of a form, or null.

    Example
    -------
    >>> or_null(TEXT), or_null(BLOCK)["anyOf"][1]
    ({'type': ['string', 'null']}, {'type': 'null'})
    """
    if "type" not in form:
        return {"anyOf": [dict(form), {"type": "null"}]}
    kinds = [form["type"]] if isinstance(form["type"], str) else [*form["type"]]
    return {**form, "type": [*kinds, "null"]}


def form_of(kind: str, is_none: bool) -> Form:
    """The form of the values of a setting of some kind; null where the value is none.

    `is_none`: whether the setting is none where nobody sets it.
    """
    if kind == "list":
        return list_of(TEXT)
    form = _OF_KINDS.get(kind, TEXT)
    return form if kind in _NEVER_NONE and not is_none else or_null(form)
