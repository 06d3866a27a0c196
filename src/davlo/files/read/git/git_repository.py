"""Whether git may be run in a folder: a stranger's repository can make git wait, or read elsewhere."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

from ..site_file import open_regular
from .git_process import RevisionFault, run_git

MOST_LINK = 4096
"""The most bytes that are read of a file that names a folder."""
MOST_LOOKED_AT = 300_000
"""How many files of a repository are looked at."""


def repository_of(folder: Path) -> Path:
    """The folder of git's own files for the repository that a folder lies in; where worktrees share one, theirs.

    Raises RevisionFault if there is none, it is another's, it reads objects from elsewhere, or it holds what is no
    regular file.
    """
    here = folder.resolve()
    above = next((one for one in (here, *here.parents) if os.path.lexists(one / ".git")), None)
    if above is None:
        raise RevisionFault(f"{folder} is in no repository of git")
    git = above / ".git"
    mode = git.lstat().st_mode
    if stat.S_ISDIR(mode):
        own = shared = git
    elif stat.S_ISREG(mode):
        own = _named(git, "gitdir:")
        shared = own / _text(own / "commondir") if (own / "commondir").exists() else own
        _check_leads_back(own, shared, git)
    else:
        raise RevisionFault(f"{git} is neither a folder nor a file that names one, so git is not run")
    for one in dict.fromkeys((own, shared)):
        _check_files(one)
    _check_alternates(shared)
    _check_includes(shared / "config")
    return shared


def revision_names(folder: Path) -> list[str]:
    """What a revision may be called: the one before the latest, then the branches and tags of a folder's repository.

    Raises RevisionFault if there is no git or no repository.
    """
    repository_of(folder)
    printed = run_git(folder, "for-each-ref", "--format=%(refname:short)", "refs/heads", "refs/tags", "refs/remotes")
    return ["HEAD~1", *printed.decode(errors="replace").split()]


def _check_leads_back(own: Path, shared: Path, git: Path) -> None:
    """A file `.git` may name any repository: it counts if that one names this folder, as worktrees and modules do."""
    back = own / "gitdir"
    with suppress(OSError, RevisionFault):
        if back.exists() and os.path.samefile(_text(back), git) and own.resolve().parent.parent == shared.resolve():
            return
    with suppress(OSError, RevisionFault):
        told = run_git(git.parent, "config", "--no-includes", "--file", str(own / "config"), "core.worktree")
        if os.path.samefile(own / os.fsdecode(told).strip(), git.parent):
            return
    raise RevisionFault(f"{git} names {own}, which does not name it back, so git is not run")


def _check_files(own: Path) -> None:
    """Refuse pipes, devices and links that lead out: git would wait for them, or read elsewhere."""
    inside = own.resolve()
    for entry in _entries(own):
        is_link = entry.is_symlink()
        if is_link and not Path(entry.path).resolve().is_relative_to(inside):
            raise RevisionFault(f"{entry.path} is a link that leads out of the repository, so git is not run")
        if not (entry.is_file() or entry.is_dir() or (is_link and not Path(entry.path).exists())):
            raise RevisionFault(f"{entry.path} is no regular file, so git is not run")


def _entries(own: Path) -> Iterator[os.DirEntry[str]]:
    left, seen = [str(own)], 0
    while left:
        with suppress(OSError), os.scandir(left.pop()) as entries:
            for entry in entries:
                seen += 1
                if seen > MOST_LOOKED_AT:
                    return
                if entry.is_dir(follow_symlinks=False):
                    left.append(entry.path)
                yield entry


def _check_alternates(shared: Path) -> None:
    """Refuse objects from another repository: whoever asks may read there what the folder's author may not."""
    objects = shared / "objects"
    if (objects / "info" / "alternates").exists():
        raise RevisionFault(
            f"{objects / 'info' / 'alternates'} brings in objects from outside, so git is not run",
            f"git -C {shared.parent} repack -a -d, then delete that file",
        )


def _check_includes(config: Path) -> None:
    """Refuse a configuration that brings in what is no regular file."""
    words = ("config", "--no-includes", "--file", str(config), "--null", "--get-regexp", r"^include(if\..*)?\.path$")
    try:
        told = run_git(config.parent, *words)
    except RevisionFault as fault:
        if "git knows no such" in str(fault):  # no line matches
            return
        raise
    for line in filter(None, told.split(b"\0")):
        path = config.parent / os.path.expanduser(os.fsdecode(line.partition(b"\n")[2]))
        if path.exists() and not path.is_file():
            raise RevisionFault(f"{config} brings in {path}, which is no regular file, so git is not run")


def _named(file: Path, key: str) -> Path:
    text = _text(file)
    if not text.startswith(key):
        raise RevisionFault(f"{file} does not name a repository, so git is not run")
    return file.parent / text.removeprefix(key).strip()


def _text(file: Path) -> str:
    try:
        with open_regular(file) as opened:
            return os.fsdecode(opened.read(MOST_LINK)).strip()
    except OSError as error:
        raise RevisionFault(f"{file} cannot be read: {error.strerror}") from None
