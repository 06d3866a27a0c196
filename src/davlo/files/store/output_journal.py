"""Files that leave the site together, such as a sitemap in parts: a crash leaves the old or the new ones.

While Davlo writes into a folder, a note in `.davlo` lists the files, and the random names of their new contents. The
next command that writes into the same folder finishes the unfinished write, or takes it back. A note may be forged: it
can name nothing outside that folder, and does nothing unless files with those random names are there.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from ..read.site_file import path_inside, read_site_file
from .durable_files import Content, replace_at_once
from .own_folder import OWN, own_folder
from .whole_files import MOST_KEPT, NEW, OLD, Place, finish, put_away, write_together
from .write_lock import write_lock

VERSION = 1


class OutputJournal:
    """The note that a site folder holds while Davlo writes files into another folder.

    Parameters
    ----------
    folder, to : Path
        The site folder, and the folder for the files.
    records : iterable of str
        The names of Davlo's own records that are written with them, in `.davlo`.
    """

    def __init__(self, folder: Path, to: Path, records: Iterable[str]) -> None:
        self._folder, self._to, self._records = folder, to, frozenset(records)
        self._name = f"output-{hashlib.sha256(os.fsencode(to.resolve())).hexdigest()[:16]}.json"

    def recover(self) -> bool | None:
        """Finish a write that was cut off, or take it back.

        Returns
        -------
        bool, or None
            Whether the new files are there now, or else the old ones; None if none was cut off.

        Raises
        ------
        OSError
            If neither can be done.
        """
        if not self._is_pending():
            return None
        with write_lock(self._folder):
            if not self._is_pending():  # another process was writing, and has finished
                return None
            try:
                noted = json.loads(read_site_file(self._folder, f"{OWN}/{self._name}"))
                is_complete = noted["version"] == VERSION and noted["complete"] is True
                places = [self._as_place(one) for one in noted["files"]] if noted["version"] == VERSION else []
            except (OSError, ValueError, TypeError, LookupError, RecursionError):  # it is not believed
                is_complete, places = False, []
            if is_complete:
                finish(places)
            if put_away(places):
                self._forget()
        return is_complete

    def write(
        self,
        files: Mapping[Path, Content],
        records: Mapping[str, Content],
        gone: Iterable[Path],
        last: Path | None = None,
    ) -> str:
        """Write files, all or none, and with them Davlo's records of them, by name.

        Returns
        -------
        str
            Why the records could not be written, with which the files are written all the same; empty if they were.

        Raises
        ------
        OSError
            If a file cannot be written.
        """
        gone = list(gone)
        try:
            own = own_folder(self._folder)
            contents = {**files, **{own / name: record for name, record in records.items()}}
            with write_lock(self._folder):
                is_put_away = True
                try:
                    is_put_away = write_together(contents, gone, last, self._note)
                finally:
                    if is_put_away:
                        self._forget()
        except OSError as error:
            if error.filename is None or not Path(error.filename).is_relative_to(self._folder / OWN):
                raise
            write_together(files, gone, last)
            return f"{self._folder / OWN} cannot be written: {error.strerror}"
        return ""

    def _is_pending(self) -> bool:
        return os.path.lexists(self._folder / OWN / self._name)

    def _forget(self) -> None:
        with suppress(OSError):
            (self._folder / OWN / self._name).unlink(missing_ok=True)

    def _note(self, places: Sequence[Place], is_complete: bool) -> None:
        noted = {"version": VERSION, "complete": is_complete, "files": [self._as_noted(place) for place in places]}
        replace_at_once(self._folder / OWN / self._name, json.dumps(noted, indent=1).encode() + b"\n")

    def _as_noted(self, place: Place) -> dict[str, object]:
        is_own = place.target.name in self._records and place.target.parent == self._folder / OWN
        root = (self._folder / OWN if is_own else self._to).resolve()
        file = (place.target.parent.resolve() / place.target.name).relative_to(root)
        return {"file": file.as_posix(), "own": is_own, "new": place.new and place.new.name, "old": place.old.name}

    def _as_place(self, noted: Mapping[str, object]) -> Place:
        """A place as it was noted.

        Raises
        ------
        ValueError
            If it cannot be believed.
        OSError
            If it lies outside the folder.
        """
        file, new, old = str(noted["file"]), noted["new"], str(noted["old"])
        above, _, name = file.rpartition("/")
        if noted["own"] and file not in self._records:
            raise ValueError(f"{file} is no record")
        parent = path_inside(self._folder, OWN) if noted["own"] else path_inside(self._to, above)
        beside = re.compile(rf"\.{re.escape(name[:MOST_KEPT])}\.\w+")
        for one, ending in ((old, OLD), (new, NEW)):
            if one is not None and not (str(one).endswith(ending) and beside.fullmatch(str(one)[: -len(ending)])):
                raise ValueError(f"{one} does not belong to {file}")
        return Place(parent / name, None if new is None else parent / str(new), parent / old)
