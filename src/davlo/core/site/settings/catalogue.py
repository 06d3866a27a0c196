"""The catalogue: every setting there is, Davlo's own and the site's own."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...faults import UnknownName, ValueFault
from .near_names import near_text
from .parse_values import read_value
from .setting import ACCESS_FAMILIES, AREA_FAMILIES, CHANGEFREQS, SUBJECTS, WIDTHS, Setting
from .values import ByDepth, ListChange, Plain, Raw, Reference


class Vocabulary(NamedTuple):
    """The declared names that settings may hold.

    `names` gives for a declaration kind (`layout`, `sidebar`, `person`, …) its declared names.
    """

    names: Mapping[str, tuple[str, ...]]
    areas: tuple[str, ...]
    actions: tuple[str, ...]
    roles: Mapping[str, tuple[str, ...]]

    @property
    def subjects(self) -> tuple[str, ...]:
        """Everyone who may stand in an access statement."""
        return (*SUBJECTS, *self.names.get("group", ()), *self.names.get("person", ()))


def davlo_settings(words: Vocabulary) -> list[Setting]:
    """Davlo's own settings that always exist, in the order they are listed."""
    return [
        Setting("heading.show", "flag", True, "whether the page has a heading"),
        Setting("heading.text", "text", "{title}", "what the heading says"),
        Setting("title.pattern", "text", "{title}", "the document title"),
        Setting("title.limit", "integer", 60, "characters before a document title counts as long", least=0),
        Setting("menu.show", "flag", True, "whether the page is in the menu"),
        Setting("menu.label", "text", "{title}", "what the menu calls the page"),
        Setting("layout.name", "layout", None, "the page's layout", choices=words.names.get("layout", ())),
        Setting("layout.theme", "theme", None, "the page's theme", choices=words.names.get("theme", ())),
        Setting("layout.width", "choice", "as-layout", "how wide the page runs", choices=WIDTHS),
        Setting(
            "layout.phone-order",
            "list",
            (),
            "areas, top to bottom on a phone; empty: the layout's own order",
            choices=words.areas,
            item_word="area",
        ),
        *(family_setting(family, area, words) for area in words.areas for family in AREA_FAMILIES),
        family_setting("access", "everyone", words),
        Setting(
            "page.owner",
            "person",
            None,
            "who the page belongs to",
            default_for="new-pages",
            choices=words.names.get("person", ()),
        ),
        Setting(
            "page.group",
            "group",
            None,
            "the group it belongs to",
            default_for="new-pages",
            choices=words.names.get("group", ()),
        ),
        Setting("robots.index", "flag", True, "whether search engines may list the page"),
        Setting("sitemap.include", "flag", True, "whether the page is in the sitemap"),
        Setting("sitemap.priority", "number", 0.5, "its priority in the sitemap", least=0, most=1),
        Setting("sitemap.changefreq", "choice", None, "how often it changes", choices=CHANGEFREQS),
    ]


def family_setting(family: str, member: str, words: Vocabulary) -> Setting:
    """The setting of a family for one area or one subject."""
    name = f"{family}.{member}"
    if family == "blocks":
        return Setting(
            name, "list", (), f"the page's blocks in {member}", choices=words.names.get("block", ()), item_word="block"
        )
    if family in AREA_FAMILIES:
        helps = {"sidebar": "the sidebar in", "look": "how the sidebar and the band look in", "band": "the band in"}
        return Setting(name, family, None, f"{helps[family]} {member}", choices=words.names.get(family, ()))
    built_in = ("view",) if name == "access.everyone" else ()
    told = "may do" if family == "access" else "may not do"
    return Setting(
        name,
        "list",
        built_in,
        f"what {member} {told}",
        choices=words.actions,
        stands_for=words.roles,
        item_word="action or role",
    )


class Adjustment(NamedTuple):
    """How a site adjusts a setting of Davlo's, or all settings of a family; None means unchanged.

    `default` is as a file holds it: each setting of a family reads it by its own kind.
    """

    default_for: str | None = None
    scopes: tuple[str, ...] | None = None
    label: str | None = None
    help: str | None = None
    default: Raw | None = None

    def of(self, setting: Setting) -> Setting:
        """The setting as the site has it.

        Raises ValueFault if the setting cannot take the default.
        """
        said = {key: value for key, value in self._asdict().items() if value is not None and key != "default"}
        setting = setting._replace(**said)
        return setting if self.default is None else with_default(setting, self.default)


def with_default(setting: Setting, default: Raw) -> Setting:
    """The setting with another built-in value.

    Raises ValueFault if it is no plain value that the setting can take.
    """
    value = read_value(setting, default)
    if isinstance(value, Reference | ListChange | ByDepth):
        raise ValueFault(f"the default of {setting.name} is a plain value")
    return setting._replace(built_in=value)


