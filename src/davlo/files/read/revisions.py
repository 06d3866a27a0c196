"""A site folder as it was at a revision of git, read through git's command line.

Only what is stored is read (`cat-file`): no filter and no hook that the folder's configuration names is run.
"""

from __future__ import annotations

import subprocess
from pathlib import Path, PurePosixPath

KINDS = (".yaml", ".yml", ".csv", ".parquet")


class RevisionFault(Exception):
    """A revision that cannot be read; says why."""


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
    prefix = _git(folder, "rev-parse", "--show-prefix").decode().strip()
    named = f"{revision}^{{commit}}"
    commit = _git(folder, "rev-parse", "--verify", "--quiet", "--end-of-options", named).decode().strip()
    tree = f"{commit}:{prefix.rstrip('/')}"
    listed = _git(folder, "ls-tree", "-r", "-z", "--name-only", "--full-tree", tree)
    names = [name for name in listed.decode("utf-8", "surrogateescape").split("\0") if name.endswith(KINDS)]
    if "davlo.yaml" not in names:
        raise RevisionFault(f"there is no davlo.yaml in {folder} at {revision}")
    for name in names:
        if ".." in PurePosixPath(name).parts:
            continue
        path = into / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(_git(folder, "cat-file", "blob", f"{commit}:{prefix}{name}"))


def _git(folder: Path, *words: str) -> bytes:
    """What git prints."""
    try:
        done = subprocess.run(["git", "-C", str(folder), *words], capture_output=True, check=False)
    except OSError as error:
        raise RevisionFault(f"git cannot be run: {error.strerror}") from None
    if done.returncode:
        told = done.stderr.decode("utf-8", "replace").strip().splitlines()
        raise RevisionFault(told[0] if told else f"git knows no such revision ({' '.join(words[-1:])})")
    return done.stdout
