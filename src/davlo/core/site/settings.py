"""A setting: what Davlo decides for a page."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

from ..faults import Place

if TYPE_CHECKING:
    from .values import Plain

KINDS = ("text", "flag", "number", "integer", "choice", "list", "date", "color")
DEFAULT_FOR = ("all-pages", "new-pages")
STATED_SCOPES = ("everywhere", "type", "below", "rule", "here")
AREA_FAMILIES = ("sidebar", "look", "band", "blocks")
ACCESS_FAMILIES = ("access", "deny")
FAMILIES = (*AREA_FAMILIES, *ACCESS_FAMILIES)
CHANGEFREQS = ("always", "hourly", "daily", "weekly", "monthly", "yearly", "never")
"""The seven values of `changefreq` in the sitemap protocol (sitemaps.org/protocol.html, XML tag definitions)."""
ACTIONS = ("view", "edit", "move", "create", "delete", "grant")
"""The actions of a site that names none of its own."""
WIDTHS = ("as-layout", "narrow", "medium", "full")
SUBJECTS = ("everyone", "signed-in", "owner", "owner-group")
"""The subjects that are neither a person nor a group."""

_TAKES = {
    "text": "a text",
    "flag": "yes or no",
    "number": "a number",
    "integer": "an integer",
    "list": "a list",
    "date": "a date",
    "color": "a color",
}


class Setting(NamedTuple):
    """One setting: its name and kind, its built-in value, and where it may be set.

    `choices` are the words it may hold (of a list: its items), `stands_for` the roles that stand for
    several. A list of the site's own with no `choices` holds any words.
    """

    name: str
    kind: str
    built_in: Plain
    help: str = ""
    label: str = ""
    default_for: str = "all-pages"
    scopes: tuple[str, ...] = STATED_SCOPES
    choices: tuple[str, ...] = ()
    stands_for: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    item_word: str = "item"
    least: float | None = None
    most: float | None = None
    for_types: tuple[str, ...] = ()
    used_by: tuple[str, ...] = ()
    required: bool = False
    own: bool = False
    place: Place = Place("")

    @property
    def family(self) -> str:
        """The part before the first dot if the setting is one of a family; else empty."""
        head = self.name.partition(".")[0]
        return head if not self.own and head in FAMILIES else ""

    @property
    def member(self) -> str:
        """The part after the first dot: an area, or a subject."""
        return self.name.partition(".")[2]

    @property
    def free_items(self) -> bool:
        """Whether it is a list that holds any words."""
        return self.own and not self.choices

    @property
    def takes(self) -> str:
        """What it may hold, in words."""
        if self.kind == "choice":
            return f"one of {', '.join(self.choices)}, or none"
        if self.kind not in _TAKES:
            return f"a {self.kind}, or none"
        if self.kind in ("number", "integer") and self.least is not None and self.most is not None:
            return f"{_TAKES[self.kind]} from {self.least:g} to {self.most:g}"
        if self.least is not None:
            return f"{_TAKES[self.kind]}, at least {self.least:g}"
        if self.most is not None:
            return f"{_TAKES[self.kind]}, at most {self.most:g}"
        return _TAKES[self.kind]
