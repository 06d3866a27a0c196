"""Davlo works out every page's effective settings, says where each came from, and reports what contradicts.

The names below are imported when they are first used, so that a small answer comes at once.
"""

TYPE_CHECKING = False  # `typing` is imported only where it is needed, and never from a folder in which somebody stands
if TYPE_CHECKING:
    from davlo import draw as draw
    from davlo.access import Access as Access
    from davlo.as_built.built_comparison import BuiltComparison as BuiltComparison
    from davlo.core.change.change_reach import ChangeReach as ChangeReach
    from davlo.core.change.differences.comparison import Comparison as Comparison
    from davlo.core.change.differences.difference import Difference as Difference
    from davlo.core.change.differences.difference_rows import AccessRow as AccessRow
    from davlo.core.change.differences.difference_rows import LockChange as LockChange
    from davlo.core.change.differences.difference_rows import OutcomeChange as OutcomeChange
    from davlo.core.change.differences.difference_rows import OutcomeRow as OutcomeRow
    from davlo.core.change.differences.difference_rows import ReachNumbers as ReachNumbers
    from davlo.core.change.differences.difference_rows import SettingDifference as SettingDifference
    from davlo.core.change.differences.difference_rows import ShownRow as ShownRow
    from davlo.core.change.differences.difference_rows import ValueRow as ValueRow
    from davlo.core.change.differences.viewer_difference import RightsOnPages as RightsOnPages
    from davlo.core.change.differences.viewer_difference import ViewerDifference as ViewerDifference
    from davlo.core.change.no_effect import NoEffect as NoEffect
    from davlo.core.change.refused import ChangeRefused as ChangeRefused
    from davlo.core.change.steps.change import Change as Change
    from davlo.core.change.steps.change import ChangeError as ChangeError
    from davlo.core.condense.condensing import Condensing as Condensing
    from davlo.core.faults import DavloError as DavloError
    from davlo.core.faults import Fault as Fault
    from davlo.core.faults import Place as Place
    from davlo.core.faults import SiteError as SiteError
    from davlo.core.faults import UnknownName as UnknownName
    from davlo.core.faults import ValueFault as ValueFault
    from davlo.core.findings.check import Report as Report
    from davlo.core.findings.finding import Finding as Finding
    from davlo.core.outcomes.access.access_changes import AccessChange as AccessChange
    from davlo.core.outcomes.access.access_model import Decision as Decision
    from davlo.core.outcomes.access.access_model import Grant as Grant
    from davlo.core.outcomes.area_fits import AreaFits as AreaFits
    from davlo.core.outcomes.declaration_list import Declaration as Declaration
    from davlo.core.outcomes.link_lists import LinkList as LinkList
    from davlo.core.outcomes.link_lists import ListedLink as ListedLink
    from davlo.core.outcomes.page_outcomes import Outcomes as Outcomes
    from davlo.core.outcomes.shown_values import ShownValues as ShownValues
    from davlo.core.records.record import PageRecord as PageRecord
    from davlo.core.records.settings_of_page import SettingOfPage as SettingOfPage
    from davlo.core.records.viewpoint_results import ViewpointDifference as ViewpointDifference
    from davlo.core.records.viewpoint_results import ViewpointResult as ViewpointResult
    from davlo.core.resolve.effective import PageSettings as PageSettings
    from davlo.core.resolve.exception_causes import ExceptionCause as ExceptionCause
    from davlo.core.resolve.exceptions import PageException as PageException
    from davlo.core.resolve.exceptions import PageExceptions as PageExceptions
    from davlo.core.resolve.statement_uses import StatementUse as StatementUse
    from davlo.core.resolve.trace import Candidate as Candidate
    from davlo.core.resolve.trace import Trace as Trace
    from davlo.core.site.settings.scopes import Scope as Scope
    from davlo.core.site.source import Source as Source
    from davlo.demo import open_demo as open_demo
    from davlo.demo import write_demo as write_demo
    from davlo.demo import write_demo_estate as write_demo_estate
    from davlo.effective import Effective as Effective
    from davlo.estate.estate import Estate as Estate
    from davlo.estate.estate import EstateFinding as EstateFinding
    from davlo.estate.estate import open_estate as open_estate
    from davlo.estate.estate_reach import EstateReach as EstateReach
    from davlo.estate.site_answers import SiteChange as SiteChange
    from davlo.estate.site_answers import SiteFindings as SiteFindings
    from davlo.estate.site_answers import SiteOverview as SiteOverview
    from davlo.estate.site_answers import Told as Told
    from davlo.estate.workers import NoScheduler as NoScheduler
    from davlo.files.announce.announcement import Announcement as Announcement
    from davlo.files.output.publication import HidesNoindex as HidesNoindex
    from davlo.files.output.publication import Publication as Publication
    from davlo.files.output.publication import WritesOverOthers as WritesOverOthers
    from davlo.files.read.git.git_process import RevisionFault as RevisionFault
    from davlo.files.rewrite.cannot_rewrite import CannotRewrite as CannotRewrite
    from davlo.files.rewrite.cannot_rewrite import ChangedSince as ChangedSince
    from davlo.files.rewrite.line_edits import Edit as Edit
    from davlo.files.rewrite.ways import Way as Way
    from davlo.files.store.site_writes import CannotTakeBack as CannotTakeBack
    from davlo.files.store.unbelieved import UnfinishedWrite as UnfinishedWrite
    from davlo.files.store.user_key import NoKey as NoKey
    from davlo.files.store.write_lock import SiteInUse as SiteInUse
    from davlo.files.store.write_records import WriteRecord as WriteRecord
    from davlo.report.report_data import TooManyPages as TooManyPages
    from davlo.site import Site as Site
    from davlo.site import open_site as open_site
    from davlo.start import start_site as start_site
    from davlo.start.from_sources import start_site_from as start_site_from
    from davlo.start.refresh import Refresh as Refresh
    from davlo.start.refresh import refresh_change as refresh_change
    from davlo.start.site_from_seen import StartedSite as StartedSite
    from davlo.write_results import Undoing as Undoing
    from davlo.write_results import Written as Written

