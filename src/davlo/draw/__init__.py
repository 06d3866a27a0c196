"""Pictures, drawn with Matplotlib and without a screen: pages as their layouts, and a setting over the whole tree.

The functions are to be called by the name of the module: `draw.page`, `draw.map`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from davlo.core.outcomes.branch_map import branch_map
from davlo.core.outcomes.page_plan import plan

if TYPE_CHECKING:
    from matplotlib.figure import Figure

    from davlo.core.resolve.effective import EffectiveModel

__all__ = ["map", "page"]


def page(effective: EffectiveModel, *paths: str) -> Figure:
    """Pages drawn as their layouts: areas with their contents and where these came from, wide and on a phone.

    Widths are to scale, heights follow the amount of text. Three pages are side by side, more in rows; differences are
    marked.

    Parameters
    ----------
    effective : Effective
        What `site.resolve()` gives.
    *paths : str
        The pages, at least one.

    Returns
    -------
    matplotlib.figure.Figure
        1280 pixels wide and 800 high at 100 dots an inch for one or two pages; wider for three, higher where much
        stands in an area. No words are smaller than 7 points. Write it with `.savefig`.

    Raises
    ------
    UnknownName
        If there is no such page.
    ValueError
        If no page is named.

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
    return draw_pages([plan(effective, effective.site.page_number(path)) for path in paths])


def map(effective: EffectiveModel, setting: str, branch: str | None = None) -> Figure:
    """One setting over the whole tree: each branch a box in the ink of its value, exceptions in their own.

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
        1280 by 800 pixels at 100 dots an inch, less high for few pages. Past 200 of them branches are gathered, each
        box with its count and a bar of what it holds. Up to eight values have inks of their own.

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
