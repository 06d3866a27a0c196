"""What readers and search engines meet on a page, as fields of its record."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, NamedTuple, TypeVar

import numpy as np

from ..arrays.codebooks import Codebook, Column, Mask, distinct, distinct_rows
from ..arrays.grouping import run_begins
from ..arrays.texts import Texts
from ..outcomes.areas import OF_AREAS, Composition, headings_of
from ..outcomes.placeholders import HEADING
from ..outcomes.sitemap.addresses import families, published
from ..outcomes.sitemap.sitemap_reasons import OF_SITEMAP, SITEMAP_REASONS
from ..site.people import SIGNED_IN, VISITOR
from .area_fields import area_field, area_places, look_field, shown_places, shows_field
from .forms import FLAG, INTEGER, TEXT, by_name, list_of, members, or_null
from .record import Field, FieldValues, Group, PageRecord, RecordPages

T = TypeVar("T")
OF_LAYOUT = ("layout.", "declarations")


class Alternate(NamedTuple):
    """An address of the page, or of a translation, and its language as `hreflang` has it."""

    language: str
    address: str


def _texts(setting: str, pages: RecordPages) -> FieldValues[str]:
    found = pages.outcomes.texts(setting, None if pages.is_all else pages.pages)
    return FieldValues(found.codes, found.words)


def _flag(mask: Mask, pages: RecordPages) -> FieldValues[bool]:
    return FieldValues(mask[pages.pages].astype(np.int32), (False, True))


def _reason(column: Column, pages: RecordPages) -> FieldValues[str]:
    """Reasons, of which the first is the empty one."""
    return FieldValues(column.codes[pages.pages] - 1, column.words[1:])


def _in_menu(pages: RecordPages) -> FieldValues[bool]:
    return _flag(pages.outcomes.menu.shown, pages)


def _not_in_menu(pages: RecordPages) -> FieldValues[str]:
    return _reason(pages.outcomes.not_in_menu, pages)


def _visible(pages: RecordPages) -> FieldValues[bool]:
    return _flag(pages.outcomes.visible, pages)


def _in_sitemap(pages: RecordPages) -> FieldValues[bool]:
    return _flag(pages.outcomes.sitemap == 0, pages)


def _not_in_sitemap(pages: RecordPages) -> FieldValues[str]:
    return _reason(Column(pages.outcomes.sitemap, SITEMAP_REASONS), pages)


def _of_layout(value: Callable[[Composition], T], pages: RecordPages) -> FieldValues[T]:
    """What the page's layout and theme decide."""
    return FieldValues(pages.layouts.codes, [value(one) for one in pages.layouts.values])


def _named(found: FieldValues[str]) -> FieldValues[str]:
    """Names, of which the empty one is none."""
    there = np.array([bool(name) for name in found.values], dtype=bool)
    return FieldValues(np.where(there[found.codes], found.codes, -1), found.values)


def _width(pages: RecordPages) -> FieldValues[str]:
    codes, made = pages.layouts
    return FieldValues(
        np.where(np.array([bool(one.width) for one in made])[codes], codes, -1), [one.width for one in made]
    )


def _theme(pages: RecordPages) -> FieldValues[str]:
    return _named(_of_layout(lambda one: one.theme.name if one.theme else "", pages))


def _headings(pages: RecordPages) -> FieldValues[tuple[str, ...]]:
    """What provides a heading on each page, nothing twice."""
    words: list[tuple[str, ...]] = [(), (HEADING,)]
    heading = pages.values(HEADING_SAID)
    codes = (~Texts.of_column(Column(heading.codes, heading.values)).blank()).astype(np.int64)
    of_area = [pages.values(area_field(area)) for area in pages.areas]
    provided = Codebook[tuple[str, ...]]([()])
    blocks = [
        np.array([*(provided.code(tuple(headings_of(pages.site, one))) for one in found.values), 0])[found.codes]
        for found in of_area
    ]
    for place in pages.area_places if len(provided) > 1 else ():
        here = np.zeros(len(pages), dtype=np.int64)
        for area, given in enumerate(blocks):
            here = np.where(place == area, given, here)
        first, which = distinct(codes * len(provided) + here)
        before, more = codes[first].tolist(), here[first].tolist()
        words = [tuple(dict.fromkeys((*words[one], *provided[other]))) for one, other in zip(before, more, strict=True)]
        codes = which.astype(np.int64)
    return FieldValues(codes.astype(np.int32), words)


