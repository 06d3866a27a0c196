"""Findings about access."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..access import VISITOR
from ..wording import count
from .record import Finding, Inquiry, groups


def open_below_closed(inquiry: Inquiry) -> Iterator[Finding]:
    """A visitor may view a page, and may not view one above it; drafts count as their access says."""
    site, tree = inquiry.site, inquiry.site.tree
    view = inquiry.access.allowed(VISITOR, "view")
    closed_above = np.full(len(tree), -1, dtype=np.int64)
    for page in np.flatnonzero(~view).tolist():
        closed_above[page + 1 : int(tree.end[page])] = page
    open_ = np.flatnonzero(view & (closed_above >= 0))
    open_ = open_[inquiry.looked_at("open-below-closed", "access.everyone", open_)]
    number = site.setting_number("access.everyone")
    sources = inquiry.effective.resolved(number).source
    for (opens, above), rows in groups(sources[open_], closed_above[open_]):
        pages = inquiry.paths(open_[rows])
        closes = int(sources[above])
        how = "as it is built in" if opens < 0 else f"because of {inquiry.where(opens)}"
        yield Finding(
            "open-below-closed",
            "error",
            "access.everyone",
            pages,
            inquiry.said([opens, closes]),
            f"anyone may view {count(len(pages), 'page')} {how}, but not {tree.paths[above]} above",
            f"take view from everyone there, or open {tree.paths[above]} if it was closed by mistake",
        )


def nobody_can_edit(inquiry: Inquiry) -> Iterator[Finding]:
    """No person but admins may edit the page."""
    site, statements = inquiry.site, inquiry.statements
    stuck = np.ones(len(site.tree), dtype=bool)
    for person in site.people.names:
        if not inquiry.access.is_admin(person):
            stuck &= ~inquiry.access.may(person, "edit")
    at = np.flatnonzero(stuck)
    at = at[inquiry.looked_at("nobody-can-edit", None, at)]
    numbers = site.catalogue.access_numbers()
    sources = np.stack([inquiry.effective.resolved(n).source[at] for n in numbers], axis=1)
    strength = np.stack([statements.strength(sources[:, i]) for i in range(len(numbers))], axis=1)
    strongest = np.argmax(strength, axis=1)
    cause = np.take_along_axis(sources, strongest[:, None], axis=1)[:, 0]
    for (source,), rows in groups(cause):
        pages = inquiry.paths(at[rows])
        named = (
            "nobody is given edit anywhere"
            if source < 0
            else f"the closest access statement is {inquiry.where(source)}"
        )
        yield Finding(
            "nobody-can-edit",
            "error",
            None,
            pages,
            inquiry.said([source]),
            f"no one but an admin may edit {count(len(pages), 'page')}; {named}",
            "give edit to someone there, as in access: {editors: [view, edit]}",
        )
