"""Davlo works out every page's effective settings, says where each came from, and reports what contradicts."""

from .core.effective import Effective, PageSettings
from .core.faults import Fault, Place, SiteError, UnknownName
from .core.findings import Finding, Report
from .core.site import Site
from .core.source import Source
from .core.trace import Candidate, Trace
from .demo import open_demo, write_demo
from .files.folder import open_site

__version__ = "0.1.0"
__all__ = [
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
