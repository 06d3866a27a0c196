"""What two states of a site differ in for its readers and editors: titles, menus, lists, access, declarations."""

from __future__ import annotations

import numpy as np

from ...arrays.codebooks import Mask
from ...arrays.in_background import MANY, results_of
from ...arrays.texts import Texts
from ...outcomes.access.access_model import AccessModel
from ...outcomes.menus.block_links import BlockLinks
from ...outcomes.page_outcomes import Outcomes
from ...outcomes.uses import Uses
from ...resolve.effective import EffectiveModel
from ...site.declarations import SECTIONS
from ...site.model import SiteModel
from ...site.people import VISITOR
from .difference_rows import AccessRow, Declaration, OutcomeChange, Pages

Pairs = tuple[Pages, Pages]
"""The pages that both states have: their numbers in each. Each int64[n]"""


_SIDES = Texts.of(["out", "in"])


def outcome_changes(before: EffectiveModel, after: EffectiveModel, pairs: Pairs) -> tuple[OutcomeChange, ...]:
    """The pages with another title, heading or menu label, or that enter or leave the menu, the sitemap or a list."""
    was, now = before.shared(Outcomes), after.shared(Outcomes)
    first, second = pairs
    found = []
    for model in (before, after):
        for setting in ("title.pattern", "heading.text", "heading.show", "menu.label"):
            model.column(setting)  # resolved before, so that two threads do not
    results_of(lambda one: one.fill(), (was, now), len(after) >= MANY)
    for word, columns in (
        ("title", (was.titles, now.titles)),
        ("heading", (was.headings, now.headings)),
        ("menu label", (was.labels, now.labels)),
    ):
        texts, others = (Texts.of_column(one).take(some) for one, some in zip(columns, pairs, strict=True))
        at = np.flatnonzero(texts.differ(others))
        found.append(OutcomeChange(word, first[at], texts.take(at), others.take(at), True))
    masks = [
        ("menu", was.menu.shown[first], now.menu.shown[second]),
        ("sitemap", was.sitemap[first] == 0, now.sitemap[second] == 0),
    ]
    lists = [BlockLinks(model.shared(Uses)) for model in (before, after)]
    names = dict.fromkeys(name for one in lists for name in one.blocks())
    masks += [(f"list {name}", lists[0].listed(name)[first], lists[1].listed(name)[second]) for name in names]
    for word, one_mask, other_mask in masks:
        at = np.flatnonzero(one_mask != other_mask)
        one, other = (_SIDES.take(mask[at].astype(np.int64)) for mask in (one_mask, other_mask))
        found.append(OutcomeChange(word, first[at], one, other, False))
    return tuple(one for one in found if len(one.pages))


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


def declaration_rows(before: SiteModel, after: SiteModel) -> tuple[Declaration, ...]:
    """The declarations that are new or gone."""
    was, now = _declared(before), _declared(after)
    found = [Declaration(*one, is_new=False) for one in was if one not in now]
    return (*found, *(Declaration(*one, is_new=True) for one in now if one not in was))


def _may(access: AccessModel, who: str, action: str) -> Mask:
    if who != VISITOR and who not in access.site.people.names:
        return np.zeros(len(access.site.tree), dtype=bool)
    return access.may(who, action)


def _declared(site: SiteModel) -> dict[tuple[str, str], None]:
    found = [(kind, name) for kind in SECTIONS for name in site.declarations.of(kind)]
    found += [("type", name) for name, one in site.types.declared.items() if one.place.line or name != "page"]
    found += [("person", name) for name in site.people.names] + [("group", name) for name in site.people.groups]
    found += [("setting", one.name) for one in site.catalogue.own] + [("rule", one.name) for one in site.rules]
    return dict.fromkeys(found)
