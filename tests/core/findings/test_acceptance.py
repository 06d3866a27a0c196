"""Accepting one finding: it is silenced, nothing else is, and the files say so."""

from __future__ import annotations

from pathlib import Path

import davlo
from davlo.core.findings.acceptance import acceptance
from tests.conftest import Run, contents


def test_findings_of_the_garden_are_accepted_one_by_one() -> None:
    site = davlo.open_demo()
    names = {one.name for one in site.check().findings}
    kinds = {one.kind: one for one in site.check().findings}
    for finding in [*kinds.values()][::3]:
        change = acceptance(site, finding, "It is meant")
        assert change is not None, finding.kind
        after = site.apply(change).check()
        assert {one.name for one in after.findings} == names - {finding.name}, finding.kind
        assert finding.name in [one.name for one in after.accepted]


def test_mend_accepts_and_undo_takes_it_back(own: Path, run: Run) -> None:
    before, name = contents(own), davlo.open_site(own).check().findings[0].name
    words = ("mend", name, "--accept", "--site", str(own))
    assert "say why it is meant" in run(*words).err
    assert name in run(*words, "--because", "Asked for by the board").out
    assert contents(own) == before
    assert run(*words, "--because", "Asked for by the board", "--write").status == 0
    report = davlo.open_site(own).check()
    assert name not in [one.name for one in report.findings]
    assert name in [one.name for one in report.accepted]
    assert "is accepted already" in run(*words, "--because", "Again").err
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before
