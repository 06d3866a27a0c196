"""Changes of a site: applied in memory, shown with what they do, written, taken back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Self

from davlo.questions import Questions
from davlo.write_results import Undoing, Written

if TYPE_CHECKING:
    import datetime

    from davlo.core.change.change_reach import ChangeReach
    from davlo.core.change.differences.comparison import Comparison
    from davlo.core.change.steps.change import Change
    from davlo.core.condense.condensing import Condensing
    from davlo.core.findings.finding import Finding
    from davlo.files.rewrite.line_edits import Edit
    from davlo.files.rewrite.ways import Way
    from davlo.files.store.write_records import WriteRecord


class Changes(Questions):
    """The calls that change a site: each gives another site, or writes; this site stays as it is."""

    def apply(self, change: Change) -> Self:
        """The site after a change; nothing is written, and this one stays as it is.

        Raises
        ------
        ChangeError
            If a step cannot be done.

        Example
        -------
        >>> import davlo
        >>> after = davlo.open_demo().apply(davlo.Change().say("menu.show", False, here="/visit/maps"))
        >>> after.resolve()["/visit/maps"]["menu.show"]
        False
        """
        from davlo.core.change.steps.apply import apply

        return apply(self, change)

    def reach(self, change: Change) -> ChangeReach:
        """What a change would do: the difference that it makes, and where it has no effect; nothing is written.

        Raises
        ------
        ChangeError
            If a step cannot be done.

        Example
        -------
        >>> import davlo
        >>> reach = davlo.open_demo().reach(davlo.Change().take_away("sidebar.right", below="/visit"))
        >>> reach.count(), reach.values()[0][:4]
        (23, ('/visit/tickets', 'sidebar.right', 'visit-planning', 'main'))
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.steps.apply import Applying
        from davlo.core.findings.check import new_and_gone

        applying = Applying(self, change)
        if applying.single is None:
            return ChangeReach(self.resolve(), applying.done().resolve(), change, new_and_gone)
        return ChangeReach(
            self.resolve(), lambda: applying.done().resolve(), change, new_and_gone, edit=applying.single
        )

    def difference(self, other: Self, when: Sequence[str] = ()) -> Comparison:
        """How another state of the site differs from this one, page by page, and why.

        Parameters
        ----------
        other : Site
            The later state.
        when : sequence of str
            Only pages that match these conditions in either state, written as for `pages_when`.

        Raises
        ------
        SiteError
            If a condition is not understood.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> found = site.difference(site.apply(davlo.Change().say("title.limit", 40, type="event")), ["below=/events"])
        >>> found.count(), found.causes[0].what
        (13, 'new')
        """
        from davlo.core.change.differences.comparison import Comparison
        from davlo.core.findings.check import new_and_gone

        among = (self.mask_when(when), other.mask_when(when)) if when else None
        return Comparison(self.resolve(), other.resolve(), new_and_gone, among)

    def edits(self, change: Change, today: datetime.date | None = None, *, is_written: bool = False) -> list[Edit]:
        """The edits of the site's files that a change comes to; nothing is written.

        Parameters
        ----------
        change : Change
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).
        is_written : bool
            Whether `write` gets them next. It reads the new files whole, so they are not parsed here.

        Raises
        ------
        ChangeError
            If a step cannot be done.
        CannotRewrite
            If the files cannot say it, or a file is no longer the one that was read.

        Example
        -------
        >>> import davlo
        >>> change = davlo.Change().say("sidebar.right", "main", below="/visit")
        >>> [(edit.file, edit.line) for edit in davlo.open_demo().edits(change)]
        [('davlo.yaml', 79)]
        """
        from davlo.files.rewrite.rewrite import rewrite

        return rewrite(self, self._own_folder, change, today, is_written)

    def write(
        self,
        change: Change | ChangeReach,
        *,
        by: str = "",
        even_so: bool = False,
        today: datetime.date | None = None,
        edits: Sequence[Edit] | None = None,
    ) -> Written[Self]:
        """Write a change into the site's files: whole, or not at all.

        Parameters
        ----------
        change : Change or ChangeReach
            A reach is used as it is, and not worked out again.
        by : str
            The person in whose name the change is made (default: the administrator).
        even_so : bool
            Whether to write the change although it brings about a finding of level error.
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).
        edits : sequence of Edit, optional
            What `edits` gave for this change, to save working it out again.

        Raises
        ------
        ChangeError
            If a step cannot be done.
        CannotRewrite
            If the files cannot say it, or a file was changed since it was read (`ChangedSince`).
        ChangeRefused
            If that person may not make the change, or the change brings about an error, or it changes nothing.
        SiteInUse
            If another process is writing the site.
        OSError
            If something cannot be written; the files are as they were.

        Example
        -------
        >>> import davlo, tempfile
        >>> with tempfile.TemporaryDirectory() as folder:
        ...     _ = davlo.write_demo(folder + "/garden")
        ...     site = davlo.open_site(folder + "/garden")
        ...     written = site.write(davlo.Change().say("sidebar.right", "main", below="/visit"))
        ...     back = written.site.undo()
        >>> written.record.sentence, written.site.resolve()["/visit/tickets"]["sidebar.right"]
        ('set sidebar.right to main below /visit', 'main')
        >>> back.site.resolve()["/visit/tickets"]["sidebar.right"]
        'visit-planning'
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.refused import ChangeRefused
        from davlo.core.outcomes.sitemap.addresses import moved_addresses
        from davlo.files.store.site_writes import write_edits

        reach = change if isinstance(change, ChangeReach) else self.reach(change)
        if by:
            self.check_may(reach, by)
        edits = self.edits(reach.change, today, is_written=True) if edits is None else edits
        if not edits:
            raise ChangeRefused("the files say so already: there is nothing to write")
        errors = () if even_so else reach.new_errors
        if errors:
            raise ChangeRefused("it would bring about an error", errors)
        sentence = reach.change.words
        moved = moved_addresses(self, reach.after.site, reach.published_elsewhere)
        record, site = write_edits(self, self._own_folder, edits, reach.after.site, sentence, by, moved)
        return Written(record, site)

    @property
    def _own_folder(self) -> Path:
        """The site folder.

        Raises
        ------
        ChangeRefused
            If the site is in none.
        """
        from davlo.core.change.refused import ChangeRefused

        if not self.folder:
            raise ChangeRefused("the site is in no folder, so there is nothing to write it to")
        return Path(self.folder)

    def check_may(self, change: Change | ChangeReach, who: str) -> None:
        """Make sure that a person may make a change: it is judged by the difference that it makes.

        Parameters
        ----------
        change : Change or ChangeReach
            A reach is used as it is, and not worked out again.
        who : str

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not; `missing` says what is missing.

        Example
        -------
        >>> import davlo
        >>> try:
        ...     davlo.open_demo().check_may(davlo.Change().say("menu.show", False, here="/visit/maps"), "owen.tarrant")
        ... except davlo.ChangeRefused as error:
        ...     print(error.missing[0].action, error.missing[0].pages)
        edit ('/visit/maps',)
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.refused import ChangeRefused
        from davlo.core.change.who_may_change import missing_rights

        missing = missing_rights(change if isinstance(change, ChangeReach) else self.reach(change), who)
        if missing:
            raise ChangeRefused(missing[0].reason, missing=missing)

    def ways(self, finding: Finding, today: datetime.date | None = None) -> list[Way]:
        """The ways to mend a finding, each a change that `reach` and `write` take; none where somebody must decide.

        Parameters
        ----------
        finding : Finding
            One that `check` gives for this site.
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> [way.words for way in site.ways(site.check().findings[0])]
        ['take away what is overruled', 'lift the lock']
        """
        from davlo.files.rewrite.ways import Mender

        return Mender(self.resolve(), self._own_folder, today).ways(finding)

    def condense(
        self,
        settings: Sequence[str] = (),
        *,
        in_branch: str | None = None,
        keep_here: bool = False,
        drop_reasons: bool = False,
    ) -> Condensing:
        """Find the fewest statements that give every page the values it has; nothing is written.

        Parameters
        ----------
        settings : sequence of str
            Only these (default: all).
        in_branch : str, optional
            Only what this page and the pages below it say.
        keep_here : bool
            Keep what single pages say of themselves.
        drop_reasons : bool
            Whether statements that give a reason may go, too.

        Returns
        -------
        Condensing
            The change, and for each setting that has fewer statements then how many.

        Raises
        ------
        UnknownName
            If there is no such setting or page.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> [(one.setting, one.before, one.after) for one in site.condense().settings]
        [('sitemap.changefreq', 10, 7)]
        """
        from davlo.core.condense.condensing import condensing
        from davlo.core.condense.free_statements import Intent

        page = None if in_branch is None else self.find_page(in_branch)
        branch = None if page is None else range(page, int(self.tree.end[page]))
        return condensing(self, settings, Intent(branch, keep_here, drop_reasons))

    def undo(self, *, by: str = "") -> Written[Self]:
        """Take the last write back; the write before it is then the last one.

        Parameters
        ----------
        by : str
            The person in whose name the write is taken back (default: the administrator): an admin, or the one who made
            the write.

        Returns
        -------
        Written
            The record of the write that was taken back, and the site as its files read now.

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not.
        CannotTakeBack
            If there is none, or its files were changed since.
        SiteInUse
            If another process is writing the site.
        OSError
            If something cannot be written; the files are as they were.
        """
        from davlo.files.store.site_writes import take_back

        if by:
            self.check_may_undo(by)
        record, site = take_back(self, self._own_folder, by)
        return Written(record, site)

    def check_may_undo(self, who: str) -> None:
        """Make sure that a person may take the last write back: an admin, or the one who made it and may undo it.

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not.
        """
        from davlo.core.change.refused import ChangeRefused
        from davlo.core.faults import UnknownName

        if not self.people.has(who):
            raise UnknownName("person", who, self.people.names)
        writes = self.writes()
        if writes and not self.people.is_admin(who) and writes[0].by != who:
            maker = writes[0].by or "the administrator"
            raise ChangeRefused(f"{who} may not take write {writes[0].number} back: it is by {maker}")
        if writes and not self.people.is_admin(who):
            self.check_may(self.undoing().reach, who)

    def writes(self) -> list[WriteRecord]:
        """The writes that can be taken back, the latest first.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().writes()
        []
        """
        from davlo.files.store.journal import Journal

        return Journal(Path(self.folder)).writes() if self.folder else []

    def undoing(self) -> Undoing:
        """What taking the last write back would do; nothing is written.

        Raises
        ------
        CannotTakeBack
            If there is none, or its files were changed since.
        ChangeRefused
            If the files could not be read then.
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.steps.change import Change
        from davlo.core.findings.check import new_and_gone
        from davlo.files.store.site_writes import read_with, taken_back

        back = taken_back(self._own_folder)
        before = read_with(self, self._own_folder, back.contents)
        reach = ChangeReach(self.resolve(), before.resolve(), Change(), new_and_gone)
        return Undoing(back.record, reach, back.edits)
