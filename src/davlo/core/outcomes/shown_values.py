"""Whether each value is shown: whether a reader, a member or a search engine can tell that it holds; and if not, why.

A sidebar for an area that the page's layout lacks is set, and not shown. Every command and finding asks here.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Column, Mask
from ..cached import cached_property
from ..resolve.effective import EffectiveModel
from ..site.settings.setting import AREA_FAMILIES, Setting
from .areas import not_shown
from .page_outcomes import Outcomes
from .shown_things import OF_SHOWN, Fillings
from .sitemap.sitemap_reasons import BY_PRIORITY, OF_SITEMAP, SITEMAP_REASONS
from .uses import Uses

LABEL, HEADING = "menu.label", "heading.text"
SITEMAP_SETTINGS = ("sitemap.changefreq", "sitemap.priority")
FEW_PAGES = 64
"""The most pages whose values are looked at before a reason is worked out for all pages."""
Reasons = NDArray[np.int32]


class ShownValues:
    """Which values of a site are shown.

    Example
    -------
    >>> import davlo
    >>> shown = ShownValues(davlo.open_demo().resolve())
    >>> shown.reason("/campaigns", "sidebar.right")
    'the layout plain has no area right'
    >>> shown.reason("/visit/tickets", "sidebar.right")
    ''
    """

    def __reduce__(self) -> tuple[type[ShownValues], tuple[EffectiveModel]]:
        return ShownValues, (self.effective,)

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective, self.site = effective, effective.site
        self._found: dict[int, Column] = {}

    @cached_property
    def _uses(self) -> Uses:
        return self.effective.shared(Uses)

    @cached_property
    def _outcomes(self) -> Outcomes:
        return self.effective.shared(Outcomes)

    def is_asked(self, setting: int) -> bool:
        """Whether a value of this setting can be set but not shown."""
        declared = self.site.catalogue[setting]
        return declared.own or declared.family in AREA_FAMILIES or declared.name in (LABEL, HEADING, *SITEMAP_SETTINGS)

    def depends_on(self, setting: int) -> tuple[str, ...]:
        """What it depends on whether a value of this setting is shown: settings, families, words of `SameParts`."""
        declared = self.site.catalogue[setting]
        if declared.own or declared.family in AREA_FAMILIES:
            return declared.name, *OF_SHOWN
        if declared.name == LABEL:
            return "menu.", "access"
        return ("heading.",) if declared.name == HEADING else OF_SITEMAP

    def says(self, setting: int) -> Mask:
        """The pages whose value is neither none, nor the empty list, nor the built-in one. bool[pages]"""
        found = self.effective.resolved(setting)
        says: Mask = found.where(lambda word: word is not None and word != ()) & (found.value != 0)
        return says

    def pages(self, setting: str | int) -> Mask:
        """The pages on which a setting's value is shown, and those that do not have the setting. bool[pages]"""
        mask: Mask = self.reasons(setting).codes == 0
        return mask

    def reason(self, page: str | int, setting: str | int) -> str:
        """Why a page's value is not shown; empty if it is shown."""
        page = self.effective.page_number(page) if isinstance(page, str) else page
        return self.reasons(setting)[page]

    def prevented(self, setting: str | int, pages: NDArray[np.int64]) -> list[tuple[str, int]]:
        """Why a setting's value is not shown on some of these pages, and on how many, the most first."""
        reasons = self.reasons(setting)
        counts = np.bincount(reasons.codes[pages], minlength=len(reasons.words)).tolist()
        found = [(reasons.words[code], count) for code, count in enumerate(counts) if code and count]
        return sorted(found, key=lambda one: -one[1])

    def reasons(self, setting: str | int) -> Column:
        """For each page, why a setting's value is not shown; code 0, and empty, if it is shown."""
        number = self.site.setting_number(setting) if isinstance(setting, str) else setting
        if not self.is_asked(number):
            return Column.blank(len(self.site.tree))
        found = self._found.get(number)
        if found is None:
            words = Codebook([""])
            declared = self.site.catalogue[number]
            if declared.own:
                codes = self._of_own(declared, words)
            elif declared.family in AREA_FAMILIES:
                codes = self._of_area(declared, words)
            else:
                made = {LABEL: self._of_menu, HEADING: self._of_heading}.get(declared.name, self._of_sitemap)
                codes = made(words)
            codes[~self.site.has(number) | ~self.says(number)] = 0
            found = self._found[number] = Column(codes.astype(np.int32), words.items)
        return found

    def reasons_on(self, setting: int, pages: NDArray[np.int64]) -> Column:
        """The reasons on some pages. If their values are none or built in, no other page is looked at."""
        if setting not in self._found and len(pages) <= FEW_PAGES and self.is_asked(setting):
            found = self.effective.resolved(setting)
            said = {found.words[code] for code in set(found.value[pages].tolist()) if code}
            if not said - {None, ()}:
                return Column.blank(len(pages))
        return self.reasons(setting).take(pages)

    def _of_area(self, setting: Setting, words: Codebook[str]) -> Reasons:
        """Reasons for a setting of an area; none and the empty list count as shown."""
        area = setting.member
        says = self.effective.column(setting.name).where(lambda word: word is not None and word != ())
        why = not_shown(self.effective, area)
        codes = np.array([words.code(word) for word in why.words], dtype=np.int32)[why.codes]
        if setting.family == "look":
            bare = [
                self.effective.column(f"{one}.{area}").where(lambda word: word is None) for one in ("sidebar", "band")
            ]
            none = words.code(f"no sidebar and no band stands in the area {area}")
            codes = np.where(bare[0] & bare[1] & (codes == 0), none, codes)
        elif setting.family in ("sidebar", "band"):
            nothing = self.effective.shared(Fillings).why_nothing(setting.family, area)
            why_nothing = np.array([words.code(word) for word in nothing.words], dtype=np.int32)[nothing.codes]
            codes = np.where(codes == 0, why_nothing, codes)
        return np.where(says, codes, 0)

    def _of_own(self, setting: Setting, words: Codebook[str]) -> Reasons:
        """Reasons for a setting of the site's own: nothing in its `used_by` is on the page."""
        shown = self._uses.showing(setting)
        users = ", ".join(setting.used_by)
        verb = "does" if len(setting.used_by) == 1 else "do"
        why = f"{users} {verb} not show on the page" if users else "nothing shows it: its used_by is empty"
        return np.where(shown, 0, words.code(why)).astype(np.int32)

    def _of_menu(self, words: Codebook[str]) -> Reasons:
        shown = self._outcomes.menu.shown
        return np.where(shown, 0, words.code("the page is not in the menu")).astype(np.int32)

    def _of_heading(self, words: Codebook[str]) -> Reasons:
        shown = self.effective.column("heading.show").where(lambda word: word is True)
        return np.where(shown, 0, words.code("heading.show is no")).astype(np.int32)

    def _of_sitemap(self, words: Codebook[str]) -> Reasons:
        """Whether the page is in the sitemap, or its priority alone keeps it out."""
        table = np.array(
            [
                words.code(f"the page is not in the sitemap: {reason}") if reason and code != BY_PRIORITY else 0
                for code, reason in enumerate(SITEMAP_REASONS)
            ],
            dtype=np.int32,
        )
        return table[self._outcomes.sitemap]
