"""The details of a page as fields of its record."""

from __future__ import annotations

from functools import cache, partial

import numpy as np

from ..arrays.codebooks import distinct
from ..site.model import SiteModel
from .record import Field, FieldValues, RecordPages


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


PATH = Field("path", "The page's path.", _path)
PARENT = Field("parent", "The path of the page above; null at the top.", _parent, depends_on=())
DEPTH = Field("depth", "The number of its ancestors.", _depth, depends_on=())


def detail_fields(site: SiteModel) -> tuple[Field[str] | Field[int], ...]:
    """The fields of what the page list says: its columns as they are, then the page above and the depth."""
    names = [name for name in site.details.columns if name != "parent"]
    return (*map(_detail_field, names), PARENT, DEPTH)


@cache
def _detail_field(name: str) -> Field[str]:
    return Field(name, "What the page list says.", partial(_detail, name), depends_on=("texts",))
