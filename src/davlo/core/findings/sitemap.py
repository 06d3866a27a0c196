"""Findings about the sitemap."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..access import VISITOR
from ..statements import Scope
from ..wording import count
from .record import Finding, Inquiry, groups


def private_with_priority(inquiry: Inquiry) -> Iterator[Finding]:
    """A page no visitor may view has a priority set more closely than everywhere; drafts count as their access says."""
    site, statements = inquiry.site, inquiry.statements
    number = site.setting_number("sitemap.priority")
    found = inquiry.effective.resolved(number)
    scope = np.append(statements.scope, Scope.BUILT_IN)
    closely = (scope[found.source] >= Scope.TYPE) & site.has(number)
    at = np.flatnonzero(~inquiry.access.allowed(VISITOR, "view") & closely)
    at = at[inquiry.looked_at("private-with-priority", "sitemap.priority", at)]
    for (source,), rows in groups(found.source[at]):
        pages = inquiry.paths(at[rows])
        shown = inquiry.word(number, int(found.value[at[rows[0]]]))
        yield Finding(
            "private-with-priority",
            "warning",
            "sitemap.priority",
            pages,
            inquiry.said([source]),
            f"{inquiry.where(source)} gives a sitemap priority ({shown}) to {count(len(pages), 'page')} "
            "that no visitor may view, so no search engine will see it",
            "take the priority away there, or let everyone view the pages if they should be found",
        )
