"""A site folder as it was at a revision of git, read through git's command line."""

from __future__ import annotations

import os
import shlex
import shutil
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import IO, NamedTuple

from ...form.davlo_yaml import PAGE_LIST_ENDINGS
from ..site_file import in_never, path_inside
from .git_process import RevisionFault, git_output, missing_from_copy, run_git
from .git_repository import repository_of

KINDS = (".yaml", ".yml", ".tsv", ".txt", ".xml", ".gz", *PAGE_LIST_ENDINGS)
"""The endings of files that a site may read: its decisions, page list, statements, and addresses to add."""
FILES = (b"100644", b"100755")
"""The modes of regular files in a tree of git; links and modules are left out."""
MOST_NAMES = 100_000
MOST_BYTES = 1 << 30
"""The most files of a revision, and the most bytes in them."""
_STEP = 1 << 20


class _Entry(NamedTuple):
    name: str
    object: bytes


def write_revision(folder: Path, revision: str, into: Path) -> None:
    """Write the files of a site folder as they were at a revision.

    `folder`: the site folder, in a repository. `revision`: as git names one: `HEAD~1`, `main`, a hash; after a colon
    the folder that was the site's then: `main:garden`. `into`: an empty folder. Raises RevisionFault if there is no
    git, no repository, no such revision, or no site in it; or if it holds more than Davlo reads.
    """
    if revision.startswith("-"):
        raise RevisionFault(f"there is no revision {revision!r}")
    one, dots, other = revision.partition("..")
    if dots and one and other:
        raise RevisionFault("two revisions are two words", f"davlo compare {one} {other.lstrip('.')}")
    shared = repository_of(folder)
    prefix = os.fsdecode(run_git(folder, "rev-parse", "--show-prefix")).strip("\n")
    named, colon, within = revision.partition(":")
    commit = _commit(folder, named, shared)
    place = within.strip("/") if colon else prefix.rstrip("/")
    try:
        entries = list(_entries(run_git(folder, "ls-tree", "-r", "-z", "--full-tree", f"{commit}:{place}")))
    except RevisionFault:
        entries = []
    if "davlo.yaml" not in [entry.name for entry in entries]:
        raise _no_site(folder, named, commit, place)
    if len(entries) > MOST_NAMES:
        raise RevisionFault(f"it has {len(entries):,} files that a site can use, and Davlo reads {MOST_NAMES:,}")
    _write(folder, entries, into, shared)


def write_some(folder: Path, revision: str, names: Sequence[str], into: Path) -> None:
    """Write some files of a folder as they were at a revision; those that were not there then are left out.

    `revision`: as `write_revision` takes it; what follows a colon is not looked at. Raises RevisionFault if there is no
    git, no repository or no such revision.
    """
    shared = repository_of(folder)
    prefix = os.fsdecode(run_git(folder, "rev-parse", "--show-prefix")).strip("\n").rstrip("/")
    commit = _commit(folder, revision.partition(":")[0], shared)
    try:
        listed = run_git(folder, "ls-tree", "-r", "-z", "--full-tree", f"{commit}:{prefix}")
    except RevisionFault:
        return  # the folder was not there
    entries = [entry for entry in _entries(listed) if entry.name in names]
    if entries:
        _write(folder, entries, into, shared)


def current_revision(folder: Path) -> str:
    """The short hash of the revision that a folder's repository has checked out; empty if there is none."""
    try:
        repository_of(folder)  # one that leads elsewhere is refused
        return run_git(folder, "rev-parse", "--short", "HEAD").decode().strip()
    except (RevisionFault, OSError):
        return ""


def _commit(folder: Path, named: str, shared: Path) -> str:
    try:
        words = ("rev-parse", "--verify", "--quiet", "--end-of-options", f"{named}^{{commit}}")
        return run_git(folder, *words).decode().strip()
    except RevisionFault as fault:
        if (shared / "shallow").exists():
            hint = f"git -C {shlex.quote(str(folder))} fetch --unshallow"
            raise RevisionFault("this copy of the repository holds only the latest commits", hint) from None
        raise fault from None


