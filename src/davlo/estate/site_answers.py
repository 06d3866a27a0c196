"""What one site of an estate answers: each function takes the site's folder, so that any worker can run it."""

from __future__ import annotations

import datetime
import tempfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from davlo.core.change.differences.comparison import PARTS, Comparison
from davlo.core.change.differences.difference_rows import ReachNumbers
from davlo.core.change.refused import ChangeRefused
from davlo.core.change.steps.change import Change, StatementStep
from davlo.core.condense.free_statements import FreeStatements, Intent
from davlo.core.faults import DavloError, SiteError
from davlo.core.site.declarations import SECTIONS
from davlo.core.site.mentions import Mentions
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import shown
from davlo.effective import Effective
from davlo.files.read.estate.estate_above import shared_files
from davlo.files.read.estate.estate_file import EstateFile, SiteFolder
from davlo.files.read.site_folder import read_folder
from davlo.files.read.yaml.includes import SharedFile
from davlo.files.store.site_writes import read_steadily, recover
from davlo.files.store.whole_files import write_whole
from davlo.site import Site

STRONGER = tuple(kind for kind in ScopeKind if kind > ScopeKind.ESTATE)
Question = Callable[..., Any]


class Told(NamedTuple):
    """What came of asking a site: its name, and the answer; or why there is none."""

    name: str
    answer: Any = None
    faults: tuple[str, ...] = ()


class SiteOverview(NamedTuple):
    """One site of an estate in numbers.

    Attributes
    ----------
    pages, errors, warnings : int
    exceptions : int
        How many pages are exceptions on some setting.
    differs : tuple of str
        The settings of the house style that have another value on some page.
    """

    pages: int
    errors: int
    warnings: int
    exceptions: int
    differs: tuple[str, ...]


class SiteFindings(NamedTuple):
    """The findings of one site of an estate, and what only counts together with other sites.

    Attributes
    ----------
    findings : list of dict
        As JSON holds them.
    accepted : int
        How many more are accepted.
    everywhere : dict of str to str
        What the site itself says everywhere of settings of the house style, in words.
    unused : frozenset of (kind, name)
        Shared declarations that the site does not use.
    """

    findings: list[dict[str, Any]]
    accepted: int
    everywhere: Mapping[str, str]
    unused: frozenset[tuple[str, str]]


class SiteChange(NamedTuple):
    """How a site differs between two states: in numbers and in a sentence, and as programs read it.

    `changes`: whether anything differs, declarations and findings too. `errors`: the messages of findings of level
    error that are new. `record`: the difference as JSON holds it, or its rows, as was asked for.
    """

    changes: bool
    numbers: ReachNumbers
    sentence: str
    lines: tuple[str, ...]
    errors: tuple[str, ...]
    record: Any = None


def ask(estate: EstateFile, site: SiteFolder, work: Question, *words: Any) -> Told:
    """Ask a site. If it cannot be read or the answer fails, the faults say why, and other sites can still be asked."""
    if site.fault:
        return Told(site.name, None, (site.fault,))
    try:
        return Told(site.name, work(estate, site.name, *words))
    except SiteError as error:
        return Told(site.name, None, tuple(f"{fault.place}: {fault.what}" for fault in error.faults))
    except (DavloError, ValueError) as error:
        return Told(site.name, None, (str(error),))
    except OSError as error:
        return Told(site.name, None, (f"{error.filename or site.name}: {error.strerror or error}",))
    except Exception as error:  # the others are answered all the same
        return Told(site.name, None, (f"a fault of Davlo's own: {type(error).__name__}: {error}",))


def opened(estate: EstateFile, name: str, shared: list[SharedFile] | None = None) -> Site:
    """A site of an estate; `shared`: the files that it begins with (default: those of the estate)."""
    folder = estate.folder / name
    begins = shared_files(estate, name) if shared is None else shared
    recover(folder)
    return read_steadily(folder, lambda: read_folder(folder, Site, begins))


def overview(estate: EstateFile, name: str, today: datetime.date) -> SiteOverview:
    """The site in numbers."""
    site = opened(estate, name)
    effective, report = site.resolve(), site.check(today)
    pages = np.zeros(len(site.tree), dtype=bool)
    for setting in site.catalogue.settings:
        pages[effective.exceptions(setting.name).pages] = True
    house = house_settings(site)
    return SiteOverview(
        len(site.tree),
        report.count("error"),
        report.count("warning"),
        int(np.count_nonzero(pages)),
        tuple(site.catalogue[number].name for number in house if _differs(effective, number)),
    )


def house_settings(site: SiteModel) -> list[int]:
    """The settings that the estate says, by their numbers in a site."""
    said = site.statements.scope == ScopeKind.ESTATE
    numbers: list[int] = np.unique(site.statements.setting[said]).tolist()
    return numbers


