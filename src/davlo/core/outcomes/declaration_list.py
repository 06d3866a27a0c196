"""Everything that a site declares, a kind at a time: its place, what it says, and how many pages use it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Mask
from ..cached import cached_property
from ..faults import Place
from ..resolve.effective import EffectiveModel
from ..resolve.statement_uses import StatementUses, of_scope, of_setting
from ..site.declared_names import DECLARED_KINDS, declared_names
from ..site.mentions import Mention, Mentions
from ..site.settings.scopes import ScopeKind
from .declaration_contents import Contents, declaration_contents
from .uses import Uses

WITHOUT_PAGES = ("role",)
"""Kinds whose pages cannot be counted: statements store the actions of a role, not its name."""


class Declaration(NamedTuple):
    """A declaration and its use.

    Attributes
    ----------
    kind, name : str
    place : Place
        Where it is declared; empty for a setting of Davlo's, and for a type that only the page list names.
    label, note : str
        Of a setting the note is its help; of a rule why it is there.
    details : mapping of str to details
        What it says, by the keys of `davlo.yaml`.
    pages : int
        On how many pages it is shown. A preset: where it gave a value. A person or a group: where access or ownership
        names them. A type: the pages of it and of types based on it. A setting: where a statement decides it. A rule:
        the pages that it matches. A guarantee: the pages that it is about. A role: -1, since it cannot be counted.
    areas : mapping of str to int
        On how many pages in each area.
    not_shown : int
        On how many pages it is set but not shown, since the layout lacks the area or the theme does not show it.
    statements : int
        How many statements a setting, a type or a rule has.
    decides : int
        On how many pages a rule or a type decides the value of some setting.
    """

    kind: str
    name: str
    place: Place
    label: str
    note: str
    details: Contents
    pages: int
    areas: Mapping[str, int]
    not_shown: int = 0
    statements: int = 0
    decides: int = 0


class DeclarationList:
    """All that a site declares. `Site.declared` is the call to use.

    Example
    -------
    >>> import davlo
    >>> found = DeclarationList(davlo.open_demo().resolve())
    >>> found.declaration("sidebar", "plant-finder").areas
    {'right': 31}
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective, self.site = effective, effective.site
        self.uses = effective.shared(Uses)

    def declarations(self, kind: str | None = None) -> Iterator[Declaration]:
        """Every declaration, or those of a kind, with its use."""
        for one in DECLARED_KINDS if kind is None else (kind,):
            for name in declared_names(self.site, one):
                yield self.declaration(one, name)

    def declaration(self, kind: str, name: str) -> Declaration:
        """One declaration with its use."""
        masks = self._shown_where(kind, name)
        pages = -1 if kind in WITHOUT_PAGES else int(np.count_nonzero(self.uses.any_of(masks.values())))
        areas = {area: int(np.count_nonzero(mask)) for area, mask in masks.items() if area and mask.any()}
        place, label, note = self._told(kind, name)
        said = self.statements(kind, name)
        return Declaration(
            kind,
            name,
            place,
            label,
            note,
            declaration_contents(self.site, kind, name),
            pages,
            areas,
            int(np.count_nonzero(self.uses.not_shown(kind, name, masks))),
            len(said),
            int(np.count_nonzero(said.decided(np.flatnonzero(masks[""])))) if kind in ("rule", "type") else 0,
        )

    def statements(self, kind: str, name: str) -> StatementUses:
        """The statements of a setting, or those that a type or a rule makes; none for other kinds."""
        if kind == "setting":
            return StatementUses(self.effective, of_setting(self.effective, name))
        if kind == "type":
            return StatementUses(self.effective, of_scope(self.effective, ScopeKind.TYPE, self.site.types.find(name)))
        if kind == "rule":
            return StatementUses(self.effective, of_scope(self.effective, ScopeKind.RULE, self._rule_number(name)))
        return StatementUses(self.effective, np.zeros(0, dtype=np.int64))

    def shown(self, kind: str, name: str) -> Mask:
        """The pages that use a declaration, as `Declaration.pages` counts them. bool[pages]"""
        return self.uses.any_of(self._shown_where(kind, name).values())

    def not_shown(self, kind: str, name: str) -> Mask:
        """The pages on which a declaration is set but not shown. bool[pages]"""
        return self.uses.not_shown(kind, name)

    def named_by(self, kind: str, name: str) -> list[Mention]:
        """What names a declaration, statements aside."""
        return [one for one in self._mentions.of(kind, name) if one.by != "a statement"]

    def is_unused(self, declaration: Declaration) -> bool:
        """Whether no page uses a declaration; a person or group must also be in no group and be no admin.

        A setting of Davlo's is always there: it counts as used.
        """
        if declaration.pages or declaration.not_shown:
            return False
        if declaration.kind == "setting":
            return self.site.catalogue[self.site.setting_number(declaration.name)].own
        people = self.site.people
        is_member = any(declaration.name in members for members in people.groups.values())
        return declaration.kind not in ("person", "group") or not (is_member or declaration.name in people.admins)

    @cached_property
    def _mentions(self) -> Mentions:
        return Mentions(self.site)

    def _rule_number(self, name: str) -> int:
        return next(number for number, rule in enumerate(self.site.rules) if rule.name == name)

    def _shown_where(self, kind: str, name: str) -> Mapping[str, Mask]:
        """The pages that use a declaration, by area; an empty name for what is in no area."""
        site = self.site
        if kind == "type":
            return {"": site.types.pages_of(site.details.type_of, [name])}
        if kind == "setting":
            number = site.setting_number(name)
            if not len(site.statements.of_setting(number)):
                return {}
            return {"": (self.effective.resolved(number).source >= 0) & site.has(number)}
        if kind == "rule":
            found = np.zeros(len(site.tree), dtype=bool)
            found[site.scope_pages.rule_pages[self._rule_number(name)]] = True
            return {"": found}
        if kind == "guarantee":
            guarantee = next(one for one in site.guarantees if one.name == name)
            return {"": site.pages(guarantee.when, guarantee.excepts)}
        return self.uses.shown_where(kind, name)

    def _told(self, kind: str, name: str) -> tuple[Place, str, str]:
        """Where a declaration is declared, its label and its note."""
        site = self.site
        if kind in ("person", "group"):
            return site.people.places[name], "", ""
        if kind == "role":
            return site.declarations.roles[name].place, "", ""
        if kind == "setting":
            setting = site.catalogue[site.setting_number(name)]
            return setting.place, setting.label, setting.help
        if kind == "rule":
            rule = site.rules[self._rule_number(name)]
            return rule.place, "", rule.note
        if kind == "guarantee":
            return next(one.place for one in site.guarantees if one.name == name), "", ""
        if kind == "type":
            declared = site.types.declared.get(name)
            return (declared.place, declared.label, declared.note) if declared else (Place(""), "", "")
        declaration = getattr(site.declarations, f"{kind}s")[name]
        return declaration.place, declaration.label, declaration.note
