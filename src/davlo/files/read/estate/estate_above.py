"""The estate that a site belongs to: looked for in the folders above the site's own."""

from __future__ import annotations

import os
from pathlib import Path

from ..yaml.includes import SharedFile
from ..yaml.node_reader import Reader
from .estate_file import ESTATE_FILE, EstateFile, read_estate_file


def shared_files(estate: EstateFile, site: str) -> list[SharedFile]:
    """The shared files of an estate, as one of its sites names them. `site`: its folder, named from the estate's."""
    up = "../" * len(site.split("/"))
    return [SharedFile(estate.folder, name, f"{up}{name}") for name in estate.shared]


def shared_above(folder: Path, reader: Reader) -> list[SharedFile]:
    """The files that a site begins with: those of the nearest estate above it that counts it among its sites.

    An estate.yaml of another user than the site's own is reported and not read. Raises SiteError if the estate cannot
    be understood.
    """
    found = estate_above(folder, reader)
    return shared_files(*found) if found else []


def estate_above(folder: Path, reader: Reader) -> tuple[EstateFile, str] | None:
    """The estate of a site, and the site's folder, named from the estate's."""
    try:
        root = folder.resolve()
    except (OSError, RuntimeError):
        return None
    for depth, parent in enumerate(root.parents, 1):
        if not (parent / ESTATE_FILE).is_file():
            continue
        label = f"{'../' * depth}{ESTATE_FILE}"
        if is_strange(parent, root):
            told = f"{label} belongs to another user than this site, so Davlo does not read it"
            reader.notes.append(told)
            continue
        estate = read_estate_file(parent, label)
        site = root.relative_to(estate.folder).as_posix()
        if estate.has(site):
            return estate, site
    return None


def is_strange(above: Path, site: Path) -> bool:
    """Whether an estate belongs to somebody who is neither this user nor the owner of the site's folder."""
    try:
        known = {site.stat().st_uid, os.getuid() if hasattr(os, "getuid") else 0}
        return any(path.stat().st_uid not in known for path in (above, above / ESTATE_FILE))
    except OSError:
        return True
