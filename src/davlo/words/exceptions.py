"""Exceptions in words: gathered by value and cause, each with its reason."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence

from davlo.core.resolve.exception_causes import ExceptionCause, SettingExceptions
from davlo.core.resolve.exceptions import PageException
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import format_value, marked
from davlo.core.site.source import source_of
from davlo.core.wording import count, shortened

MOST_LETTERS = 40
"""The most letters of a value in a line."""
MOST_SETTINGS = 3
"""The most settings that a line about exceptions names."""
BY = {
    ScopeKind.HERE: "pages themselves",
    ScopeKind.STAMP: "stamps",
    ScopeKind.BUILT_IN: "no stamp, so the built-in value",
}
"""What makes pages exceptions, where no rule does."""


def grouped(records: Sequence[PageException], key: Callable[[PageException], Hashable]) -> list[list[PageException]]:
    """Those that are alike together; the most first."""
    groups: dict[Hashable, list[PageException]] = {}
    for one in records:
        groups.setdefault(key(one), []).append(one)
    return sorted(groups.values(), key=len, reverse=True)


def values_of(one: PageException) -> tuple[str, str]:
    """What a page has, and what it would inherit and from where."""
    inherited = marked(one.inherited)
    return marked(one.value), f"{inherited} ({one.inherited_source.scope})"


def reason_of(one: PageException) -> str:
    """What made a page an exception, the reason that was given, and where."""
    scope = one.source.scope
    if scope.kind == ScopeKind.BUILT_IN:
        return "no stamp: the page has the built-in value"
    by = {ScopeKind.HERE: "the page itself says so", ScopeKind.STAMP: "a stamp"}.get(scope.kind, scope.sentence)
    return f"{by}{f': {one.because}' if one.because else ''} ({one.source.where})"


def cause_in_words(cause: ExceptionCause) -> str:
    """What makes pages exceptions, where that begins, on how many pages, and the reason that was given."""
    return f"{_by(cause)}, {count(len(cause.pages), 'page')}{_reason(cause)}"


def _reason(cause: ExceptionCause) -> str:
    """The reason that was given, after a colon."""
    return f": {cause.because}" if cause.because else ""


def _by(cause: ExceptionCause) -> str:
    """What makes pages exceptions, and where that begins."""
    kind = cause.scope.kind
    by = BY.get(kind, cause.scope.sentence)
    if kind == ScopeKind.HERE and len(cause.pages) == 1:
        by = "the page itself"
    first = "first at " if len(cause.pages) > 1 and kind in BY else ""
    return f"{by}{f' ({first}{cause.source.where})' if cause.source.file else ''}"


def setting_in_words(one: SettingExceptions) -> str:
    """A setting and the value that pages have, or how many values they have.

    Example
    -------
    >>> import davlo
    >>> [setting_in_words(one) for one in davlo.open_demo().resolve().exception_causes()[1].settings]
    ['layout.name open', 'sidebar.right none']
    """
    if one.different() > 1:
        return f"{one.setting} ({count(one.different(), 'value')})"
    return f"{one.setting} {shortened(marked(one.words[int(one.value[0])]), MOST_LETTERS)}"


def exceptions_in_words(cause: ExceptionCause) -> str:
    """What a cause does: settings and values first, on how many pages, then what makes it so, and why.

    Example
    -------
    >>> import davlo
    >>> exceptions_in_words(davlo.open_demo().resolve().exception_causes()[1])[:63]
    'layout.name: open instead of plain; sidebar.right: none instead'
    """
    told = [_change_in_words(one) for one in cause.settings[:MOST_SETTINGS]]
    more = len(cause.settings) - MOST_SETTINGS
    whole = "; ".join([*told, *([f"{count(more, 'more setting')}"] if more > 0 else [])])
    return f"{whole}, {count(len(cause.pages), 'page')}: {_by(cause)}{_reason(cause)}"


def _change_in_words(one: SettingExceptions) -> str:
    """A setting, the value that most of its pages have, and what they would inherit."""
    first, *others = one.values()
    value, inherited = (shortened(marked(word), MOST_LETTERS) for word in (first.value, first.inherited))
    more = f" (and {count(len(others), 'other change')})" if others else ""
    return f"{one.setting}: {value} instead of {inherited}{more}"


def cause_rows(site: SiteModel, cause: ExceptionCause, one: SettingExceptions) -> Iterator[list[str]]:
    """A row for each page: setting, page, value, what it would inherit, source, reason, and where it is set."""
    told = [format_value(word) for word in one.words]
    columns = (column.tolist() for column in (one.value, one.inherited, one.source))
    for path, value, inherited, said in zip(site.tree.paths.take(one.pages).tolist(), *columns, strict=True):
        source = source_of(site, said)
        yield [one.setting, path, told[value], told[inherited], str(source.scope), cause.because, source.where]
