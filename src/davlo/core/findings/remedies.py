"""The ways to mend a finding: for many kinds, which of its statements to take away; of others, what it tells itself."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ..change.reach import reach
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.new_statements import Form
from ..site.scopes import ScopeKind
from ..site.values import Value
from .finding import Finding, Statements
from .mending import MOST_STEPS, Remedy, lifted, without

ALL, FIRST, REST, LAST = slice(None), slice(0, 1), slice(1, None), slice(-1, None)
WAYS: dict[str, tuple[tuple[str, slice], ...]] = {
    "lock-clash": (("the other locks", REST),),
    "lock-overrules": (("what is overruled", REST),),
    "type-below-clash": (("what the branch says", LAST), ("what the type says", FIRST)),
    "rules-overlap": (("what the weaker rule gives", LAST), ("what the stronger rule gives", FIRST)),
    "no-effect": (("what the pages say", ALL),),
    "no-such-page": (("what is said of it", ALL),),
    "idle-stamp": (("the stamps", ALL),),
    "not-applicable": (("the statements", ALL),),
    "childless-below": (("the statements", ALL),),
    "idle-default": (("the statements", ALL),),
    "unknown-placeholder": (("the pattern", ALL),),
    "no-heading": (("what hides the heading", ALL),),
    "no-such-area": (("what is set for the area", FIRST),),
    "band-does-not-fit": (("the band", ALL),),
    "empty-sidebar": (("the sidebar", ALL),),
    "sidebar-on-no-device": (("the look", ALL),),
    "phone-order-incomplete": (("the order", ALL),),
    "same-sidebar-twice": (("the second", LAST), ("the first", FIRST)),
    "idle-look": (("the look", ALL),),
    "edit-without-view": (("the grant", ALL),),
    "reset-by-fresh": (("the fresh_access", ALL),),
    "drops-actions": (("the list", ALL),),
    "owner-gone": (("the owner", ALL),),
    "group-empty": (("the statements", ALL),),
    "unreachable-grant": (("the grant", ALL),),
    "cut-off-in-menu": (("what hides the page above", ALL),),
    "unlinked-page": (("what hides the pages", ALL),),
    "listed-but-unlinked": (("what hides the pages", ALL),),
    "private-with-priority": (("the priority", ALL),),
    "noindex-with-priority": (("the priority", FIRST), ("what forbids indexing", REST)),
    "left-out-by-priority": (("the priority", ALL),),
    "one-priority": (("the priority", ALL),),
}
"""Kinds whose findings can be mended by taking statements away: what that is called, and which of them."""
IDLE = ("no-effect", "no-such-page", "idle-stamp", "not-applicable", "childless-below", "idle-default", "idle-look")
"""Kinds about what does nothing: it can go, also where a preset says the same."""
LOCKS = ("lock-clash", "lock-overrules")
"""Kinds that the first of their statements locks: the lock can be lifted."""
DECIDE = (
    "missing-value",
    "unread-setting",
    "duplicate-title",
    "long-title",
    "empty-title",
    "area-missing-in-theme",
    "blank-page",
    "nobody-may-edit",
)
"""Kinds that no one edit mends: somebody must decide first."""


def remedies(effective: EffectiveModel, finding: Finding) -> list[Remedy]:
    """The ways to mend a finding; none where somebody must decide, or a preset says it.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> [(way.words, way.steps[0].line) for way in remedies(site.resolve(), site.check().findings[0])]
    [('take away what is overruled', 91), ('lift the lock', 46)]
    """
    told = finding.statements
    numbers = told.numbers if isinstance(told, Statements) else ()
    site = effective.site
    found = [
        without(site, words, numbers[some])
        for words, some in WAYS.get(finding.kind, ())
        if len(numbers) <= MOST_STEPS
        if finding.kind in IDLE or not any(_said_again(site, number) for number in numbers[some])
    ]
    found += [lifted(site, numbers[0])] if finding.kind in LOCKS else []
    found += _levelling(effective, finding.pages.numbers) if finding.kind == "child-above-parent" else []
    return [*(way for way in found if way is not None), *finding.ways]


def _said_again(site: SiteModel, number: int) -> bool:
    """Whether a preset says the same in the same scope, so that nothing changes when a statement is taken away."""
    said = site.statements
    span = said.of_setting(int(said.setting[number]), ScopeKind(int(said.scope[number])))
    rows = slice(span.start, span.stop)
    return bool(
        (
            (said.target[rows] == said.target[number])
            & (said.value[rows] == said.value[number])
            & (said.form[rows] == Form.PRESET)
        ).any()
    )


def _levelling(effective: EffectiveModel, pages: NDArray[np.int64]) -> Iterator[Remedy]:
    """The ways to take away what lowers the page above, or what raises these; those that do not level them are none."""
    site = effective.site
    above, number = site.tree.parent[pages], site.setting_number("sitemap.priority")
    found = effective.resolved(number)
    for words, which in (("what the page above says", above), ("the priority", pages)):
        said = sorted(set(found.source[which].tolist()))
        if len(said) > 1 or said[0] < 0 or site.statements.scope[said[0]] < ScopeKind.TYPE:
            continue  # a default of all pages says too much to be taken away for some
        way = without(site, words, said)
        if way is None or not way.effects:
            continue
        changed = reach(effective, way.effects[0])
        size = _sizes(found.words)[found.value]
        size[changed.pages] = _sizes(changed.words)[changed.after]
        if not (size[pages] > size[above]).any():
            yield way


def _sizes(words: Sequence[Value]) -> NDArray[np.float64]:
    """Numbers among values; NaN where a value is none. float64[words]"""
    return np.array([float(word) if isinstance(word, int | float) else np.nan for word in words])
