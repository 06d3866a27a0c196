"""Departures in words: gathered by value and cause, each with its reason."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence

from davlo.core.resolve.departure_causes import DepartingSetting, DepartureCause
from davlo.core.resolve.departures import Departure
from davlo.core.site.model import SiteModel
from davlo.core.site.scopes import ScopeKind
from davlo.core.site.source import source_of
from davlo.core.site.values import format_value
from davlo.core.wording import count, shortened

MOST_LETTERS = 40
"""The most letters of a value in a line."""
BY = {
    ScopeKind.HERE: "pages themselves",
    ScopeKind.STAMP: "stamps",
    ScopeKind.BUILT_IN: "no stamp, so the built-in value",
}
"""What makes pages depart, where no rule does."""


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


def cause_in_words(cause: DepartureCause) -> str:
    """What makes pages depart, where that begins, on how many pages, and the reason that was given."""
    kind = cause.scope.kind
    by = BY.get(kind, cause.scope.sentence)
    if kind == ScopeKind.HERE and len(cause.pages) == 1:
        by = "the page itself"
    first = "first at " if len(cause.pages) > 1 and kind in BY else ""
    where = f" ({first}{cause.source.where})" if cause.source.file else ""
    reason = f": {cause.because}" if cause.because else ""
    return f"{by}{where}, {count(len(cause.pages), 'page')}{reason}"


def setting_in_words(one: DepartingSetting) -> str:
    """A setting and the value that pages have, or how many values they have.

    Example
    -------
    >>> import davlo
    >>> [setting_in_words(one) for one in davlo.open_demo().resolve().departure_causes()[1].settings]
    ['layout.name open', 'sidebar.right none']
    """
    if one.different() > 1:
        return f"{one.setting} ({count(one.different(), 'value')})"
    return f"{one.setting} {shortened(format_value(one.words[int(one.value[0])]) or '(empty)', MOST_LETTERS)}"


def cause_rows(site: SiteModel, cause: DepartureCause, one: DepartingSetting) -> Iterator[list[str]]:
    """A row for each page: setting, page, value, what it would inherit, source, reason, and where it is set."""
    told = [format_value(word) for word in one.words]
    columns = (column.tolist() for column in (one.value, one.inherited, one.source))
    for path, value, inherited, said in zip(site.tree.paths.take(one.pages).tolist(), *columns, strict=True):
        source = source_of(site, said)
        yield [one.setting, path, told[value], told[inherited], str(source.scope), cause.because, source.where]
