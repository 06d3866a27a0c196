"""The settings of a page as fields of its record: the value, its source, and why it is not shown."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, partial
from typing import Any

import numpy as np

from ..arrays.codebooks import distinct
from ..outcomes.shown_values import ShownValues
from ..site.model import SiteModel
from ..site.settings.scopes import ScopeKind
from ..site.settings.setting import Setting
from ..site.settings.values import json_value
from ..site.source import Source, Sources
from .forms import FLAG, INTEGER, TEXT, Form, form_of, members, or_null
from .record import Field, FieldValues, Group, RecordPages


def source_record(source: Source) -> dict[str, object]:
    """A source as the page record has it in JSON."""
    return {
        "scope": str(source.scope),
        "file": source.file or None,
        "line": source.line or None,
        "locked": source.locked,
    }


def _value(number: int, pages: RecordPages) -> FieldValues[Any]:
    found = pages.effective.resolved(number)
    return FieldValues(np.where(pages.site.has(number)[pages.pages], found.value[pages.pages], -1), found.words)


def _source(number: int, pages: RecordPages) -> FieldValues[Source]:
    site = pages.site
    statement = pages.effective.resolved(number).source[pages.pages]
    if pages.is_new:
        scopes = np.append(site.statements.scope, ScopeKind.BUILT_IN)
        stamped = scopes[statement] == ScopeKind.STAMP
        live = pages.effective.fold_stages(number).live_source[pages.pages]
        statement = np.where(stamped, live, statement)
    first, codes = distinct(statement.astype(np.int64))
    sources = Sources(site, statement[first].astype(np.int64))
    return FieldValues(np.where(site.has(number)[pages.pages], codes, -1), sources)


def _why_not_shown(number: int, pages: RecordPages) -> FieldValues[str]:
    found = pages.effective.shared(ShownValues).reasons_on(number, pages.pages)
    return FieldValues(found.codes - 1, found.words[1:])


SOURCE: Form = members({"scope": TEXT, "file": or_null(TEXT), "line": or_null(INTEGER), "locked": FLAG})


def setting_fields(setting: Setting, number: int) -> tuple[Field[Any], Field[Source], Field[str]]:
    """The fields of one setting: its value, its source, and why it is not shown."""
    return _setting_fields(setting.name, number, setting.kind, setting.built_in is None)


@cache
def _setting_fields(name: str, number: int, kind: str, is_none: bool) -> tuple[Field[Any], Field[Source], Field[str]]:
    form = form_of(kind, is_none)
    return (
        Field(name, "The effective value.", partial(_value, number), json_value, form, is_optional=True),
        Field(name, "Where the value came from.", partial(_source, number), source_record, SOURCE, is_optional=True),
        Field(name, "Why the value is not shown.", partial(_why_not_shown, number), is_optional=True),
    )


def setting_groups(site: SiteModel, numbers: Sequence[int]) -> tuple[Group, ...]:
    """The groups of the settings' fields: values, sources, and why some are not shown."""
    every = [setting_fields(site.catalogue[number], number) for number in numbers]
    names = ("settings", "sources", "not shown")
    return tuple(Group(name, tuple(one[at] for one in every)) for at, name in enumerate(names))
