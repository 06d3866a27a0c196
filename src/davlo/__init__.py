"""Davlo works out every page's effective settings, says where each came from, and reports what contradicts.

The names below are imported when they are first used, so that a small answer comes at once.
"""

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .core.access import Access
    from .core.effective import PageSettings
    from .core.faults import Fault, Place, SiteError, UnknownName
    from .core.findings import Finding, Report
    from .core.source import Source
    from .core.trace import Candidate, Trace
    from .demo import open_demo, write_demo
    from .site import Effective, Site, open_site

__version__ = "0.1.0"

_HOMES = {
    "Access": "core.access",
    "Candidate": "core.trace",
    "Effective": "site",
    "Fault": "core.faults",
    "Finding": "core.findings",
    "PageSettings": "core.effective",
    "Place": "core.faults",
    "Report": "core.findings",
    "Site": "site",
    "SiteError": "core.faults",
    "Source": "core.source",
    "Trace": "core.trace",
    "UnknownName": "core.faults",
    "open_demo": "demo",
    "open_site": "site",
    "write_demo": "demo",
}
__all__ = [
    "Access",
    "Candidate",
    "Effective",
    "Fault",
    "Finding",
    "PageSettings",
    "Place",
    "Report",
    "Site",
    "SiteError",
    "Source",
    "Trace",
    "UnknownName",
    "open_demo",
    "open_site",
    "write_demo",
]


def __getattr__(name: str) -> object:
    if name not in _HOMES:
        raise AttributeError(f"module 'davlo' has no attribute {name!r}")
    found = globals()[name] = getattr(import_module(f"davlo.{_HOMES[name]}"), name)
    return found


def __dir__() -> list[str]:
    return [*__all__, "__version__"]
