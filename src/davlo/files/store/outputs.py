"""Which files a command may write: none that the site reads, and nothing of Davlo's own or git's."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

from davlo.core.faults import DavloError
from davlo.core.site.model import SiteModel

from ..read.site_file import in_never

ALWAYS_READ = ("davlo.yaml", "stamps.csv")


class WritesOverSite(DavloError, ValueError):
    """A file to write that the site reads."""


def files_read(site: SiteModel) -> list[str]:
    """The files that a site reads, there or not, by their names in its folder."""
    names = (*ALWAYS_READ, site.page_list, *site.file_notes.digests, *site.sitemap.add_addresses_from)
    return [name for name in dict.fromkeys(names) if name and "\0" not in name]


def refuse_site_files(site: SiteModel, folder: Path, targets: Iterable[Path]) -> None:
    """Refuse to write over what a site reads, also by way of a link.

    `folder`: the site folder. `targets`: the files to write. Raises WritesOverSite if one of them is a file that the
    site reads, there or not, or lies in `.davlo` or `.git`.
    """
    paths = {_real(folder / name): name for name in files_read(site)}
    for target in targets:
        path = _real(target)
        name = paths.get(path) or next((one for real, one in paths.items() if _is_same(path, real)), None)
        if name is not None:
            raise WritesOverSite(f"{target} is {name}, which the site reads: name another file")
        own = in_never(Path(path))
        if own:
            raise WritesOverSite(f"{target} lies in {own}: name another file")


def _real(path: Path) -> str:
    return os.path.realpath(path)


def _is_same(one: str, other: str) -> bool:
    """Whether two paths are one file, as by a hard link or in another letter case."""
    try:
        return os.path.samefile(one, other)
    except OSError:
        return False
