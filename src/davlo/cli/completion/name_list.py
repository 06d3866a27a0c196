"""The names of a site, kept in a list for the shell to complete from: opening the site takes longer than a Tab may.

The list lies with the user's key, outside every site folder. A process at the side makes it, and completion alone reads
it: whatever it says, a command asks the site itself.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Literal

import msgspec

if TYPE_CHECKING:
    from davlo.site import Site

Part = Literal["names", "findings"]
"""What a list holds: what is declared, or the names of the findings, which take longer to work out."""
SECONDS = 0.4
"""How long a Tab waits for a list that is being made."""
MOST_BYTES = 1 << 28
MOST_VALUES = 500
"""The most values of a column that are worth completing; a column with more tells pages apart."""


class NameList(msgspec.Struct):
    """The names of a site, and the state of the files that they come from.

    `files` gives for each file when it was modified, in nanoseconds, and its bytes. `names` are by kind, `values` by
    setting, `columns` (what the cells of a column hold) by column, `conditions` by key of a condition, `keys` by kind
    of declaration and key. Where there are no values, any text may stand.
    """

    files: dict[str, tuple[int, int]] = {}
    names: dict[str, list[str]] = {}
    values: dict[str, list[str]] = {}
    columns: dict[str, list[str]] = {}
    conditions: dict[str, list[str]] = {}
    keys: dict[str, dict[str, list[str]]] = {}


def names_of(folder: Path, part: Part = "names") -> NameList:
    """The names of a site folder; none if it cannot be read.

    After a change of its files they may be those from before, if reading them anew takes longer than a Tab may.
    """
    place = _place(folder, part)
    found = _read(place)
    if found is None:
        return _made(folder, part) or NameList()
    if not _is_fresh(folder, found):
        with suppress(subprocess.TimeoutExpired):
            if process := run_aside(part, str(folder.resolve())):
                process.wait(SECONDS)
        found = _read(place) or found
    return found


def run_aside(*words: str) -> subprocess.Popen[bytes] | None:
    """Make a list in a process of its own, which goes on when this one ends; None if the system refuses."""
    # -P: nothing of the folder that it runs in is imported
    command, quiet = [sys.executable, "-P", "-m", "davlo.cli.completion.keep_lists", *words], subprocess.DEVNULL
    with suppress(OSError):
        return subprocess.Popen(command, stdin=quiet, stdout=quiet, stderr=quiet, start_new_session=True)
    return None


def write_names(folder: Path, part: Part) -> None:
    """Read a site and write the list of its names, unless another process is doing so."""
    from filelock import FileLock, Timeout

    lock = _place(folder, part).with_suffix(".lock")
    lock.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    with suppress(Timeout), FileLock(lock, timeout=0):
        _made(folder, part)


def _made(folder: Path, part: Part) -> NameList | None:
    """The names of a site, read anew and written if there is a place for them; None if the site cannot be read."""
    from davlo.core.faults import SiteError
    from davlo.files.store.outputs import files_read
    from davlo.files.store.whole_files import write_whole
    from davlo.site import open_site

    try:
        site = open_site(folder)
    except (SiteError, OSError):
        return None
    found = _named(site) if part == "names" else NameList(names={"finding": _finding_names(site)})
    found.files = _states(folder, files_read(site))
    place = _place(folder, part)
    with suppress(OSError):
        place.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        write_whole(place, msgspec.json.encode(found))
    return found


def _finding_names(site: Site) -> list[str]:
    return [found.name for found in site.check().findings]


def _named(site: Site) -> NameList:
    """All names of a site but those of its findings."""
    from davlo.core.site.declared_names import DECLARED_KINDS, declared_names
    from davlo.core.site.finding_names import KIND_NAMES
    from davlo.files.form.davlo_yaml import CONDITION
    from davlo.files.form.shapes import words_offered
    from davlo.files.form.typed_forms import FORMS

    names = {kind: [*declared_names(site, kind)] for kind in DECLARED_KINDS}
    names |= {"page": [*site.tree.paths], "action": [*site.actions], "area": [*site.declarations.areas()]}
    names |= {"kind": [*DECLARED_KINDS], "finding kind": [*KIND_NAMES]}
    names["list"] = [name for name, block in site.declarations.blocks.items() if block.kind != "text"]
    settings = [site.catalogue.setting(name) for name in site.catalogue.names()]
    conditions = {key: [*words_offered(field.shape, names)] for key, field in CONDITION.fields.items()}
    keys = {
        kind: {key: [*words_offered(field.shape, names)] for key, field in form.fields.items()}
        for kind, form in FORMS.items()
    }
    values = {one.name: [*one.allowed_words] for one in settings}
    return NameList(names=names, values=values, columns=_cells(site), conditions=conditions, keys=keys)


def _cells(site: Site) -> dict[str, list[str]]:
    """For each column what its cells hold, if some pages hold the same."""
    found = {}
    for name, column in site.details.columns.items():
        is_few = name != "title" and len(column.words) <= MOST_VALUES
        cells = (item.strip() for cell in column.words for item in (cell.split(";") if name == "tags" else [cell]))
        found[name] = sorted({*filter(None, cells)}) if is_few else []
    return found


def _place(folder: Path, part: Part) -> Path:
    from davlo.files.store.user_key import state_folder

    return state_folder() / part / f"{hashlib.sha256(os.fsencode(folder.resolve())).hexdigest()[:32]}.json"


def _read(place: Path) -> NameList | None:
    with suppress(OSError, msgspec.MsgspecError, ValueError):
        if place.stat().st_size <= MOST_BYTES:
            return msgspec.json.decode(place.read_bytes(), type=NameList)
    return None


def _is_fresh(folder: Path, found: NameList) -> bool:
    return found.files == _states(folder, found.files)


def _states(folder: Path, names: Iterable[str]) -> dict[str, tuple[int, int]]:
    """For each file when it was modified, and its bytes; zeros for one that is not there."""
    states = {}
    for name in names:
        states[name] = (0, 0)
        with suppress(OSError, ValueError):
            one = (folder / name).stat()
            states[name] = (one.st_mtime_ns, one.st_size)
    return states
