"""Files that leave the site together, such as a sitemap in parts: a crash leaves the old or the new ones.

While Davlo writes into a folder, a note in `.davlo` lists the files, and the random names of their new contents. The
next command of the same user that writes into the same folder finishes the unfinished write, or takes it back.
"""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Iterable, Mapping
from contextlib import suppress
from functools import partial
from pathlib import Path

from .durable_files import Content, sha256_of, write_beside
from .journal import Journal, Note, NotedPlace, digest_of_file
from .own_folder import OWN, own_folder
from .whole_files import NEW, check_regular, name_beside
from .write_lock import write_lock

OLD = ".old"
_NAME = re.compile(r"output-[0-9a-f]{16}\.json")


def is_note(name: str) -> bool:
    """Whether a file in `.davlo` has the name of such a note."""
    return _NAME.fullmatch(name) is not None


class OutputJournal:
    """The note that a site folder holds while Davlo writes files into another folder.

    `folder`, `to`: the site folder, and the folder for the files. `records`: the names of Davlo's own records that are
    written with them, in `.davlo`.
    """

    def __init__(self, folder: Path, to: Path, records: Iterable[str]) -> None:
        self._folder, self._to, self._records = folder, to, frozenset(records)
        name = f"output-{hashlib.sha256(os.fsencode(to.resolve())).hexdigest()[:16]}.json"
        self._journal = Journal(folder, name, to)

    def recover(self) -> bool | None:
        """Finish a write that was cut off, or take it back.

        Returns whether the new files are there now, or else the old ones; None if none was cut off. Raises OSError if
        neither can be done.
        """
        if not self._journal.is_pending():
            return None
        with write_lock(self._folder):
            note = self._journal.pending()
            if note is None:  # another process was writing, and has finished; or it is somebody else's
                return None
            return self._journal.recover(note, partial(self._ended, note))

    def write(
        self,
        files: Mapping[Path, Content],
        records: Mapping[str, Content],
        gone: Mapping[Path, str],
        last: Path | None = None,
    ) -> str:
        """Write files, all or none, and with them Davlo's records of them, by name.

        `files`: they are written in this order, so that a record can tell of them. `gone`: files to take away, each
        with the SHA-256 of what Davlo wrote there (a file with other bytes stays), or an empty text. `last`: the file
        that comes into its place last. Returns why the records could not be written, with which the files are written
        all the same; empty if they were. Raises OSError if a file cannot be written.
        """
        try:
            own = own_folder(self._folder)
            contents = {**files, **{own / name: record for name, record in records.items()}}
            with write_lock(self._folder):
                self._write(contents, gone, last, is_noted=True)
        except OSError as error:
            if error.filename is None or not Path(error.filename).is_relative_to(self._folder / OWN):
                raise
            elsewhere = {path: digest for path, digest in gone.items() if not path.is_relative_to(self._folder / OWN)}
            self._write(files, elsewhere, last, is_noted=False)
            return f"{self._folder / OWN} cannot be written: {error.strerror}"
        return ""

    def _write(
        self, contents: Mapping[Path, Content], gone: Mapping[Path, str], last: Path | None, *, is_noted: bool
    ) -> None:
        for path in contents:
            check_regular(path)
        begun = Note(tuple(map(self._noted, [*contents, *gone])), is_complete=False)
        if is_noted:
            self._journal.note(begun)
        try:
            places = dict(zip([*contents, *gone], self._journal.places(begun), strict=True))
            for path, content in contents.items():
                write_beside(path, places[path].new, content)
            found = {path: digest_of_file(path) for path in places}
            now = {
                path: one._replace(before=found[path], after=sha256_of(places[path].new) if path in contents else None)
                for one, path in zip(begun.places, places, strict=True)
                if path in contents or gone[path] in ("", found[path])
            }
        except BaseException:
            self._ended(begun, False)
            raise
        order = sorted(now, key=lambda path: (path in gone, path == last))
        complete = Note(tuple(now[path] for path in order))
        self._journal.put_in_place(complete, partial(self._ended, begun), is_noted=is_noted)

    def _ended(self, note: Note, is_finished: bool) -> None:
        """Take the temporary names away, and the note when all are gone."""
        with suppress(OSError):
            for place in self._journal.places(note):
                for path in (place.new, place.old):
                    path.unlink(missing_ok=True)
            self._journal.forget()

    def _noted(self, path: Path) -> NotedPlace:
        """A file, with random names beside it."""
        is_own = path.name in self._records and path.parent == self._folder / OWN
        root = (self._folder / OWN if is_own else self._to).resolve()
        file = (path.parent.resolve() / path.name).relative_to(root)
        beside = name_beside(path)
        return NotedPlace(file.as_posix(), is_own, beside + NEW, beside + OLD, None, None)
