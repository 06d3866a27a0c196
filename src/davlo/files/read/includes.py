"""davlo.yaml and the files it includes, joined to one mapping."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from davlo.core.faults import Fault, Place

from .node_reader import Reader
from .yaml_nodes import Items, Mapping, Node, read_yaml

FIRST = "davlo.yaml"
SECTIONS = (
    "settings",
    "presets",
    "everywhere",
    "types",
    "pages",
    "rules",
    "layouts",
    "themes",
    "sidebars",
    "looks",
    "bands",
    "blocks",
    "people",
    "roles",
    "actions",
    "menu",
    "sitemap",
    "promises",
    "accept",
)


def inside(folder: Path, name: str) -> Path | None:
    """The file of this name in the site folder; None where it lies outside."""
    root = folder.resolve()
    path = (root / name).resolve()
    return path if path.is_relative_to(root) else None


def read_decisions(folder: Path, reader: Reader, seen: Callable[[str, Node], None] | None = None) -> Mapping | None:
    """All that davlo.yaml and its includes say, joined; None where davlo.yaml cannot be read.

    `seen` is called with each section of davlo.yaml as soon as it is read.
    """
    joined = Mapping(Place(FIRST, 1))
    return joined if _read_file(folder, FIRST, reader, joined, [], seen) else None


def _read_file(
    folder: Path,
    name: str,
    reader: Reader,
    joined: Mapping,
    chain: list[str],
    seen: Callable[[str, Node], None] | None = None,
) -> bool:
    content = _content(folder, name, reader, chain)
    if content is None:
        return False
    node, faults = read_yaml(content, name, seen)
    reader.faults += faults
    if node is None:
        return False
    first = not chain
    keys = (*(("davlo", "site") if first else ()), "include", *SECTIONS)
    for key, place, _ in node:
        if key in ("davlo", "site") and not first:
            reader.fault(place, f"{key} stands in {FIRST} alone, not in an included file")
    if not first:
        for key in {"davlo", "site"} & node.entries.keys():
            node.drop(key)
    whole = reader.mapping(node, "the site", keys)
    for key, place, value in whole:
        if key != "include":
            _join(joined, key, place, value, reader)
    for include, place in reader.words(whole.entries.get("include"), "include"):
        if inside(folder, include) is None:
            reader.fault(place, f"{include} lies outside the site folder", hint="move the file into the site folder")
        elif include in (name, *chain):
            reader.fault(place, f"the includes go round in a circle: {' -> '.join([*chain, name, include])}")
        else:
            before = len(reader.faults)
            if not _read_file(folder, include, reader, joined, [*chain, name]) and len(reader.faults) == before:
                reader.fault(place, f"there is no file {include} in the site folder")
    return True


def _content(folder: Path, name: str, reader: Reader, chain: list[str]) -> str | None:
    try:
        content = (folder / name).read_bytes()
        reader.note_content(name, content)
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = error.object[: error.start].count(b"\n") + 1
        reader.fault(Place(name, line), "the file is not UTF-8", hint="save it as UTF-8")
    except FileNotFoundError:
        if not chain:
            hint = "name the site folder with --site DIR, or see one with: davlo demo"
            reader.fault(Place(FIRST), f"there is no {FIRST} in {folder}", hint=hint)
    except OSError as error:
        reader.fault(Place(name), f"the file cannot be read: {error.strerror}")
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
            elif key == "people" and type(have.entries[name]) is type(entry):
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
