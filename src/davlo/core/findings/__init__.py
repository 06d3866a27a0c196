"""Findings: what contradicts what. `KINDS` is the list of them; `check` finds them all."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ..effective import EffectiveModel
from ..model import Accept
from ..progress import work
from . import access, decisions, idle, layouts, promises, sitemap, structure, titles
from .folded import Folded
from .record import LEVELS, Finding, Inquiry, Said

Find = Callable[[Inquiry], Iterator[Finding]]
FindOf = Callable[[Inquiry, Folded], Iterator[Finding]]


class Kind(NamedTuple):
    """A kind of finding: its name, its level, what it means in a line, and what finds it.

    `of_setting` finds those of one setting, `find` those of the site; a kind has one of them.
    """

    name: str
    level: str
    meaning: str
    find: Find | None = None
    of_setting: FindOf | None = None


def _of_setting(name: str, level: str, meaning: str, find: FindOf) -> Kind:
    return Kind(name, level, meaning, of_setting=find)


KINDS = (
    _of_setting("lock-overrules", "error", "a lock overrules a stronger statement", decisions.lock_overrules),
    _of_setting("lock-clash", "error", "two locks meet on a page with different values", decisions.lock_clash),
    _of_setting(
        "type-below-clash", "warning", "a page's type and its branch say different things", decisions.type_below_clash
    ),
    _of_setting("rules-overlap", "warning", "two rules that meet a page differ", decisions.rules_overlap),
    _of_setting("no-effect", "note", "a page says what it would get anyway", decisions.no_effect),
    _of_setting("behind-default", "note", "a stamp differs from what a new page would get", decisions.behind_default),
    Kind("not-applicable", "note", "a statement reaches only pages without the setting", idle.not_applicable),
    Kind("dead-rule", "warning", "a rule meets no page", idle.dead_rule),
    Kind("hidden-rule", "warning", "a rule changes none of the pages it meets", idle.hidden_rule),
    Kind("empty-type", "note", "a declared type has no page", idle.empty_type),
    Kind("childless-below", "note", "a statement below a page that has none beneath", idle.childless_below),
    Kind("idle-default", "note", "a default changes nothing on any page", idle.idle_default),
    Kind(
        "cut-off-in-menu", "warning", "a page shows in the menu, but one above it does not", structure.cut_off_in_menu
    ),
    Kind("duplicate-title", "warning", "live pages share a document title", titles.duplicate_title),
    Kind("no-such-area", "warning", "something is set for an area the layout lacks", layouts.no_such_area),
    Kind("nobody-can-edit", "error", "no one but an admin may edit a page", access.nobody_can_edit),
    Kind("open-below-closed", "error", "anyone may view a page below a closed one", access.open_below_closed),
    Kind("private-with-priority", "warning", "a page nobody may view has a priority", sitemap.private_with_priority),
    Kind("promise-broken", "error", "a promise does not hold", promises.promise_broken),
)


@dataclass(frozen=True, slots=True)
class Report:
    """All findings, the worst first, and how many were accepted.

    Attributes
    ----------
    findings : tuple of Finding
    accepted : tuple of Finding
        What an entry of `accept` silences.
    """

    findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...] = ()

    def count(self, level: str) -> int:
        """How many findings have a level."""
        return sum(finding.level == level for finding in self.findings)

    def reaches(self, level: str) -> bool:
        """Whether any finding is at a level or above it."""
        return any(LEVELS.index(finding.level) <= LEVELS.index(level) for finding in self.findings)


def check(effective: EffectiveModel) -> Report:
    """Every finding of a site, the worst first; within a level in the order of `KINDS`, the widest first."""
    inquiry = Inquiry(effective)
    findings = _all(inquiry, KINDS)
    accepts = [accept for accept in effective.site.accepts if not accept.piece]
    kinds = [kind for kind in KINDS if any(accept.kind in ("", kind.name) for accept in accepts)]
    inquiry.accepted = True
    accepted = _all(inquiry, kinds) if kinds else []
    by_piece = [finding for finding in findings if _names_accepted_piece(effective.site.accepts, finding)]
    return Report(tuple(f for f in findings if f not in by_piece), (*accepted, *by_piece))


def _all(inquiry: Inquiry, kinds: Sequence[Kind]) -> list[Finding]:
    """What these kinds find; those of settings are asked of one setting after the other."""
    found: dict[str, list[Finding]] = {kind.name: [] for kind in kinds}
    of_setting = [(kind.name, kind.of_setting) for kind in kinds if kind.of_setting]
    of_site = [(kind.name, kind.find) for kind in kinds if kind.find]
    settings = inquiry.settings_said() if of_setting or not inquiry.ledger.filled else []
    with work("looking for conflicts", len(settings) + len(of_site)) as step:
        for setting in settings:
            step(inquiry.site.catalogue[setting].name)
            if not inquiry.ledger.filled:
                inquiry.ledger.note(inquiry.folded(setting))
            for name, find_of in of_setting:
                found[name] += find_of(inquiry, inquiry.folded(setting))
        inquiry.ledger.filled = True
        for name, find in of_site:
            step(name)
            found[name] += find(inquiry)
    told = [one for some in found.values() for one in sorted(some, key=lambda finding: -len(finding.pages))]
    return sorted(told, key=lambda finding: LEVELS.index(finding.level))


def _names_accepted_piece(accepts: Sequence[Accept], finding: Finding) -> bool:
    """Whether an `accept` with a piece silences a finding: a statement of it names the piece."""
    return any(
        accept.piece
        and accept.kind in ("", finding.kind)
        and accept.setting in ("", finding.setting)
        and any(accept.piece in said.value.split("; ") for said in finding.statements)
        for accept in accepts
    )


__all__ = ["KINDS", "LEVELS", "Finding", "Inquiry", "Kind", "Report", "Said", "check"]
