"""Changes of a site written into its files, and taken back: read again before anything is put into its place."""

from __future__ import annotations

import datetime
import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple, TypeVar

from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.refused import ChangeRefused
from davlo.core.faults import DavloError, SiteError
from davlo.core.site.model import SiteModel

from ..read.digests import digest_of
from ..read.estate.estate_above import shared_above
from ..read.site_file import open_site_file, path_inside, read_site_file
from ..read.site_folder import read_folder, read_house
from ..read.yaml.includes import FIRST, SharedFile
from ..read.yaml.node_reader import Reader
from ..rewrite.cannot_rewrite import CannotRewrite, ChangedSince
from ..rewrite.line_edits import Edit, edited, reversed_edits
from .outputs import ALWAYS_READ
from .site_journal import SiteJournal
from .unbelieved import ready_to_write
from .write_lock import write_lock
from .write_records import FileChange, LineEdit, WriteRecord, packed

Model = TypeVar("Model", bound=SiteModel)
BLOCK = 1 << 24
Contents = Mapping[str, "bytes | None"]


class CannotTakeBack(DavloError):
    """A write that cannot be taken back; the message says why."""


class TakenBack(NamedTuple):
    """The last write taken back, in memory."""

    record: WriteRecord  # the write
    edits: tuple[Edit, ...]  # what takes it back
    contents: Contents  # what each of its files would hold; None if it would go


def recover(folder: Path) -> tuple[WriteRecord, bool] | None:
    """Finish an unfinished write, or take it back; None if there is none, or if another process is still writing.

    Returns the write, and whether it was finished. Raises OSError if that cannot be done.
    """
    journal = SiteJournal(folder)
    if not journal.is_own():
        return None
    with write_lock(folder):
        return journal.recover()


@contextmanager
def _ready(folder: Path) -> Iterator[SiteJournal]:
    """The journal of a site folder, with nothing unfinished in it, and the lock held."""
    with write_lock(folder):
        journal = SiteJournal(folder)
        journal.recover()
        ready_to_write(folder)
        yield journal


def write_edits(
    site: Model,
    folder: Path,
    edits: Sequence[Edit],
    after: SiteModel,
    sentence: str,
    by: str = "",
    moved: Sequence[tuple[str, str]] = (),
) -> tuple[WriteRecord, Model]:
    """Write the edits of a change into the files of a site.

    `site`: as it was read from the folder. `after`: what the change makes of the site: what the new files must say.
    `sentence`: what the change does, for the record. `by`: the person in whose name it is made; empty for the
    administrator. `moved`: the old and the new addresses of the pages that the change moves, for the record. Returns
    the record, and the site as it reads now. Raises ChangeRefused if the new files would say something else than the
    change; ChangedSince if a file is no longer the one that was read; SiteInUse if another process is writing the site;
    OSError if something cannot be written.
    """
    with _ready(folder) as journal:
        _check_unchanged(site, folder)
        names = list(dict.fromkeys(edit.file for edit in edits))
        before = {name: _content(folder, name) for name in names}
        contents: dict[str, bytes | None] = {}
        changes = []
        for name in names:
            mine, old = [edit for edit in edits if edit.file == name], before[name]
            new = edited(old or b"", mine)
            if edited(new, reversed_edits(mine)) != (old or b""):
                raise ChangeRefused(f"{name} could not be brought back to what it is: nothing was written")
            contents[name] = new
            lines = tuple(LineEdit(edit.line, edit.old, edit.new) for edit in mine)
            changes.append(FileChange(name, _sha(old), _sha(new), lines, packed(new)))
        read = read_with(site, folder, contents)
        told = what_differs(after, read)
        if told:
            raise ChangeRefused(f"the files cannot say this change: they would say something else in {told}")
        record = WriteRecord(journal.next_number(), _now(), by, sentence, tuple(changes), moved=tuple(moved))
        journal.write(contents, record)
    return record, read


def _check_unchanged(site: SiteModel, folder: Path) -> None:
    """Make sure that each file of a site is still the one that was read.

    Raises ChangedSince if one is not.
    """
    for name, told in site.file_notes.digests.items():
        try:
            with open_site_file(folder, name) as file:
                now = digest_of(iter(lambda: file.read(BLOCK), b""))
        except FileNotFoundError:
            now = ""
        if now != told:
            raise ChangedSince(f"somebody else changed {name} since Davlo read it: run this again")


