"""Which statement put an item into a list, which need not be the last one that changed the list."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..site.settings.scopes import ScopeKind
from ..site.statements.scope_pages import ScopePages
from .effective import EffectiveModel
from .fold import SettingWords, fold_stages

_Step = tuple[NDArray[np.int64], Codes, Codes, Codes, Mask]


def item_sources(effective: EffectiveModel, setting: int, item: str, part: ScopePages) -> Codes:
    """For each page of a part whose list holds an item, the statement that put it there. int32[part]

    -1 where the item is built in, or where the list does not hold it.

    `setting`: the number of a list setting.

    Example
    -------
    >>> import davlo
    >>> site = davlo.Site.from_frames(
    ...     {"path": ["/", "/a"]},
    ...     {
    ...         "davlo": 1,
    ...         "site": {"name": "Small", "url": "https://small.example"},
    ...         "actions": ["view", "edit"],
    ...         "everywhere": {"access": {"everyone": ["view"]}},
    ...         "pages": {"/": {"below": {"access": {"everyone": {"add": ["edit"]}}}}},
    ...     },
    ... )
    >>> found = item_sources(site.resolve(), site.setting_number("access.everyone"), "view", site.scope_pages)
    >>> str(site.statements.place(int(found[1])))
    'decisions[everywhere][access][everyone]'
    """
    statements = effective.site.statements
    words, steps = SettingWords(statements, setting), list[_Step]()
    for_new_pages = effective.is_for_new_pages(setting)
    found = fold_stages(statements, setting, part, for_new_pages, lambda *step: steps.append(step), words)
    holds = np.array([isinstance(word, tuple) and item in word for word in words.book.items], dtype=bool)
    source = np.full(len(found.value), -1, dtype=np.int32)
    for pages, said, before, after, blocked in steps:
        puts = ~blocked & holds[after] & (~holds[before] | words.replaces[statements.value[said]])
        if for_new_pages:  # of the live fold only a locked default still applies to a page that is there
            puts &= found.closed[pages] | (statements.scope[said] >= ScopeKind.STAMP)
        source[pages[puts]] = said[puts]
    has = effective.site.has_by_type[setting][part.type_of]
    return np.where(holds[found.value] & has, source, -1).astype(np.int32)
