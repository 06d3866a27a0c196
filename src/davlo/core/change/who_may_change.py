"""Who may make a change: judged by the difference that it makes, page by page, never by how it is said."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..faults import UnknownName
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.settings.scopes import OF_PAGES, ScopeKind
from ..site.settings.setting import ACCESS_FAMILIES
from ..site.settings.values import ListChange
from .differences.difference import Difference
from .differences.page_pairs import PagePairs
from .differences.same_state import OF_READING, placeless
from .differences.statement_differences import StatementDifference, statement_differences
from .rights import ADMIN, GRANT, MissingRight, Needs, answers_to_come, other_answers
from .steps.change import AddPage, RefreshPages
from .steps.new_page import with_plain_pages
from .steps.page_steps import NAMING, with_names
from .steps.replant import NewRow

if TYPE_CHECKING:
    from .change_reach import ChangeReach

Pages = NDArray[np.int64]
EDIT, MOVE, CREATE, DELETE = "edit", "move", "create", "delete"
PLACE, PARENT = "order", "parent"
OF_ANY_PAGE = ("title", "created", "modified")
"""Details that a plain new page has too: they need no more than `create`."""
DECLARED = {
    "types": "types",
    "declarations": "what is declared",
    "people": "people and groups",
    "actions": "actions",
    "rules": "rules",
    "guarantees": "guarantees",
    "accepts": "accepted findings",
    "viewpoints": "viewpoints",
    "sitemap": "the rules of the sitemap",
    "max_entries": "the menu",
    "home_path": "the home page",
}
"""Parts of a site that only admins change, and what they are called; all others are settings of the site itself."""
_OF_PAGES = ("tree", "details", "statements", "catalogue")
OWNERS = {"page.owner": "owner", "page.group": "owner-group"}
"""The settings that decide whom these subjects cover."""


def missing_rights(reach: ChangeReach, who: str) -> list[MissingRight]:
    """What a change needs that a person may not do; empty if they may make it.

    Each value or detail that becomes another needs `edit` on its page; another parent, path or place `move`, and
    `create` below the new parent; a page that goes `delete`. A new page needs `create` on the page above it; what is
    otherwise than on a plain new page there needs `edit` as that one gives it. Another answer to who may do what needs
    `grant`, and nobody gains an action that the giver lacks there. What is declared is for admins; where it
    differs, the other rights are not listed, since they would not do.

    `who`: a person.

    Example
    -------
    >>> import davlo
    >>> reach = davlo.open_demo().reach(davlo.Change().say("menu.show", False, here="/staff/rota"))
    >>> found = missing_rights(reach, "owen.tarrant")
    >>> found[0].action, found[0].pages
    ('edit', ('/staff/rota',))
    """
    site = reach.before.site
    if not site.people.has(who):
        raise UnknownName("person", who, site.people.names)
    if site.people.is_admin(who):
        return []
    for_admins = [*dict.fromkeys((*_of_declared(reach, who), *_of_odd_paths(reach, who)))]
    if for_admins:
        return for_admins
    kept = Difference(reach.before, reach.after, pairs=reach.page_pairs)
    planted = _planted(reach, who)
    return [*dict.fromkeys((*_of_kept_pages(kept, planted, who), *_of_new_pages(planted, reach.new, who)))]


def _of_declared(reach: ChangeReach, who: str) -> Iterator[MissingRight]:
    """What differs in declarations, people, rules and the like; names of pages that move follow them."""
    before, after = with_names(reach.before.site, dict(reach.moved)), reach.after.site
    names = (name for name in SiteModel.__dataclass_fields__ if name not in (*_OF_PAGES, *OF_READING))
    differing = [name for name in names if _differs(name, before, after)]
    if _own_settings(before) != _own_settings(after):
        differing.append("types")
    for name in differing[:1]:
        what = DECLARED.get(name, "settings of the site itself")
        yield MissingRight(who, ADMIN, (), f"{who} may not change {what}: only admins may do that")


def _differs(name: str, before: SiteModel, after: SiteModel) -> bool:
    one, other = getattr(before, name), getattr(after, name)
    if name == "guarantees":  # what they ask of settings is kept by number
        one, other = (tuple(_by_name(site, each) for each in site.guarantees) for site in (before, after))
    return one is not other and bool(placeless(one) != placeless(other))


def _by_name(site: SiteModel, guarantee: Any) -> Any:
    return guarantee._replace(has={site.catalogue[number].name: value for number, value in guarantee.has.items()})


def _of_odd_paths(reach: ChangeReach, who: str) -> Iterator[MissingRight]:
    """New paths with `.` or `..` in them: browsers take them for paths of other pages."""
    for path in (*reach.new, *(new for _, new in reach.moved)):
        if {".", ".."} & {*path.split("/")}:
            yield _only_admins(who, f"put a page at {path}, which leads elsewhere")


def _own_settings(site: SiteModel) -> object:
    """The settings but those of access, which come and go with what is said; and the types."""
    settings = [one for one in site.catalogue.settings if not _is_access(one.name)]
    return placeless((tuple(settings), site.types.declared))


def _planted(reach: ChangeReach, who: str) -> Difference:
    """The difference between the site with a plain page in place of each new one, and the site after the change."""
    before, after = reach.before.site, reach.after.site
    made_by = {before.page_names.path(one.path): one.by for one in reach.change.steps if isinstance(one, AddPage)}
    made_by |= {path: "" for one in reach.change.steps if isinstance(one, RefreshPages) for path, _ in one.new}
    path_before = {new: old for old, new in reach.moved}
    rows = []
    for number in reach.new_pages.tolist():
        path, above = after.tree.paths[number], int(after.tree.parent[number])
        by = made_by.get(path, who)
        parent = after.tree.paths[above] if above >= 0 else ""
        rows.append((NewRow(path, {"parent": path_before.get(parent, parent)}), by if by in ("", who) else who))
    if not rows:
        return Difference(reach.before, reach.after, pairs=reach.page_pairs)
    plain = with_plain_pages(before, rows)
    first, second, moved = reach.page_pairs
    there = plain.tree.find_all(before.tree.paths)[first]
    new = plain.tree.find_all(after.tree.paths.take(reach.new_pages))
    ones, others = np.concatenate([there, new]).astype(np.int64), np.concatenate([second, reach.new_pages])
    order = np.argsort(ones)
    return Difference(EffectiveModel(plain), reach.after, pairs=PagePairs(ones[order], others[order], moved))


def _of_kept_pages(kept: Difference, planted: Difference, who: str) -> Iterator[MissingRight]:
    """What pages need that are in both states, and those that go; and statements, which also reach pages to come."""
    before, after = kept.before.site, kept.after.site
    needs, of_plain = Needs(kept.before), Needs(planted.before)
    first, second = kept.page_pairs[:2]
    needs.add(DELETE, kept.gone_pages)
    _of_values(kept, needs, first)
    names = [name for name in (*before.details.columns, *after.details.columns) if name != PARENT]
    for name, mask in kept.differing_details(names).items():
        pages = np.flatnonzero(mask)
        needs.add(MOVE if name == PLACE else EDIT, _named_otherwise(kept, name, pages) if name in NAMING else pages)
    yield from _of_places(kept, planted, needs, of_plain, who)
    yield from _of_statements(planted, kept, needs, of_plain, who)
    yield from needs.missing(who)
    yield from of_plain.missing(who)
    yield from other_answers(kept, first, second, who)


def _of_new_pages(planted: Difference, new: Sequence[str], who: str) -> Iterator[MissingRight]:
    """What new pages need where they are otherwise than plain ones."""
    if not new:
        return
    plain, after = planted.before.site, planted.after.site
    first, second = (np.array([site.tree.number(path) for path in new], dtype=np.int64) for site in (plain, after))
    needs, above = Needs(planted.before), plain.tree.parent[first]
    needs.add(CREATE, above[above >= 0])
    if (above < 0).any():
        yield _only_admins(who, f"put {new[int(np.argmin(above))]} below no other page")
    _of_values(planted, needs, first)
    names = [one for one in (*plain.details.columns, *after.details.columns) if one not in (*OF_ANY_PAGE, PARENT)]
    for name, mask in planted.differing_details(names).items():
        needs.add(MOVE if name == PLACE else EDIT, first[mask[first]])
    yield from needs.missing(who)
    yield from other_answers(planted, first, second, who)


def _of_values(difference: Difference, needs: Needs, among: Pages) -> None:
    """Values, sources and locks that become others."""
    here = np.zeros(len(difference.before.site.tree), dtype=bool)
    here[among] = True
    for one in difference.settings:
        # what a page does not have is what is built in
        differs = here[one.pages] & (
            (np.maximum(one.before, 0) != np.maximum(one.after, 0)) | (one.before >= 0) & (one.after >= 0)
        )
        needs.add(GRANT if _is_access(one.setting) else EDIT, one.pages[differs])


def _is_access(setting: str) -> bool:
    return setting.partition(".")[0] in ACCESS_FAMILIES


def _named_otherwise(kept: Difference, name: str, pages: Pages) -> Pages:
    """The pages whose detail names another page, and not the same one at its new path."""
    names, there = dict(kept.moved), kept.number_after
    one, other = kept.before.site.details.column(name), kept.after.site.details.column(name)
    words = ((page, one.words[one.codes[page]], other.words[other.codes[there[page]]]) for page in pages.tolist())
    return np.array([page for page, was, now in words if names.get(was, was) != now], dtype=np.int64)


def _of_places(
    kept: Difference, planted: Difference, needs: Needs, of_plain: Needs, who: str
) -> Iterator[MissingRight]:
    """Pages with another parent, or another path that does not follow from their parent's."""
    before, after, there = kept.before.site.tree, kept.after.site.tree, kept.number_after
    if before is after:
        return
    first, second = kept.page_pairs[:2]
    parent = before.parent[first]
    expected = np.where(parent >= 0, there[parent], -1)
    elsewhere = (after.parent[second] != expected) | ((parent >= 0) & (expected < 0))
    needs.add(MOVE, first[elsewhere])
    for path, new in kept.moved:
        page = before.number(path)
        above = int(before.parent[page])
        is_there = above >= 0 and int(there[above]) >= 0
        old, to = (before.paths[above], after.paths[int(there[above])]) if is_there else ("", "")
        if old == to or not path.startswith(f"{old}/") or to + path[len(old) :] != new:  # not with the page above it
            needs.add(MOVE, [page])
    back = np.full(len(after), -1, dtype=np.int64)
    back[second] = first
    for page, above in zip(first[elsewhere].tolist(), after.parent[second[elsewhere]].tolist(), strict=True):
        if above < 0:
            yield _only_admins(who, f"put {before.paths[page]} below no other page")
        elif back[above] >= 0:
            needs.add(CREATE, [int(back[above])])
        else:
            of_plain.add(CREATE, [planted.before.site.tree.number(after.paths[above])])


