"""What viewers see on the pages that people check after every change."""

from __future__ import annotations

from typing import NamedTuple

from ..faults import UnknownName
from ..resolve.effective import EffectiveModel
from ..site.model import Viewpoint
from .areas import OWN_CONTENT
from .page_outcomes import Outcomes, PageOutcomes
from .placeholders import HEADING


class ViewpointResult(NamedTuple):
    """What a viewer sees on a page.

    Attributes
    ----------
    page, viewer : str
    missing : str
        Why there is nothing to look at: there is no such page, or no such viewer. Empty otherwise.
    may : tuple of str
        What the viewer may do there; without `view` they do not see the page.
    title, heading : str
        The document title, and what the headings say or which blocks provide them.
    menu, sitemap : str
        Whether it is there, what the menu calls it, or why it is not there.
    layout : str
        The layout, its width and the theme.
    areas : tuple of (area, contents)
        What the viewer sees in each area, in the order of the layout; empty areas are left out.
    """

    page: str
    viewer: str
    missing: str = ""
    may: tuple[str, ...] = ()
    title: str = ""
    heading: str = ""
    menu: str = ""
    sitemap: str = ""
    layout: str = ""
    areas: tuple[tuple[str, str], ...] = ()

    @property
    def is_shown(self) -> bool:
        """Whether the viewer may view the page."""
        return "view" in self.may

    def fields(self) -> dict[str, str]:
        """The fields to compare, by name: `may`, `title`, `menu`, `area right`, …"""
        found = {"missing": self.missing, "may": ", ".join(self.may) or "nothing"}
        if self.missing or not self.is_shown:
            return found
        found |= {"title": self.title, "heading": self.heading, "menu": self.menu, "sitemap": self.sitemap}
        return {**found, "layout": self.layout, **{f"area {area}": told for area, told in self.areas}}


class ViewpointDifference(NamedTuple):
    """A viewpoint that differs between two states: the fields that differ, before and after (empty: there is none)."""

    page: str
    viewer: str
    fields: tuple[tuple[str, str, str], ...]


def viewpoint_results(
    effective: EffectiveModel, viewpoints: tuple[Viewpoint, ...] | None = None
) -> list[ViewpointResult]:
    """What each viewpoint sees. `Site.viewpoint_results` is the call to use.

    `viewpoints`: those to look at (default: those of the site).

    Example
    -------
    >>> import davlo
    >>> found = viewpoint_results(davlo.open_demo().resolve())
    >>> [(one.page, one.viewer, one.is_shown) for one in found][:2]
    [('/visit/tickets', 'visitor', True), ('/staff/rota', 'visitor', False)]
    """
    outcomes = effective.shared(Outcomes)
    return [
        _view(outcomes, viewpoint) for viewpoint in (effective.site.viewpoints if viewpoints is None else viewpoints)
    ]


def viewpoint_differences(before: EffectiveModel, after: EffectiveModel) -> list[ViewpointDifference]:
    """The viewpoints of `after` that see something else in `before`.

    `Site.viewpoint_differences` is the call to use.
    """
    viewpoints = after.site.viewpoints
    found = []
    for one, other in zip(viewpoint_results(before, viewpoints), viewpoint_results(after, viewpoints), strict=True):
        was, now = one.fields(), other.fields()
        if one.is_shown != other.is_shown or one.missing != other.missing:  # everything else appears or goes with that
            was, now = ({name: fields[name] for name in ("missing", "may")} for fields in (was, now))
        names = dict.fromkeys([*now, *was])
        fields = tuple(
            (name, was.get(name, ""), now.get(name, "")) for name in names if was.get(name, "") != now.get(name, "")
        )
        if fields:
            found.append(ViewpointDifference(other.page, other.viewer, fields))
    return found


def _view(outcomes: Outcomes, viewpoint: Viewpoint) -> ViewpointResult:
    site = outcomes.site
    page = site.tree.find(viewpoint.page)
    if page < 0:
        return ViewpointResult(viewpoint.page, viewpoint.viewer, "there is no such page")
    try:
        may = outcomes.access.actions(viewpoint.viewer, page)
    except UnknownName as error:
        return ViewpointResult(viewpoint.page, viewpoint.viewer, str(error))
    found = outcomes.of(page)
    return ViewpointResult(
        viewpoint.page,
        viewpoint.viewer,
        "",
        may,
        found.title,
        _heading(found),
        f"in the menu as {found.label}" if found.in_menu else f"not in the menu: {found.not_in_menu}",
        "in the sitemap" if found.in_sitemap else f"not in the sitemap: {found.not_in_sitemap}",
        _layout(found),
        tuple(_areas(found)),
    )


def _heading(found: PageOutcomes) -> str:
    told = [found.heading if one == HEADING else f"the block {one}" for one in found.headings]
    return " and ".join(told) or "none"


def _layout(found: PageOutcomes) -> str:
    made = found.composition
    if made.layout is None:
        return "none"
    return f"{made.layout.name}, {made.width}" + (f", theme {made.theme.name}" if made.theme else "")


def _areas(found: PageOutcomes) -> list[tuple[str, str]]:
    """What a reader sees in each area, including what the theme shows instead."""
    told = []
    for area in found.composition.areas:
        things = ["own content" if kind == OWN_CONTENT else name for kind, name in area.stands]
        if not area.theme_name:
            things = [area.instead.words] if area.instead else []
        if things:
            told.append((area.area, ", ".join(things)))
    return told
