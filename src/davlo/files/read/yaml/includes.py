"""davlo.yaml and the files it includes, joined to one mapping."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

from davlo.core.arrays.lines import line_of
from davlo.core.faults import Fault, Place

from ...form.davlo_yaml import SECTIONS
from ...form.estate_yaml import SHARED_SECTIONS
from ..site_file import KEEP_ONE, OutsideFolder, conflict_in, path_inside, read_site_file
from .node_reader import Reader
from .yaml_nodes import Items, Mapping, Node, read_yaml

FIRST = "davlo.yaml"
ESTATE = "estate"
"""Where the joined mapping holds what shared files say everywhere; no file has a section called so."""


class SharedFile(NamedTuple):
    """A file that the sites of an estate begin with: the estate's folder, its name there, and what a site calls it."""

    folder: Path
    name: str
    label: str


def read_decisions(
    folder: Path, reader: Reader, seen: Callable[[str, Node], None] | None = None, shared: Sequence[SharedFile] = ()
) -> Mapping | None:
    """All that shared files, davlo.yaml and its includes say, joined; None where davlo.yaml cannot be read.

    Each file is read once, and its includes after it, in their order. `seen` is called with each section of davlo.yaml
    as soon as it is read.
    """
    joined = Mapping(Place(FIRST, 1))
    for one in shared:
        read_shared(one, reader, joined)
    includes = _read_file(folder, FIRST, Place(FIRST), reader, joined, seen)
    if includes is None:
        return None
    read: dict[Path, str] = {path_inside(folder, FIRST): FIRST}
    above: dict[str, str] = {FIRST: ""}
    waiting = [(FIRST, include, place) for include, place in reversed(includes)]
    while waiting:
        by, name, place = waiting.pop()
        path = _included_path(folder, name, place, reader)
        if path is None:
            continue
        if path in read:
            reader.fault(place, _again(read[path], by, above))
            continue
        read[path], above[name] = name, by
        more = _read_file(folder, name, place, reader, joined)
        waiting += [(name, include, at) for include, at in reversed(more or [])]
    return joined


def _included_path(folder: Path, name: str, place: Place, reader: Reader) -> Path | None:
    """The file that an include names; None where it cannot be one of the site folder, which is noted."""
    try:
        return path_inside(folder, name)
    except OutsideFolder as error:
        reader.fault(place, f"{name} lies {error.where}", hint="move the file into the site folder")
    except OSError as error:
        reader.fault(place, f"{name} cannot be included: {error.strerror}")
    return None


def _again(name: str, by: str, above: dict[str, str]) -> str:
    """The error about a file that was included already."""
    chain = [by]
    while chain[-1] and chain[-1] != name:
        chain.append(above[chain[-1]])
    if not chain[-1]:
        return f"{name} is included twice; {above[name]} includes it already"
    return f"the includes go round in a circle: {' -> '.join([*reversed(chain), name])}"


def _read_file(
    folder: Path,
    name: str,
    asked_at: Place,
    reader: Reader,
    joined: Mapping,
    seen: Callable[[str, Node], None] | None = None,
) -> list[tuple[str, Place]] | None:
    """Join what a file says; gives the files that it includes, None where it cannot be read."""
    content = content_of(folder, name, asked_at, reader)
    if content is None:
        return None
    node, faults = read_yaml(content, name, seen)
    reader.faults += faults
    if node is None:
        return None
    is_first = name == FIRST
    keys = (*(("davlo", "site") if is_first else ()), "include", *SECTIONS)
    for key, place, _ in node:
        if key in ("davlo", "site") and not is_first:
            reader.fault(place, f"{key} stands in {FIRST} alone, not in an included file")
    if not is_first:
        for key in {"davlo", "site"} & node.entries.keys():
            node.drop(key)
    whole = reader.mapping(node, "the site", keys)
    for key, place, value in whole:
        if key != "include":
            _join(joined, key, place, value, reader)
    return reader.words(whole.entries.get("include"), "include")


