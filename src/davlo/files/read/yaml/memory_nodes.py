"""Decisions that are a dictionary in memory, as the nodes that a YAML file would give."""

from __future__ import annotations

from collections.abc import Mapping as AnyMapping
from typing import Any

from davlo.core.faults import Place, ValueFault
from davlo.frames.intake import cell_text

from ...form.davlo_yaml import SECTIONS
from .node_reader import Reader
from .yaml_nodes import Items, Mapping, Node, Scalar

ROOT = "decisions"
DEEPEST = 60
"""A dictionary that holds itself would never end."""


def decisions_of(decisions: Any, reader: Reader) -> Mapping:
    """The mapping of all decisions; places read `decisions[pages][/visit]`."""
    node = _node(decisions, ROOT, reader)
    if not isinstance(node, Mapping):
        reader.fault(Place(ROOT), f"decisions are a dictionary, not {type(decisions).__name__}")
        return Mapping(Place(ROOT))
    for body, key in ((node, "include"), (node.entries.get("site"), "values"), (node.entries.get("site"), "page_list")):
        if isinstance(body, Mapping) and key in body.entries:
            reader.fault(body.keys[key], f"{key} names a file, and there is no folder", hint="take it away")
            body.drop(key)
    return reader.mapping(node, "the site", ("davlo", "site", *SECTIONS))


def _node(value: Any, where: str, reader: Reader, depth: int = 0) -> Node:
    place = Place(where)
    if depth > DEEPEST:
        reader.fault(place, "the lists and mappings are nested too deep")
        return Scalar("", place, bare=False)
    if isinstance(value, AnyMapping):
        node = Mapping(place)
        for key, inner in value.items():
            name = "" if key is None else _text(key, place, reader)
            node.entries[name] = _node(inner, f"{where}[{name}]", reader, depth + 1)
            node.keys[name] = Place(f"{where}[{name}]")
        return node
    if isinstance(value, list | tuple | set | frozenset):
        items = sorted(value, key=str) if isinstance(value, set | frozenset) else value
        return Items([_node(item, f"{where}[{i}]", reader, depth + 1) for i, item in enumerate(items)], place)
    if value is None:
        reader.fault(place, "None says nothing", hint="write 'none' for an explicit nothing, or take the key away")
        return Scalar("none", place, bare=True)
    return Scalar(_text(value, place, reader), place, bare=True)


def _text(value: Any, place: Place, reader: Reader) -> str:
    try:
        return cell_text(value)
    except ValueFault as error:
        reader.fault(place, error.what.replace("a cell holds", "here stands"))
        return ""
