"""What may stand in an area, and why a band may not."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from ..faults import UnknownName
from ..site.model import SiteModel
from .areas import CONTENT

LEFT, RIGHT = "left", "right"
"""The words in the name of an area that say on which side of the content it lies."""


class AreaFits(NamedTuple):
    """What may stand in an area.

    Attributes
    ----------
    area : str
    bands : tuple of str
        The bands that say they fit it.
    sidebars : tuple of str
        All sidebars: any of them may stand in any area.
    blocks : tuple of str
        All blocks: any of them may stand in any area.
    is_column : bool
        Whether it lies beside the content, so that sidebars are what one puts there.
    not_offered : mapping of str to str
        The other bands, each with the reason.
    """

    area: str
    bands: tuple[str, ...]
    sidebars: tuple[str, ...]
    blocks: tuple[str, ...]
    is_column: bool
    not_offered: Mapping[str, str]


def area_fits(site: SiteModel, area: str) -> AreaFits:
    """What may stand in an area. `Site.fits` is the call to use.

    Raises UnknownName if no layout has the area.
    """
    declared = site.declarations
    if area not in declared.areas():
        raise UnknownName("area", area, declared.areas())
    others = {name: band.fits for name, band in declared.bands.items() if area not in band.fits}
    return AreaFits(
        area,
        tuple(name for name, band in declared.bands.items() if area in band.fits),
        tuple(declared.sidebars),
        tuple(declared.blocks),
        is_column(site, area),
        {name: f"fits {', '.join(fits) or 'no area'}, not {area}" for name, fits in others.items()},
    )


def is_column(site: SiteModel, area: str) -> bool:
    """Whether an area lies beside the content: its name says left or right, or sidebars are put there and no bands fit.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> is_column(site, "left"), is_column(site, "footer")
    (True, False)
    """
    if area == CONTENT:
        return False
    if {LEFT, RIGHT} & set(area.replace(".", "-").split("-")):
        return True
    given = site.statements.words[site.setting_number(f"sidebar.{area}")].items  # what statements say, for any page
    banded = any(area in band.fits for band in site.declarations.bands.values())
    return not banded and any(word is not None for word in given)
