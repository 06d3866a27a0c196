"""What a report holds about the whole site: findings, declarations, exceptions, menus and lists of links."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from davlo.core.findings.check import Report
from davlo.core.findings.finding import Finding
from davlo.core.outcomes.declaration_list import Declaration, DeclarationList
from davlo.core.outcomes.link_lists import LinkList, link_list
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.resolve.exception_causes import exception_causes
from davlo.core.site.people import SIGNED_IN, VISITOR
from davlo.words.contents import line_by_line
from davlo.words.exceptions import exceptions_in_words, setting_in_words

from .page_columns import Pages, runs

MOST_PEOPLE = 20
"""With more people than this, a report has only the menus of groups."""
Places = Pages
"""The place in the report of each page of the site; -1 if it is not in it. int64[pages]"""


def finding_records(report: Report, places: Places) -> list[dict[str, Any]]:
    """The findings about pages of the report, the worst first."""
    found = ((one, _among(one.pages.numbers, places)) for one in report.findings)
    return [_finding(one, among) for one, among in found if among or not len(one.pages)]


def _among(pages: Pages, places: Places) -> list[int]:
    found: list[int] = places[pages][places[pages] >= 0].tolist()
    return found


def _finding(one: Finding, among: Sequence[int]) -> dict[str, Any]:
    return {
        "level": one.level,
        "kind": one.kind,
        "name": one.name,
        "setting": one.setting or "",
        "message": one.message,
        "fix": one.fix,
        "statements": [[said.scope, str(said.place) if said.file else "", said.value] for said in one.statements],
        "pages": among,
    }


def declaration_records(effective: EffectiveModel, pages: Pages) -> list[dict[str, Any]]:
    """Everything that is declared, with the pages of the report that use it, and what else names it."""
    every = DeclarationList(effective)
    return [_declaration(every, one, pages) for one in every.declarations() if one.place.file]


def _declaration(every: DeclarationList, one: Declaration, pages: Pages) -> dict[str, Any]:
    used = one.pages >= 0
    return {
        "kind": one.kind,
        "name": one.name,
        "place": str(one.place),
        "label": one.label,
        "note": one.note,
        "pages": one.pages,
        "not_shown": one.not_shown,
        "areas": dict(one.areas),
        "details": list(line_by_line(one.details, "")),
        "used": runs(every.shown(one.kind, one.name)[pages].astype(np.int64)) if used else [],
        "named": [f"{mention.by} ({mention.place})" for mention in every.named_by(one.kind, one.name)],
    }


def exception_records(effective: EffectiveModel, pages: Pages, places: Places) -> list[dict[str, Any]]:
    """The exceptions by cause, with the reasons."""
    among = np.zeros(len(effective.site.tree), dtype=bool)
    among[pages] = True
    return [
        {
            "cause": exceptions_in_words(cause),
            "settings": [setting_in_words(one) for one in cause.settings],
            "pages": _among(cause.pages, places),
        }
        for cause in exception_causes(effective, among)
    ]


def menu_records(effective: EffectiveModel, places: Places, viewers: tuple[str, ...] = ()) -> list[dict[str, Any]]:
    """The menu in each language as each viewer sees it, and the lists of links as a visitor does."""
    site, outcomes = effective.site, effective.shared(Outcomes)
    people = site.people.names if len(site.people.names) <= MOST_PEOPLE else ()
    seen = viewers or (VISITOR, SIGNED_IN, *site.people.groups, *people)
    lists = [name for name, block in site.declarations.blocks.items() if block.kind in ("branch-links", "links")]
    found = []
    for language in site.languages or ("",):
        for what in ("", *lists):
            alike: dict[str, dict[str, Any]] = {}
            for viewer in seen:
                made = _links(link_list(outcomes, what, language, viewer), places, not what or bool(viewers))
                record = {"what": what or "menu", "language": language, "viewers": [], "links": made}
                alike.setdefault(repr(made), record)["viewers"].append(viewer)
            found += [*alike.values()]
    return found


def _links(made: LinkList, places: Places, only_known: bool) -> list[list[Any]]:
    """The links: level, label, the place of the page or -1, whether it is a heading, whether it is closed."""
    at = np.append(places, -1)[made.pages]
    shown = (at >= 0) | (made.pages < 0) | (not only_known)
    labels = [made.labels[place] for place in np.flatnonzero(shown).tolist()]
    columns = (made.level, at, made.heading.astype(np.int64), made.closed.astype(np.int64))
    level, place, heading, closed = (column[shown].tolist() for column in columns)
    return [list(row) for row in zip(level, labels, place, heading, closed, strict=True)]
