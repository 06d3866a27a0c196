"""Values of settings in a table: read as names, lists and flags, and what they name declared as far as it is known."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from davlo.core.arrays.codebooks import Column
from davlo.core.outcomes.areas import CONTENT
from davlo.core.site.settings.catalogue import Vocabulary, davlo_settings
from davlo.core.site.settings.names import what_is_wrong
from davlo.core.site.settings.numbers import number_of
from davlo.core.site.settings.setting import ACCESS_FAMILIES, ACTIONS, AREA_FAMILIES, FLAGS, SUBJECTS
from davlo.core.site.settings.values import Raw
from davlo.core.wording import count

from .seen_site import UNSAID, Remark, Seen, SeenColumn, in_order, name_from

FLAG_SETTINGS = {setting.name for setting in davlo_settings(Vocabulary({}, (), (), {})) if setting.kind == "flag"}
_SECTIONS = {"layout.name": "layouts", "layout.theme": "themes", "page.owner": "names", "page.group": "groups"}
_SECTIONS |= {"sidebar": "sidebars", "look": "looks", "band": "bands", "blocks": "blocks"}
_NOT_THE_SAME = {"names": "groups", "groups": "names"}
_UNTOLD = {
    "sidebars": "which blocks the sidebars hold",
    "bands": "which blocks the bands hold",
    "blocks": "what the blocks show",
    "looks": "what the looks are like",
    "groups": "who is in the groups",
}
"""What a table cannot say about the declarations that its cells name."""
_FLAGS = {**dict.fromkeys(("1", "x", "on", "y"), "yes"), **dict.fromkeys(("0", "off", "n"), "no")}
"""Other words for yes and no."""


class NamedValues:
    """Values of the settings of a table, and what they name.

    `values`: by setting, the value of each page; `UNSAID` where the cell says nothing. `declared`: by section of
    davlo.yaml, what the values name.
    """

    def __init__(self, settings: Mapping[str, Column], own: Mapping[str, Column]) -> None:
        self.declared: dict[str, dict[str, Raw]] = {}
        self.guessed: list[Remark] = []
        self.lost: list[Remark] = []
        self._names: dict[tuple[str, str], str] = {}
        self._texts: dict[tuple[str, str], str] = {}
        self.values = {name: SeenColumn(cells.codes, self._read(name, cells.words)) for name, cells in settings.items()}
        for name in settings:
            self._subject(name)
        for name, cells in own.items():
            self.values[name] = SeenColumn(cells.codes, self._read_own(name, cells))
        self._finish()

    def _read(self, setting: str, texts: Sequence[str]) -> list[Seen]:
        """The values of one setting, for the different texts of its cells."""
        family = setting.partition(".")[0]
        section = _SECTIONS.get(setting) or _SECTIONS.get(family, "")
        if setting in FLAG_SETTINGS:
            return [_FLAGS.get(text.lower(), text.lower()) for text in texts]
        if family in ("blocks", *ACCESS_FAMILIES) or setting == "layout.phone-order":
            said = any(texts)  # a blank cell of a list says that it is empty, in a column that says something
            return [self._items(text, section) if text else [] if said else UNSAID for text in texts]
        if section:
            return [text if text in (UNSAID, "none") else self._name(text, section) for text in texts]
        return [*texts]

    def _items(self, text: str, section: str) -> list[Raw]:
        words = [word.strip() for word in text.split(";") if word.strip()] if text != "none" else []
        if section:
            return [self._name(word, section) for word in words]
        return [*words]

    def _name(self, text: str, section: str) -> str:
        """The name of what a cell names, which is declared."""
        if (section, text) not in self._names:
            entries = self.declared.setdefault(section, {})
            others = self.declared.get(_NOT_THE_SAME.get(section, ""), {})  # a person and a group share no name
            is_free = self._texts.get((section, text), text) == text and text not in others
            fits = is_free and not any(what_is_wrong(text, section))
            name = text if fits else name_from(text, {*entries, *others}, section.removesuffix("s"))
            self._names[section, text], self._texts[section, name] = name, text
            entries[name] = {} if name == text else {"label": text}
        return self._names[section, text]

    def _subject(self, setting: str) -> None:
        """A subject of access who owns no page is taken for a group: a table does not say who is in it."""
        family, _, who = setting.partition(".")
        if family in ACCESS_FAMILIES and who not in (*SUBJECTS, *self.declared.get("names", ())):
            self.declared.setdefault("groups", {}).setdefault(who, [])

    def _read_own(self, setting: str, cells: Column) -> list[Seen]:
        """The values of a setting of the site's own, whose kind its cells tell, for their different texts."""
        words = {text for text in cells.words if text}
        kind = "text"
        if words and all(word.lower() in FLAGS for word in words):
            kind = "flag"
        elif words and all(number_of(word) is not None for word in words):
            kind = "number"
        elif any(";" in word for word in words):
            kind = "list"
        self.declared.setdefault("settings", {})[setting] = {"kind": kind}
        self.guessed.append(Remark(f"the setting {setting} is a {kind}, as its cells are", len(cells)))
        if kind == "list":
            return [[word.strip() for word in text.split(";") if word.strip()] for text in cells.words]
        return [*cells.words]

    def _finish(self) -> None:
        """What is declared gets the keys it must have, as far as the values tell them."""
        areas = in_order(name.partition(".")[2] for name in self.values if _is_of_area(name))
        if "layouts" in self.declared:
            for name, mine in self._areas_of_layouts([*self.declared["layouts"]], areas).items():
                self._put("layouts", name, {"areas": mine})
        if len(areas) > 1 and "layouts" not in self.declared:
            self.declared["layouts"] = {"standard": {"areas": [*areas]}}
            self.guessed.append(Remark(f"one layout, standard, with the areas {', '.join(areas)}"))
        for name in self.declared.get("themes", {}):
            self._put("themes", name, {"areas": [*areas]})
        for name in self.declared.get("bands", {}):
            bands = {key[5:]: seen.words for key, seen in self.values.items() if key[:5] == "band."}
            fits: list[Raw] = [area for area, words in bands.items() if name in words]
            self._put("bands", name, {"fits": fits})
        for name in self.declared.get("blocks", {}):
            self._put("blocks", name, {"kind": "text", "text": name})
        for section, what in _UNTOLD.items():
            if self.declared.get(section):
                names = [*self.declared[section]]
                told = f"{what}: fill in {count(len(names), section[:-1])} in davlo.yaml"
                self.lost.append(Remark(told, 0, names[0], of_decisions=True))
        if "groups" in self.declared:
            self.declared["groups"] = {name: [] for name in self.declared["groups"]}
        actions = dict.fromkeys([*ACTIONS, *sorted(self._actions)])
        if len(actions) > len(ACTIONS):
            self.declared["actions"] = dict.fromkeys(actions, "")

    @property
    def _actions(self) -> set[str]:
        """The actions that access names, those aside that nothing can be called."""
        lists = (seen for name, seen in self.values.items() if name.partition(".")[0] in ACCESS_FAMILIES)
        words = {str(word) for seen in lists for one in seen.words if isinstance(one, list) for word in one}
        return {word for word in words if not any(what_is_wrong(word, "action"))}

    def _put(self, section: str, name: str, keys: dict[str, Raw]) -> None:
        entry = self.declared[section][name]
        assert isinstance(entry, dict)
        entry.update(keys)

    def _areas_of_layouts(self, layouts: Iterable[str], areas: list[str]) -> dict[str, list[Raw]]:
        """For each layout the areas where something stands on its pages; an area that none would have is in all."""
        layout, stands = self.values["layout.name"], dict[str, set[str]]()
        for area in areas:
            seen = (self.values.get(f"{family}.{area}") for family in AREA_FAMILIES)
            there = [np.array([*map(_stands, one.words)], dtype=bool)[one.codes] for one in seen if one]
            pages = np.logical_or.reduce(there) if there else np.zeros(len(layout), dtype=bool)
            codes = np.flatnonzero(np.bincount(layout.codes[pages], minlength=len(layout.words)))
            stands[area] = {str(layout.words[code]) for code in codes.tolist()}
        known = {*layouts}
        free = {area for area in areas if area == CONTENT or not stands[area] & known}
        return {name: [area for area in areas if area in free or name in stands[area]] for name in layouts}


def _stands(value: Seen) -> bool:
    return value not in (None, UNSAID, "none", [])


def _is_of_area(setting: str) -> bool:
    return setting.partition(".")[0] in AREA_FAMILIES
