"""Pictures, drawn with Matplotlib and without a screen: pages as their layouts, and a setting over the whole tree.

The functions are to be called by the name of the module: `draw.page`, `draw.map`.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from davlo.core.outcomes.branch_map import branch_map
from davlo.core.records.page_plan import SCREENS, plan
from davlo.core.site.people import VISITOR

if TYPE_CHECKING:
    from matplotlib.figure import Figure

    from davlo.core.change.differences.difference import Difference
    from davlo.core.resolve.effective import EffectiveModel
    from davlo.core.site.model import SiteModel

__all__ = ["candidates", "change", "map", "page"]


def page(
    effective: EffectiveModel, *paths: str, screens: Sequence[str] = ("wide", "phone"), viewer: str = VISITOR
) -> Figure:
    """Pages drawn as their layouts: areas with their contents and where these came from, wide and on a phone.

    A sidebar or band is drawn as its look says.

    Widths are to scale, heights follow the amount of text. Three pages are side by side, more in rows; differences are
    marked.

    Parameters
    ----------
    effective : Effective
        What `site.resolve()` gives.
    *paths : str
        The pages, at least one.
    screens : sequence of str
        `wide`, `tablet`, `phone`: one or more of them, in this order.
    viewer : str
        Whose pages are drawn: a person, a group, `visitor`, `signed-in`. Menus leave out what the viewer may not view.

    Returns
    -------
    matplotlib.figure.Figure
        1280 pixels wide and 800 high at 100 dots an inch for one or two pages; wider for three, higher where much
        stands in an area. No words are smaller than 7 points. Write it with `.savefig`.

    Raises
    ------
    UnknownName
        If there is no such page or viewer.
    ValueError
        If no page is named, or there is no such screen.

    Example
    -------
    >>> import davlo
    >>> from davlo import draw
    >>> figure = draw.page(davlo.open_demo().resolve(), "/visit/tickets")
    >>> figure.get_size_inches().tolist()
    [12.8, 8.0]
    """
    from .pages import draw_pages

    if not paths:
        raise ValueError("name at least one page to draw")
    plans = [plan(effective, effective.site.page_number(path), viewer) for path in paths]
    return draw_pages(plans, _screens(screens))


def candidates(
    site: SiteModel,
    path: str,
    setting: str,
    values: Sequence[str],
    screens: Sequence[str] = ("wide", "phone"),
    viewer: str = VISITOR,
) -> Figure:
    """One page with several values of a setting beside each other: as it is, and with each of them set on it alone.

    The changes are made in memory; nothing is written.

    Parameters
    ----------
    site : Site
    path, setting : str
    values : sequence of str
        As a cell of `values.csv` holds them.
    screens : sequence of str
        As for `page`.
    viewer : str
        As for `page`.

    Raises
    ------
    UnknownName
        If there is no such page, setting or viewer.
    ChangeError
        If the setting cannot have a value, or cannot be set on a page.
    ValueError
        If no value is named, or there is no such screen.

    Example
    -------
    >>> import davlo
    >>> from davlo import draw
    >>> figure = draw.candidates(davlo.open_demo(), "/visit/tickets", "sidebar.right", ["main", "quiet"])
    >>> [round(side, 2) for side in figure.get_size_inches().tolist()]
    [19.2, 8.0]
    """
    from davlo.core.change.tried_values import tried_values

    from .pages import draw_pages

    if not values:
        raise ValueError("name at least one value to try")
    tried = tried_values(site, path, setting, values)
    plans = [plan(one.effective, one.effective.site.page_number(path), viewer) for one in tried]
    return draw_pages(plans, _screens(screens), [one.caption for one in tried])


def change(difference: Difference, paths: Sequence[str], screens: Sequence[str] = ("wide", "phone")) -> Figure:
    """Pages before a change, each beside the page after it.

    Parameters
    ----------
    difference : Difference
        What `site.reach(change)` gives.
    paths : sequence of str
        The pages, which both states have; at least one.
    screens : sequence of str
        As for `page`.

    Raises
    ------
    UnknownName
        If there is no such page in one of the states.
    ValueError
        If no page is named, or there is no such screen.

    Example
    -------
    >>> import davlo
    >>> from davlo import draw
    >>> reach = davlo.open_demo().reach(davlo.Change().say("sidebar.right", "quiet", below="/visit"))
    >>> figure = draw.change(reach, ["/visit/tickets"])
    >>> [round(side, 2) for side in figure.get_size_inches().tolist()]
    [12.8, 8.0]
    """
    from .pages import draw_pages

    if not paths:
        raise ValueError("name at least one page to draw")
    states = (difference.before, difference.after)
    plans = [plan(state, state.site.page_number(path)) for path in paths for state in states]
    return draw_pages(plans, _screens(screens), ["before", "after"] * len(paths), in_pairs=True)


def _screens(screens: Sequence[str]) -> list[str]:
    """Screens as they are drawn, the widest first."""
    unknown = [screen for screen in screens if screen not in SCREENS]
    if unknown or not screens:
        raise ValueError(f"screens are {', '.join(SCREENS)}, not {', '.join(unknown) or 'none'}")
    return [screen for screen in SCREENS if screen in screens]


def map(effective: EffectiveModel, setting: str, branch: str | None = None) -> Figure:
    """One setting over the whole tree: each branch a box coloured by its value, exceptions in boxes of their own.

    Parameters
    ----------
    effective : Effective
        What `site.resolve()` gives.
    setting : str
    branch : str, optional
        A page: its branch alone.

    Returns
    -------
    matplotlib.figure.Figure
        1280 by 800 pixels at 100 dots an inch, less high for few pages. Past 200 pages, branches are gathered, each box
        with its count and a bar that shows the mix. Up to eight values have colours of their own.

    Raises
    ------
    UnknownName
        If there is no such setting or page.
    ValueError
        If the site has no pages.

    Example
    -------
    >>> import davlo
    >>> from davlo import draw
    >>> figure = draw.map(davlo.open_demo().resolve(), "sidebar.right", branch="/visit")
    >>> figure.axes[0].texts[0].get_text()
    'sidebar.right on 24 pages, /visit and what is below it'
    """
    from .branches import draw_map

    if not len(effective.site.tree):
        raise ValueError("the site has no pages, so there is nothing to draw")
    top = -1 if branch is None else effective.site.page_number(branch)
    return draw_map(effective.site, branch_map(effective, setting, top))
