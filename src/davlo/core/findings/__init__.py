"""Findings: what contradicts what. `KINDS` is the list of them; `check` finds them all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..effective import EffectiveModel
from ..model import Accept
from ..progress import work
from .record import LEVELS, Finding, Inquiry, Said
from .registry import KINDS, TOPICS, Kind


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


__all__ = ["KINDS", "LEVELS", "TOPICS", "Finding", "Inquiry", "Kind", "Report", "Said", "check"]