class Catalogue:
    """All settings by number and by name, in the order in which they are listed.

    `words`: the declared names. `own`: the site's own settings. `adjusted`: adjustments of settings of Davlo's, or of
    families such as `access.*`, by name. `access`: the settings `access.WHO` and `deny.WHO` there are besides
    `access.everyone`.
    """

    def __init__(
        self,
        words: Vocabulary,
        own: Iterable[Setting] = (),
        adjusted: Mapping[str, Adjustment] | None = None,
        access: Iterable[str] = (),
    ) -> None:
        self.words = words
        self.own = tuple(own)
        self.adjusted = dict(adjusted or {})
        subjects = {name: place for place, name in enumerate(words.subjects)}
        found = {setting.name: self._as_site_has_it(setting) for setting in davlo_settings(words)}
        told = [(*name.split(".", 1), name) for name in {*access, "access.everyone"}]
        told.sort(key=lambda one: (ACCESS_FAMILIES.index(one[0]), subjects[one[1]]))
        self.settings: list[Setting] = []
        for name, setting in found.items():
            if name == "access.everyone":
                self.settings += [self.access_setting(each) for *_, each in told]
            else:
                self.settings.append(setting)
        self.settings += self.own
        self._number = {setting.name: number for number, setting in enumerate(self.settings)}

    def access_setting(self, name: str) -> Setting:
        """The setting `access.WHO` or `deny.WHO`, whether it is there or not."""
        family, _, member = name.partition(".")
        if member not in self.words.subjects:
            raise UnknownName("person or group", member, self.words.subjects)
        return self._as_site_has_it(family_setting(family, member, self.words))

    def _as_site_has_it(self, setting: Setting) -> Setting:
        for key in (f"{setting.family}.*", setting.name):
            if key in self.adjusted:
                with contextlib.suppress(ValueFault):  # the reader has reported it already
                    setting = self.adjusted[key].of(setting)
        return setting

    def __len__(self) -> int:
        return len(self.settings)

    def __getitem__(self, number: int) -> Setting:
        return self.settings[number]

    def find(self, name: str) -> int | None:
        """The number of a setting, or None."""
        return self._number.get(name)

    def number(self, name: str) -> int:
        """The number of a setting."""
        number = self._number.get(name)
        if number is not None:
            return number
        family, _, member = name.partition(".")
        if family in ACCESS_FAMILIES and member and member not in self.words.subjects:
            raise UnknownName("person or group", member, self.words.subjects)
        raise UnknownName("setting", name, self.names(), area_hint(name, self.words.areas))

    def names(self) -> tuple[str, ...]:
        """The names of all settings there are."""
        return tuple(self._number)

    def built_in(self) -> list[Plain]:
        """The built-in value of every setting."""
        return [setting.built_in for setting in self.settings]

    def setting(self, name: str) -> Setting:
        """A setting by its name; of the access families also one that nothing names yet.

        Raises UnknownName if there cannot be one: no such setting, or no such subject.
        """
        found = self._number.get(name)
        if found is None and name.partition(".")[0] in ACCESS_FAMILIES and "." in name:
            return self.access_setting(name)
        return self.settings[self.number(name)]

    def could_be(self, name: str) -> bool:
        """Whether a column of this name holds a setting's values."""
        family, _, member = name.partition(".")
        return name in self._number or (family in ACCESS_FAMILIES and bool(member))

    def access_numbers(self) -> list[int]:
        """The settings of the families `access` and `deny`."""
        return [n for n, setting in enumerate(self.settings) if setting.family in ACCESS_FAMILIES]


class GrowingCatalogue(Catalogue):
    """A catalogue under construction: while a site is read, `access.WHO` and `deny.WHO` are added as files name them.

    It numbers settings in the order in which they are added; `complete` gives the catalogue, and their numbers in it.
    """

    def __init__(self, catalogue: Catalogue) -> None:
        self.words, self.own, self.adjusted = catalogue.words, catalogue.own, catalogue.adjusted
        self.settings, self._number = [*catalogue.settings], {**catalogue._number}

    def number(self, name: str) -> int:
        """The number of a setting; one of an access family is added here."""
        family, _, member = name.partition(".")
        if name not in self._number and family in ACCESS_FAMILIES and member:
            setting = self.access_setting(name)
            self._number[name] = len(self.settings)
            self.settings.append(setting)
        return super().number(name)

    def complete(self) -> tuple[Catalogue, NDArray[np.int32]]:
        """The complete catalogue, and for each number given here its number there. int32[settings]"""
        named = [setting.name for setting in self.settings if setting.family in ACCESS_FAMILIES]
        whole = Catalogue(self.words, self.own, self.adjusted, named)
        return whole, np.array([whole.number(setting.name) for setting in self.settings], dtype=np.int32)


def expand_families(names: Sequence[str], catalogue: Catalogue) -> set[int]:
    """The numbers of the settings named, `sidebar.*` standing for its family."""
    found: set[int] = set()
    for name in names:
        if name.endswith(".*"):
            found |= {n for n, s in enumerate(catalogue.settings) if s.family == name[:-2]}
        else:
            number = catalogue.find(name)
            if number is not None:
                found.add(number)
    return found


def area_hint(name: str, areas: Sequence[str]) -> str:
    """What to declare first, so that there is a setting for an area.

    Example
    -------
    >>> area_hint("sidebar.right", [])
    'a layout with the area right comes first, as in layouts: {wide: {areas: [content, right]}}'
    """
    family, _, area = name.partition(".")
    if family not in AREA_FAMILIES or not area or area in areas or near_text(area, areas):
        return ""
    return f"a layout with the area {area} comes first, as in layouts: {{wide: {{areas: [content, {area}]}}}}"
