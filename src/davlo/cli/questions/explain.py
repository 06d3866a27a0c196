"""`davlo check --explain`: what a kind of finding means, with an example from the demo."""

from __future__ import annotations

import tempfile
from pathlib import Path

from davlo.core.faults import UnknownName
from davlo.core.findings.kinds.every_kind import KINDS

from ..edits import print_edits
from ..findings import print_finding
from ..options import typed
from ..screen import Styled, paragraph, say

NAMES = tuple(kind.name for kind in KINDS)


def known_kind(name: str) -> None:
    """Make sure that there is a kind of finding.

    Raises UnknownName if there is not.
    """
    if name not in NAMES:
        raise UnknownName("kind of finding", name, NAMES)


def explain(name: str) -> None:
    """What a kind means, why it matters, how people mend it, and an example."""
    from davlo.demo.finding_examples import example

    known_kind(name)
    kind = next(kind for kind in KINDS if kind.name == name)
    say(Styled(kind.name), f": {kind.level}, of the topic {kind.topic}")
    for head, words in (("what", kind.meaning), ("why", kind.why), ("mend", kind.mend)):
        paragraph(words, f"  {head + ':':6}", " " * 8)
    with tempfile.TemporaryDirectory() as folder:
        found = example(name, Path(folder))
        told = "accepted" if found.is_accepted else "for example"
        say()
        say(f"In the garden that davlo demo writes, {'with this change' if found.changes else told}:")
        say()
        if found.changes:
            print_edits(found.changes, "  ", None, "")
            say()
        print_finding(found.finding)
    say("Those of your site:")
    say(f"  {typed('check', '--kind', kind.name)}")
