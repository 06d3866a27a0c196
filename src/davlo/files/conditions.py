"""Conditions in files: `when` and `except`."""

from __future__ import annotations

import re
from collections.abc import Collection

from davlo.core.conditions import KEYS, Condition

from .reading import Reader
from .yaml_nodes import Items, Node

DEPTH = re.compile(r"(\d{1,6})(?:\s*-\s*(\d{1,6}))?", re.ASCII)


def read_condition(node: Node, reader: Reader, what: str, types: Collection[str]) -> Condition:
    """A condition; keys and words that may not stand there are faults. `types` are the declared types."""
    body = reader.mapping(node, what, KEYS)
    plain: dict[str, tuple[str, ...]] = {}
    for key in ("path", "in_branch", "below", "type", "only_type", "tag", "language", "status"):
        if key not in body.entries:
            continue
        words = reader.words(body.entries[key], key)
        if not words:
            reader.fault(body.keys[key], f"{key} is an empty list, so nothing could meet it")
        for word, place in words:
            if key in ("path", "in_branch", "below") and not word.startswith(("/", "*") if key == "path" else "/"):
                reader.fault(place, f"{key} takes a path, which starts with /, not {word!r}", hint=f"write /{word}")
            if key in ("type", "only_type") and word not in types:
                reader.fault(place, f"there is no type {word!r}", word, types)
            if key == "status" and word not in ("live", "draft"):
                reader.fault(place, f"status takes live or draft, not {word!r}", word, ("live", "draft"))
        plain[key] = tuple(word for word, _ in words)
    depth = []
    for word, place in reader.words(body.entries.get("depth"), "depth"):
        match = DEPTH.fullmatch(word)
        if match and int(match[1]) <= int(match[2] or match[1]):
            depth.append((int(match[1]), int(match[2] or match[1])))
        else:
            reader.fault(place, f"depth takes a number or a range, as 2 or 2-4, not {word!r}")
    home = reader.yes_no(body.entries["home"], "home") if "home" in body.entries else None
    facts = {}
    if "facts" in body.entries:
        for name, _, value in reader.mapping(body.entries["facts"], "facts"):
            facts[name] = tuple(word for word, _ in reader.words(value, name))
    return Condition(depth=tuple(depth), home=home, facts=facts, **plain)


def read_excepts(node: Node | None, reader: Reader, types: Collection[str]) -> tuple[Condition, ...]:
    """One mapping or a list of them, any of which excludes."""
    if node is None:
        return ()
    nodes = node.items if isinstance(node, Items) else [node]
    return tuple(read_condition(each, reader, "except", types) for each in nodes)