def _above_in_menu(pages: RecordPages) -> FieldValues[str]:
    return FieldValues(pages.menu_places.above[pages.pages], pages.site.tree.paths)


def _menu_number(which: str, pages: RecordPages) -> FieldValues[int]:
    found = getattr(pages.menu_places, which)[pages.pages].astype(np.int64)
    first, codes = distinct(found)
    numbers = found[first].tolist()
    return FieldValues(codes - (numbers[:1] == [0]), numbers[numbers[:1] == [0] :])


def _address(pages: RecordPages) -> FieldValues[str]:
    """The address, or the first of several, as it is published; none of a folder."""
    some = pages.pages[~pages.site.details.folder[pages.pages]]
    found = published(pages.site, some)
    first = np.flatnonzero(run_begins(found.page))
    codes = np.full(len(pages), -1, dtype=np.int32)
    codes[~pages.site.details.folder[pages.pages]] = np.arange(len(some))
    return FieldValues(codes, found.urls(first))


def _alternates(pages: RecordPages) -> FieldValues[tuple[Alternate, ...]]:
    """The addresses of a page and its translations, as the sitemap lists them; none where it lists no other."""
    codes = np.full(len(pages), -1, dtype=np.int32)
    family = families(pages.site)
    if (family == np.arange(len(family))).all() and not pages.site.language_paths:
        return FieldValues(codes, ())
    listed = np.flatnonzero((pages.outcomes.sitemap == 0) & np.isin(family, family[pages.pages]))
    addresses = published(pages.site, listed)
    several = np.flatnonzero(addresses.begin < addresses.end)
    first = np.full(len(family), -1, dtype=np.int64)
    first[addresses.page[several[::-1]]] = several[::-1]
    at = np.flatnonzero(first[pages.pages] >= 0)
    numbers = first[pages.pages[at]]
    which, codes[at] = distinct(addresses.begin[numbers])  # one value for each family of translations
    urls, names = addresses.urls(addresses.alternate).tolist(), addresses.alternate_languages
    languages = [names[code] for code in addresses.alternate_language.tolist()]
    found = [
        tuple(map(Alternate, languages[begin:end], urls[begin:end]))
        for begin, end in zip(
            addresses.begin[numbers[which]].tolist(), addresses.end[numbers[which]].tolist(), strict=True
        )
    ]
    return FieldValues(codes, found)


def _may(pages: RecordPages) -> FieldValues[tuple[str, ...]]:
    """What the viewer may do."""
    actions, access = pages.site.actions, pages.outcomes.access
    columns = [access.may(pages.viewer, action)[pages.pages] for action in actions]
    first, codes = distinct_rows([one.astype(np.int8) for one in columns])
    rows = zip(*(one[first].tolist() for one in columns), strict=True)
    return FieldValues(codes, [tuple(one for one, may in zip(actions, row, strict=True) if may) for row in rows])


def _who_may(pages: RecordPages) -> FieldValues[dict[str, tuple[str, ...]]]:
    """Everyone who may do each action, by the classes of pages."""
    return _may_by_action(pages, (VISITOR, SIGNED_IN, *pages.site.people.names))


def _groups_may(pages: RecordPages) -> FieldValues[dict[str, tuple[str, ...]]]:
    """The groups that may do each action, by the classes of pages."""
    return _may_by_action(pages, tuple(pages.site.people.groups))


def _may_by_action(pages: RecordPages, who: Sequence[str]) -> FieldValues[dict[str, tuple[str, ...]]]:
    """Who of some may do each action, by the classes of pages."""
    classes = pages.outcomes.access.classes
    kinds, codes = np.unique(classes.of[pages.pages], return_inverse=True)
    found: list[dict[str, tuple[str, ...]]] = [{} for _ in kinds]
    for action in pages.site.actions:
        may = np.array([classes.may(one, action)[kinds] for one in who], dtype=bool).reshape(len(who), len(kinds))
        for told, row in zip(found, may.T.tolist(), strict=True):
            told[action] = tuple(one for one, can in zip(who, row, strict=True) if can)
    return FieldValues(codes.astype(np.int32), found)


def _head(pages: RecordPages) -> FieldValues[tuple[str, ...]]:
    tags = tuple(one.html for one in pages.site.ownership_proofs if one.tag)
    is_home = (pages.pages == pages.site.details.home) & bool(tags)
    return FieldValues(is_home.astype(np.int32) - 1, (tags,))


