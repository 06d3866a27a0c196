"""The site as it was built, compared with what was decided. `Site.compare_built` is the call to use."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import NamedTuple

from davlo.core.arrays.codebooks import Mask
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.files.built.built_folder import read_built_folder
from davlo.files.built.crawler_files import robots_lines, sitemap_of
from davlo.files.built.selectors import NO_SELECTORS, Selectors

from .area_checks import area_mistakes, compared_areas
from .built_site import BuiltSite
from .head_checks import head_mistakes
from .menu_checks import menu_mistakes
from .mistakes import Mistake, MistakeCause, by_cause
from .search_engine_checks import robots_mistakes, sitemap_mistakes

UNSEEN = "what HTML does not show is not compared: who may edit, looks, themes, and the site's own settings"


class BuiltComparison(NamedTuple):
    """How built pages differ from what was decided."""

    pages: int  # how many built pages are pages of the site
    mistakes: tuple[Mistake, ...]
    unseen: tuple[str, ...]  # what could not be compared, in sentences

    @property
    def causes(self) -> list[MistakeCause]:
        """The mistakes by cause, the worst first."""
        return by_cause(self.mistakes)


def compare_built(
    effective: EffectiveModel,
    folder: Path,
    site_folder: Path | None,
    today: datetime.date,
    selectors: Selectors = NO_SELECTORS,
    among: Mask | None = None,
) -> BuiltComparison:
    """How the pages of a folder differ from what was decided.

    `folder`: the built pages, and the sitemap and robots.txt if they are there. `site_folder`: the site folder, which
    holds addresses that the sitemap joins. `today`: pages modified after this day have no date in the sitemap.
    `selectors`: what finds areas that are no landmarks. `among`: bool[pages]: only mistakes on these pages. Raises
    OSError if the folder cannot be listed; SiteError if its sitemap cannot be understood.
    """
    built = read_built_folder(folder, selectors)
    site = BuiltSite(effective, built)
    mistakes, unseen = list[Mistake](), [UNSEEN]
    with work("comparing", 5) as step:
        step("pages")
        mistakes += site.page_mistakes()
        step("titles and heads")
        mistakes += head_mistakes(site)
        if not any(page.alternates for _, page in site.shown) and effective.site.languages:
            unseen.append("no page names its alternates in other languages")
        if not any(page.language for _, page in site.shown) and effective.site.languages:
            unseen.append("no page says its language")
        if not any(page.canonical for _, page in site.shown):
            unseen.append("no page gives its canonical address")
        step("areas")
        if compared_areas(site):
            mistakes += area_mistakes(site)
            step("menus")
            mistakes += menu_mistakes(site)
        else:
            unseen.append("no page has landmarks beside its content: areas and menus are not compared (--areas FILE)")
        step("sitemap and robots.txt")
        lines = robots_lines(folder)
        sitemap = sitemap_of(folder, lines)
        if lines is None:
            unseen.append("there is no robots.txt in the folder")
        else:
            mistakes += robots_mistakes(site, lines)
        if sitemap is None:
            unseen.append("there is no sitemap in the folder")
        else:
            mistakes += sitemap_mistakes(site, sitemap, site_folder, today)
    unseen += [f"{name}: {why}" for name, why in built.left_out]
    unseen += _amiss(site)
    if among is not None:
        mistakes = [one for one in mistakes if _is_among(site, one, among)]
    return BuiltComparison(len(site.shown), tuple(mistakes), tuple(unseen))


def _amiss(site: BuiltSite) -> list[str]:
    """The faults of files, each once, with the first file that has it."""
    first: dict[str, str] = {}
    for page in site.built.pages:
        if page.amiss:
            first.setdefault(page.amiss, page.file)
    return [f"{file}: {what}" for what, file in first.items()]


def _is_among(site: BuiltSite, mistake: Mistake, among: Mask) -> bool:
    page = site.site.tree.find(mistake.page)
    return page >= 0 and bool(among[page])
