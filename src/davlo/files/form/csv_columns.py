"""The columns of a site's CSV files: which are needed, what each is for, and an example."""

from __future__ import annotations

from typing import NamedTuple

from davlo.core.site.pages.details import STANDARD


class ColumnForm(NamedTuple):
    """A column: what it is for, in one line, and an example of a cell."""

    help: str
    example: str
    required: bool = False


PAGES = {
    "path": ColumnForm("names the page; starts with a slash", "/visit/tickets", True),
    "address": ColumnForm("what is published, if that is not the path", "/visit/tickets.html"),
    "title": ColumnForm("the page's title", "Tickets and prices"),
    "type": ColumnForm("the page's type (blank: page)", "event"),
    "parent": ColumnForm("the page above (blank: the longest path that this one begins with)", "/visit"),
    "language": ColumnForm("the page's language", "fr"),
    "translates": ColumnForm("the path of the page in the site's first language", "/visit"),
    "tags": ColumnForm("tags, with a semicolon between", "prices; families"),
    "status": ColumnForm("live, draft, or folder: pages lie beneath it, and it is none itself (blank: live)", "draft"),
    "leads_to": ColumnForm("where a page that only sends its readers on leads to", "/visit/tickets"),
    "created": ColumnForm("the day when it was made (ISO 8601)", "2026-03-01"),
    "modified": ColumnForm("the day when it was last changed (ISO 8601)", "2026-10-14"),
    "order": ColumnForm("its place among its neighbours in menus, a number", "2.5"),
}
"""pages.csv. A column named as a setting holds the page's own value; any other is a detail of the site's own."""
assert tuple(PAGES) == STANDARD
VALUES = {
    "where": ColumnForm("the scope: everywhere, type NAME, below PATH or here PATH", "below /visit", True),
    "setting": ColumnForm("the setting", "sidebar.right", True),
    "value": ColumnForm("its value; of a list `a; b`, `+ a` or `- a`", "visit-planning", True),
    "lock": ColumnForm("yes: stronger scopes may not change it", "yes"),
    "because": ColumnForm("the reason, shown wherever the value is explained", "Asked for by the tea room"),
}
"""values.csv, or whatever `values` in `site` names."""
STAMPS = {
    "path": ColumnForm("the page", "/events/2026/seed-swap", True),
    "setting": ColumnForm("a setting whose default is for new pages", "page.owner", True),
    "value": ColumnForm("what the page was given when it was made", "ida.marsh", True),
    "on": ColumnForm("the day when it was stamped", "2026-03-01"),
    "source": ColumnForm("the scope that the value came from", "type event"),
}
"""stamps.csv, which Davlo writes."""


def required(columns: dict[str, ColumnForm]) -> tuple[str, ...]:
    """The columns that a file must have."""
    return tuple(name for name, column in columns.items() if column.required)
