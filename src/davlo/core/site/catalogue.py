"""The catalogue: every setting there is, Davlo's own and the site's own."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

from ..faults import Place, UnknownName
from .values import Plain

KINDS = ("text", "flag", "number", "integer", "choice", "list", "date", "color")
FLOWS = ("live", "stamped")
STATED_SCOPES = ("everywhere", "type", "below", "rule", "here")
AREA_FAMILIES = ("sidebar", "look", "band", "blocks")
ACCESS_FAMILIES = ("access", "deny")
FAMILIES = (*AREA_FAMILIES, *ACCESS_FAMILIES)
CHANGEFREQS = ("always", "hourly", "daily", "weekly", "monthly", "yearly", "never")
"""The seven values of `changefreq` in the sitemap protocol (sitemaps.org/protocol.html, XML tag definitions)."""
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
    """One setting: its name and kind, what it is when nobody speaks, and where it may be set.

    `choices` are the words it may hold (of a list: its items), `stands_for` the roles that stand for
    several. A list of the site's own with no `choices` holds any words.
    """

    name: str
    kind: str
    built_in: Plain
    help: str = ""
    label: str = ""
    flow: str = "live"
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
        """The part before the first dot, where the setting is one of a family; else empty."""
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
    """Davlo's own settings that always exist, in the order they are told."""
    return [
        Setting("title.show", "flag", True, "the heading on the page"),
        Setting("title.pattern", "text", "{title}", "the document title"),
        Setting("title.limit", "integer", 60, "characters before a document title counts as long", least=0),
        Setting("menu.show", "flag", True, "whether the page stands in the menu"),
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
            flow="stamped",
            choices=words.names.get("person", ()),
        ),
        Setting(
            "page.group", "group", None, "the group it belongs to", flow="stamped", choices=words.names.get("group", ())
        ),
        Setting("robots.index", "flag", True, "whether search engines may list the page"),
        Setting("sitemap.include", "flag", True, "whether the page stands in the sitemap"),
        Setting("sitemap.priority", "number", 0.5, "its priority in the sitemap", least=0, most=1),
        Setting("sitemap.changefreq", "choice", None, "how often it changes", choices=CHANGEFREQS),
    ]


def family_setting(family: str, member: str, words: Vocabulary) -> Setting:
    """The setting of a family for one area or one subject."""
    name = f"{family}.{member}"
    if family == "blocks":
        return Setting(
            name,
            "list",
            (),
            f"the page's blocks in {member}",
            choices=words.names.get("block", ()),
            item_word="block",
        )
    if family in AREA_FAMILIES:
        helps = {"sidebar": "the sidebar in", "look": "how the sidebar looks in", "band": "the band in"}
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


class Catalogue:
    """All settings by number and by name; `access.WHO` and `deny.WHO` come to be where they are named.

    Parameters
    ----------
    words : Vocabulary
        The declared names.
    own : iterable of Setting
        The site's own settings.
    adjust : mapping
        For a setting of Davlo's, or a family as `access.*`: the attributes the site gives it.
    """

    def __init__(
        self,
        words: Vocabulary,
        own: Iterable[Setting] = (),
        adjust: Mapping[str, Callable[[Setting], Setting]] | None = None,
    ) -> None:
        self.words = words
        self._adjust = dict(adjust or {})
        self.settings: list[Setting] = []
        self._number: dict[str, int] = {}
        for setting in davlo_settings(words):
            self._add(self._adjusted(setting))
        for setting in own:
            self._add(setting)

    def _add(self, setting: Setting) -> int:
        number = len(self.settings)
        self.settings.append(setting)
        self._number[setting.name] = number
        return number

    def _adjusted(self, setting: Setting) -> Setting:
        for key in (f"{setting.family}.*", setting.name):
            if key in self._adjust:
                setting = self._adjust[key](setting)
        return setting

    def __len__(self) -> int:
        return len(self.settings)

    def __getitem__(self, number: int) -> Setting:
        return self.settings[number]

    def number(self, name: str) -> int:
        """The number of a setting; one of an access family comes to be here.

        Raises
        ------
        UnknownName
            If there is no such setting, or no such subject.
        """
        if name in self._number:
            return self._number[name]
        family, _, member = name.partition(".")
        if family in ACCESS_FAMILIES and member:
            if member not in self.words.subjects:
                raise UnknownName("person or group", member, self.words.subjects)
            return self._add(self._adjusted(family_setting(family, member, self.words)))
        raise UnknownName("setting", name, self.names())

    def find(self, name: str) -> int | None:
        """The number of a setting that exists, or None; nothing comes to be."""
        return self._number.get(name)

    def names(self) -> tuple[str, ...]:
        """The names of all settings there are."""
        return tuple(self._number)

    def could_be(self, name: str) -> bool:
        """Whether a column of this name holds a setting's values."""
        family, _, member = name.partition(".")
        return name in self._number or (family in ACCESS_FAMILIES and bool(member))

    def access_numbers(self) -> list[int]:
        """The settings of the families `access` and `deny`, each subject in a fixed order."""
        return [n for n in self.ordered() if self.settings[n].family in ACCESS_FAMILIES]

    def ordered(self) -> list[int]:
        """All settings in the order they are told, whatever order they came to be in."""
        subjects = {name: i for i, name in enumerate(self.words.subjects)}
        first = next(i for i, s in enumerate(self.settings) if s.name == "access.everyone")

        def place(number: int) -> tuple[int, int, int]:
            setting = self.settings[number]
            if setting.family in ACCESS_FAMILIES:
                return first, ACCESS_FAMILIES.index(setting.family), subjects[setting.member]
            return number, 0, 0

        return sorted(range(len(self.settings)), key=place)


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
