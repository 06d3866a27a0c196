"""The page record of one page or of many: all fields in their groups."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType

import numpy as np

from ..resolve.effective import EffectiveModel
from ..site.people import VISITOR
from ..site.settings.values import Plain
from .detail_fields import PATH, detail_fields
from .forms import INTEGER, VERSION
from .outcome_fields import GROUPS_MAY, WHO_MAY, outcome_fields
from .record import Field, FieldValues, Group, PageRecord, RecordPages
from .setting_fields import setting_groups


def _version(pages: RecordPages) -> FieldValues[int]:
    return FieldValues(np.zeros(len(pages), dtype=np.int32), (VERSION,))


VERSION_FIELD = Field("version", "The version of the form of page records.", _version, form=INTEGER, depends_on=())
AT_THE_END = (WHO_MAY, GROUPS_MAY)
"""The fields after all groups."""


def record_form(pages: RecordPages, settings: Sequence[int] | None = None) -> Group:
    """The fields of these pages' records in their groups, with all settings or with some."""
    numbers = range(len(pages.site.catalogue)) if settings is None else settings
    outcomes = Group("outcomes", outcome_fields(pages))
    details = Group("details", detail_fields(pages.site))
    return Group("", (VERSION_FIELD, PATH, details, *setting_groups(pages.site, numbers), outcomes, *AT_THE_END))


def page_record(
    effective: EffectiveModel,
    page: int,
    is_new: bool = False,
    by_hand: Mapping[str, Plain] = MappingProxyType({}),
    viewer: str = VISITOR,
    screen: str = "",
) -> PageRecord:
    """The record of one page. `Site.page` is the call to use.

    `is_new`: whether `with_page` made the page up: the source of a stamp is what it would be made from. `by_hand`: the
    values that a page gets whose row is typed by hand, without stamps. `screen`: only what shows there.
    """
    pages = RecordPages(effective, np.array([page]), is_new=is_new, viewer=viewer, screen=screen)
    return PageRecord(pages, record_form(pages), by_hand=by_hand)