__version__ = "0.1.0"
_HOMES = {
    "Access": "access",
    "AccessChange": "core.outcomes.access.access_changes",
    "AccessRow": "core.change.differences.difference_rows",
    "Announcement": "files.announce.announcement",
    "AreaFits": "core.outcomes.area_fits",
    "BuiltComparison": "as_built.built_comparison",
    "Candidate": "core.resolve.trace",
    "CannotRewrite": "files.rewrite.cannot_rewrite",
    "CannotTakeBack": "files.store.site_writes",
    "Change": "core.change.steps.change",
    "ChangeError": "core.change.steps.change",
    "ChangeReach": "core.change.change_reach",
    "ChangeRefused": "core.change.refused",
    "ChangedSince": "files.rewrite.cannot_rewrite",
    "Comparison": "core.change.differences.comparison",
    "Condensing": "core.condense.condensing",
    "DavloError": "core.faults",
    "Decision": "core.outcomes.access.access_model",
    "Declaration": "core.outcomes.declaration_list",
    "Difference": "core.change.differences.difference",
    "Edit": "files.rewrite.line_edits",
    "Effective": "effective",
    "Estate": "estate.estate",
    "EstateFinding": "estate.estate",
    "EstateReach": "estate.estate_reach",
    "ExceptionCause": "core.resolve.exception_causes",
    "Fault": "core.faults",
    "Finding": "core.findings.finding",
    "Grant": "core.outcomes.access.access_model",
    "HidesNoindex": "files.output.publication",
    "LinkList": "core.outcomes.link_lists",
    "ListedLink": "core.outcomes.link_lists",
    "LockChange": "core.change.differences.difference_rows",
    "NoEffect": "core.change.no_effect",
    "NoScheduler": "estate.workers",
    "NoKey": "files.store.user_key",
    "OutcomeChange": "core.change.differences.difference_rows",
    "OutcomeRow": "core.change.differences.difference_rows",
    "Outcomes": "core.outcomes.page_outcomes",
    "PageException": "core.resolve.exceptions",
    "PageExceptions": "core.resolve.exceptions",
    "PageSettings": "core.resolve.effective",
    "PageRecord": "core.records.record",
    "Place": "core.faults",
    "Publication": "files.output.publication",
    "ReachNumbers": "core.change.differences.difference_rows",
    "Refresh": "start.refresh",
    "Report": "core.findings.check",
    "RevisionFault": "files.read.git.git_process",
    "RightsOnPages": "core.change.differences.viewer_difference",
    "Scope": "core.site.settings.scopes",
    "SettingDifference": "core.change.differences.difference_rows",
    "SettingOfPage": "core.records.settings_of_page",
    "ShownRow": "core.change.differences.difference_rows",
    "ShownValues": "core.outcomes.shown_values",
    "Site": "site",
    "SiteChange": "estate.site_answers",
    "SiteError": "core.faults",
    "SiteInUse": "files.store.write_lock",
    "SiteFindings": "estate.site_answers",
    "SiteOverview": "estate.site_answers",
    "Source": "core.site.source",
    "StartedSite": "start.site_from_seen",
    "StatementUse": "core.resolve.statement_uses",
    "Told": "estate.site_answers",
    "TooManyPages": "report.report_data",
    "Trace": "core.resolve.trace",
    "Undoing": "write_results",
    "UnfinishedWrite": "files.store.unbelieved",
    "UnknownName": "core.faults",
    "ValueFault": "core.faults",
    "ValueRow": "core.change.differences.difference_rows",
    "ViewerDifference": "core.change.differences.viewer_difference",
    "ViewpointDifference": "core.records.viewpoint_results",
    "ViewpointResult": "core.records.viewpoint_results",
    "Way": "files.rewrite.ways",
    "WriteRecord": "files.store.write_records",
    "WritesOverOthers": "files.output.publication",
    "Written": "write_results",
    "open_demo": "demo",
    "open_estate": "estate.estate",
    "open_site": "site",
    "refresh_change": "start.refresh",
    "start_site": "start",
    "start_site_from": "start.from_sources",
    "write_demo": "demo",
    "write_demo_estate": "demo",
}
__all__ = sorted([*_HOMES, "draw"])


def __getattr__(name: str) -> object:
    if name not in __all__:
        raise AttributeError(f"module 'davlo' has no attribute {name!r}")
    from importlib import import_module

    module = import_module(f"davlo.{_HOMES.get(name, name)}")
    found = globals()[name] = getattr(module, name) if name in _HOMES else module
    return found


def __dir__() -> list[str]:
    return [*__all__, "__version__"]
