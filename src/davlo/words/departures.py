"""Departures in words: gathered by value and cause, each with its reason."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

from davlo.core.resolve.departures import Departure
from davlo.core.site.scopes import ScopeKind
from davlo.core.site.values import format_value


def grouped(records: Sequence[Departure], key: Callable[[Departure], Hashable]) -> list[list[Departure]]:
    """Those that are alike together; the most first."""
    groups: dict[Hashable, list[Departure]] = {}
    for one in records:
        groups.setdefault(key(one), []).append(one)
    return sorted(groups.values(), key=len, reverse=True)


def values_of(one: Departure) -> tuple[str, str]:
    """What a page has, and what it would inherit and from where."""
    inherited = format_value(one.inherited) or "(empty)"
    return format_value(one.value) or "(empty)", f"{inherited} ({one.inherited_source.scope})"


def reason_of(one: Departure) -> str:
    """What made a page depart, the reason that was given, and where."""
    scope = one.source.scope
    if scope.kind == ScopeKind.BUILT_IN:
        return "no stamp: the page has the built-in value"
    by = {ScopeKind.HERE: "the page itself says so", ScopeKind.STAMP: "a stamp"}.get(scope.kind, scope.sentence)
    return f"{by}{f': {one.because}' if one.because else ''} ({one.source.where})"
