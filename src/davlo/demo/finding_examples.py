"""An example of each kind of finding, made from the garden: as it is, or changed first."""

from __future__ import annotations

import contextlib
import datetime
from pathlib import Path
from typing import NamedTuple

from davlo.core.findings.finding import Finding
from davlo.core.findings.kinds.every_kind import KINDS
from davlo.files.output.write_sitemap import write_sitemap
from davlo.files.rewrite.line_edits import Edit, edited
from davlo.files.rewrite.rewrite import rewrite
from davlo.site import open_site

from . import open_demo, write_demo

DAY = datetime.date(2026, 11, 25)
"""The day on which the examples are made."""


class Example(NamedTuple):
    """A kind of finding as the garden has it, or would have it."""

    finding: Finding
    changes: tuple[Edit, ...] = ()  # what must be changed first; nothing if the garden has the finding as it is
    is_accepted: bool = False


def example(kind: str, folder: Path) -> Example:
    """An example of a kind of finding, made from the garden.

    `folder`: a new or empty folder, into which the changed garden is written if it takes a change. Raises StopIteration
    if the garden has no such finding, changed or not.

    Example
    -------
    >>> import tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     found = example("unknown-language", Path(name))
    >>> found.changes[0].file, found.finding.message.partition(",")[0]
    ('pages.csv', '1 page is in the language de')
    """
    change = next(one.example for one in KINDS if one.name == kind)
    if not change.steps:
        report = open_demo().check(DAY)
        every = [Example(one) for one in report.findings] + [Example(one, (), True) for one in report.accepted]
        return next(one for one in every if one.finding.kind == kind)
    write_demo(folder)
    site = open_site(folder)
    if kind == "sitemap-stale":  # it needs a sitemap that was written before
        write_sitemap(site.resolve(), folder, folder / "sitemap.xml", DAY)
    changes = tuple(rewrite(site, folder, change, DAY))
    for file in {edit.file for edit in changes}:
        content = (folder / file).read_bytes()
        (folder / file).write_bytes(edited(content, [edit for edit in changes if edit.file == file]))
    with contextlib.chdir(folder):  # a command that a finding names is the one to type there
        return next(Example(one, changes) for one in open_site(".").check(DAY).findings if one.kind == kind)
