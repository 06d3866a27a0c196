"""What search engines get: which pages are in the sitemap, and why the others are not."""

from __future__ import annotations

import datetime
import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from ...arrays.codebooks import Codes, Mask
from ...faults import Place
from ...resolve.effective import EffectiveModel
from ...site.people import VISITOR
from ...site.source import Source, source_of
from ..access.access_model import AccessModel
from ..menus.menu import is_yes

OF_SITEMAP = ("sitemap.", "robots.", "menu.show", "access")
"""What it depends on whether a page is in the sitemap."""
SITEMAP_REASONS = (
    "",
    "it is a draft",
    "it is a folder, and no page itself",
    "it only leads elsewhere (leads_to)",
    "a visitor may not view it",
    "sitemap.include is no",
    "robots.index is no",
    "menu.show is no, and sitemap.leave_out leaves out what the menu hides",
    "its priority is under sitemap.leave_out's priority_under",
)
"""Why a page is not in the sitemap, by code; 0: it is."""
BY_PRIORITY = len(SITEMAP_REASONS) - 1
"""The code of pages that their priority alone keeps out."""

DEFAULT_PRIORITY = 0.5
"""What a page without a priority counts as (sitemaps.org/protocol.html, `priority`)."""


def sitemap_codes(effective: EffectiveModel, access: AccessModel | None = None) -> Codes:
    """For each page a code into `SITEMAP_REASONS`: 0 in the sitemap, else the first reason it is out. int32[pages]"""
    site = effective.site
    access = access or effective.shared(AccessModel)
    codes, _, words = effective.column("sitemap.priority")
    table = np.array([float(w) if isinstance(w, int | float) else DEFAULT_PRIORITY for w in words])
    tests: list[Callable[[], Mask]] = [
        lambda: site.details.draft,
        lambda: site.details.folder,
        lambda: site.details.leads_away,
        lambda: ~access.allowed(VISITOR, "view"),
        lambda: ~is_yes(effective, "sitemap.include"),
        lambda: ~is_yes(effective, "robots.index"),
        lambda: ~is_yes(effective, "menu.show") & site.sitemap.menu_hidden,
        lambda: table[codes] < site.sitemap.priority_under,
    ]
    reason = np.zeros(len(site.tree), dtype=np.int32)
    for code, test in enumerate(tests, start=1):
        reason[(reason == 0) & test()] = code
    return reason


class LeftOut(NamedTuple):
    """A page that is not in the sitemap: its path, why, and what says so.

    `source`: the statement; None if the page list does. `place`: where that stands; `because`: the statement's reason.
    """

    path: str
    reason: str
    source: Source | None
    place: Place
    because: str = ""


OF_SETTINGS = {5: "sitemap.include", 6: "robots.index", 7: "menu.show", 8: "sitemap.priority"}
"""The settings that keep pages out, by code."""
BY_ACCESS = 4
"""The code of pages that a visitor may not view."""


def left_out(effective: EffectiveModel) -> Iterator[LeftOut]:
    """The pages that are not in the sitemap, in their order, each with what keeps it out.

    Example
    -------
    >>> import davlo
    >>> first = next(left_out(davlo.open_demo().resolve()))
    >>> first.path, first.reason, first.source.words, str(first.place)
    ('/visit/thanks', 'robots.index is no', 'here', 'davlo.yaml:83')
    """
    site, codes = effective.site, sitemap_codes(effective)
    out = np.flatnonzero(codes)
    statement = np.full(len(codes), -1, dtype=np.int64)
    for code, name in OF_SETTINGS.items():
        pages = out[codes[out] == code]
        statement[pages] = effective.resolved(site.setting_number(name)).source[pages]
    closed = out[codes[out] == BY_ACCESS]
    statement[closed] = effective.shared(AccessModel).closing(VISITOR, closed)
    reasons = site.statements.reasons
    for page, code, number in zip(out.tolist(), codes[out].tolist(), statement[out].tolist(), strict=True):
        path, reason = site.tree.paths[page], SITEMAP_REASONS[code]
        if code in OF_SETTINGS or code == BY_ACCESS:
            source = source_of(site, number)
            because = reasons[int(site.statements.because[number])] if number >= 0 else ""
            yield LeftOut(path, reason, source, Place(source.file, source.line), because)
        else:
            yield LeftOut(path, reason, None, Place(site.page_list, int(site.tree.line[page])))


_YEAR_OR_MONTH = re.compile(r"(?!0000)\d{4}(?:-(?:0[1-9]|1[0-2]))?", re.ASCII)


def w3c_date(text: str) -> str:
    """An ISO 8601 date as the W3C profile has it: a year, a month, a date, or a date and time with its zone.

    Raises ValueError if it is no such date.

    Example
    -------
    >>> w3c_date("2026-05-01T10:30"), w3c_date("2026-05-01 10:30Z"), w3c_date("2026-05")
    ('2026-05-01', '2026-05-01T10:30:00+00:00', '2026-05')
    """
    if not text or _YEAR_OR_MONTH.fullmatch(text):
        return text
    moment = datetime.datetime.fromisoformat(text)
    plain = moment.tzinfo is None or len(text) <= 10
    return moment.date().isoformat() if plain else moment.isoformat(timespec="seconds")
