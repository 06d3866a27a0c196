"""Davlo works out every page's effective settings, says where each came from, and reports what contradicts.

The names below are imported when they are first used, so that a small answer comes at once.
"""

import os
import sys

if sys.argv[:1] == ["-m"] and not sys.flags.safe_path and sys.path[0] != os.path.dirname(os.path.dirname(__file__)):
    del sys.path[0]  # `python -m davlo` in a site folder imports no module that lies there

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from davlo.access import Access
    from davlo.core.faults import Fault, Place, SiteError, UnknownName
    from davlo.core.findings.check import Report
    from davlo.core.findings.finding import Finding
    from davlo.core.resolve.effective import PageSettings
    from davlo.core.resolve.trace import Candidate, Trace
    from davlo.core.site.source import Source
    from davlo.demo import open_demo, write_demo
    from davlo.effective import Effective
    from davlo.site import Site, open_site
    from davlo.start import start_site
    from davlo.start.from_sources import start_site_from
    from davlo.start.site_from_seen import StartedSite

    from .core.change.change_reach import ChangeReach
    from .core.change.difference import Difference
    from .core.change.difference_rows import ValueRow
    from .core.change.refused import ChangeRefused
    from .core.change.steps import Change, ChangeError
    from .core.condense.condensing import Condensing
    from .core.outcomes.access import Decision, Grant
    from .core.outcomes.access_changes import AccessChange
    from .core.outcomes.area_fits import AreaFits
    from .core.outcomes.areas import Composition
    from .core.outcomes.declaration_list import Declaration
    from .core.outcomes.link_lists import LinkList, ListedLink
    from .core.outcomes.page_outcomes import Outcomes, PageOutcomes
    from .core.outcomes.page_view import PageView
    from .core.outcomes.viewpoint_results import ViewpointDifference, ViewpointResult
    from .core.resolve.exception_causes import ExceptionCause
    from .core.resolve.exceptions import PageException, PageExceptions
    from .core.resolve.statement_uses import StatementUse
    from .core.site.scopes import Scope

__version__ = "0.1.0"

_HOMES = {
    "Access": "access",
    "AccessChange": "core.outcomes.access_changes",
    "AreaFits": "core.outcomes.area_fits",
    "Candidate": "core.resolve.trace",
    "Change": "core.change.steps",
    "ChangeReach": "core.change.change_reach",
    "ChangeRefused": "core.change.refused",
    "ChangeError": "core.change.steps",
    "Composition": "core.outcomes.areas",
    "Decision": "core.outcomes.access",
    "Declaration": "core.outcomes.declaration_list",
    "PageException": "core.resolve.exceptions",
    "ExceptionCause": "core.resolve.exception_causes",
    "PageExceptions": "core.resolve.exceptions",
    "Difference": "core.change.difference",
    "Effective": "effective",
    "Fault": "core.faults",
    "Finding": "core.findings.finding",
    "Grant": "core.outcomes.access",
    "LinkList": "core.outcomes.link_lists",
    "ListedLink": "core.outcomes.link_lists",
    "Outcomes": "core.outcomes.page_outcomes",
    "PageOutcomes": "core.outcomes.page_outcomes",
    "PageSettings": "core.resolve.effective",
    "PageView": "core.outcomes.page_view",
    "Place": "core.faults",
    "ViewpointDifference": "core.outcomes.viewpoint_results",
    "ViewpointResult": "core.outcomes.viewpoint_results",
    "Report": "core.findings.check",
    "Scope": "core.site.scopes",
    "Site": "site",
    "SiteError": "core.faults",
    "Source": "core.site.source",
    "StatementUse": "core.resolve.statement_uses",
    "Condensing": "core.condense.condensing",
    "Trace": "core.resolve.trace",
    "UnknownName": "core.faults",
    "ValueRow": "core.change.difference_rows",
    "open_demo": "demo",
    "open_site": "site",
    "StartedSite": "start.site_from_seen",
    "start_site": "start",
    "start_site_from": "start.from_sources",
    "write_demo": "demo",
}
__all__ = [
    "Access",
    "AccessChange",
    "AreaFits",
    "Candidate",
    "Change",
    "ChangeError",
    "ChangeReach",
    "ChangeRefused",
    "Composition",
    "Condensing",
    "Decision",
    "Declaration",
    "Difference",
    "Effective",
    "ExceptionCause",
    "Fault",
    "Finding",
    "Grant",
    "LinkList",
    "ListedLink",
    "Outcomes",
    "PageException",
    "PageExceptions",
    "PageOutcomes",
    "PageSettings",
    "PageView",
    "Place",
    "Report",
    "Scope",
    "Site",
    "SiteError",
    "Source",
    "StartedSite",
    "StatementUse",
    "Trace",
    "UnknownName",
    "ValueRow",
    "ViewpointDifference",
    "ViewpointResult",
    "open_demo",
    "open_site",
    "start_site",
    "start_site_from",
    "write_demo",
]


def __getattr__(name: str) -> object:
    if name not in _HOMES:
        raise AttributeError(f"module 'davlo' has no attribute {name!r}")
    found = globals()[name] = getattr(import_module(f"davlo.{_HOMES[name]}"), name)
    return found


def __dir__() -> list[str]:
    return [*__all__, "__version__"]