def _heading_words(headings: Sequence[str], record: PageRecord) -> str:
    """What the headings of the page say, or which blocks provide them."""
    told = [f'"{record.of(HEADING_SAID)}"' if one == HEADING else f"provided by the block {one}" for one in headings]
    if len(told) > 1:
        return f"{len(told)} of them: {', '.join(told)}"
    if told:
        return told[0]
    is_hidden = record.setting("heading.show") is False
    why = "heading.show is no" if is_hidden else "heading.text comes to nothing"
    return f"none: {why}, and no block on the page provides one"


def _menu_words(is_shown: bool, record: PageRecord) -> str:
    if not is_shown:
        reason = record.of(MENU_REASON)
        return f"not shown: {reason}" if reason else "not shown"
    shown = f'shown as "{record.of(MENU_LABEL)}"'
    return shown if record.of(VISITOR_MAY_VIEW) else f"{shown} to those who may view the page; a visitor may not"


def _sitemap_words(is_listed: bool, record: PageRecord) -> str:
    return "listed" if is_listed else f"left out: {record.of(SITEMAP_REASON)}"


def _layout_words(width: str | None, record: PageRecord) -> str:
    layout, theme = record.setting("layout.name"), record.of(THEME)
    if width is None:
        return "none, so the page has no areas"
    return f"{layout}, {width}" + (f", theme {theme}" if theme else "")


def _alternates_json(alternates: tuple[Alternate, ...]) -> list[dict[str, str]]:
    return [one._asdict() for one in alternates]


def _alternates_words(alternates: tuple[Alternate, ...] | None, record: PageRecord) -> str:
    """The translations, the page's own address aside."""
    own = record.of(ADDRESS)
    return ", ".join(f"{one.language} {one.address}" for one in alternates or () if one.address != own)


def _head_words(tags: tuple[str, ...] | None, record: PageRecord) -> tuple[str, ...]:
    return tags or ()


def _phone(one: Composition) -> tuple[str, ...]:
    return one.phone


def _phone_words(phone: tuple[str, ...], record: PageRecord) -> str:
    """The areas in the order that a phone has, if it is another than the layout's."""
    return ", ".join(phone) if phone != record.members("areas") else ""


def _theme_names(one: Composition) -> dict[str, str | None]:
    return {area.area: area.theme_name or None for area in one.areas}


def _theme_instead(one: Composition) -> dict[str, str]:
    return {area.area: area.instead.words for area in one.areas if not area.theme_name}


def _text(text: str, record: PageRecord) -> str:
    return text


