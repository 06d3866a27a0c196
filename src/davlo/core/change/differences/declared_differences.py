"""What two states of a site differ in for those who may act, and in what is declared."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ...arrays.codebooks import Mask, distinct_rows
from ...outcomes.access.access_classes import AccessClasses
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
    classes = [model.shared(AccessModel).classes for model in (before, after)]
    # pages of one class in both states gain and lose the same
    sample, which = distinct_rows([side.of[some] for side, some in zip(classes, pairs, strict=True)])
    counts = np.bincount(which, minlength=len(sample))
    was, now = (side.of[some[sample]] for side, some in zip(classes, pairs, strict=True))
    paths, found = before.site.tree.paths, []
    people = dict.fromkeys([VISITOR, *before.site.people.names, *after.site.people.names])
    for who in people:
        for action in before.site.actions:
            could, can = _may(classes[0], who, action)[was], _may(classes[1], who, action)[now]
            sides = [np.flatnonzero(can & ~could), np.flatnonzero(could & ~can)]
            if any(map(len, sides)):
                examples = [paths[int(pairs[0][sample[some].min()])] if len(some) else "" for some in sides]
                gained, lost = (int(counts[some].sum()) for some in sides)
                found.append(AccessRow(who, action, gained, lost, *examples))
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


def _may(classes: AccessClasses, who: str, action: str) -> Mask:
    """Whether somebody, whom the state need not know, may do an action. bool[classes]"""
    if who != VISITOR and who not in classes.site.people.names:
        return np.zeros(len(classes), dtype=bool)
    return classes.may(who, action)


def _declared(site: SiteModel) -> dict[tuple[str, str], None]:
    found = [(kind, name) for kind in SECTIONS for name in site.declarations.of(kind)]
    found += [("type", name) for name, one in site.types.declared.items() if one.is_declared]
    found += [("person", name) for name in site.people.names] + [("group", name) for name in site.people.groups]
    found += [("setting", one.name) for one in site.catalogue.own] + [("rule", one.name) for one in site.rules]
    found += [("guarantee", one.name) for one in site.guarantees]
    found += [("viewpoint", f"{one.page} as {one.viewer}") for one in site.viewpoints]
    found += [(SITE, "")]
    return dict.fromkeys(found)