def read_shared(file: SharedFile, reader: Reader, joined: Mapping) -> None:
    """Join what a shared file says: declarations, and what every page of every site gets."""
    own = "" if file.label == file.name else file.label
    content = content_of(file.folder, file.name, Place(file.label), reader, own)
    node, faults = (None, []) if content is None else read_yaml(content, file.label)
    reader.faults += faults
    for key, place, value in node or ():
        if key in SHARED_SECTIONS:
            _refuse_given(key, value, reader)
            _join(joined, ESTATE if key == "everywhere" else key, place, value, reader)
        elif key in SECTIONS or key == "include":
            told = f"a shared file holds declarations and everywhere, not {key}"
            reader.fault(place, told, hint=f"say {key} in the {FIRST} of each site")
        else:
            reader.fault(place, f"a shared file has no key {key!r}", key, SHARED_SECTIONS)


def _refuse_given(key: str, value: Node, reader: Reader) -> None:
    """Note a shared type that gives its pages something: each site says that."""
    for name, _, entry in value if key == "types" and isinstance(value, Mapping) else ():
        if isinstance(entry, Mapping) and "give" in entry.entries:
            told = f"a shared file declares the type {name}; what its pages get is for each site to say"
            reader.fault(entry.keys["give"], told, hint=f"in the {FIRST} of a site: types: {{{name}: {{give: …}}}}")


def _can_join(section: str, have: Node, entry: Node, is_shared: bool) -> bool:
    """Whether a second entry of one name adds to the first: to a list of people, or what a type's pages get."""
    if section == "types" and isinstance(have, Mapping) and isinstance(entry, Mapping):
        return is_shared and {*entry.entries} == {"give"} and "give" not in have.entries
    return section == "people" and type(have) is type(entry)


def decoded(content: bytes, name: str, reader: Reader) -> str | None:
    """The text of a file; None if it is not UTF-8 or holds conflict markers, which is noted."""
    line, conflict = conflict_in(content)
    if line:
        reader.fault(Place(name, line), conflict, hint=KEEP_ONE)
        return None
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = line_of(content[: error.start + 1].decode("latin-1"), error.start)
        reader.fault(Place(name, line), "the file is not UTF-8", hint="save it as UTF-8")
    return None


def content_of(folder: Path, name: str, asked_at: Place, reader: Reader, label: str = "") -> str | None:
    """The text of a file of a folder; None if it cannot be read, which is noted.

    `label`: what messages call a file that is none of the site's own.
    """
    try:
        content = read_site_file(folder, name)
        if not label:
            reader.note_content(name, content)
        return decoded(content, label or name, reader)
    except FileNotFoundError:
        if label:
            reader.fault(asked_at, f"there is no {name} in {folder}")
        elif name == FIRST:
            hint = "name the site folder with --site DIR, or see one with: davlo demo"
            reader.fault(Place(FIRST), f"there is no {FIRST} in {folder}", hint=hint)
        else:
            reader.fault(asked_at, f"there is no file {name} in the site folder")
    except OSError as error:
        reader.fault(Place(label or name), f"the file cannot be read: {error.strerror}")
    return None


def _join(joined: Mapping, key: str, place: Place, value: Node, reader: Reader) -> None:
    """Join one section: mappings one level deep, lists end to end."""
    if key not in joined.entries:
        joined.keys[key] = place
        joined.entries[key] = _copy(value)
        return
    have = joined.entries[key]
    if isinstance(have, Items) and isinstance(value, Items):
        have.items += value.items
    elif isinstance(have, Mapping) and isinstance(value, Mapping):
        for name, at, entry in value:
            if name not in have.entries:
                have.keys[name], have.entries[name] = at, _copy(entry)
            elif _can_join(key, have.entries[name], entry, have.keys[name].file.startswith("../")):
                _join(have, name, at, entry, reader)
            else:
                reader.faults.append(Fault(at, f"{name} is named twice under {key}; the first is at {have.keys[name]}"))
    else:
        reader.faults.append(Fault(place, f"{key} holds another kind of thing than at {joined.keys[key]}"))


def _copy(node: Node) -> Node:
    """A node whose own list or mapping can grow without changing the original."""
    if isinstance(node, Items):
        return Items(list(node.items), node.place)
    if isinstance(node, Mapping):
        return Mapping(node.place, dict(node.entries), dict(node.keys))
    return node
