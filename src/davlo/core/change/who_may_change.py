"""Who may make a change: what each of its steps needs, and whether a person has it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ..faults import UnknownName
from ..outcomes.access import AccessModel
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.scopes import Scope, ScopeKind
from ..site.settings import ACCESS_FAMILIES
from . import steps
from .steps import FRESH_ACCESS, Change, Step

EDIT, MOVE, CREATE, DELETE, GRANT = "edit", "move", "create", "delete", "grant"
ADMIN = ""
"""What only admins may do."""
_PLACE = ("parent", "order")
_OWNED = ("page.owner", "page.group")


class Need(NamedTuple):
    """What a step needs: an action on a page, or an admin (no action); and what the step does, in a few words."""

    action: str
    page: str
    what: str


class MissingRight(NamedTuple):
    """What a person may not do.

    Attributes
    ----------
    who : str
    action : str
        Empty if only admins may do it.
    pages : tuple of str
        Where it would be needed.
    reason : str
        What is missing, in a sentence.
    """

    who: str
    action: str
    pages: tuple[str, ...]
    reason: str


def needs_of(site: SiteModel, step: Step) -> Iterator[Need]:
    """What a step needs.

    Details, and what a page itself sets, need `edit` on the page; its place in the tree needs `move`; its access
    statements and its owner need `grant`. A new page needs `create` on the page above it, and dropping one needs
    `delete`. Everything else is for admins.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> change = davlo.Change().say("menu.show", False, here="/visit/maps").say("menu.show", False, below="/visit")
    >>> [[need.action for need in needs_of(site, step)] for step in change.steps]
    [['edit'], ['']]
    """
    if isinstance(step, steps.SetDetail):
        yield Need(MOVE if step.detail in _PLACE else EDIT, step.path, f"set the {step.detail} of {step.path}")
    elif isinstance(step, steps.AddPage):
        above = dict(step.details).get("parent") or _above(site, step.path)
        yield Need(CREATE if above else ADMIN, above, f"add the page {step.path}")
    elif isinstance(step, steps.Say | steps.TakeAway | steps.Use | steps.StopUsing):
        yield from _of_statement(site, step)
    elif isinstance(step, steps.MovePage):
        yield from (Need(MOVE, path, f"move {path}") for path in _branch(site, step.path))
        above = step.parent or _above(site, step.new)
        yield Need(CREATE if above else ADMIN, above, f"put a page below {above or 'no other'}")
    elif isinstance(step, steps.DropPage):
        yield from (Need(DELETE, path, f"drop {path}") for path in _branch(site, step.path))
    elif isinstance(step, steps.Restamp):
        action = GRANT if _grants(step.setting) else EDIT
        yield from (Need(action, page, f"set {step.setting} on {page}") for page in step.pages)
    else:
        yield Need(ADMIN, "", "change what is declared or set for several pages")


def _of_statement(site: SiteModel, step: steps.Say | steps.TakeAway | steps.Use | steps.StopUsing) -> Iterator[Need]:
    scope = step.scope
    if scope.kind not in (ScopeKind.HERE, ScopeKind.STAMP) or scope.both:
        yield Need(ADMIN, "", f"set anything {_wide(scope)}")
        return
    if isinstance(step, steps.Use | steps.StopUsing):
        preset = site.declarations.presets.get(step.preset)
        names = tuple(preset.says) if preset else ()
    else:
        names = (step.setting,)
    if any(_grants(name) for name in names):
        yield Need(GRANT, scope.name, f"set who may do what on {scope.name}")
    if not all(_grants(name) for name in names):
        yield Need(EDIT, scope.name, f"set {', '.join(names)} on {scope.name}")


def _grants(name: str) -> bool:
    return name.partition(".")[0] in ACCESS_FAMILIES or name in (*_OWNED, FRESH_ACCESS)


def _wide(scope: Scope) -> str:
    return scope.sentence if scope.kind != ScopeKind.EVERYWHERE else "everywhere"


def _branch(site: SiteModel, path: str) -> list[str]:
    page = site.tree.find(site.page_names.path(path))
    return site.tree.paths[page : int(site.tree.end[page])].tolist() if page >= 0 else []


def _above(site: SiteModel, path: str) -> str:
    """The page that a new page would stand below."""
    path = site.page_names.path(path)
    while path and path != "/":
        path = path.rpartition("/")[0] or "/"
        if site.tree.find(path) >= 0:
            return path
    return ""


def missing_rights(effective: EffectiveModel, change: Change, who: str) -> list[MissingRight]:
    """What a change needs that a person may not do; empty if they may make it.

    Parameters
    ----------
    effective : EffectiveModel
        The effective settings before the change.
    change : Change
    who : str
        A person.

    Raises
    ------
    UnknownName
        If there is no such person, or no such page.

    Example
    -------
    >>> import davlo
    >>> change = davlo.Change().say("menu.show", False, here="/staff/rota")
    >>> found = missing_rights(davlo.open_demo().resolve(), change, "owen.tarrant")
    >>> found[0].action, found[0].pages
    ('edit', ('/staff/rota',))
    """
    site = effective.site
    if not site.people.has(who):
        raise UnknownName("person", who, site.people.names)
    if site.people.is_admin(who):
        return []
    access = effective.shared(AccessModel)
    lacking: dict[str, list[Need]] = {}
    for need in dict.fromkeys(need for step in change.steps for need in needs_of(site, step)):
        if need.action not in site.actions:
            lacking.setdefault(ADMIN, []).append(need)
        elif site.tree.find(site.page_names.path(need.page)) >= 0:
            page = site.page_number(need.page)
            if not access.why(who, need.action, page).may:
                lacking.setdefault(need.action, []).append(need)
    return [_missing(access, who, action, needs) for action, needs in lacking.items()]


def _missing(access: AccessModel, who: str, action: str, needs: Sequence[Need]) -> MissingRight:
    pages = tuple(dict.fromkeys(need.page for need in needs if need.page))
    if action == ADMIN:
        named = needs[0].action
        why = f"the site has no action {named}, so only admins may do that" if named else "only admins may do that"
        return MissingRight(who, action, pages, f"{who} may not {needs[0].what}: {why}")
    decision = access.why(who, action, access.site.page_number(pages[0]))
    return MissingRight(who, action, pages, f"{who} may not {action} {pages[0]}: {decision.reason}")