def _of_statements(
    planted: Difference, kept: Difference, needs: Needs, of_plain: Needs, who: str
) -> Iterator[MissingRight]:
    """Statements that come, go or say something else. Some reach pages that are not there yet: they need the right on
    the page above, and nobody gains on a page to come what the giver would lack there.
    """
    plain, every = planted.before.site, np.arange(len(kept.before.site.tree))
    back = np.full(len(planted.after.site.tree), -1, dtype=np.int64)
    back[planted.page_pairs.after] = planted.page_pairs.before
    there, below = planted.number_after, list[str]()
    for one in statement_differences(planted):
        action = GRANT if _is_access(one.setting) else EDIT
        if one.scope == ScopeKind.RULE:
            yield _only_admins(who, "change what a rule gives")
        elif one.scope not in OF_PAGES:
            actions = {action, *_opened(plain, one)}
            for each in actions:
                needs.add(each, every)
        elif one.page < 0:
            yield _only_admins(who, f"set {one.setting} for a page that is not there")
        else:
            page = int(back[one.page]) if one.is_new else one.page
            if not one.is_new and there[page] < 0:
                continue  # it goes with its page
            number = kept.before.site.tree.find(plain.tree.paths[page])
            (needs if number >= 0 else of_plain).add(action, [number if number >= 0 else page])
            if one.scope == ScopeKind.BELOW and (action == GRANT or one.setting in OWNERS):
                below.append(plain.tree.paths[page])
    if below:
        yield from answers_to_come(planted, [*dict.fromkeys(below)], who)


def _opened(site: SiteModel, one: StatementDifference) -> set[str]:
    """The actions that somebody can gain on pages to come by a statement that comes or goes."""
    if one.setting in OWNERS:
        return {GRANT, *_said(site, f"access.{OWNERS[one.setting]}")}
    if not _is_access(one.setting):
        return set()
    gives = one.is_new == one.setting.startswith("access.")  # it adds to access, or no longer adds to deny
    if isinstance(one.value, ListChange):
        return {*one.value.add, *one.value.first} if gives else {*one.value.remove}
    # a list in place of weaker ones: what it holds, or what it kept away
    return {*(one.value if isinstance(one.value, tuple) else ())} if gives else _said(site, one.setting)


def _said(site: SiteModel, setting: str) -> set[str]:
    """Every action that some statement of a setting names."""
    number, found = site.catalogue.find(setting), set[str]()
    for value in site.statements.words[number].items if number is not None else ():
        found |= {*value} if isinstance(value, tuple) and not isinstance(value, ListChange) else set()
        found |= {*value.add, *value.first} if isinstance(value, ListChange) else set()
    return found


def _only_admins(who: str, what: str) -> MissingRight:
    return MissingRight(who, ADMIN, (), f"{who} may not {what}: only admins may do that")
