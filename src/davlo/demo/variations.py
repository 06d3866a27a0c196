"""The garden with something amiss: for each kind of finding that it does not have, a change that brings it."""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.findings.finding import Finding
from davlo.core.findings.mending import Added, Changed, Put, Step, Taken
from davlo.core.outcomes.sitemap_marks import told
from davlo.files.rewrite.text_edits import Edit, Mender, apply_edits
from davlo.files.store.last_sitemap import remember
from davlo.site import open_site

from . import open_demo, write_demo

DAY = datetime.date(2026, 11, 25)
"""The day on which the examples are made."""
MAPS = ("pages", "/visit/maps", "here")
HANDBOOK = ("pages", "/staff/handbook")

VARIATIONS: Mapping[str, tuple[Step, ...]] = {
    "lock-clash": (Put(("pages", "/fr", "below"), {"lock": {"band.footer": "footer-press"}}),),
    "idle-stamp": (Added("stamps.csv", {"path": "/visit", "setting": "title.limit", "value": "40"}),),
    "near-miss": (Changed("pages.csv", 1, "sitemap.priority", "sitemap-priority"),),
    "idle-accept": (Put(("accept",), {"kind": "empty-title", "because": "Drawn by hand"}, more=True),),
    "unknown-language": (Changed("pages.csv", 3, "language", "de"),),
    "not-applicable": (Put(("types", "article", "give", "audio-guide"), "12"),),
    "dead-rule": (
        Put(
            ("rules",),
            {"name": "Ferns are narrow", "when": {"path": "/fern/**"}, "give": {"layout.width": "narrow"}},
            more=True,
        ),
    ),
    "hidden-rule": (
        Put(
            ("rules",),
            {"name": "Campaigns are dark", "when": {"below": "/campaigns"}, "give": {"layout.theme": "evening"}},
            more=True,
        ),
    ),
    "childless-below": (Put(("pages", "/visit/maps", "below"), {"title.limit": "40"}),),
    "empty-type": (Put(("types", "brochure"), {"label": "Brochure"}),),
    "idle-default": (Put(("everywhere", "title.limit"), "60"),),
    "unused-setting": (Put(("settings", "picture-credit"), {"kind": "text"}),),
    "unread-setting": (
        Put(("settings", "picture-credit"), {"kind": "text"}),
        Put(("everywhere", "picture-credit"), "Sefa Moana"),
    ),
    "empty-title": (Put((*MAPS, "title.pattern"), "<empty>"),),
    "unknown-placeholder": (Put(("everywhere", "title.pattern"), "{titel} · {site}"),),
    "band-does-not-fit": (Put((*MAPS, "band.masthead"), "footer-legal"),),
    "empty-sidebar": (Put(("sidebars", "whats-on"), {}),),
    "sidebar-on-no-device": (Put(("looks", "usual", "shows_on"), []),),
    "phone-order-incomplete": (Put(("everywhere", "layout.phone-order"), ["masthead", "content"]),),
    "sidebars-too-wide": (
        Put((*MAPS, "layout.name"), "three-column"),
        Put((*MAPS, "look.left"), "usual"),
        Put(("looks", "usual", "width"), "35"),
    ),
    "same-sidebar-twice": (Put((*MAPS, "layout.name"), "three-column"),),
    "blank-page": (Put(("layouts", "record-page", "blocks"), {}),),
    "idle-look": (Put(("everywhere", "look.left"), "pinned"),),
    "edit-without-view": (Put(HANDBOOK, {"here": {"access": {"members": ["edit"]}}}),),
    "unreachable-grant": (Put(HANDBOOK, {"here": {"access": {"members": ["view"]}}}),),
    "drops-actions": (Put((*MAPS, "access"), {"editors": ["view"]}),),
    "group-empty": (
        Put(("people", "groups", "volunteers"), []),
        Put(("everywhere", "access", "volunteers"), ["view"]),
    ),
    "person-beside-group": (Put(("everywhere", "access", "ida.marsh"), ["view"]),),
    "left-out-by-priority": (Put((*MAPS, "sitemap.priority"), "0.1"),),
    "one-priority": (
        Taken("davlo.yaml", 42, "sitemap.priority"),
        Put(("everywhere", "lock", "sitemap.priority"), "0.5"),
    ),
    "sitemap-stale": (Changed("pages.csv", 4, "status", "draft"),),
    "bad-alternate": (Changed("pages.csv", 4, "translates", "/fr"),),
}


class Example(NamedTuple):
    """A kind of finding as the garden has it, or would have it.

    Attributes
    ----------
    finding : Finding
    changes : tuple of Edit
        What must be changed first; nothing where the garden has it as it is.
    is_accepted : bool
    """

    finding: Finding
    changes: tuple[Edit, ...] = ()
    is_accepted: bool = False


def example(kind: str, folder: Path) -> Example:
    """An example of a kind of finding, made from the garden.

    Parameters
    ----------
    kind : str
    folder : Path
        A new or empty folder, into which the changed garden is written if it takes a change.

    Raises
    ------
    StopIteration
        If the garden has no such finding, changed or not.

    Example
    -------
    >>> import tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     found = example("unknown-language", Path(name))
    >>> found.changes[0].file, found.finding.message.partition(",")[0]
    ('pages.csv', '1 page is in the language de')
    """
    if kind not in VARIATIONS:
        report = open_demo().check(DAY)
        every = [Example(one) for one in report.findings] + [Example(one, (), True) for one in report.accepted]
        return next(one for one in every if one.finding.kind == kind)
    write_demo(folder)
    site = open_site(folder)
    effective = site.resolve()
    if kind == "sitemap-stale":  # it takes a sitemap that was written before
        listed = np.flatnonzero(effective.outcomes.sitemap == 0)
        remember(folder, folder / "sitemap.xml", {}, (), told(effective, listed, DAY), DAY.isoformat())
    changes = tuple(Mender(effective, folder).edits(VARIATIONS[kind]) or ())
    for file in {edit.file for edit in changes}:
        content = (folder / file).read_text(encoding="utf-8")
        new = apply_edits(content, [edit for edit in changes if edit.file == file])
        (folder / file).write_text(new, encoding="utf-8")
    with contextlib.chdir(folder):  # commands that are told are those one would type there
        return next(Example(one, changes) for one in open_site(".").check(DAY).findings if one.kind == kind)
