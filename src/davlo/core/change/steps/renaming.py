"""What each name becomes when a declaration gets another name, or is merged into another one."""

from __future__ import annotations

from collections.abc import Iterable

from ...faults import UnknownName
from ...site.declared_names import declared_names
from ...site.mentions import NAMES
from ...site.model import SiteModel
from ...site.pages.conditions import Condition
from ...site.settings.names import what_is_wrong
from ...site.settings.setting import ACCESS_FAMILIES, Setting
from ...site.settings.values import ListChange, Value
from .step import CannotDo

SUBJECTS = ("person", "group")
TITLED = ("rule", "guarantee")
"""Kinds whose names may be any words, and whose declarations are never merged."""


class Renaming:
    """What each name becomes.

    `goes_into`: whether there is a declaration of the new name already, which stays as it is.
    """

    def __init__(self, site: SiteModel, kind: str, old: str, new: str) -> None:
        self.kind, self.old, self.new = kind, old, new
        names = declared_names(site, self.kind)
        if self.kind == "setting":
            names = tuple(one.name for one in site.catalogue.own)
        if self.old not in names:
            raise UnknownName(self.kind, self.old, names)
        if self.old == self.new:
            raise CannotDo(f"the {self.kind} is called {self.old} already")
        if self.kind == "type" and self.old == "page":
            raise CannotDo("the type page always exists, and cannot be renamed")
        declared = (*site.types.declared, "page") if self.kind == "type" else names
        self.goes_into = self.new in declared
        if self.goes_into and self.kind in (*TITLED, "setting"):
            raise CannotDo(f"there is a {self.kind} {self.new!r} already, and no {self.kind} goes into another")
        if not self.goes_into:
            self._check_new(site)

    def _check_new(self, site: SiteModel) -> None:
        if self.kind in TITLED:
            if not self.new.strip():
                raise CannotDo(f"a {self.kind} needs a name")
            return
        what, hint = what_is_wrong(self.new, self.kind)
        if what:
            raise CannotDo(f"{what}; {hint}" if hint else what)
        others = {"person": "group", "group": "person", "role": "action"}
        taken = {
            "person": site.people.groups,
            "group": site.people.names,
            "role": site.actions,
            "setting": (*site.catalogue.names(), *site.details.columns),
        }
        if self.new in taken.get(self.kind, ()):
            raise CannotDo(f"there is {others.get(self.kind, 'a setting or a detail')} {self.new!r} already")

    def of(self, kind: str, word: str) -> str:
        """What a name of a kind becomes."""
        return self.new if kind == self.kind and word == self.old else word

    def all(self, kind: str, words: Iterable[str]) -> tuple[str, ...]:
        """What names of a kind become; where the new name is among them already, the old one goes."""
        return self.listed(words) if kind == self.kind else tuple(words)

    def listed(self, words: Iterable[str]) -> tuple[str, ...]:
        """What a list becomes that may hold the old name."""
        told = tuple(words)
        if self.new in told:
            return tuple(word for word in told if word != self.old)
        return tuple(self.new if word == self.old else word for word in told)

    def subject(self, word: str) -> str:
        """What a person or a group becomes."""
        return self.new if self.kind in SUBJECTS and word == self.old else word

    def setting(self, name: str) -> str:
        """What a setting becomes: one of the site's own, or `access.WHO` and `deny.WHO`."""
        family, _, member = name.partition(".")
        if family in ACCESS_FAMILIES:
            return f"{family}.{self.subject(member)}"
        return self.of("setting", name)

    def value(self, setting: Setting, value: Value) -> Value:
        """What a value becomes that may name a declaration."""
        if setting.family == "blocks" and self.kind == "block":
            if isinstance(value, ListChange):
                return ListChange(*(self.all("block", some) for some in (value.first, value.add, value.remove)))
            return self.all("block", value) if isinstance(value, tuple) else value
        return self.of(setting.kind, value) if setting.kind in NAMES and isinstance(value, str) else value

    def is_about(self, setting: Setting) -> bool:
        """Whether values of a setting may name what is renamed."""
        return setting.kind == self.kind if setting.family != "blocks" else self.kind == "block"

    def condition(self, one: Condition) -> Condition:
        return one._replace(type=self.all("type", one.type), only_type=self.all("type", one.only_type))