TITLE = Field(
    "title",
    "The document title.",
    partial(_texts, "title.pattern"),
    label="document title",
    words=_text,
    depends_on=("title.pattern", "texts"),
)
HEADING_SAID = Field(
    "heading",
    "What the heading says; empty where `heading.show` is no.",
    partial(_texts, HEADING),
    depends_on=("heading.", "texts"),
)
HEADINGS = Field(
    "headings",
    "What provides a heading: `heading.text`, and blocks that show on the page.",
    _headings,
    list,
    label="heading",
    words=_heading_words,
    form=list_of(TEXT),
    depends_on=("heading.", "texts", *OF_AREAS),
)
MENU_SHOWN = Field(
    "shown",
    "Whether the page is in the menu.",
    _in_menu,
    label="menu",
    words=_menu_words,
    form=FLAG,
    depends_on=("menu.show",),
    across=("menu.",),
)
MENU_LABEL = Field(
    "label", "What the menu calls the page.", partial(_texts, "menu.label"), depends_on=("menu.label", "texts")
)
MENU_REASON = Field(
    "reason",
    "Why the page is not in the menu; null where it is.",
    _not_in_menu,
    names_others=True,
    form=or_null(TEXT),
    depends_on=("menu.show",),
    across=("menu.",),
)
MENU_ABOVE = Field(
    "above",
    "The page of the entry above it, in the menu as the viewer meets it; null at the top, or if it is no entry.",
    _above_in_menu,
    names_others=True,
    form=or_null(TEXT),
    depends_on=("menu.show", "access"),
    across=("menu.", "access"),
)
MENU_LEVEL = Field(
    "level",
    "How deep it stands in the menu, from 1; null if the viewer meets no such entry.",
    partial(_menu_number, "level"),
    form=or_null(INTEGER),
    depends_on=("menu.show", "access"),
    across=("menu.", "access"),
)
MENU_POSITION = Field(
    "position",
    "Its place among the entries of its level under the same entry, from 1; null if the viewer meets no such entry.",
    partial(_menu_number, "position"),
    form=or_null(INTEGER),
    depends_on=("menu.show", "access"),
    across=("menu.", "access"),
)
ADDRESS = Field(
    "address",
    "The address as it is published, the first of several; null for a folder.",
    _address,
    form=or_null(TEXT),
    depends_on=(),
)
MAY = Field("may", "What the viewer may do on the page.", _may, list, form=list_of(TEXT), depends_on=("access",))
WHO_MAY = Field(
    "access",
    "Who may do each action: `visitor`, `signed-in` (somebody in no group), and people.",
    _who_may,
    form=by_name(list_of(TEXT)),
    depends_on=("access",),
)
GROUPS_MAY = Field(
    "access of groups",
    "Which groups may do each action: whoever is in the group, and in no other.",
    _groups_may,
    form=by_name(list_of(TEXT)),
    depends_on=("access",),
)
VISITOR_MAY_VIEW = Field(
    "visitor may view", "Whether a visitor may view the page.", _visible, form=FLAG, depends_on=("access",)
)
SITEMAP_LISTED = Field(
    "listed",
    "Whether the page is in the sitemap.",
    _in_sitemap,
    label="sitemap",
    words=_sitemap_words,
    form=FLAG,
    depends_on=OF_SITEMAP,
)
SITEMAP_REASON = Field(
    "reason",
    "Why the page is not in the sitemap; null where it is.",
    _not_in_sitemap,
    form=or_null(TEXT),
    depends_on=OF_SITEMAP,
)
ALTERNATES = Field(
    "alternates",
    "The page's address and those of its translations in the sitemap, with their languages; null where it has none.",
    _alternates,
    _alternates_json,
    label="in other languages",
    words=_alternates_words,
    names_others=True,
    form=or_null(list_of(members({"language": TEXT, "address": TEXT}))),
    depends_on=OF_SITEMAP,
    across=OF_SITEMAP,
)
HEAD = Field(
    "head",
    "On the home page: the HTML tags that prove who owns the site.",
    _head,
    list,
    label="in the head",
    words=_head_words,
    is_optional=True,
    form=list_of(TEXT),
    depends_on=(),
)
WIDTH = Field(
    "width",
    "`narrow`, `medium` or `full`; null without a layout.",
    _width,
    label="layout",
    words=_layout_words,
    form=or_null(TEXT),
    depends_on=OF_LAYOUT,
)
THEME = Field("name", "The theme; null without one.", _theme, form=or_null(TEXT), depends_on=OF_LAYOUT)
PHONE = Field(
    "phone",
    "The areas from top to bottom on a phone.",
    partial(_of_layout, _phone),
    list,
    label="on a phone",
    words=_phone_words,
    form=list_of(TEXT),
    depends_on=OF_LAYOUT,
)
THEME_AREAS = Field(
    "areas",
    "What the theme calls each area; null if it does not show it.",
    partial(_of_layout, _theme_names),
    form=by_name(or_null(TEXT)),
    depends_on=OF_LAYOUT,
)
THEME_INSTEAD = Field(
    "instead",
    "What the theme does about areas it does not show.",
    partial(_of_layout, _theme_instead),
    form=by_name(TEXT),
    depends_on=OF_LAYOUT,
)
THEME_GROUP = Group("theme", (THEME, THEME_AREAS, THEME_INSTEAD))


MENU_GROUP = Group("menu", (MENU_SHOWN, MENU_LABEL, MENU_REASON, MENU_ABOVE, MENU_LEVEL, MENU_POSITION))
SITEMAP_GROUP = Group("sitemap", (SITEMAP_LISTED, SITEMAP_REASON))
OF_PAGE = (
    *(TITLE, HEADING_SAID, HEADINGS, MENU_GROUP, ADDRESS, ALTERNATES),
    *(VISITOR_MAY_VIEW, MAY, SITEMAP_GROUP, HEAD, WIDTH),
)
"""The fields that pages of every layout have, up to their areas."""


def outcome_fields(pages: RecordPages) -> tuple[Field[Any] | Group, ...]:
    """The fields of what readers and search engines meet; an area has one if one of these pages has it."""
    return (
        *OF_PAGE,
        Group("areas", tuple(map(area_field, pages.areas)), area_places),
        Group("shows", tuple(map(shows_field, pages.areas)), shown_places),
        Group("looks", tuple(map(look_field, pages.areas)), area_places),
        THEME_GROUP,
        PHONE,
    )
