"""What may stand in an area, and why a band may not."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from ..faults import UnknownName
from ..site.model import SiteModel
from .page_plan import is_column


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
