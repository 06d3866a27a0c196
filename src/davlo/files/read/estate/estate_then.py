"""The shared files that a site began with at an earlier revision of git."""

from __future__ import annotations

from pathlib import Path

from ..git.git_process import RevisionFault
from ..git.git_repository import repository_of
from ..git.revisions import write_some
from ..yaml.includes import SharedFile
from ..yaml.node_reader import Reader
from .estate_above import estate_above, shared_files
from .estate_file import ESTATE_FILE, read_estate_file, shared_names


def shared_then(folder: Path, revision: str, into: Path) -> list[SharedFile]:
    """The files that a site began with at a revision of git; those of today if the estate is in no repository.

    `into`: an empty folder for the files of then. Raises RevisionFault if there is no such revision; SiteError if the
    estate of then cannot be understood.
    """
    found = estate_above(folder, Reader())
    if found is None:
        return []
    estate, site = found
    if not _is_one_repository(estate.folder, folder):
        return shared_files(estate, site)
    write_some(estate.folder, revision, (ESTATE_FILE,), into)
    if not (into / ESTATE_FILE).is_file():
        return []
    write_some(estate.folder, revision, shared_names(into), into)
    then = read_estate_file(into)
    return shared_files(then, site) if then.has(site) else []


def _is_one_repository(one: Path, other: Path) -> bool:
    try:
        return repository_of(one) == repository_of(other)
    except RevisionFault:
        return False
