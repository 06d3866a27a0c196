"""Declarations: what is declared once under a name and named by settings."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import Any, NamedTuple, TypeAlias, TypeVar

from ..faults import Place
from .pages.types import Type
from .settings.setting import Setting
from .settings.values import ListChange, Value

ALL_SCREENS = ("wide", "tablet", "phone")
"""The screens on which something may be shown."""


class Layout(NamedTuple):
    """Areas, in order; the layout's own width and blocks.

    `own` holds what the layout itself says, by key: of an area's blocks the list, or how it changes its base's. The
    other fields have what its base says where it says nothing.
    """

    name: str
    place: Place
    label: str = ""
    note: str = ""
    areas: tuple[str, ...] = ()
    width: str = "medium"
    own_content: bool = True
    blocks: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    filled_elsewhere: tuple[str, ...] = ()  # areas that the site's program fills; also such as are not in `areas`
    based_on: str = ""
    own: Mapping[str, Any] = MappingProxyType({})

    def derived(self, base: Layout) -> Layout:
        """The layout with what it does not say itself from its base."""
        areas, width, own_content, blocks, filled_elsewhere = (
            self.own.get(key, getattr(base, key)) for key in DERIVED[Layout]
        )
        return self._replace(
            areas=areas,
            width=width,
            own_content=own_content,
            blocks={
                area: some.apply(base.blocks.get(area, ())) if isinstance(some, ListChange) else some
                for area, some in blocks.items()
                if area in areas
            },
            filled_elsewhere=filled_elsewhere,
        )

    @property
    def decided_areas(self) -> tuple[str, ...]:
        """The areas that settings fill: those that the site's program does not fill by itself."""
        return tuple(area for area in self.areas if area not in self.filled_elsewhere)

    def lacks(self, area: str) -> bool:
        """Whether the layout has no such area at all."""
        return area not in self.areas and area not in self.filled_elsewhere


class Instead(NamedTuple):
    """What a theme shows instead of an area that it has no place for: an area of its own, a block, or nothing."""

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
        ('shows nothing', 'shows its area right', 'shows the block hello')
        """
        if self.block:
            return f"shows the block {self.block}"
        return f"shows its area {self.area}" if self.area else "shows nothing"


NOTHING = Instead()


class Theme(NamedTuple):
    """The areas of a theme, its own names for ours, and what it shows instead of those it lacks."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    areas: tuple[str, ...] = ()
    area_names: Mapping[str, str] = MappingProxyType({})
    if_missing: Mapping[str, Instead] = MappingProxyType({})

    def name_of(self, area: str) -> str:
        """The theme's own name for an area; empty where it does not show it."""
        called = self.area_names.get(area, area)
        return called if called in self.areas else ""

    def instead_of(self, area: str) -> Instead:
        """What the theme shows instead of an area that it has no place for."""
        return self.if_missing.get(area, NOTHING)


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
    """How a sidebar or a band looks: CSS for the whole of it, for each block, and for the headings of blocks.

    `whole`, `each_block` and `headings` hold properties and values in their order, those of the base first. `own` holds
    what the look itself says, by key.
    """

    name: str
    place: Place
    label: str = ""
    note: str = ""
    shows_on: tuple[str, ...] = ALL_SCREENS
    whole: Mapping[str, str] = MappingProxyType({})
    each_block: Mapping[str, str] = MappingProxyType({})
    headings: Mapping[str, str] = MappingProxyType({})
    based_on: str = ""
    own: Mapping[str, Any] = MappingProxyType({})

    def derived(self, base: Look) -> Look:
        """The look with what it does not say itself from its base; of a part what is said last overrides."""
        parts: dict[str, Any] = {}
        for part in LOOK_PARTS:
            own = self.own.get(part, {})
            parts[part] = {**{name: css for name, css in getattr(base, part).items() if name not in own}, **own}
        return self._replace(shows_on=self.own.get("shows_on", base.shows_on), **parts)

    @property
    def width(self) -> float | None:
        """Its width in per cent of the page; None if it says none.

        Example
        -------
        >>> Look("slim", Place("davlo.yaml"), whole={"width": "28%"}).width
        28.0
        """
        said = [value for name, value in self.whole.items() if name in ("width", "inline-size")]
        return float(said[-1].removesuffix("%")) if said else None


