"""Everything that a report holds, as one JSON record: columns for its pages, and records about the whole site."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from davlo.core.change.differences.comparison import PARTS, Comparison
from davlo.core.faults import DavloError
from davlo.core.findings.check import Report
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.wording import MARKS
from davlo.words.comparison import comparison_sections, comparison_title

from .page_columns import Pages, page_columns, setting_columns
from .page_contents import candidates, drawings, who_may
from .site_contents import declaration_records, exception_records, finding_records, menu_records

MOST_PAGES = 20_000
"""The most pages of one report; a browser holds more, but does not search them at once."""


class Asked(NamedTuple):
    """What a report is asked to hold."""

    branch: int = -1  # the page that it begins from, with all below it; -1: the whole site
    viewer: str = ""  # only what this viewer may view; empty: everything
    since: Comparison | None = None  # what changed since an earlier state, and what that is called
    earlier: str = ""
    made: str = ""  # the date and the revision of the report, in words


class TooManyPages(DavloError, ValueError):
    """More pages than one report holds; `branches` are those that would fit, the largest first."""

    def __init__(self, pages: int, branches: Sequence[str]) -> None:
        super().__init__(f"a report holds {MOST_PAGES:,} pages at most, and these are {pages:,}")
        self.branches = tuple(branches)


def report_data(effective: EffectiveModel, findings: Report, asked: Asked) -> dict[str, Any]:
    """What a report holds.

    Raises TooManyPages if it would hold more pages than a report can.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> data = report_data(site.resolve(), site.check(), Asked())
    >>> len(data["pages"]["path"]), [one["name"] for one in data["settings"]][:2]
    (158, ['heading.show', 'heading.text'])
    """
    site = effective.site
    pages = _pages(effective, asked)
    places = np.full(len(site.tree), -1, dtype=np.int64)
    places[pages] = np.arange(len(pages))
    data: dict[str, Any] = {
        "site": {"name": site.name, "url": site.url, "as": asked.viewer, "made": asked.made},
        "marks": MARKS,
    }
    with work("putting the report together", 6) as step:
        step("pages")
        data["pages"] = page_columns(effective, pages, _parents(effective, pages, places), bool(asked.viewer))
        step("settings")
        data["settings"] = setting_columns(effective, pages, bool(asked.viewer))
        step("drawings")
        data["drawings"] = drawings(effective, pages, bool(asked.viewer))
        step("menus")
        data["menus"] = menu_records(effective, places, (asked.viewer,) if asked.viewer else ())
        if asked.viewer:  # all else names pages, people and decisions that this viewer may not know of
            return data
        step("candidates")
        for one in data["settings"]:
            one["candidates"] = candidates(effective, one["name"], pages)
        data["access"] = who_may(effective, pages)
        step("findings")
        data["findings"] = finding_records(findings, places)
        data["accepted"] = len(findings.accepted)
        data["declarations"] = declaration_records(effective, pages)
        data["exceptions"] = exception_records(effective, pages, places)
        if asked.since is not None:
            data["changes"] = _changes(asked.since, asked.earlier)
    return data


def _pages(effective: EffectiveModel, asked: Asked) -> Pages:
    """The pages of the report, ascending."""
    tree = effective.site.tree
    begin, end = (0, len(tree)) if asked.branch < 0 else (asked.branch, int(tree.end[asked.branch]))
    pages = np.arange(begin, end)
    if asked.viewer:
        pages = pages[effective.shared(AccessModel).may(asked.viewer, "view")[pages]]
    if len(pages) > MOST_PAGES:
        size = tree.end - np.arange(len(tree))
        fitting = np.flatnonzero((size <= MOST_PAGES) & (size > 1))
        largest = fitting[np.argsort(-size[fitting], kind="stable")][:3]
        raise TooManyPages(len(pages), tree.paths.take(largest).tolist())
    return pages


def _parents(effective: EffectiveModel, pages: Pages, places: Pages) -> Pages:
    """The place of the page above each, or of the nearest above it that is in the report; -1: there is none."""
    parent = effective.site.tree.parent
    above = parent[pages]
    while (out := (above >= 0) & (places[above] < 0)).any():
        above = np.where(out, parent[above], above)
    return np.where(above >= 0, places[above], -1)


def _changes(found: Comparison, earlier: str) -> dict[str, Any]:
    """What changed since an earlier state, in words."""
    title, numbers = comparison_title(earlier, "now", found)
    sections = comparison_sections(found, PARTS, earlier)
    return {
        "title": title,
        "numbers": numbers,
        "sections": [
            [one.title, [*one.lines, *(f"{finding.level}: {finding.message}" for finding in one.findings)]]
            for one in sections
        ],
    }
