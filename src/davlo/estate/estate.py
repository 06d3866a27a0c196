"""The estate as a library user holds it."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from davlo.core.cached import cached_property
from davlo.core.change.refused import ChangeRefused
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import shown
from davlo.core.wording import count
from davlo.files.read.estate.estate_file import EstateFile, SiteFolder, read_estate_file, site_folders
from davlo.files.read.site_folder import read_house
from davlo.files.read.yaml.includes import SharedFile
from davlo.files.store.site_writes import read_steadily, recover, write_edits
from davlo.site import Site

from . import site_answers
from .estate_reach import EstateReach
from .site_answers import Question, SiteFindings, Told
from .workers import ask_all

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change
    from davlo.files.rewrite.line_edits import Edit
    from davlo.files.store.write_records import WriteRecord


class EstateFinding(NamedTuple):
    """Something that only shows across sites.

    Attributes
    ----------
    kind : str
        `overridden-by-all`: every site says the same instead of a default of the house style. `unused-by-all`: no site
        uses a shared declaration.
    level : str
        `note`.
    setting : str or None
    message, fix : str
    """

    kind: str
    level: str
    setting: str | None
    message: str
    fix: str

    def as_json(self) -> dict[str, object]:
        """The finding as JSON holds it, in the form of those of sites."""
        return {**self._asdict(), "name": "", "pages": [], "statements": []}


def open_estate(folder: str | Path) -> Estate:
    """Read an estate: the folder that holds estate.yaml.

    Parameters
    ----------
    folder : str or Path

    Raises
    ------
    SiteError
        If estate.yaml cannot be understood.

    Example
    -------
    >>> import davlo
    >>> try:
    ...     davlo.open_estate("no-such-folder")
    ... except davlo.SiteError as error:
    ...     print(error.faults[0].what)
    there is no estate.yaml in no-such-folder
    """
    return Estate(read_estate_file(Path(folder)))


class Estate:
    """Several sites that begin with the same declarations and defaults.

    Each call asks all sites. The answer of a site that cannot be read holds its `faults`; the others are answered.

    Attributes
    ----------
    folder : Path
    name : str
    scheduler : str
        The address of a Dask scheduler that does the work; empty: this machine's cores.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     _ = davlo.write_demo_estate(folder + "/gardens")
    ...     estate = davlo.open_estate(folder + "/gardens")
    ...     told = {one.name: one.answer.pages for one in estate.overview()}
    >>> estate.name, told
    ('Quillmere gardens', {'branches/fernhurst': 9, 'branches/saltmarsh': 7, 'garden': 158})
    """

    def __init__(self, file: EstateFile, scheduler: str = "") -> None:
        self._file, self.scheduler = file, scheduler
        self.folder, self.name = file.folder, file.name

    def __repr__(self) -> str:
        return f"<Estate {self.name!r}: {count(len(self.sites), 'site')}>"

    @cached_property
    def _folders(self) -> list[SiteFolder]:
        return site_folders(self._file)

    @property
    def sites(self) -> tuple[str, ...]:
        """The sites, by their folders."""
        return tuple(one.name for one in self._folders)

    def site(self, name: str) -> Site:
        """One of the sites.

        Raises
        ------
        SiteError
            If a file of it cannot be understood.
        """
        return site_answers.opened(self._file, name)

    @property
    def house(self) -> Site:
        """What the shared files say, as a site with nothing but a home page: declarations and defaults.

        Raises
        ------
        SiteError
            If a shared file cannot be understood.
        """
        recover(self.folder)
        shared = [SharedFile(self.folder, name, name) for name in self._file.shared]
        return read_steadily(self.folder, lambda: read_house(shared, self.name, Site, str(self.folder)))

    def _ask(self, question: Question, *words: Any) -> Iterator[Told]:
        return ask_all(self._file, self._folders, question, *words, scheduler=self.scheduler)

    def overview(self, today: datetime.date | None = None) -> Iterator[Told]:
        """Each site in numbers: the answers are `SiteOverview`, in the order of the sites."""
        return self._ask(site_answers.overview, today or _today())

    def check(self, today: datetime.date | None = None) -> Iterator[Told]:
        """The findings of each site: the answers are `SiteFindings`, in the order of the sites."""
        return self._ask(site_answers.findings, today or _today())

    def across(self, sites: Sequence[SiteFindings]) -> list[EstateFinding]:
        """What only shows across sites, from what `check` gives for all of them; nothing for fewer than two sites."""
        if len(sites) < 2:
            return []
        house, found = self.house, []
        for number in site_answers.house_settings(house):
            name = house.catalogue[number].name
            said = {one.everywhere.get(name) for one in sites}
            row = house.statements.find(number, ScopeKind.ESTATE, 0)
            if len(said) == 1 and None not in said and row >= 0:
                (value,), place = said, house.statements.place(row)
                ours = shown(house.statements.said(row)) or "empty"
                told = f"all {len(sites)} sites say {name}: {value or 'empty'} everywhere"
                message = f"{told}; the house style says {ours} ({place})"
                fix = f"let the house style say it (davlo estate set {name}=VALUE), then take it away from each site"
                found.append(EstateFinding("overridden-by-all", "note", name, message, fix))
        for kind, name in sorted(frozenset.intersection(*(one.unused for one in sites))):
            place = next(one.place for one in house.declared(kind) if one.name == name)
            message = f"no site uses the shared {kind} {name} ({place})"
            fix = f"take it away: davlo estate declare {kind} {name} --drop"
            found.append(EstateFinding("unused-by-all", "note", None, message, fix))
        return found

    def export(self, to: str | Path) -> Iterator[Told]:
        """Write the values and sources of all sites as a Parquet dataset: one file a site, with a column `site`.

        The answers are the numbers of pages. Files are written as the answers are taken.
        """
        return self._ask(site_answers.export, str(Path(to).resolve()))

    def compare(self, state: str, form: str = "text") -> Iterator[Told]:
        """How each site differs from an earlier state, a revision of git: the answers are `SiteChange`."""
        return self._ask(site_answers.compared, state, form)

    def report(self, to: str | Path, today: datetime.date | None = None) -> Iterator[Told]:
        """Write a report for each site; the answers are its name, pages, errors and warnings."""
        return self._ask(site_answers.report, str(Path(to).resolve()), today or _today())

    def reach(self, change: Change, form: str = "text") -> EstateReach:
        """What a change of the shared files would do to every site; nothing is written.

        Parameters
        ----------
        change : Change
            Steps in the scope `Scope.estate()`, and about declarations.
        form : str
            `text`, `csv` or `json`: what the record of each site holds.

        Raises
        ------
        ChangeError
            If a step cannot be done.
        CannotRewrite
            If the files cannot say it.
        """
        house = self.house
        edits = house.edits(change)
        return EstateReach(change, tuple(edits), self._ask(site_answers.reach, change, self._contents(edits), form))

    def _contents(self, edits: list[Edit]) -> Mapping[str, bytes]:
        """What the shared files that change would hold."""
        from davlo.files.read.site_file import read_site_file
        from davlo.files.rewrite.line_edits import edited

        names = dict.fromkeys(edit.file for edit in edits)
        return {
            name: edited(read_site_file(self.folder, name), [edit for edit in edits if edit.file == name])
            for name in names
        }

    def write(self, reach: EstateReach, *, even_so: bool = False) -> WriteRecord:
        """Write a change into the shared files: whole, or not at all.

        Parameters
        ----------
        reach : EstateReach
            What `reach` gave.
        even_so : bool
            Whether to write although it brings about a finding of level error in some site.

        Raises
        ------
        ChangeRefused
            If some site cannot be read, before or after; if it brings about an error, or changes nothing.
        """
        if reach.unread:
            one = reach.unread[0]
            raise ChangeRefused(f"the site {one.name}: {one.faults[0]}")
        if not reach.edits:
            raise ChangeRefused("the files say so already: there is nothing to write")
        if reach.errors and not even_so:
            name, message = reach.errors[0]
            raise ChangeRefused(f"it would bring about an error in {name}: {message}")
        house = self.house
        after = house.apply(reach.change)
        record, _ = write_edits(house, self.folder, reach.edits, after, reach.change.words)
        return record

    def undo(self) -> WriteRecord:
        """Take the last write of the shared files back.

        Raises
        ------
        CannotTakeBack
            If there is none, or its files were changed since.
        """
        return self.house.undo().record


def _today() -> datetime.date:
    return datetime.datetime.now().astimezone().date()
