"""The entry of `accept` that silences one finding, and as little else as can be."""

from __future__ import annotations

from collections.abc import Iterator

from ..change.steps.change import CHANGED, Change
from ..resolve.effective import EffectiveModel
from ..site.model import Accept, SiteModel
from ..site.pages.conditions import Condition
from .check import check
from .finding import Finding

MOST_PAGES = 60
"""The most pages that an entry lists; a finding of more is accepted by its kind and setting."""


def acceptance(site: SiteModel, finding: Finding, because: str) -> Change | None:
    """The change that accepts a finding; None if no entry of `accept` can.

    The entry names the finding's pages, or the declaration that it is about, or else all findings of its kind and
    setting.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> finding = next(one for one in site.check().findings if one.kind == "no-such-page")
    >>> acceptance(site, finding, "It comes back in spring").steps[0].accept.kind
    'no-such-page'
    """
    for accept in _entries(finding, because):
        change = Change().accept(accept)
        after = check(EffectiveModel(change.steps[0].done(site)))
        if finding.name not in [one.name for one in after.findings]:
            return change
    return None


def _entries(finding: Finding, because: str) -> Iterator[Accept]:
    """The entries that may silence a finding, the narrowest first."""
    whole = Accept(CHANGED, because, finding.kind, finding.setting or "")
    pages = tuple(finding.pages)
    if 0 < len(pages) <= MOST_PAGES:
        yield whole._replace(when=Condition(path=pages))
    for name in dict.fromkeys(word for one in finding.statements for word in one.value.split("; ") if word):
        yield whole._replace(declaration=name)
    yield whole
