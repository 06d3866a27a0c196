"""Declarations: what is declared once and named by settings."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from ..faults import Place


class Layout(NamedTuple):
    """Areas, in order; the layout's own width and blocks. A derived one has its base's keys where it gives none."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    areas: tuple[str, ...] = ()
    width: str = ""
    own_content: bool = True
    blocks: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    based_on: str = ""


class Instead(NamedTuple):
    """What a theme shows for an area that it has no place for: an area of its own, a block, or nothing."""

    area: str = ""
    block: str = ""

    def __bool__(self) -> bool:
        return bool(self.area or self.block)

    @property
    def words(self) -> str:
        """What the theme does, as the end of a sentence.

        Example
        -------
        >>> Instead().words, Instead(area="right").words, Instead(block="hello").words
        ('shows nothing', 'shows it in right', 'shows the block hello')
        """
        if self.block:
            return f"shows the block {self.block}"
        return f"shows it in {self.area}" if self.area else "shows nothing"


NOTHING = Instead()


class Theme(NamedTuple):
    """The areas a theme has a place for, its own names for ours, and what it shows for the others."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    areas: tuple[str, ...] = ()
    calls: Mapping[str, str] = MappingProxyType({})
    otherwise: Mapping[str, Instead] = MappingProxyType({})

    def name_of(self, area: str) -> str:
        """The theme's own name for an area; empty where it has no place for it."""
        called = self.calls.get(area, area)
        return called if called in self.areas else ""

    def instead_of(self, area: str) -> Instead:
        """What the theme shows for an area that it has no place for."""
        return self.otherwise.get(area, NOTHING)


class Sidebar(NamedTuple):
    """Blocks beside the content; `blank` where it is meant to be empty."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    blocks: tuple[str, ...] = ()
    blank: bool = False


class Band(NamedTuple):
    """A strip across the page, and the areas it fits."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    fits: tuple[str, ...] = ()
    blocks: tuple[str, ...] = ()


class Look(NamedTuple):
    """How a sidebar looks: the keys of DESIGN's look, those it or its base gives."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    values: Mapping[str, str | tuple[str, ...]] = MappingProxyType({})
    based_on: str = ""


class Block(NamedTuple):
    """A block of the kind `text`, `branch-links`, `links` or `one-of`, with the keys its kind takes."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    kind: str = "text"
    text: str = ""
    under: str = ""
    levels: int = 1
    sort: str = "order"
    leave_out: tuple[str, ...] = ()
    links: Mapping[str, str] = MappingProxyType({})
    blocks: tuple[str, ...] = ()
    supplies: tuple[str, ...] = ()


class Preset(NamedTuple):
    """Values that go together; its statements come to be where a scope uses it.

    `names` are the words it holds, `settings` what they are for.
    """

    name: str
    place: Place
    label: str = ""
    note: str = ""
    names: frozenset[str] = frozenset()
    settings: frozenset[str] = frozenset()


class People(NamedTuple):
    """Who there is: people, admins, groups (members by name, groups among them); where each is declared."""

    names: tuple[str, ...] = ()
    admins: tuple[str, ...] = ()
    groups: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    places: Mapping[str, Place] = MappingProxyType({})

    def groups_of(self, person: str) -> tuple[str, ...]:
        """Every group a person is in, groups of groups included."""
        found: list[str] = []
        seek = [person]
        while seek:
            member = seek.pop()
            for group, members in self.groups.items():
                if member in members and group not in found:
                    found.append(group)
                    seek.append(group)
        return tuple(group for group in self.groups if group in found)

    def members_of(self, group: str) -> tuple[str, ...]:
        """Every person in a group, or in a group of it."""
        return tuple(person for person in self.names if group in self.groups_of(person))


class Declarations(NamedTuple):
    """All declarations of a site, by name; people apart."""

    layouts: Mapping[str, Layout]
    themes: Mapping[str, Theme]
    sidebars: Mapping[str, Sidebar]
    looks: Mapping[str, Look]
    bands: Mapping[str, Band]
    blocks: Mapping[str, Block]
    presets: Mapping[str, Preset]
    roles: Mapping[str, tuple[str, ...]]
    role_places: Mapping[str, Place] = MappingProxyType({})

    def areas(self) -> tuple[str, ...]:
        """Every area of any layout, in the order of the layouts."""
        return tuple(dict.fromkeys(area for layout in self.layouts.values() for area in layout.areas))
