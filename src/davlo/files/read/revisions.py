"""A site folder as it was at a revision of git, read through git's command line.

The repository may be a stranger's, and its configuration can name commands: to fetch a missing object, to watch files,
to show pages. git is run so that none of them starts, and so that it talks to nobody.
"""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

from .site_file import path_inside

KINDS = (".yaml", ".yml", ".csv", ".parquet")
SETTINGS = (
    "core.fsmonitor=false",
    "core.hooksPath=/dev/null",
    "core.pager=cat",
    "core.sshCommand=false",
    "core.askPass=false",
    "credential.helper=",
    "protocol.allow=never",
    "safe.bareRepository=explicit",
)
ENVIRONMENT = {
    "GIT_ALLOW_PROTOCOL": "none",
    "GIT_NO_LAZY_FETCH": "1",
    "GIT_CONFIG_NOSYSTEM": "1",
    "GIT_TERMINAL_PROMPT": "0",
    "GIT_OPTIONAL_LOCKS": "0",
    "GIT_NO_REPLACE_OBJECTS": "1",
}
MOST_SECONDS = 60
FILES = (b"100644", b"100755")
"""The modes of regular files in a tree of git; links and modules are left out."""


class RevisionFault(Exception):
    """A revision that cannot be read, and why."""


class _Entry(NamedTuple):
    name: str
    object: bytes


def write_revision(folder: Path, revision: str, into: Path) -> None:
    """Write the files of a site folder as they were at a revision.

    Parameters
    ----------
    folder : Path
        The site folder, in a repository.
    revision : str
        As git names one: `HEAD~1`, `main`, a hash.
    into : Path
        An empty folder.

    Raises
    ------
    RevisionFault
        If there is no git, no repository, no such revision, or no site in it.
    """
    if revision.startswith("-"):
        raise RevisionFault(f"there is no revision {revision!r}")
    prefix = os.fsdecode(run_git(folder, "rev-parse", "--show-prefix")).strip()
    named = f"{revision}^{{commit}}"
    commit = run_git(folder, "rev-parse", "--verify", "--quiet", "--end-of-options", named).decode().strip()
    entries = list(_entries(run_git(folder, "ls-tree", "-r", "-z", "--full-tree", f"{commit}:{prefix.rstrip('/')}")))
    if "davlo.yaml" not in [entry.name for entry in entries]:
        raise RevisionFault(f"there is no davlo.yaml in {folder} at {revision}")
    objects = b"".join(entry.object + b"\n" for entry in entries)
    found = run_git(folder, "cat-file", "--batch", input_=objects)
    for entry, content in zip(entries, _contents(found, entries), strict=True):
        try:
            path = path_inside(into, entry.name)
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(content)
        except OSError as error:
            raise RevisionFault(f"its file {entry.name!r} cannot be read: {error.strerror}") from None


def _entries(listed: bytes) -> Iterator[_Entry]:
    """The files of a tree that a site can use. A tree can hold any names, even ones that lead out of the folder."""
    for line in filter(None, listed.split(b"\0")):
        told, _, raw_name = line.partition(b"\t")
        mode, _, hash_ = told.split(b" ")
        name = os.fsdecode(raw_name)
        if mode not in FILES or not name.endswith(KINDS):
            continue
        yield _Entry(name, hash_)


def _contents(found: bytes, entries: list[_Entry]) -> Iterator[bytes]:
    """What `cat-file --batch` printed, object by object: a line with its size, its bytes, and an end of line."""
    at = 0
    for entry in entries:
        end = found.find(b"\n", at)
        told = found[at:end].split(b" ")
        if end < 0 or len(told) != 3 or told[1] != b"blob":
            raise RevisionFault(f"{entry.name} of that revision is not in this copy of the repository")
        size = int(told[2])
        yield found[end + 1 : end + 1 + size]
        at = end + 1 + size + 1


def tracked(folder: Path, name: str) -> bool:
    """Whether git tracks a file or folder; no, too, where there is no git or no repository."""
    above = (folder.resolve(), *folder.resolve().parents)
    if not any(os.path.lexists(one / ".git") for one in above):
        return False
    try:
        return bool(run_git(folder, "ls-files", "-z", "--", name))
    except RevisionFault:
        return False


def run_git(folder: Path, *words: str, input_: bytes = b"") -> bytes:
    """What git prints. No other function runs it.

    Raises
    ------
    RevisionFault
        If it cannot be run, refuses, or takes more than a minute.
    """
    options = [word for setting in SETTINGS for word in ("-c", setting)]
    command = ["git", "--no-pager", *options, "-C", str(folder), *words]
    try:
        done = subprocess.run(
            command, input=input_, capture_output=True, check=False, env=_environment(os.environ), timeout=MOST_SECONDS
        )
    except subprocess.TimeoutExpired:
        raise RevisionFault(f"git gave no answer within {MOST_SECONDS} seconds") from None
    except (OSError, ValueError) as error:
        raise RevisionFault(f"git cannot be run: {getattr(error, 'strerror', None) or error}") from None
    if done.returncode:
        told = done.stderr.decode("utf-8", "replace").strip().split("\n")
        raise RevisionFault(told[0] or f"git knows no such revision ({' '.join(words[-1:])})")
    return done.stdout


def _environment(own: Mapping[str, str]) -> dict[str, str]:
    """The environment for git: nothing in it names another repository, a configuration, or a command."""
    return {**{name: value for name, value in own.items() if not name.startswith("GIT_")}, **ENVIRONMENT}