def _differs(effective: Effective, number: int) -> bool:
    """Whether some page has another value than the house style gives it."""
    site, now = effective.site, effective.resolved(number)
    house = FreeStatements(effective, number, Intent()).resolved_without(STRONGER)
    if now.words == house.words:
        differs = now.value != house.value
    else:
        mine = np.array([now.words.index(word) if word in now.words else -1 for word in house.words])
        differs = now.value != mine[house.value]
    return bool((differs & site.has(number)).any())


def _said_everywhere(site: SiteModel, number: int) -> str | None:
    row = site.statements.find(number, ScopeKind.EVERYWHERE, 0)
    return None if row < 0 else shown(site.statements.said(row))


def _unused(site: Site) -> set[tuple[str, str]]:
    """Shared declarations that nothing of the site names; of a type those without pages."""
    shared, mentions = site.file_notes.shared, Mentions(site)
    kinds = {kind: site.declarations.of(kind) for kind in SECTIONS} if shared else {}
    found = {(kind, name) for kind, some in kinds.items() for name, one in some.items() if one.place.file in shared}
    found = {one for one in found if not mentions.names(*one)}
    with_pages = site.types.with_pages(site.details.type_of)
    for name, declared in site.types.declared.items():
        if declared.place.file in shared and not with_pages[site.types.find(name)]:
            found.add(("type", name))
    return found


def findings(estate: EstateFile, name: str, today: datetime.date) -> SiteFindings:
    """The findings of a site, and what only counts together with other sites."""
    site = opened(estate, name)
    report, house = site.check(today), house_settings(site)
    said = {
        site.catalogue[number].name: said for number in house if (said := _said_everywhere(site, number)) is not None
    }
    return SiteFindings(
        [one.as_json() for one in report.findings], len(report.accepted), said, frozenset(_unused(site))
    )


def export(estate: EstateFile, name: str, to: str) -> int:
    """Write the values and sources of a site as one part of a Parquet dataset; gives the number of its pages."""
    from davlo.frames.parquet import write_parquet

    effective = opened(estate, name).resolve()
    path = Path(to) / f"{name}.parquet"
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, lambda part: write_parquet(effective, False, part, site=name))
    return len(effective.site.tree)


def compared(estate: EstateFile, name: str, state: str, form: str) -> SiteChange:
    """How a site differs from an earlier state, a revision of git."""
    site = opened(estate, name)
    return _change(site.open_state(state).difference(site), form, state)


def reach(estate: EstateFile, name: str, change: Change, contents: Mapping[str, bytes], form: str) -> SiteChange:
    """How a site would differ after a change of the shared files; `contents`: what they would hold then.

    Statements are put into the site that was read: it keeps its page list, so little has to be worked out again. Only
    reading tells what a declaration means beside those of the site.
    """
    before = opened(estate, name)
    if all(isinstance(step, StatementStep) for step in change.steps):
        after = before.apply(change)
    else:
        after = _read_with(estate, name, contents)
    return _change(before.difference(after), form, "today's files")


def _read_with(estate: EstateFile, name: str, contents: Mapping[str, bytes]) -> Site:
    """A site whose shared files hold something else; raises ChangeRefused if it cannot be read then."""
    with tempfile.TemporaryDirectory(prefix="davlo-") as folder:
        shared = []
        for number, file in enumerate(shared_files(estate, name)):
            if file.name in contents:
                new = Path(folder) / f"{number}.yaml"
                new.write_bytes(contents[file.name])
                file = SharedFile(Path(folder), new.name, file.label)
            shared.append(file)
        try:
            return opened(estate, name, shared)
        except SiteError as error:
            fault = error.faults[0]
            raise ChangeRefused(f"it could not be read after this change: {fault.place}: {fault.what}") from None


def _change(found: Comparison, form: str, earlier: str) -> SiteChange:
    from davlo.words.comparison import comparison_sections, comparison_title

    parts = ("values", "access", "pages", "declarations", "findings")
    sections = comparison_sections(found, parts, earlier) if form == "text" else []
    lines = [f"{one.title}: {line}" for one in sections for line in one.lines]
    lines += [f"{one.title}: {finding.level} {finding.message}" for one in sections for finding in one.findings]
    errors = tuple(finding.message for finding in found.new_errors)
    sentence = comparison_title("", "", found)[1]
    changes = any(found.differs_in(part) for part in PARTS)
    return SiteChange(changes, found.numbers, sentence, tuple(lines), errors, _record(found, form))


def _record(found: Comparison, form: str) -> Any:
    if form == "text":
        return None
    from davlo.frames.difference_tables import comparison_record, difference_rows

    return [*difference_rows(found)] if form == "csv" else comparison_record(found)


def report(estate: EstateFile, name: str, to: str, today: datetime.date) -> tuple[str, int, int, int]:
    """Write the report of a site; gives its name, its pages, its errors and its warnings."""
    site = opened(estate, name)
    found = site.check(today)
    html = site.report(today=today, findings=found)
    path = Path(to) / f"{name}.html"
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, html.encode())
    return site.name, len(site.tree), found.count("error"), found.count("warning")
