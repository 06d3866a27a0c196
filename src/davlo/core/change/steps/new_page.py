"""A site with one more page, in memory: what a new page would get at a path."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple, TypeVar

import numpy as np

from ...faults import UnknownName
from ...records.page_record import page_record
from ...records.record import PageRecord
from ...resolve.effective import EffectiveModel
from ...resolve.fold import fold_stages
from ...site.model import SiteModel
from ...site.pages.page_names import starts_of
from ...site.people import VISITOR
from ...site.settings.scopes import ScopeKind
from ...site.statements.new_statements import NewStatement
from ...wording import count
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
    return (with_stamps(grown, [(page, by)]) if stamps else grown), page


class Inferred(NamedTuple):
    """A detail that a new page takes from the pages around it."""

    name: str
    text: str
    because: str  # which pages have it, as a sentence ends


def details_by_neighbours(site: SiteModel, path: str, details: Mapping[str, str]) -> list[Inferred]:
    """The details that a new page takes from the pages around it, if it does not say them: language and type.

    It takes the language of the page above it, and the type that all pages beside it share.

    Example
    -------
    >>> import davlo
    >>> for one in details_by_neighbours(davlo.open_demo(), "/plants/trees/walnut", {}):
    ...     print(one.name, one.text, "as", one.because)
    language en as /plants/trees above it has
    type plant-record as all 8 pages beside it have
    """
    tree, above = site.tree, page_above(site, path, details)
    if above < 0:
        return []
    found, language = list[Inferred](), site.details.language[above]
    if "language" not in details and language:
        found.append(Inferred("language", language, f"{tree.paths[above]} above it has"))
    beside = np.flatnonzero(tree.parent == above)
    kinds = {*site.details.type_of[beside].tolist()}
    kind = site.types.names[kinds.pop()] if len(kinds) == 1 else "page"
    if "type" not in details and kind != "page" and kind in site.types.declared:
        share = count(len(beside), "page beside it has", "pages beside it have")
        found.append(Inferred("type", kind, f"all {share}" if len(beside) > 1 else f"the {share[2:]}"))
    return found


def page_above(site: SiteModel, path: str, details: Mapping[str, str]) -> int:
    """The page that a new page will stand below: the one its details name, or the longest start of its path; -1: none.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> site.tree.paths[page_above(site, "/visit/cafe/cakes/plum", {})]
    '/visit/cafe'
    """
    if details.get("parent"):
        return site.tree.find(site.page_names.path(details["parent"]))
    return next((page for start in starts_of(path) if (page := site.tree.find(start)) >= 0), -1)


def with_plain_pages(site: Model, rows: Sequence[tuple[NewRow, str]]) -> Model:
    """The site with more pages, each with the stamps of a new page, and with who makes it; empty for nobody."""
    grown, _ = replanted(site, new=[row for row, _ in rows])
    return with_stamps(grown, [(grown.page_number(row.path), by) for row, by in rows])


def with_stamps(site: Model, pages: Sequence[tuple[int, str]]) -> Model:
    """The site with the stamps of new pages on some pages, each with who makes it; empty for nobody.

    Raises UnknownName if there is no such person.
    """
    for _, by in pages:
        if by and not site.people.has(by):
            raise UnknownName("person", by, site.people.names)
    more = [stamp for page, by in pages for stamp in _stamps(site, page, by)]
    return replace(site, statements=site.statements.edited(site.catalogue.built_in(), more=more)) if more else site


def _with_row(site: Model, path: str, details: Mapping[str, str]) -> tuple[Model, int]:
    """The site with the row of one more page, which has no stamps, and that page's number."""
    grown, _ = replanted(site, new=[NewRow(path, details)])
    return grown, grown.page_number(path)


def new_page_record(
    site: SiteModel, path: str, details: Mapping[str, str], by: str = "", viewer: str = VISITOR, screen: str = ""
) -> PageRecord:
    """What a page would get once its row and its stamps are written. `Site.new_page` is the call to use."""
    typed, page = _with_row(site, path, details)
    alone, by_hand = typed.scope_pages.part(page, page + 1), EffectiveModel(typed)
    values = {one.name: by_hand.resolved_part(n, alone).at(0) for n, one in enumerate(site.catalogue.settings)}
    stamped = EffectiveModel(with_stamps(typed, [(page, by)]))
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
