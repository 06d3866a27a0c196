"""One setting of a page, and the group that it is listed in."""

from __future__ import annotations

from typing import NamedTuple

from ..site.settings.setting import Setting
from ..site.settings.values import Plain
from ..site.source import Source

GROUPS = {
    **dict.fromkeys(("heading", "title", "menu"), "heading, title and menu"),
    **dict.fromkeys(("layout", "sidebar", "look", "band", "blocks"), "layout and areas"),
    **dict.fromkeys(("access", "deny", "page"), "access"),
    **dict.fromkeys(("robots", "sitemap"), "search engines"),
}
OWN = "the site's own"
"""The groups of settings, by the first part of their names."""
ORDER = (*dict.fromkeys(GROUPS.values()), OWN)
"""The order in which groups are listed."""


class SettingOfPage(NamedTuple):
    """One setting of a page: its value, the statement that won, and why it is not shown (empty if it is)."""

    name: str
    group: str
    value: Plain
    source: Source
    not_shown: str = ""


def group_of(setting: Setting) -> str:
    """The group that a setting is listed in."""
    return OWN if setting.own else GROUPS[setting.name.partition(".")[0]]
