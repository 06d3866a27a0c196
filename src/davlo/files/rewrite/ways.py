"""The ways to mend findings, as edits of the site's files."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.change.differences.difference_rows import AccessRow
from davlo.core.change.steps.change import Change, Say
from davlo.core.findings.finding import Finding
from davlo.core.findings.mending import MOST_STEPS, Remedy
from davlo.core.findings.remedies import remedies
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR

from .cannot_rewrite import CannotRewrite
from .line_edits import Edit
from .rewrite import Rewriter

FAR = 5
"""A way is left out if it changes more than this many times as many other pages as the finding has."""
FEW_ELSEWHERE = 20
"""A way that changes no more than this many other pages is always offered."""


class Way(NamedTuple):
    """One way to mend a finding."""

    words: str
    change: Change  # what it does
    edits: tuple[Edit, ...]
    changes: int  # how many pages would get another value of some setting
    elsewhere: int = 0  # how many of these the finding is not about
    gains: tuple[AccessRow, ...] = ()  # who could do more than now; never a visitor


class Mender:
    """Makes edits from the ways to mend findings; each file is read once.

    `effective`: the effective settings that the findings are about. `folder`: the site folder, as it was when the site
    was read. `today`: the date of stamps that are written (default: the clock's).

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     site = davlo.open_site(folder)
    ...     ways = Mender(site.resolve(), folder).ways(site.check().findings[0])
    >>> ways[1].words, ways[1].changes, ways[1].edits[0].line
    ('lift the lock', 5, 46)
    """

    def __init__(self, effective: EffectiveModel, folder: Path, today: datetime.date | None = None) -> None:
        self._effective = effective
        self._rewriter = Rewriter(effective.site, folder, today)

    def ways(self, finding: Finding) -> list[Way]:
        """The ways to mend a finding; none where somebody must decide, or the files cannot say it.

        Ways of more than 500 steps are left out; so are those that let a visitor in, and those that change many pages
        for the sake of few.
        """
        found = []
        for remedy in remedies(self._effective, finding):
            if len(remedy.change.steps) <= MOST_STEPS:
                try:
                    edits = self._rewriter.edits(remedy.change)
                except CannotRewrite:
                    continue
                way = self._way(finding, remedy, edits) if edits else None
                found += [way] if way is not None else []
        return found

    def _way(self, finding: Finding, remedy: Remedy, edits: list[Edit]) -> Way | None:
        """A way with its reach; None if it must not be offered."""
        changed = remedy.changed(self._effective)
        changes = int(np.count_nonzero(changed))
        changed[finding.pages.numbers] = False
        elsewhere, gains = int(np.count_nonzero(changed)), remedy.gains(self._effective)
        is_far = len(finding.pages) and elsewhere > max(FEW_ELSEWHERE, FAR * len(finding.pages))
        says_nothing = not changes and all(isinstance(step, Say) for step in remedy.change.steps)
        if is_far or says_nothing or any(row.who == VISITOR for row in gains):
            return None
        return Way(remedy.words, remedy.change, tuple(edits), changes, elsewhere, gains)
