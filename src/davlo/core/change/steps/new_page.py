"""A site with one more page, in memory: what a new page would get at a path."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TypeVar

from ...faults import UnknownName
from ...records.page_record import page_record
from ...records.record import PageRecord
from ...resolve.effective import EffectiveModel
from ...resolve.fold import fold_stages
from ...site.model import SiteModel
from ...site.people import VISITOR
from ...site.settings.scopes import ScopeKind
from ...site.statements.new_statements import NewStatement
from .replant import NEW, NewRow, replanted

Model = TypeVar("Model", bound=SiteModel)
OWNER = "page.owner"


def with_page(
    site: Model, path: str, details: Mapping[str, str], stamps: bool = True, by: str = ""
) -> tuple[Model, int]:
    """The site as it would be with one more page, and that page's number.

    The page gets the stamps of a new page, unless `stamps` is no. Its maker (`by`) becomes its owner, if no default
    names another.

    `path`: starts with `/`; no page has it yet. `details`: what the page list would say of it: `type`, `title`,
    `parent`, …; blank where it says nothing. `by`: the person who makes it. Raises SiteError if there cannot be such a
    page: the path is taken or no path, the parent is not there, a detail is no such value.

    Example
    -------
    >>> import davlo
    >>> site, page = with_page(davlo.open_demo(), "/visit/picnic", {"type": "event"})
    >>> site.resolve()["/visit/picnic"]["sidebar.right"]
    'visit-planning'
    """
    grown, page = _with_row(site, path, details)
    return (_stamped(grown, page, by) if stamps else grown), page


def with_plain_pages(site: Model, rows: Sequence[tuple[NewRow, str]]) -> Model:
    """The site with more pages, each with the stamps of a new page, and with who makes it; empty for nobody."""
    grown, _ = replanted(site, new=[row for row, _ in rows])
    for row, by in rows:
        grown = _stamped(grown, grown.page_number(row.path), by)
    return grown


def _with_row(site: Model, path: str, details: Mapping[str, str]) -> tuple[Model, int]:
    """The site with the row of one more page, which has no stamps, and that page's number."""
    grown, _ = replanted(site, new=[NewRow(path, details)])
    return grown, grown.page_number(path)


def _stamped(site: Model, page: int, by: str) -> Model:
    """The site with the stamps that a page gets when somebody makes it now."""
    if by and not site.people.has(by):
        raise UnknownName("person", by, site.people.names)
    return replace(site, statements=site.statements.edited(site.catalogue.built_in(), more=_stamps(site, page, by)))


def new_page_record(
    site: SiteModel, path: str, details: Mapping[str, str], by: str = "", viewer: str = VISITOR, screen: str = ""
) -> PageRecord:
    """What a page would get once its row and its stamps are written. `Site.new_page` is the call to use."""
    typed, page = _with_row(site, path, details)
    alone, by_hand = typed.scope_pages.part(page, page + 1), EffectiveModel(typed)
    values = {one.name: by_hand.resolved_part(n, alone).at(0) for n, one in enumerate(site.catalogue.settings)}
    stamped = EffectiveModel(_stamped(typed, page, by))
    return page_record(stamped, page, is_new=True, by_hand=values, viewer=viewer, screen=screen)


def _stamps(site: SiteModel, page: int, by: str) -> list[NewStatement]:
    """What would be stamped on a page that is made now, by a person where one is named."""
    found = []
    for number, setting in enumerate(site.catalogue.settings):
        if setting.default_for == "new-pages" and site.has_by_type[number, int(site.details.type_of[page])]:
            live = fold_stages(site.statements, number, site.scope_pages.part(page, page + 1), True)
            value = live.words[int(live.live_value[0])]
            is_said = int(live.live_source[0]) >= 0
            if not is_said and by and setting.name == OWNER:
                found.append(NewStatement(number, ScopeKind.STAMP, page, by, NEW))
            if is_said:
                found.append(NewStatement(number, ScopeKind.STAMP, page, value, NEW))
    return found
