"""The form of a page record as a JSON Schema (json-schema.org, draft 2020-12), for programs that read records."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from davlo.core.records.area_fields import area_field, look_field, shows_field
from davlo.core.records.detail_fields import DEPTH, PARENT, PATH, detail_field
from davlo.core.records.forms import BLOCK, INTEGER, TEXT, VERSION, Form, list_of, members, or_null
from davlo.core.records.outcome_fields import OF_PAGE, PHONE, THEME_GROUP
from davlo.core.records.page_record import AT_THE_END, VERSION_FIELD
from davlo.core.records.record import Field, Group
from davlo.core.records.setting_fields import setting_fields
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.catalogue import Vocabulary, davlo_settings

DRAFT = "https://json-schema.org/draft/2020-12/schema"
LINK = members({"label": TEXT, "to": TEXT, "level": INTEGER})
DEFINITIONS: Mapping[str, Form] = {
    "block": members({"block": TEXT}, {"text": TEXT, "links": list_of(LINK), "one of": list_of(BLOCK)})
}
"""What forms refer to. A block shows a text, or links, or one of several blocks."""
GONE = members({"version": INTEGER, "path": TEXT, "gone": {"const": True}})
"""The line of a page that is gone, where only changed records are asked for."""
_ANY_VALUE: Form = {
    "type": ["boolean", "number", "string", "array", "null"],
    "items": dict(TEXT),
    "description": "The value of a setting of an area or a subject, or of the site's own.",
}


def record_schema() -> dict[str, Any]:
    """The schema of the records of any site.

    Example
    -------
    >>> schema = record_schema()
    >>> schema["anyOf"][0]["properties"]["outcomes"]["properties"]["menu"]["properties"]["level"]["type"]
    ['integer', 'null']
    """
    every = [one for one in davlo_settings(Vocabulary({}, (), (), {})) if not one.family]
    of_settings = {one.name: {**setting_fields(one, 0)[0].form, "description": one.help} for one in every}
    _, source, why = setting_fields(every[0], 0)
    details = {name: _described(detail_field(name)) for name in STANDARD if name not in ("path", "parent")}
    of_areas: dict[str, Callable[[str], Field[Any]]] = {"areas": area_field, "shows": shows_field, "looks": look_field}
    outcomes = _object(OF_PAGE, {name: _any_name(of(name)) for name, of in of_areas.items()}, (THEME_GROUP, PHONE))
    between = {
        "details": {**_object((PARENT, DEPTH), details), **_MORE_TEXTS},
        "settings": {"type": "object", "properties": of_settings, "additionalProperties": dict(_ANY_VALUE)},
        "sources": _any_name(source),
        "not shown": _any_name(why),
        "outcomes": outcomes,
    }
    title = f"A page record of Davlo, version {VERSION}: one line of davlo export --format jsonl"
    whole = _object((VERSION_FIELD, PATH), between, AT_THE_END)
    return {"$schema": DRAFT, "title": title, "anyOf": [whole, dict(GONE)], "$defs": dict(DEFINITIONS)}


_MORE_TEXTS = {"additionalProperties": {**or_null(TEXT), "description": "A column of the page list."}}


def _any_name(field: Field[Any]) -> dict[str, Any]:
    """An object with any keys, whose values are those of a field."""
    return {"type": "object", "additionalProperties": _described(field)}


def _described(field: Field[Any]) -> dict[str, Any]:
    return {**field.form, "description": field.help}


def _object(
    first: Sequence[Field[Any] | Group],
    between: Mapping[str, Mapping[str, Any]] | None = None,
    last: Sequence[Field[Any] | Group] = (),
) -> dict[str, Any]:
    """An object of fields and groups, then keys with other forms, then more fields and groups."""
    properties, optional = dict[str, Any](), set[str]()
    for part in (first, between or {}, last):
        if isinstance(part, Mapping):
            properties.update(part)
            continue
        for one in part:
            if isinstance(one, Group):
                properties[one.name] = _object(one.members)
            else:
                properties[one.name] = _described(one)
                optional |= {one.name} if one.is_optional else set()
    required = [name for name in properties if name not in optional]
    return {"type": "object", "properties": properties, "required": required, "additionalProperties": False}
