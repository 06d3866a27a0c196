"""The form of the page record: its fields, the groups they stand in, the pages it is worked out for, and one record."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any, Generic, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask, distinct_rows
from ..cached import cached_property
from ..fixed import Fixed
from ..outcomes.areas import Composition, PageValue, composition
from ..outcomes.menus.menu import MenuPlaces, menu_places
from ..outcomes.page_outcomes import Outcomes
from ..outcomes.shown_things import ShownThings
from ..resolve.effective import EffectiveModel
from ..site.people import VISITOR
from ..site.settings.values import Plain
from .forms import TEXT, Form
from .settings_of_page import ORDER, SettingOfPage, group_of

T = TypeVar("T")
PHONE = "phone"
OF_LAYOUTS = ("layout.name", "layout.theme", "layout.width", "layout.phone-order")
"""The settings that decide which areas a page has, and in which order."""


class FieldValues(NamedTuple, Generic[T]):
    """One field of each page: `codes`, int32[pages], into `values`; -1 where a page does not have it."""

    codes: Codes
    values: Sequence[T]


def as_it_is(value: Any) -> Any:
    """A value that JSON holds as it is."""
    return value


@dataclass(frozen=True, eq=False)
class Field(Generic[T]):
    """One field of the page record.

    To add a field, add one of these to its group: the export, `show`, viewpoints, the report and the docs go over them.
    """

    name: str
    """Its key in its group."""
    help: str
    """What it says, in one sentence."""
    values: Callable[[RecordPages], FieldValues[T]]
    """How it is worked out over many pages."""
    as_json: Callable[[T], object] = as_it_is
    form: Form = field(default_factory=lambda: TEXT)
    """What its values are in JSON; null, too, where `as_json` gives None."""
    label: str = ""
    """What people call its line; empty if another field's line tells it."""
    words: Callable[[T, PageRecord], str | Sequence[str]] | None = None
    """How it reads for people, in one line or several; an empty text leaves the line out."""
    is_optional: bool = False
    """Whether a page without it goes without its key; else JSON says null."""
    names_others: bool = False
    """Whether it names other pages, which a viewer may not know of."""
    depends_on: tuple[str, ...] | None = None
    """The settings and families of settings that it is worked out from, and `access` or `declarations`, besides the
    page list: where none of them differs, it is not compared. None: it is always compared."""
    across: tuple[str, ...] = ()
    """Those of `depends_on` by which other pages count, too: the menu, lists of links."""


class Group(NamedTuple):
    """Fields, and groups of fields, that stand together in the page record."""

    name: str
    members: tuple[Field[Any] | Group, ...]
    order: Callable[[RecordPages], Sequence[Codes]] | None = None
    """Where pages differ in the order of the members: for each place the member there, int32[pages]; -1: none.
    Such members are fields."""

    def group(self, name: str) -> Group:
        """The group of a name among its members."""
        return next(one for one in self.members if isinstance(one, Group) and one.name == name)

    def fields(self) -> Iterator[Field[Any]]:
        """Its fields, and those of its groups, by their whole names: `menu.shown`."""
        for member in self.members:
            if isinstance(member, Group):
                yield from (replace(one, name=f"{member.name}.{one.name}") for one in member.fields())
            else:
                yield member


