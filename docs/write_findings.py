"""Writes docs/findings.md: every kind of finding, with an example made from the garden.

python -m docs.write_findings
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from itertools import groupby
from pathlib import Path

from davlo.core.findings.finding_kind import Kind
from davlo.core.findings.kinds.every_kind import KINDS, TOPICS
from davlo.demo.finding_examples import example
from davlo.files.rewrite.line_edits import Edit

HEAD = """# What `davlo check` reports

Made by `python -m docs.write_findings` from what the code says; `davlo check --explain KIND` tells the same. An
**error** cannot be as set, or lets someone in; a **warning** contradicts, or will surprise someone; a **note** is worth
knowing. The examples are of the garden that `davlo demo` writes: as it is, or with the change that is shown.
"""


def _changed(edits: Sequence[Edit]) -> Iterator[str]:
    """A diff of lines, for each file under its name."""
    for file, some in groupby(edits, key=lambda edit: edit.file):
        yield file
        for edit in some:
            yield from (
                f"{sign}{line}" for sign, text in (("-", edit.old), ("+", edit.new)) for line in text.splitlines()
            )


def entry(kind: Kind) -> str:
    """What the page says of a kind."""
    told = [f"### `{kind.name}`", f"{kind.level.capitalize()}: {kind.meaning}. {kind.why} {kind.mend}"]
    with tempfile.TemporaryDirectory() as name:
        found = example(kind.name, Path(name))
        if found.changes:
            told.append("\n".join(["```diff", *_changed(found.changes), "```"]))
        accepted = "; accepted in the garden" if found.is_accepted else ""
        told.append(f"> {found.finding.message}{accepted}\n>\n> fix: {found.finding.fix}")
    return "\n\n".join(told) + "\n"


def page() -> str:
    """The whole page."""
    told = [HEAD]
    for topic in TOPICS:
        told.append(f"## {topic.capitalize()}\n")
        told += [entry(kind) for kind in KINDS if kind.topic == topic]
    return "\n".join(told)


if __name__ == "__main__":
    (Path(__file__).parent / "findings.md").write_text(page(), encoding="utf-8")
