"""Which pages have something in an area, and which values of a setting name a declaration that is wrong there."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TypeVar

import numpy as np

from ...arrays.codebooks import Mask, words_where
from ...outcomes.areas import CONTENT
from ...site.settings.values import Value
from ..context import FindingContext

Record = TypeVar("Record")


def is_full(value: Value) -> bool:
    """Whether a value puts something into an area."""
    return value not in (None, ())


def filled(context: FindingContext, area: str) -> Mask:
    """Where something stands in an area: a band, a sidebar, blocks, or the page's own content. bool[pages]"""
    found = context.standing(area)
    mask = np.zeros(len(context.site.tree), dtype=bool)
    for family, codes in (("band", found.band), ("sidebar", found.sidebar), ("blocks", found.blocks)):
        mask |= words_where(context.effective.column(f"{family}.{area}").words, is_full)[codes]
    names = context.effective.column("layout.name").words
    layouts = [context.site.declarations.layouts.get(str(name)) for name in names]
    own = [bool(layout and (layout.blocks.get(area) or (area == CONTENT and layout.own_content))) for layout in layouts]
    mask |= np.array([*own, False], dtype=bool)[found.layout]
    return mask


def has_sidebar_or_band(context: FindingContext, area: str) -> Mask:
    """Where a sidebar or a band stands in an area. bool[pages]"""
    words = context.effective.column(f"band.{area}").words
    mask: Mask = words_where(words, is_full)[context.standing(area).band]
    return mask | has_sidebar(context, area)


def has_sidebar(context: FindingContext, area: str) -> Mask:
    """Where a sidebar stands in an area. bool[pages]"""
    words = context.effective.column(f"sidebar.{area}").words
    mask: Mask = words_where(words, is_full)[context.standing(area).sidebar]
    return mask


def declared_where(
    context: FindingContext, setting: str, records: Mapping[str, Record], test: Callable[[Record], bool]
) -> tuple[list[Record | None], Mask]:
    """The declarations that the values of a setting name, and which of them a test is true of.

    The last entry of the mask is for pages where nothing stands (-1). bool[values + 1]
    """
    named = [records.get(str(word)) for word in context.effective.column(setting).words]
    return named, np.array([*(one is not None and test(one) for one in named), False], dtype=bool)
