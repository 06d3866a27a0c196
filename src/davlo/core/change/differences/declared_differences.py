"""What two states of a site differ in for those who may act, and in what is declared."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ...arrays.codebooks import Mask
from ...outcomes.access.access_model import AccessModel
from ...outcomes.declaration_contents import NAMED_BY_BASE, SITE, declaration_contents
from ...resolve.effective import EffectiveModel
from ...site.declarations import SECTIONS
from ...site.model import SiteModel
from ...site.people import VISITOR
from .difference_rows import AccessRow, DeclarationChange, Pages

Pairs = tuple[Pages, Pages]


def access_rows(before: EffectiveModel, after: EffectiveModel, pairs: Pairs) -> tuple[AccessRow, ...]:
    """Who gains or loses what, on how many of the pages that both states have."""
    was, now = before.shared(AccessModel), after.shared(AccessModel)
    first, second = pairs
    paths, found = before.site.tree.paths, []
    people = dict.fromkeys([VISITOR, *was.site.people.names, *now.site.people.names])
    for who in people:
        for action in before.site.actions:
            could, can = _may(was, who, action)[first], _may(now, who, action)[second]
            gained, lost = np.flatnonzero(can & ~could), np.flatnonzero(could & ~can)
            if len(gained) or len(lost):
                examples = [paths[int(first[some[0]])] if len(some) else "" for some in (gained, lost)]
                found.append(AccessRow(who, action, len(gained), len(lost), *examples))
    return tuple(found)


def declaration_changes(before: SiteModel, after: SiteModel) -> tuple[DeclarationChange, ...]:
    """The declarations that are gone, new, or hold something else; by kind and name."""
    was, now = _declared(before), _declared(after)
    found = [DeclarationChange(*one, "gone") for one in was if one not in now]
    found += [DeclarationChange(*one, "new") for one in now if one not in was]
    if before.declarations is after.declarations and before.catalogue is after.catalogue:
        was = {one: None for one in was if one[0] not in (*SECTIONS, "setting")}
    for kind, name in was:
        if (kind, name) in now:
            one, other = (_contents(site, kind, name) for site in (before, after))
            keys = {
                key: (one.get(key), other.get(key))
                for key in dict.fromkeys([*one, *other])
                if one.get(key) != other.get(key)
            }
            if keys:
                found.append(DeclarationChange(kind, name, "changed", keys))
    return tuple(found)


def _contents(site: SiteModel, kind: str, name: str) -> Mapping[str, Any]:
    """What a declaration holds, with its label and its note."""
    record: Any = None
    if kind in SECTIONS:
        record = site.declarations.of(kind)[name]
    elif kind == "type":
        record = site.types.declared[name]
    elif kind == "setting":
        record = site.catalogue[site.setting_number(name)]
    told = {key: text for key in ("label", "note", "help") if (text := getattr(record, key, ""))}
    held = {key: value for key, value in declaration_contents(site, kind, name).items() if key != NAMED_BY_BASE}
    return {**held, **told}


def _may(access: AccessModel, who: str, action: str) -> Mask:
    if who != VISITOR and who not in access.site.people.names:
        return np.zeros(len(access.site.tree), dtype=bool)
    return access.may(who, action)


def _declared(site: SiteModel) -> dict[tuple[str, str], None]:
    found = [(kind, name) for kind in SECTIONS for name in site.declarations.of(kind)]
    found += [("type", name) for name, one in site.types.declared.items() if one.is_declared]
    found += [("person", name) for name in site.people.names] + [("group", name) for name in site.people.groups]
    found += [("setting", one.name) for one in site.catalogue.own] + [("rule", one.name) for one in site.rules]
    found += [("guarantee", one.name) for one in site.guarantees]
    found += [("viewpoint", f"{one.page} as {one.viewer}") for one in site.viewpoints]
    found += [(SITE, "")]
    return dict.fromkeys(found)
