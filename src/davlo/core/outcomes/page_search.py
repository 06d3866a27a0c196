"""Pages by what they get: by their effective values, and by whether these are shown."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import partial

import numpy as np

from ..arrays.codebooks import Mask
from ..faults import ValueFault
from ..resolve.effective import EffectiveModel
from ..site.settings.parse_values import read_cell, read_typed_list
from ..site.settings.values import ByDepth, ListChange, Plain, Reference, Value
from .shown_values import ShownValues


def search_pages(
    effective: EffectiveModel, having: Iterable[str] = (), shown: Iterable[str] = (), not_shown: Iterable[str] = ()
) -> Mask:
    """Where pages have certain values, and where these are shown or not. bool[pages]

    `having`: `SETTING=VALUE`, as a CSV cell has the value, in a list also with commas: all settings must match; one
    that is named again may have either value. A list matches if it holds all items named; with no item, if it is empty.
    `shown`, `not_shown`: settings whose value is shown, and settings whose value is set but not shown. Both are about
    pages with a value that is neither none, nor the empty list, nor the built-in one. Raises ValueFault if a setting
    cannot have such a value.

    Example
    -------
    >>> import davlo, numpy as np
    >>> effective = davlo.open_demo().resolve()
    >>> int(search_pages(effective, ["sidebar.right=none", "layout.name=open"]).sum())
    4
    >>> int(search_pages(effective, not_shown=["band.footer"]).sum())
    9
    """
    found = np.ones(len(effective.site.tree), dtype=bool)
    wanted: dict[int, list[Plain]] = {}
    for words in having:
        name, equals, text = words.partition("=")
        if not equals:
            raise ValueFault(f"{words!r} names no value", hint=f"write {words}=VALUE")
        number = effective.site.setting_number(name.strip())
        wanted.setdefault(number, []).append(_plain(effective, number, text.strip()))
    for number, values in wanted.items():
        found &= effective.resolved(number).where(partial(_matches, wanted=values)) & effective.site.has(number)
    states = effective.shared(ShownValues)
    for names, is_shown in ((shown, True), (not_shown, False)):
        for name in names:
            number = effective.site.setting_number(name)
            found &= (states.pages(number) == is_shown) & effective.site.has(number) & states.says(number)
    return found


def _plain(effective: EffectiveModel, number: int, text: str) -> Plain:
    """The value that words mean."""
    setting = effective.site.catalogue[number]
    if not text:
        return () if setting.kind == "list" else "" if setting.kind == "text" else None
    value = read_typed_list(setting, text) if setting.kind == "list" else read_cell(setting, text)
    if isinstance(value, (Reference, ListChange, ByDepth)):
        raise ValueFault(f"{text!r} is no value that a page ends up with", hint=f"write {setting.name}=VALUE")
    return value


def _matches(word: Value, wanted: Sequence[Plain]) -> bool:
    """Whether a value is one of those wanted; a list: whether it holds all items of one."""
    if isinstance(word, tuple):
        return any(isinstance(one, tuple) and (set(one) <= set(word) if one else not word) for one in wanted)
    return any(one == word and isinstance(one, bool) == isinstance(word, bool) for one in wanted)