def _no_site(folder: Path, named: str, commit: str, place: str) -> RevisionFault:
    """The error about a revision in which the folder is no site; it names folders that were."""
    tree = run_git(folder, "ls-tree", "-r", "-z", "--name-only", "--full-tree", commit)
    sites = [os.fsdecode(name).rpartition("/")[0] for name in tree.split(b"\0") if b"/" + name[-10:] == b"/davlo.yaml"]
    hint = f"davlo compare {shlex.quote(f'{named}:{sites[0]}')}" if sites else ""
    return RevisionFault(f"there is no davlo.yaml in {place or 'the top folder'} at {named}", hint)


def _entries(listed: bytes) -> Iterator[_Entry]:
    """The files of a tree that a site can use. A tree can hold any names, even ones that lead out of the folder."""
    for line in filter(None, listed.split(b"\0")):
        told, _, raw_name = line.partition(b"\t")
        mode, _, hash_ = told.split(b" ")
        name = os.fsdecode(raw_name)
        if mode not in FILES or not name.lower().endswith(KINDS) or in_never(Path(name)):
            continue
        yield _Entry(name, hash_)


def _write(folder: Path, entries: list[_Entry], into: Path, shared: Path) -> None:
    """Write the files; each object is read once, however many names it has."""
    objects = dict.fromkeys(entry.object for entry in entries)
    asked = b"".join(one + b"\n" for one in objects)
    size: dict[bytes, int] = {}
    for one, line in zip(
        objects, run_git(folder, "cat-file", "--batch-check", input_=asked).split(b"\n"), strict=False
    ):
        told = line.split(b" ")
        if len(told) != 3 or told[1] != b"blob":
            raise missing_from_copy(folder, next(entry.name for entry in entries if entry.object == one))
        size[one] = int(told[2])
    whole = sum(size[entry.object] for entry in entries)
    if whole > MOST_BYTES:
        raise RevisionFault(f"its files have {whole:,} bytes, and Davlo reads {MOST_BYTES:,}")
    first: dict[bytes, Path] = {}

    def place_of(entry: _Entry) -> Path:
        try:
            path = path_inside(into, entry.name)
            path.parent.mkdir(parents=True, exist_ok=True)
            return path
        except OSError as error:
            raise RevisionFault(f"its file {entry.name!r} cannot be read: {error.strerror}") from None

    for entry in entries:
        first.setdefault(entry.object, place_of(entry))
    git_output(folder, ("cat-file", "--batch"), _writer([(first[one], size[one]) for one in objects]), asked)
    for entry in entries:
        path = place_of(entry)
        if path != first[entry.object]:
            _share(first[entry.object], path)


def _writer(files: list[tuple[Path, int]]) -> Callable[[IO[bytes]], bytes]:
    """What writes the objects that `cat-file --batch` prints: a line for each, its bytes, and an end of line."""

    def read(printed: IO[bytes]) -> bytes:
        for path, size in files:
            printed.readline()
            try:
                with path.open("xb") as file:
                    left = size
                    while left and (some := printed.read(min(left, _STEP))):
                        file.write(some)
                        left -= len(some)
            except OSError as error:
                raise RevisionFault(f"its file {path.name!r} cannot be read: {error.strerror}") from None
            printed.readline()
        return b""

    return read


def _share(one: Path, other: Path) -> None:
    try:
        os.link(one, other)
    except FileExistsError:
        raise RevisionFault(f"its file {other.name!r} is there twice") from None
    except OSError:
        shutil.copyfile(one, other)


def tracked(folder: Path, name: str) -> bool:
    """Whether git tracks a file or folder; no, too, where there is no git or no repository."""
    try:
        repository_of(folder)
        return bool(run_git(folder, "ls-files", "-z", "--", name))
    except (RevisionFault, OSError):
        return False
