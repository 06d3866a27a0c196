"""Steps about what the estate of a site says for all its sites: no single site can change that."""

from __future__ import annotations

from collections.abc import Iterator

from ..faults import Place
from ..site.declarations import kind_of
from ..site.file_notes import NO_NOTES
from ..site.model import SiteModel
from ..site.settings.scopes import Scope, ScopeKind
from .steps.change import Declare, Rename, Step, Undeclare, UndeclareEverywhere


def said_by_estate(site: SiteModel, step: Step) -> str:
    """Why a step is not for a single site to make, in a sentence; empty if it is, or the site is in no estate."""
    if not site.file_notes.shared or site.file_notes.first != NO_NOTES.first:
        return ""
    scope = getattr(step, "scope", None)
    if isinstance(scope, Scope) and scope.kind == ScopeKind.ESTATE:
        return "the estate says it for all its sites; to change it there: davlo estate set, or davlo estate unset"
    for kind, name in _declared_by(step):
        place = _place(site, kind, name)
        if place.file in site.file_notes.shared:
            told = f"the {kind} {name} is declared at {place}, for all sites of the estate"
            return f"{told}; to change it there: davlo estate declare {kind} {name}"
    return ""


def _declared_by(step: Step) -> Iterator[tuple[str, str]]:
    """The declarations that a step changes, each its kind and name."""
    if isinstance(step, Declare):
        yield kind_of(step.record), step.record.name
    elif isinstance(step, Undeclare | UndeclareEverywhere):
        yield step.kind, step.name
    elif isinstance(step, Rename):
        yield step.kind, step.old


def _place(site: SiteModel, kind: str, name: str) -> Place:
    """Where something is declared; nowhere if it is not, or has no place of its own."""
    nowhere = Place("")
    if kind == "group":
        return site.people.places.get(name, nowhere)
    if kind == "setting":
        return site.catalogue.setting(name).place if site.catalogue.find(name) is not None else nowhere
    if kind == "type":
        return site.types.declared[name].place if name in site.types.declared else nowhere
    if kind in ("person", "rule", "guarantee"):
        return nowhere
    found = site.declarations.of(kind).get(name)
    return nowhere if found is None else found.place
