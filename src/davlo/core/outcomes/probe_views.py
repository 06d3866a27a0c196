"""What viewers meet on the pages that people check after every change."""

from __future__ import annotations

from typing import NamedTuple

from ..faults import UnknownName
from ..resolve.effective import EffectiveModel
from ..site.model import Probe
from .areas import OWN_CONTENT
from .page_outcomes import Outcomes, PageOutcomes


class ProbeView(NamedTuple):
    """What a viewer meets on a page.

    Attributes
    ----------
    page, viewer : str
    missing : str
        Why there is nothing to look at: there is no such page, or no such viewer. Empty otherwise.
    may : tuple of str
        What the viewer may do there; without `view` they do not meet the page.
    title, heading : str
        The document title, and what names the page to its readers.
    menu, sitemap : str
        Whether it is there, what the menu calls it, or why it is not there.
    layout : str
        The layout, its width and the theme.
    areas : tuple of (area, contents)
        What the viewer meets in each area, in the order of the layout; empty areas are left out.
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
    def is_met(self) -> bool:
        """Whether the viewer may view the page."""
        return "view" in self.may

    def facts(self) -> dict[str, str]:
        """What is to be compared, by name: `may`, `title`, `menu`, `area right`, …"""
        found = {"missing": self.missing, "may": ", ".join(self.may) or "nothing"}
        if self.missing or not self.is_met:
            return found
        found |= {"title": self.title, "heading": self.heading, "menu": self.menu, "sitemap": self.sitemap}
        return {**found, "layout": self.layout, **{f"area {area}": told for area, told in self.areas}}


class ProbeDifference(NamedTuple):
    """A probe that differs between two states: each fact that does, before and after (empty: there is none)."""

    page: str
    viewer: str
    facts: tuple[tuple[str, str, str], ...]


def probe_views(effective: EffectiveModel, probes: tuple[Probe, ...] | None = None) -> list[ProbeView]:
    """What each probe sees. `Site.probe_views` is the call to use.

    Parameters
    ----------
    effective : EffectiveModel
    probes : tuple of Probe, optional
        Those to look at (default: those of the site).

    Example
    -------
    >>> import davlo
    >>> found = probe_views(davlo.open_demo().resolve())
    >>> [(one.page, one.viewer, one.is_met) for one in found][:2]
    [('/visit/tickets', 'visitor', True), ('/staff/rota', 'visitor', False)]
    """
    outcomes = effective.shared(Outcomes)
    return [_view(outcomes, probe) for probe in (effective.site.probes if probes is None else probes)]


def probe_differences(before: EffectiveModel, after: EffectiveModel) -> list[ProbeDifference]:
    """The probes of `after` that see something else in `before`. `Site.probe_differences` is the call to use."""
    probes = after.site.probes
    found = []
    for one, other in zip(probe_views(before, probes), probe_views(after, probes), strict=True):
        was, now = one.facts(), other.facts()
        if one.is_met != other.is_met or one.missing != other.missing:  # all else appears or goes with that
            was, now = ({name: facts[name] for name in ("missing", "may")} for facts in (was, now))
        names = dict.fromkeys([*now, *was])
        facts = tuple(
            (name, was.get(name, ""), now.get(name, "")) for name in names if was.get(name, "") != now.get(name, "")
        )
        if facts:
            found.append(ProbeDifference(other.page, other.viewer, facts))
    return found


def _view(outcomes: Outcomes, probe: Probe) -> ProbeView:
    site = outcomes.site
    page = site.tree.find(probe.page)
    if page < 0:
        return ProbeView(probe.page, probe.viewer, "there is no such page")
    try:
        may = outcomes.access.actions(probe.viewer, page)
    except UnknownName as error:
        return ProbeView(probe.page, probe.viewer, str(error))
    found = outcomes.of(page)
    return ProbeView(
        probe.page,
        probe.viewer,
        "",
        may,
        found.title,
        _heading(found, site.facts.title[page]),
        f"in the menu as {found.label}" if found.in_menu else f"not in the menu: {found.not_in_menu}",
        "in the sitemap" if found.in_sitemap else f"not in the sitemap: {found.not_in_sitemap}",
        _layout(found),
        tuple(_areas(found)),
    )


def _heading(found: PageOutcomes, title: str) -> str:
    told = [title if one == "title" else f"the block {one}" for one in found.headings]
    return " and ".join(told) or "none"


def _layout(found: PageOutcomes) -> str:
    made = found.composition
    if made.layout is None:
        return "none"
    return f"{made.layout.name}, {made.width}" + (f", theme {made.theme.name}" if made.theme else "")


def _areas(found: PageOutcomes) -> list[tuple[str, str]]:
    """What a reader meets in each area, what the theme shows instead included."""
    told = []
    for area in found.composition.areas:
        things = ["own content" if kind == OWN_CONTENT else name for kind, name in area.stands]
        if not area.theme_name:
            things = [area.instead.words] if area.instead else []
        if things:
            told.append((area.area, ", ".join(things)))
    return told