class RecordPages(Fixed):
    """The pages whose records are worked out, with what their fields share.

    `pages`: int64[n], their numbers; None: all pages of the site. `viewer`: who looks at them. `screen`: only what
    shows there, `wide`, `tablet` or `phone`; empty: on any screen. `names_others`: whether fields that name other pages
    are filled. `is_new`: whether the pages are not there yet: the source of a stamp is what it would be made from.
    """

    def __init__(
        self,
        effective: EffectiveModel,
        pages: NDArray[np.int64] | None = None,
        names_others: bool = True,
        is_new: bool = False,
        viewer: str = VISITOR,
        screen: str = "",
    ) -> None:
        self.effective, self.site, self.viewer, self.screen = effective, effective.site, viewer, screen
        self.outcomes: Outcomes = effective.shared(Outcomes)
        self.is_all, self.names_others, self.is_new = pages is None, names_others, is_new
        self.pages = np.arange(len(self.site.tree)) if pages is None else pages
        self._values: dict[Callable[[RecordPages], FieldValues[Any]], FieldValues[Any]] = {}

    def __getstate__(self) -> dict[str, Any]:
        return {**super().__getstate__(), "_values": {}}

    def parts(self, size: int) -> Iterator[RecordPages]:
        """These pages in parts of a size; the parts share what is worked out for the whole site."""
        shared = {name: getattr(self, name) for name in ("visible", "menu_places", "shown_things", "areas")}
        for begin in range(0, len(self), size):
            pages = self.pages[begin : begin + size]
            part = RecordPages(self.effective, pages, self.names_others, self.is_new, self.viewer, self.screen)
            vars(part).update(shared)
            yield part

    def __len__(self) -> int:
        return len(self.pages)

    def values(self, field: Field[T]) -> FieldValues[T]:
        """One field of each of these pages, worked out once."""
        found = self._values.get(field.values)
        if found is None:
            found = field.values(self)
            if field.names_others and not self.names_others:
                found = FieldValues(np.full(len(self), -1, dtype=np.int32), ())
            self._values[field.values] = found
        return found

    def codes(self, setting: str) -> Codes:
        """The codes of a setting's values; -1 where a page does not have it. int32[n]"""
        number = self.site.setting_number(setting)
        return np.where(self.site.has(number)[self.pages], self.effective.resolved(number).value[self.pages], -1)

    def alike(self, columns: Sequence[NDArray[np.integer]]) -> tuple[list[int], Codes]:
        """The pages that have the same code in each column: a page's number for each kind, and each page's kind."""
        first, codes = distinct_rows(columns)
        return self.pages[first].tolist(), codes

    @cached_property
    def visible(self) -> Mask:
        """The pages of the site that the viewer may view. bool[pages of the site]"""
        return self.outcomes.access.may(self.viewer, "view")

    @cached_property
    def menu_places(self) -> MenuPlaces:
        """Where each page of the site stands in the menu as the viewer meets it."""
        return menu_places(self.site, self.outcomes.menu, self.outcomes.order, self.visible)

    @cached_property
    def shown_things(self) -> ShownThings:
        """What the viewer meets in areas."""
        return ShownThings(self.outcomes, self.viewer)

    @cached_property
    def layouts(self) -> FieldValues[Composition]:
        """What each page is made of; of its areas only the names are those of the page."""
        first, codes = self.alike([self.codes(name) for name in OF_LAYOUTS])
        return FieldValues(codes, [composition(self.effective, page) for page in first])

    @cached_property
    def areas(self) -> tuple[str, ...]:
        """The areas that these pages have, in the order in which layouts name them."""
        return tuple(dict.fromkeys(area.area for one in self.layouts.values for area in one.areas))

    @cached_property
    def area_places(self) -> tuple[Codes, ...]:
        """For each place in a layout, the area that a page has there, as a number into `areas`; -1: none."""
        return self._places([[area.area for area in one.areas] for one in self.layouts.values])

    @cached_property
    def shown_places(self) -> tuple[Codes, ...]:
        """For each place on the screen the area there, as `area_places` has it; on a phone from top to bottom."""
        return self._places([one.phone for one in self.layouts.values]) if self.screen == PHONE else self.area_places

    def _places(self, layouts: Sequence[Sequence[str]]) -> tuple[Codes, ...]:
        numbers = {area: number for number, area in enumerate(self.areas)}
        orders = [[numbers[area] for area in areas] for areas in layouts]
        longest = max(map(len, orders), default=0)
        padded = np.array([order + [-1] * (longest - len(order)) for order in orders], dtype=np.int32)
        return tuple(padded.reshape(len(orders), longest)[self.layouts.codes, place] for place in range(longest))


