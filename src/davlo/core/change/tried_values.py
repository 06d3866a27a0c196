"""Several values of one setting, each tried on a page in memory."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ..resolve.effective import EffectiveModel
from ..resolve.trace import check_has
from ..site.model import SiteModel
from ..site.settings.parse_values import read_typed_list
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import raw_of, shown
from ..site.source import source_of
from .steps.apply import apply
from .steps.change import Change


class TriedValue(NamedTuple):
    """One value of a setting on a page."""

    caption: str  # what is tried, and why it has no effect, if so
    effective: EffectiveModel  # the effective settings of the site with it


def tried_values(site: SiteModel, path: str, setting: str, values: Sequence[str]) -> list[TriedValue]:
    """A page as it is, and with each value of a setting set on the page itself. Nothing is written.

    `values`: as a cell of `values.csv` holds them, lists also with commas. A value that the page has already is
    skipped. Raises ChangeError if the setting cannot have a value, or cannot be said on a page.

    Example
    -------
    >>> import davlo
    >>> found = tried_values(davlo.open_demo(), "/visit/tickets", "sidebar.right", ["main", "visit-planning"])
    >>> [one.caption for one in found]
    ['sidebar.right as it is: visit-planning', 'sidebar.right: main']
    """
    number, page = site.setting_number(setting), site.page_number(path)
    check_has(site, page, number)
    effective = EffectiveModel(site)
    now = shown(effective.value(page, number))
    found = [TriedValue(f"{setting} as it is: {now}", effective)]
    for text in dict.fromkeys(values):
        raw = raw_of(read_typed_list(site.catalogue[number], text)) if site.catalogue[number].kind == "list" else text
        after = apply(site, Change().say(setting, raw, here=site.tree.paths[page]))
        tried = EffectiveModel(after)
        source = int(tried.resolved(number).source[page])
        if source != after.statements.find(number, ScopeKind.HERE, page):
            lock = source_of(after, source)
            why = f"no effect: {lock.scope.sentence} locks it ({lock.file}:{lock.line})"
            found.append(TriedValue(f"{setting}: {text} has {why}", tried))
        elif (value := shown(tried.value(page, number))) != now:
            found.append(TriedValue(f"{setting}: {value}", tried))
    return found
