"""A setting: what Davlo decides for a page. Each kind of value that it may hold is an entry of `KINDS`."""

from __future__ import annotations

import datetime
import re
from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

from ...faults import Place, ValueFault
from .numbers import integer_of, number_of, with_point
from .values import Plain, format_number

DEFAULT_FOR = ("all-pages", "new-pages")
STATED_SCOPES = ("estate", "everywhere", "type", "below", "rule", "here")
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

_NAMED_BY = {"layout.name": "layout", "layout.theme": "theme", "page.owner": "person", "page.group": "group"}
_NAMED_IN_AREAS = {"sidebar": "sidebar", "look": "look", "band": "band", "blocks": "block"}


def kind_named_by(setting: str) -> str:
    """The kind of declaration that the values of a setting, or of a family, name; empty if they name none.

    Example
    -------
    >>> kind_named_by("blocks.content"), kind_named_by("look.*"), kind_named_by("title.limit")
    ('block', 'look', '')
    """
    family, dot, _ = setting.partition(".")
    return _NAMED_BY.get(setting) or (_NAMED_IN_AREAS.get(family, "") if dot else "")


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
    def allowed_words(self) -> tuple[str, ...]:
        """The words that it may hold (of a list: its items); empty if it takes any text or number."""
        if self.kind == "flag":
            return ("yes", "no")
        return (*self.choices, *self.stands_for) if self.kind == "list" or not self.choices else (*self.choices, "none")

    @property
    def takes(self) -> str:
        """What it may hold, in words."""
        if self.kind == "choice":
            return f"one of {', '.join(self.choices)}, or none"
        if self.kind not in KINDS:
            return f"a {self.kind}, or none"
        told, least, most = KINDS[self.kind].takes, self.least, self.most
        if least is not None and most is not None:
            return f"{told} from {least:g} to {most:g}"
        if least is not None:
            return f"{told}, at least {least:g}"
        return told if most is None else f"{told}, at most {most:g}"


class SettingKind(NamedTuple):
    """A kind of value."""

    takes: str  # what a setting of it takes, in messages
    read: Callable[[Setting, str], Plain]  # what a text means; raises ValueFault if it means nothing of the kind
    unset: Plain = None  # what is built in, if nothing else is declared
    pattern: str = ""  # the regular expression that its texts match, for editors that check davlo.yaml
    keys: tuple[str, ...] = ()  # the keys of a declaration that only some kinds have


FLAGS = {"yes": True, "true": True, "no": False, "false": False}
PATTERNS, MOST_BRACES = ("heading.text", "title.pattern", "menu.label"), 100
"""Texts with placeholders, and how many: each can stand for a text as long as a cell, on every page."""
DAY, COLOR = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$", "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$"


def unfit(setting: Setting, text: str, allowed: Sequence[str]) -> ValueFault:
    """The fault of a text that is not among those that a setting takes."""
    return ValueFault(f"{setting.name} takes {setting.takes}, not {text!r}", text, allowed)


def check_bounds(setting: Setting, number: float) -> None:
    """Raise a ValueFault if a number is less than the setting's least, or more than its most."""
    if (setting.least is not None and number < setting.least) or (setting.most is not None and number > setting.most):
        raise ValueFault(f"{setting.name} takes {setting.takes}, not {format_number(number)}")


def _text(setting: Setting, text: str) -> Plain:
    if setting.name in PATTERNS and text.count("{") > MOST_BRACES:
        raise ValueFault(f"{setting.name} takes {MOST_BRACES} placeholders and braces at most")
    return "" if text == "<empty>" else text


def _flag(setting: Setting, text: str) -> Plain:
    if text.lower() not in FLAGS:
        raise unfit(setting, text, ("yes", "no"))
    return FLAGS[text.lower()]


def _number(setting: Setting, text: str) -> Plain:
    number = integer_of(text) if setting.kind == "integer" else number_of(text)
    if number is None:
        raise ValueFault(f"{setting.name} takes {setting.takes}, not {text!r}", hint=with_point(text))
    check_bounds(setting, number)
    return number


def _choice(setting: Setting, text: str) -> Plain:
    if text not in setting.choices:
        raise unfit(setting, text, (*setting.choices, "none"))
    return text


def read_name(setting: Setting, text: str) -> Plain:
    """The name of a declaration, of the kind that the setting's kind names."""
    if text not in setting.choices:
        allowed = (*setting.choices, "none")
        raise ValueFault(f"there is no {setting.kind} {text!r}", text, allowed, kind=setting.kind)
    return text


def _date(setting: Setting, text: str) -> Plain:
    try:
        if re.fullmatch(DAY, text):
            return datetime.date.fromisoformat(text).isoformat()
    except ValueError:
        pass
    raise ValueFault(f"{setting.name} takes a date like 2026-05-01, or none, not {text!r}")


def _color(setting: Setting, text: str) -> Plain:
    if not re.fullmatch(COLOR, text):
        raise ValueFault(f"{setting.name} takes a color like '#2f6b3c', or none, not {text!r}")
    return text.lower()


def _list(setting: Setting, text: str) -> Plain:
    raise ValueFault(f"{setting.name} takes a list, not the text {text!r}", hint=f"write [{text}]")


KINDS: Mapping[str, SettingKind] = {
    "text": SettingKind("a text", _text, unset=""),
    "flag": SettingKind("yes or no", _flag, unset=False),
    "number": SettingKind("a number", _number, keys=("least", "most")),
    "integer": SettingKind("an integer", _number, keys=("least", "most")),
    "choice": SettingKind("one of its choices", _choice, keys=("choices",)),
    "list": SettingKind("a list", _list, unset=(), keys=("choices",)),
    "date": SettingKind("a date", _date, pattern=DAY),
    "color": SettingKind("a color", _color, pattern=COLOR),
}
"""The kinds that a setting of the site's own may have; those of Davlo's also hold names of declarations."""
