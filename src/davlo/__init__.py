"""Davlo works out every page's effective settings, says where each came from, and reports what contradicts.

The names below are imported when they are first used, so that a small answer comes at once.
"""

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from davlo.core.faults import Fault, Place, SiteError, UnknownName
    from davlo.core.findings.check import Report
    from davlo.core.findings.finding import Finding
    from davlo.core.outcomes.access import Access
    from davlo.core.resolve.effective import PageSettings
    from davlo.core.resolve.trace import Candidate, Trace
    from davlo.core.site.source import Source
    from davlo.demo import open_demo, write_demo
    from davlo.site import Effective, Site, open_site

    from .core.change.difference import Difference
    from .core.change.steps import Change, ChangeError

__version__ = "0.1.0"

_HOMES = {
    "Access": "core.outcomes.access",
    "Candidate": "core.resolve.trace",
    "Change": "core.change.steps",
    "ChangeError": "core.change.steps",
    "Difference": "core.change.difference",
    "Effective": "site",
    "Fault": "core.faults",
    "Finding": "core.findings.finding",
    "PageSettings": "core.resolve.effective",
    "Place": "core.faults",
    "Report": "core.findings.check",
    "Site": "site",
    "SiteError": "core.faults",
    "Source": "core.site.source",
    "Trace": "core.resolve.trace",
    "UnknownName": "core.faults",
    "open_demo": "demo",
    "open_site": "site",
    "write_demo": "demo",
}
__all__ = [
    "Access",
    "Candidate",
    "Change",
    "ChangeError",
    "Difference",
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