class PageRecord(Fixed, Mapping[str, Any]):
    """All that is worked out for one page: a mapping from the name of an outcome's field to its value.

    Example
    -------
    >>> import davlo
    >>> record = davlo.open_demo().page("/visit/thanks")
    >>> record["title"], record["menu.shown"], record["menu.reason"], record["theme.name"]
    ('Thank you for booking · Quillmere Botanic Garden', False, 'menu.show is no', 'day')
    >>> record.details["status"], record.as_json("outcomes")["sitemap"]
    ('live', {'listed': False, 'reason': 'robots.index is no'})
    """

    def __init__(
        self, pages: RecordPages, form: Group, row: int = 0, by_hand: Mapping[str, Plain] = MappingProxyType({})
    ) -> None:
        self._pages, self._form, self._row = pages, form, row
        self.page = int(pages.pages[row])
        """Its number in the site."""
        self._by_hand = by_hand

    def __repr__(self) -> str:
        return f"<PageRecord of {self.path}: {len(self.settings)} settings>"

    @property
    def viewer(self) -> str:
        """Who meets what the record holds."""
        return self._pages.viewer

    @property
    def screen(self) -> str:
        """The screen on which the viewer meets it; empty: any."""
        return self._pages.screen

    def of(self, field: Field[T]) -> T:
        """The value of a field; None if the page does not have it."""
        found = self._pages.values(field)
        code = int(found.codes[self._row])
        return found.values[code] if code >= 0 else None  # type: ignore[return-value]

    @cached_property
    def _by_name(self) -> dict[str, Field[Any]]:
        every = self._form.group("outcomes").fields()
        return {one.name: one for one in every if not one.is_optional or self._has(one)}

    def __getitem__(self, name: str) -> Any:
        return self.of(self._by_name[name])

    def __iter__(self) -> Iterator[str]:
        return iter(self._by_name)

    def __len__(self) -> int:
        return len(self._by_name)

    def members(self, name: str) -> tuple[str, ...]:
        """The names of the fields that the page has in a group of the outcomes, in its order."""
        group = self._form.group("outcomes").group(name)
        return tuple(one.name for one in self._ordered(group) if isinstance(one, Field) and self._has(one))

    @property
    def path(self) -> str:
        """The page's path."""
        return self._pages.site.tree.paths[self.page]

    @property
    def parent(self) -> str:
        """The path of the page above; empty at the top."""
        above = int(self._pages.site.tree.parent[self.page])
        return self._pages.site.tree.paths[above] if above >= 0 else ""

    @property
    def type(self) -> str:
        """What people call the page's type."""
        return self._pages.site.types.label(int(self._pages.site.details.type_of[self.page]))

    @cached_property
    def details(self) -> Mapping[str, str]:
        """What the page list says of it, blank cells left out."""
        columns = self._pages.site.details.columns.items()
        return MappingProxyType({name: column[self.page] for name, column in columns if column[self.page]})

    @cached_property
    def settings(self) -> tuple[SettingOfPage, ...]:
        """Every setting that the page has, those of a group together."""
        catalogue, found = self._pages.site.catalogue, []
        groups = (self._form.group(name).fields() for name in ("settings", "sources", "not shown"))
        for value, *others in zip(*groups, strict=True):
            source, why = map(self.of, others)
            if source is not None:
                group = group_of(catalogue[catalogue.number(value.name)])
                found.append(SettingOfPage(value.name, group, self.of(value), source, why or ""))
        return tuple(sorted(found, key=lambda one: ORDER.index(one.group)))

    def said(self) -> tuple[SettingOfPage, ...]:
        """The settings that some statement sets."""
        return tuple(setting for setting in self.settings if setting.source.file)

    @property
    def by_hand(self) -> dict[str, Plain]:
        """For a page that is not there yet: the values that differ if its row is typed by hand, without stamps."""
        values = self._by_hand
        return {one.name: values[one.name] for one in self.settings if values and values[one.name] != one.value}

    def setting(self, name: str) -> object:
        """The value of a setting; None also where the page does not have it."""
        return PageValue(self._pages.effective, self.page)(name)

    def as_json(self, group: str = "") -> dict[str, Any]:
        """The record as JSON holds it, or one of its groups: `details`, `settings`, `sources`, `outcomes`."""
        return self._as_json(self._form.group(group) if group else self._form)

    def _as_json(self, group: Group) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for member in self._ordered(group):
            if isinstance(member, Group):
                found[member.name] = self._as_json(member)
            elif self._has(member):
                found[member.name] = member.as_json(self.of(member))
            elif not member.is_optional:
                found[member.name] = None
        return found

    def _has(self, field: Field[Any]) -> bool:
        return int(self._pages.values(field).codes[self._row]) >= 0

    def _ordered(self, group: Group) -> Sequence[Field[Any] | Group]:
        """The members of a group in the order that this page has."""
        if group.order is None:
            return group.members
        return [group.members[code] for one in group.order(self._pages) if (code := int(one[self._row])) >= 0]

    def lines(self, without: Collection[str] = ()) -> list[tuple[str, str]]:
        """What readers and search engines meet, for people: what it is, and how it reads; without some groups."""
        return [(label, words) for label, words in self._lines(self._form.group("outcomes"), without) if words]

    def _lines(self, group: Group, without: Collection[str]) -> Iterator[tuple[str, str]]:
        for member in self._ordered(group):
            if isinstance(member, Group):
                yield from self._lines(member, without) if member.name not in without else ()
            elif member.words is not None:
                words = member.words(self.of(member), self)
                yield from ((member.label, one) for one in ([words] if isinstance(words, str) else words))
