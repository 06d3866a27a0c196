"""The ways to mend a finding: taking its statements away, lifting a lock, or what the finding itself offers."""

from __future__ import annotations

from ..change.estate_steps import said_by_estate
from ..change.steps.change import Change, Say
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.settings.scopes import Scope
from .finding import Finding, Statements
from .kinds.every_kind import KINDS
from .mending import MOST_STEPS, Remedy, lifted, without

FEW_EXCEPTIONS = 12
"""The most pages that get an exception of their own."""
_BY_NAME = {kind.name: kind for kind in KINDS}


def remedies(effective: EffectiveModel, finding: Finding) -> list[Remedy]:
    """The ways to mend a finding; none where somebody must decide, or a preset says it.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> for way in remedies(site.resolve(), site.check().findings[0]):
    ...     print(f"{way.words}: {way.change.steps[0].scope}")
    take away what is overruled: below /press
    lift the lock: everywhere
    let what is overruled be an exception to the lock: everywhere
    """
    kind, told, site = _BY_NAME[finding.kind], finding.statements, effective.site
    numbers = told.numbers if isinstance(told, Statements) else ()
    found = [
        without(site, words, numbers[some], is_redundant=kind.is_redundant)
        for words, some in kind.takes_away
        if len(numbers) <= MOST_STEPS
    ]
    found += [lifted(site, numbers[0])] if kind.lifts_lock else []
    found += kind.more_ways(effective, finding) if kind.more_ways else []
    found += [_exception(site, finding)] if kind.has_exception else []
    ways = [*(way for way in found if way is not None), *finding.ways]
    return [way for way in ways if not any(said_by_estate(site, step) for step in way.change.steps)]


def _exception(site: SiteModel, finding: Finding) -> Remedy | None:
    """The way that says none on the pages of a finding alone; none where they are many, or a lock holds there."""
    if finding.setting is None or len(finding.pages) > FEW_EXCEPTIONS or not len(finding.pages):
        return None
    number = site.setting_number(finding.setting)
    if site.statements.locked[list(site.statements.of_setting(number))].any():
        return None
    steps = tuple(Say(Scope.here(path), finding.setting, None) for path in finding.pages)
    pages = "this page" if len(steps) == 1 else f"these {len(steps)} pages"
    return Remedy(f"say none on {pages} alone", Change(steps))