def taken_back(folder: Path) -> TakenBack:
    """The last write taken back, in memory.

    Raises CannotTakeBack if there is none, or somebody else has changed since what it wrote.
    """
    writes = SiteJournal(folder).writes()
    if not writes:
        raise CannotTakeBack(
            "there is no write to take back: you have written nothing here with davlo on this machine, or .davlo was "
            "deleted"
        )
    record = writes[0]
    contents: dict[str, bytes | None] = {}
    found: list[Edit] = []
    for one in record.files:
        now = _content(folder, one.name)
        try:
            edits = one.reversed(now or b"")
            old = edited(now or b"", edits)
        except (CannotRewrite, ValueError) as error:
            raise CannotTakeBack(_changed_since(folder, one, record, str(error))) from None
        is_gone = one.before is None and not old
        contents[one.name] = None if is_gone else old
        if _sha(now) == one.after and _sha(contents[one.name]) != one.before:
            raise CannotTakeBack(f"the record of write {record.number} does not lead back to what {one.name} was")
        found += edits
    return TakenBack(record, tuple(found), contents)


def take_back(site: Model, folder: Path, by: str = "") -> tuple[WriteRecord, Model]:
    """Take the last write back; gives its record, and the site as its files read then.

    Raises CannotTakeBack if there is none, or somebody else has changed since what it wrote; ChangeRefused if the files
    could not be read then; SiteInUse if another process is writing the site; OSError if something cannot be written.
    """
    with _ready(folder) as journal:
        back = taken_back(folder)
        record = back.record
        changes = tuple(
            FileChange(
                name,
                _sha(_content(folder, name)),
                _sha(content),
                tuple(LineEdit(*edit[1:]) for edit in back.edits if edit[0] == name),
            )
            for name, content in back.contents.items()
        )
        mine = WriteRecord(record.number, _now(), by, record.sentence, changes, takes_back=record.number)
        read = read_with(site, folder, back.contents)
        journal.write(back.contents, mine)
    return record, read


def _changed_since(folder: Path, one: FileChange, record: WriteRecord, why: str) -> str:
    """Why a write cannot be taken back: somebody else changed what it wrote into a file."""
    told = f"write {record.number} ({record.sentence}) cannot be taken back: "
    try:
        changed = datetime.datetime.fromtimestamp(path_inside(folder, one.name).stat().st_mtime).astimezone()
    except OSError:
        return f"{told}{one.name} is gone"
    when = changed.strftime("%Y-%m-%d %H:%M")
    return f"{told}{why}, and it is part of what Davlo wrote there (somebody else saved {one.name} on {when})"


def read_with(site: Model, folder: Path, contents: Contents) -> Model:
    """A site as it would be read if some of its files held something else; it keeps the name of its folder.

    Raises ChangeRefused if they could not be read.
    """
    with _trial(site, folder, contents) as trial:
        try:
            return replace(_read_trial(site, folder, trial), folder=site.folder)
        except SiteError as error:
            raise ChangeRefused(f"the changed files could not be read: {error.faults[0].what}") from None


def _read_trial(site: Model, folder: Path, trial: Path) -> Model:
    """A site, or an estate's house style, read from a folder with its files; a site begins as in its own folder."""
    first = site.file_notes.first
    if first == (FIRST,):
        return read_folder(trial, type(site), shared_above(folder, Reader()))
    return read_house([SharedFile(trial, name, name) for name in first], site.name, type(site), site.folder)


@contextmanager
def _trial(site: SiteModel, folder: Path, contents: Contents) -> Iterator[Path]:
    """A folder with the files of a site, some of which hold something else."""
    with tempfile.TemporaryDirectory(prefix="davlo-") as name:
        trial = Path(name)
        for file in dict.fromkeys([*ALWAYS_READ, site.page_list, *site.file_notes.digests, *contents]):
            target = trial / file if file else trial
            if not file or not path_inside(trial, file).is_relative_to(trial.resolve()):
                continue
            content = contents.get(file, b"")
            source = path_inside(folder, file)
            if content is None or (file not in contents and not source.is_file()):
                continue
            target.parent.mkdir(parents=True, exist_ok=True)
            if file in contents:
                target.write_bytes(content)
            else:
                _share(source, target)
        yield trial


def _share(source: Path, target: Path) -> None:
    """The same file under another name, or a copy of it."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copyfile(source, target)


def _content(folder: Path, name: str) -> bytes | None:
    try:
        return read_site_file(folder, name)
    except FileNotFoundError:
        return None


def _sha(content: bytes | None) -> str | None:
    return None if content is None else hashlib.sha256(content).hexdigest()


def _now() -> str:
    return datetime.datetime.now().astimezone().isoformat(timespec="seconds")


def read_steadily(folder: Path, read: Callable[[], Model]) -> Model:
    """What reading gives while nobody writes: read again if a write began or ended meanwhile."""
    journal = SiteJournal(folder)
    while True:
        mark = journal.mark()
        found = read()
        if journal.mark() == mark:
            return found
        recover(folder)
