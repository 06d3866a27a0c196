"""estate.yaml: which sites an estate has, and which files they share."""

from __future__ import annotations

import os
from fnmatch import fnmatchcase
from pathlib import Path
from typing import NamedTuple

from davlo.core.faults import Place, SiteError

from ...form.estate_yaml import ESTATE, ESTATE_YAML
from ..site_file import OutsideFolder, path_inside
from ..yaml.includes import FIRST, content_of
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, read_yaml

ESTATE_FILE = "estate.yaml"
ANY = "*"


class EstateFile(NamedTuple):
    """What estate.yaml says.

    `folder`: the estate's folder, links followed. `sites`: patterns of folders below it. `shared`: names of files in
    it, in their order.
    """

    folder: Path
    name: str
    sites: tuple[str, ...]
    shared: tuple[str, ...]

    def has(self, name: str) -> bool:
        """Whether a folder below the estate's, named from there, is one of its sites."""
        return any(_matches(name.split("/"), pattern.split("/")) for pattern in self.sites)


class SiteFolder(NamedTuple):
    """A site of an estate: its folder, named from the estate's, and why it cannot be read (empty if it can)."""

    name: str
    fault: str = ""


def _matches(parts: list[str], pattern: list[str]) -> bool:
    pairs = zip(parts, pattern, strict=False)
    return len(parts) == len(pattern) and all(_matches_part(part, one) for part, one in pairs)


def _matches_part(part: str, pattern: str) -> bool:
    """Whether a folder's name matches; `*` alone stands for letters, and never for the dot at the beginning."""
    literal = pattern.replace("[", "[[]").replace("?", "[?]")
    return fnmatchcase(part, literal) and (part[:1] != "." or pattern[:1] == ".")


class _Words(NamedTuple):
    """What estate.yaml says, before it is known which files are there; each word with its place."""

    name: str
    sites: list[tuple[str, Place]]
    shared: list[tuple[str, Place]]


def read_estate_file(folder: Path, label: str = ESTATE_FILE) -> EstateFile:
    """What the estate.yaml of a folder says.

    `label`: how messages name the file. Raises SiteError if it cannot be understood, or names what lies elsewhere.
    """
    reader = Reader()
    told = _words(folder, label, reader)
    sites = [one for one, place in told.sites if _is_below(one, place, reader)]
    root = folder.resolve()
    for one, place in told.shared:
        _check_shared(root, one, place, reader)
    if reader.faults:
        raise SiteError(reader.faults)
    return EstateFile(root, told.name, tuple(dict.fromkeys(sites)), tuple(dict.fromkeys(one for one, _ in told.shared)))


def shared_names(folder: Path) -> list[str]:
    """The files that the estate.yaml of a folder names as shared, there or not.

    Raises SiteError if it cannot be understood.
    """
    reader = Reader()
    told = _words(folder, ESTATE_FILE, reader)
    if reader.faults:
        raise SiteError(reader.faults)
    return [one for one, _ in told.shared]


def _words(folder: Path, label: str, reader: Reader) -> _Words:
    """What estate.yaml says; raises SiteError if it cannot be read at all."""
    content = content_of(folder, ESTATE_FILE, Place(label), reader, label)
    node, faults = read_yaml(content, label, None) if content is not None else (None, [])
    reader.faults += faults
    if node is None:
        raise SiteError(reader.faults)
    whole = reader.mapping(node, "the estate", ESTATE_YAML.keys)
    for key in ESTATE_YAML.required:
        if key not in whole.entries:
            reader.fault(Place(label, 1), f"{key} is missing", hint=f"write {ESTATE_YAML.fields[key].example}")
    if "davlo" in whole.entries:
        reader.one_of(whole.entries["davlo"], "davlo (the format's version)", ("1",), "1")
    told = reader.mapping(whole.entries.get("estate", Mapping(Place(label, 1))), "estate", ESTATE.keys)
    return _Words(
        reader.text(told.entries.get("name"), "name"),
        reader.words(whole.entries.get("sites"), "sites"),
        reader.words(whole.entries.get("shared"), "shared"),
    )


def _is_below(pattern: str, place: Place, reader: Reader) -> bool:
    """Whether a pattern can name folders below the estate's; where not, the fault is noted."""
    parts = pattern.rstrip("/").split("/")
    if "**" in parts:
        reader.fault(place, f"{pattern}: ** does not stand for folders at any depth", hint="write a * for each name")
    elif any(part in ("", ".", "..") for part in parts) or "\\" in pattern or os.path.isabs(pattern):
        reader.fault(
            place, f"{pattern!r} names no folder below the estate's", hint="write it as in: garden, or branches/*"
        )
    else:
        return True
    return False


def _check_shared(root: Path, name: str, place: Place, reader: Reader) -> None:
    """Note a shared file that is none of the estate's own."""
    try:
        path = path_inside(root, name)
    except OutsideFolder as error:
        reader.fault(place, f"{name} lies {error.where}", hint="move the file into the estate's folder")
        return
    except OSError as error:
        reader.fault(place, f"{name} cannot be read: {error.strerror}")
        return
    holder = next(
        (one for one in path.parents if one != root and one.is_relative_to(root) and (one / FIRST).exists()), None
    )
    if holder is not None:
        within = holder.relative_to(root)
        reader.fault(place, f"{name} belongs to the site {within}", hint="move the file into the estate's own folder")
    elif not name.lower().endswith((".yaml", ".yml")):
        reader.fault(place, f"{name} is no YAML file, by its name", hint="name files that end in .yaml")
    elif not path.is_file():
        reader.fault(place, f"there is no file {name} in the estate's folder")


def site_folders(estate: EstateFile) -> list[SiteFolder]:
    """The sites of an estate, by name; a link that leads out of the estate is told with its fault."""
    found: dict[str, SiteFolder] = {}
    seen: set[Path] = set()
    for name in sorted({name for pattern in estate.sites for name in _named(estate.folder, pattern.rstrip("/"))}):
        try:
            path = (estate.folder / name).resolve()
        except (OSError, RuntimeError):
            found[name] = SiteFolder(name, "its folder is a link that leads round in a circle")
            continue
        if path == estate.folder or not path.is_relative_to(estate.folder):
            found[name] = SiteFolder(name, "its folder is a link that leads out of the estate")
        elif path not in seen:
            seen.add(path)
            found[name] = SiteFolder(name)
    return list(found.values())


def _named(folder: Path, pattern: str) -> list[str]:
    """The folders that a pattern names. One without * is named even if it is not there."""
    found = [""]
    for part in pattern.split("/"):
        found = [
            f"{before}{name}/"
            for before in found
            for name in ([part] if ANY not in part else _inside(folder / before, part))
        ]
    names = [name.rstrip("/") for name in found]
    return [name for name in names if os.path.lexists(folder / name / FIRST)] if ANY in pattern else names


def _inside(folder: Path, pattern: str) -> list[str]:
    try:
        with os.scandir(folder) as entries:
            return [one.name for one in entries if _matches_part(one.name, pattern) and one.is_dir()]
    except OSError:
        return []
