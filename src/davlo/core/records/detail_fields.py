"""The details of a page as fields of its record."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial

import numpy as np

from ..arrays.codebooks import distinct
from ..site.model import SiteModel
from ..site.pages.conditions import split_list
from ..site.settings.numbers import number_of
from .forms import INTEGER, NUMBER, TEXT, Form, list_of, or_null
from .record import Field, FieldValues, RecordPages, as_it_is


def _path(pages: RecordPages) -> FieldValues[str]:
    return FieldValues(pages.pages.astype(np.int32), pages.site.tree.paths)


def _parent(pages: RecordPages) -> FieldValues[str]:
    return FieldValues(pages.site.tree.parent[pages.pages].astype(np.int32), pages.site.tree.paths)


def _depth(pages: RecordPages) -> FieldValues[int]:
    depth = pages.site.tree.depth[pages.pages].astype(np.int64)
    first, codes = distinct(depth)
    return FieldValues(codes, depth[first].tolist())


def _detail(name: str, pages: RecordPages) -> FieldValues[str]:
    column = pages.site.details.columns[name]
    return FieldValues(column.codes[pages.pages], column.words)


def _blank_is_null(word: str) -> str | None:
    return word or None


def _tags_json(word: str) -> list[str]:
    return [*split_list(word)]


def _order_json(word: str) -> float | None:
    number = number_of(word) if word else None
    return int(number) if number is not None and number.is_integer() else number


PATH = Field("path", "The page's path.", _path)
PARENT = Field("parent", "The path of the page above; null at the top.", _parent, form=or_null(TEXT), depends_on=())
DEPTH = Field("depth", "The number of its ancestors.", _depth, form=INTEGER, depends_on=())


def detail_fields(site: SiteModel) -> tuple[Field[str] | Field[int], ...]:
    """The fields of what the page list says, null where a cell is blank; then the page above and the depth."""
    names = [name for name in site.details.columns if name != "parent"]
    return (*map(detail_field, names), PARENT, DEPTH)


@cache
def detail_field(name: str) -> Field[str]:
    """The field of a detail."""
    as_json, form = _AS_JSON.get(name, _OTHERWISE)
    return Field(
        name,
        "What the page list says; null where it says nothing.",
        partial(_detail, name),
        as_json,
        form,
        depends_on=("texts",),
    )


_AS_JSON: dict[str, tuple[Callable[[str], object], Form]] = {
    "title": (as_it_is, TEXT),
    "type": (as_it_is, TEXT),
    "status": (as_it_is, TEXT),
    "tags": (_tags_json, list_of(TEXT)),
    "order": (_order_json, or_null(NUMBER)),
}
"""The details that are no text, or that no page lacks."""
_OTHERWISE = (_blank_is_null, or_null(TEXT))
