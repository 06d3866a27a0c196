"""The ways to mend findings, as edits of the site's files."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from davlo.core.findings.finding import Finding
from davlo.core.findings.mending import MOST_STEPS
from davlo.core.findings.remedies import remedies
from davlo.core.resolve.effective import EffectiveModel

from .line_edits import Edit
from .rewrite import Rewriter
from .yaml_text import CannotRewrite


class Way(NamedTuple):
    """One way to mend a finding: in words, the edits that it takes, and how many pages would get another value."""

    words: str
    edits: tuple[Edit, ...]
    changes: int


class Mender:
    """Makes edits from the ways to mend findings; each file is read once.

    Parameters
    ----------
    effective : EffectiveModel
        The effective settings that the findings are about.
    folder : Path
        The site folder, as it was when the site was read.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     site = davlo.open_site(folder)
    ...     ways = Mender(site.resolve(), folder).ways(site.check().findings[0])
    >>> ways[1].words, ways[1].changes, ways[1].edits[0].line
    ('lift the lock', 5, 45)
    """

    def __init__(self, effective: EffectiveModel, folder: Path) -> None:
        self._effective = effective
        self._rewriter = Rewriter(effective.site, folder)

    def ways(self, finding: Finding) -> list[Way]:
        """The ways to mend a finding; none where somebody must decide, or the files cannot say it.

        Ways of more than 500 steps are left out.
        """
        found = []
        for remedy in remedies(self._effective, finding):
            if len(remedy.change.steps) <= MOST_STEPS:
                try:
                    edits = self._rewriter.edits(remedy.change)
                except CannotRewrite:
                    continue
                if edits:
                    found.append(Way(remedy.words, tuple(edits), remedy.changes(self._effective)))
        return found
