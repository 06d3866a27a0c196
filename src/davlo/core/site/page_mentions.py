"""Where a site names pages besides its statements: conditions, blocks, and pages that lead to others."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from ..faults import Place
from .model import SiteModel
from .pages.conditions import Condition, glob_pattern


class PageMention(NamedTuple):
    """One place that names a page."""

    path: str
    kind: str  # what names it: `rule`, `guarantee`, `viewpoint`, `accept`, `block`, `page`
    name: str  # what that is called; empty for an entry of `accept` or of `viewpoints`
    place: Place

    @property
    def said_by(self) -> str:
        """What names the page, in words."""
        return f"{self.kind} {self.name}".rstrip()


def page_mentions(site: SiteModel) -> Iterator[PageMention]:
    """Every place that names a page by its path; a place that names a page twice is listed once.

    Example
    -------
    >>> import davlo
    >>> [one.path for one in page_mentions(davlo.open_demo()) if one.said_by == "guarantee Staff pages stay private"]
    ['/staff']
    """
    for rule in site.rules:
        yield from _of_conditions("rule", rule.name, rule.place, rule.when, *rule.excepts)
    for guarantee in site.guarantees:
        yield from _of_conditions("guarantee", guarantee.name, guarantee.place, guarantee.when, *guarantee.excepts)
    for accept in site.accepts:
        if accept.when is not None:
            yield from _of_conditions("accept", accept.declaration, accept.place, accept.when)
    for viewpoint in site.viewpoints:
        yield PageMention(viewpoint.page, "viewpoint", "", viewpoint.place)
    for block in site.declarations.blocks.values():
        links = [site.page_names.path(address) for address in block.links.values()]
        for path in dict.fromkeys((block.under, *block.leave_out, *links)):
            if path.startswith("/"):
                yield PageMention(path, "block", block.name, block.place)
    leads = site.details.column("leads_to")
    codes, first = np.unique(leads.codes, return_index=True)
    for code, page in zip(codes.tolist(), first.tolist(), strict=True):
        if leads.words[code].startswith("/"):
            place = Place(site.page_list, int(site.tree.line[page]), "leads_to")
            yield PageMention(leads.words[code], "page", site.tree.paths[page], place)


def globs_matching(site: SiteModel, paths: Sequence[str]) -> list[PageMention]:
    """Every glob of a rule, a guarantee or an accept that matches one of these paths; `path` is the glob.

    Example
    -------
    >>> import davlo
    >>> globs_matching(davlo.open_demo(), ["/campaigns/spring"])
    []
    """
    told: list[tuple[str, str, Place, tuple[Condition, ...]]] = []
    told += [("rule", one.name, one.place, (one.when, *one.excepts)) for one in site.rules]
    told += [("guarantee", one.name, one.place, (one.when, *one.excepts)) for one in site.guarantees]
    told += [("accept", one.declaration, one.place, (one.when,)) for one in site.accepts if one.when is not None]
    found = []
    for kind, name, place, conditions in told:
        for glob in dict.fromkeys(glob for one in conditions for glob in one.path if "*" in glob):
            pattern = glob_pattern(glob)
            if any(pattern.fullmatch(path) for path in paths):
                found.append(PageMention(glob, kind, name, place))
    return found


def paths_named(condition: Condition) -> tuple[str, ...]:
    """The pages that a condition names; a `path` with a star in it names none."""
    globs = [glob for glob in condition.path if "*" not in glob]
    return tuple(dict.fromkeys((*condition.in_branch, *condition.below, *globs)))


def _of_conditions(kind: str, name: str, place: Place, *conditions: Condition) -> Iterator[PageMention]:
    for path in dict.fromkeys(path for one in conditions for path in paths_named(one)):
        yield PageMention(path, kind, name, place)