class Block(NamedTuple):
    """A block of the kind `text`, `branch-links`, `menu`, `links` or `one-of`, with the keys its kind takes.

    `languages` is for lists of a branch's pages: `all` if they list pages in every language, else empty.
    """

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
    languages: str = ""
    links: Mapping[str, str] = MappingProxyType({})
    blocks: tuple[str, ...] = ()
    provides: tuple[str, ...] = ()


BLOCK_KEYS = {
    "text": ("text",),
    "branch-links": ("under", "levels", "sort", "leave_out", "languages"),
    "menu": ("under", "levels"),
    "links": ("links",),
    "one-of": ("blocks",),
}
"""The kinds of blocks, and the keys that each has besides those that all have."""


class Preset(NamedTuple):
    """Values that go together: what each setting is, wherever a scope uses the preset."""

    name: str
    place: Place
    label: str = ""
    note: str = ""
    says: Mapping[str, Value] = MappingProxyType({})


class Person(NamedTuple):
    """Somebody who works on the site; an admin may do everything."""

    name: str
    place: Place
    is_admin: bool = False


class Group(NamedTuple):
    """A group of people, and of groups."""

    name: str
    place: Place
    members: tuple[str, ...] = ()


class Role(NamedTuple):
    """A name for several actions."""

    name: str
    place: Place
    actions: tuple[str, ...] = ()


Declared: TypeAlias = Layout | Theme | Sidebar | Look | Band | Block | Preset | Person | Group | Role | Type | Setting
"""Everything that can be declared under a name, except rules and guarantees, which a text names."""
SECTIONS = ("layout", "theme", "sidebar", "look", "band", "block", "preset", "role")
"""The kinds that `Declarations` holds, in the order in which they are listed."""


def kind_of(record: Declared) -> str:
    """The kind of a declaration: `layout`, `sidebar`, `type`, `setting`, …

    Example
    -------
    >>> kind_of(Sidebar("main", Place("davlo.yaml")))
    'sidebar'
    """
    return type(record).__name__.lower()


class Declarations(NamedTuple):
    """All declarations of a site by name, except people, types and settings."""

    layouts: Mapping[str, Layout]
    themes: Mapping[str, Theme]
    sidebars: Mapping[str, Sidebar]
    looks: Mapping[str, Look]
    bands: Mapping[str, Band]
    blocks: Mapping[str, Block]
    presets: Mapping[str, Preset]
    roles: Mapping[str, Role]

    def of(self, kind: str) -> Mapping[str, Declared]:
        """The declarations of a kind among `SECTIONS`."""
        found: Mapping[str, Declared] = getattr(self, f"{kind}s")
        return found

    def areas(self) -> tuple[str, ...]:
        """Every area of any layout, in the order of the layouts."""
        return tuple(dict.fromkeys(area for layout in self.layouts.values() for area in layout.areas))

    def with_one(self, record: Declared) -> Declarations:
        """These declarations with one added, or replaced by name; declarations derived from it are updated."""
        kind = kind_of(record)
        changed: dict[str, Any] = {f"{kind}s": {**self.of(kind), record.name: record}}
        return self._replace(**changed).derived()

    def without(self, kind: str, name: str) -> Declarations:
        """These declarations without one."""
        left: dict[str, Any] = {f"{kind}s": {one: record for one, record in self.of(kind).items() if one != name}}
        return self._replace(**left)

    def derived(self) -> Declarations:
        """These declarations, where each layout and look has what it does not say itself from its base."""
        return self._replace(layouts=derived(self.layouts), looks=derived(self.looks))


Derived = TypeVar("Derived", Layout, Look)


def derived(said: Mapping[str, Derived]) -> dict[str, Derived]:
    """Layouts or looks, each with what it does not say itself from its base."""
    found: dict[str, Derived] = {}
    for name in _bases_first(said):
        one = said[name]
        found[name] = one.derived(found[one.based_on] if one.based_on else type(one)(name, one.place))
    return {name: found[name] for name in said}


def _bases_first(said: Mapping[str, Layout] | Mapping[str, Look]) -> Iterator[str]:
    """The names of declarations, each after the one it is based on."""
    done: set[str] = set()
    for name in said:
        chain = []
        while name not in done:
            chain.append(name)
            done.add(name)
            name = said[name].based_on or name
        yield from reversed(chain)


LOOK_PARTS = ("whole", "each_block", "headings")
"""The parts of a sidebar or band that a look styles."""
DERIVED = {Layout: ("areas", "width", "own_content", "blocks", "filled_elsewhere"), Look: ("shows_on", *LOOK_PARTS)}
"""What a declaration may have from the one it is based on."""
