"""One page whole: its details, what readers see, and its settings in groups."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from ..resolve.effective import EffectiveModel
from ..site.settings.scopes import ScopeKind
from ..site.settings.setting import Setting
from ..site.settings.values import Plain
from ..site.source import Source, source_of
from .page_outcomes import Outcomes, PageOutcomes
from .shown_values import ShownValues

GROUPS = {
    **dict.fromkeys(("heading", "title", "menu"), "heading, title and menu"),
    **dict.fromkeys(("layout", "sidebar", "look", "band", "blocks"), "layout and areas"),
    **dict.fromkeys(("access", "deny", "page"), "access"),
    **dict.fromkeys(("robots", "sitemap"), "search engines"),
}
OWN = "the site's own"
"""The groups of settings, by the first part of their names."""


class SettingOfPage(NamedTuple):
    """One setting of a page: its value, the statement that won, and why it is not shown (empty if it is)."""

    name: str
    group: str
    value: Plain
    source: Source
    not_shown: str = ""


class PageView(NamedTuple):
    """One page whole.

    Attributes
    ----------
    path, parent : str
        `parent` is empty at the top.
    type : str
        What people call its type.
    details : mapping of str to str
        What the page list says of it, blank cells left out.
    outcomes : PageOutcomes
    settings : tuple of SettingOfPage
        Every setting that it has, those of a group together.
    by_hand : mapping of str to value
        For a page that is not there yet: the values that would differ if somebody typed its row into the page list by
        hand, without stamps.
    head_tags : tuple of str
        For the home page: the HTML tags that prove who owns the site.
    """

    path: str
    parent: str
    type: str
    details: Mapping[str, str]
    outcomes: PageOutcomes
    settings: tuple[SettingOfPage, ...]
    by_hand: Mapping[str, Plain] = MappingProxyType({})
    head_tags: tuple[str, ...] = ()

    def said(self) -> tuple[SettingOfPage, ...]:
        """The settings that some statement sets."""
        return tuple(setting for setting in self.settings if setting.source.file)


def group_of(setting: Setting) -> str:
    """The group that a setting is listed in."""
    return OWN if setting.own else GROUPS[setting.name.partition(".")[0]]


def page_view(effective: EffectiveModel, page: int, is_new: bool = False) -> PageView:
    """One page whole. `Site.page` is the call to use.

    Of a page that `with_page` made up (`is_new`) the source of a stamp is what the stamp would be made from.
    """
    site = effective.site
    parent, kind = int(site.tree.parent[page]), int(site.details.type_of[page])
    details = {name: column[page] for name, column in site.details.columns.items() if column[page]}
    found, shown = [], effective.shared(ShownValues)
    for number in range(len(site.catalogue)):
        if site.has_by_type[number, kind]:
            setting, source = site.catalogue[number], int(effective.resolved(number).source[page])
            if is_new and source >= 0 and site.statements.scope[source] == ScopeKind.STAMP:
                source = int(effective.fold_stages(number).live_source[page])
            value = effective.value(page, number)
            not_shown = shown.reason(page, number)
            found.append(SettingOfPage(setting.name, group_of(setting), value, source_of(site, source), not_shown))
    order = [*dict.fromkeys(GROUPS.values()), OWN]
    return PageView(
        site.tree.paths[page],
        site.tree.paths[parent] if parent >= 0 else "",
        site.types.label(kind),
        details,
        effective.shared(Outcomes).of(page),
        tuple(sorted(found, key=lambda one: order.index(one.group))),
        head_tags=tuple(one.html for one in site.ownership_proofs if one.tag) if page == site.details.home else (),
    )
