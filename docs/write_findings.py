"""Writes docs/findings.md: every kind of finding, with an example from the garden or, where it has none, a small site.

python -m docs.write_findings
"""

from __future__ import annotations

import contextlib
import tempfile
from functools import partial
from pathlib import Path

from tests.conftest import write_small
from tests.core.finding_cases import CASES

import davlo
from davlo.core.findings import KINDS, TOPICS, Finding

HEAD = """# What `davlo check` reports

Made by `python -m docs.write_findings` from what the code says; `davlo check --explain KIND` tells the same. An
**error** cannot be as set, or lets someone in; a **warning** contradicts, or will surprise someone; a **note** is worth
knowing. Those marked * are met in the garden; the other examples are of a site of three pages.
"""


def example(kind: str) -> Finding:
    """A finding of a kind on a small site."""
    with tempfile.TemporaryDirectory() as name, contextlib.chdir(name):
        folder = CASES[kind].write(partial(write_small, Path(name)))
        return next(one for one in davlo.open_site(folder).check().findings if one.kind == kind)


def page() -> str:
    """The whole page."""
    in_garden: dict[str, Finding] = {}
    report = davlo.open_demo().check()
    for finding in (*report.findings, *report.accepted):
        in_garden.setdefault(finding.kind, finding)
    told = [HEAD]
    for topic in TOPICS:
        told.append(f"## {topic.capitalize()}\n")
        for kind in (kind for kind in KINDS if kind.topic == topic):
            found = in_garden.get(kind.name) or example(kind.name)
            told.append(
                f"### `{kind.name}`{' *' if kind.name in in_garden else ''}\n\n"
                f"{kind.level.capitalize()}: {kind.meaning}. {kind.why} {kind.mend}\n\n"
                f"> {found.message}\n>\n> fix: {found.fix}\n"
            )
    return "\n".join(told)


if __name__ == "__main__":
    (Path(__file__).parent / "findings.md").write_text(page(), encoding="utf-8")
