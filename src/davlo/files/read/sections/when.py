"""Conditions in files: `when` and `except`."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from davlo.core.faults import Place, SiteError
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.conditions import Condition
from davlo.core.site.pages.details import STANDARD, STATUSES

from ...form.davlo_yaml import CONDITION
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Items, Mapping, Node, Scalar

DEPTH = re.compile(r"(\d{1,6})(?:\s*-\s*(\d{1,6}))?", re.ASCII)


def read_condition(node: Node, reader: Reader, what: str, types: Collection[str]) -> Condition:
    """A condition; keys and words that may not stand there are faults. `types` are the declared types."""
    body = reader.mapping(node, what, CONDITION.keys, _of_detail)
    plain: dict[str, tuple[str, ...]] = {}
    for key in ("path", "in_branch", "below", "type", "only_type", "tag", "language", "status"):
        if key not in body.entries:
            continue
        words = reader.words(body.entries[key], key)
        if not words:
            reader.fault(body.keys[key], f"{key} is an empty list, so no page could match")
        if key in ("path", "in_branch", "below"):
            words = [(word if "*" in word else reader.page_path(word), place) for word, place in words]
        for word, place in words:
            if key in ("path", "in_branch", "below") and not word.startswith(("/", "*") if key == "path" else "/"):
                reader.page_fault(place, f"{key} takes a path, which starts with /, not {word!r}", word)
            if key in ("type", "only_type") and word not in types:
                reader.fault(place, f"there is no type {word!r}", word, types)
            if key == "status" and word not in STATUSES:
                reader.fault(place, f"status takes live, draft or folder, not {word!r}", word, STATUSES)
        plain[key] = tuple(word for word, _ in words)
    depth = []
    for word, place in reader.words(body.entries.get("depth"), "depth"):
        match = DEPTH.fullmatch(word)
        if match and int(match[1]) <= int(match[2] or match[1]):
            depth.append((int(match[1]), int(match[2] or match[1])))
        else:
            reader.fault(place, f"depth takes a number or a range, as 2 or 2-4, not {word!r}")
    home = reader.flag(body.entries["home"], "home") if "home" in body.entries else None
    details = {}
    if "details" in body.entries:
        for name, _, value in reader.mapping(body.entries["details"], "details"):
            details[name] = tuple(word for word, _ in reader.words(value, name))
    return Condition(depth=tuple(depth), home=home, details=details, **plain)


def _of_detail(key: str) -> str:
    """What to write for a detail that stands where a key of a condition belongs."""
    return f"write details: {{{key}: …}}" if key in STANDARD else ""


def asked_condition(words: Sequence[str], site: SiteModel) -> Condition:
    """The condition that words like `type=event` make: the keys of `when`, or columns of the page list.

    A key that stands twice takes any of its values.

    Raises SiteError if they are not understood.
    """
    reader = Reader()
    reader.names = site.page_names
    columns, types = tuple(site.details.columns), tuple(site.types.names)
    place = Place("")
    body, details = Mapping(place), Mapping(place)
    for word in words:
        key, equals, value = word.partition("=")
        key = key.strip()
        into = body if key in CONDITION.keys and key != "details" else details
        if not equals:
            reader.fault(place, f"it takes KEY=VALUE, as type=event or below=/visit, not {word!r}")
        elif into is details and key not in columns and site.catalogue.find(key) is not None:
            told = f"{key} is a setting, and a condition looks at details alone"
            reader.fault(place, told, hint=f"choose pages by what they get: --having {key}={value.strip()}")
        elif into is details and key not in columns:
            names = dict.fromkeys([*(name for name in CONDITION.keys if name != "details"), *columns])
            told = f"{key!r} is no key of a condition, and no column of the page list"
            reader.fault(place, told, key, tuple(names))
        else:
            said = Scalar(value.strip(), place, bare=True)
            before = into.entries.get(key)
            into.entries[key] = said if before is None else Items([*reader.items_or_one(before), said], place)
            into.keys[key] = place
    if details.entries:
        body.entries["details"], body.keys["details"] = details, place
    condition = read_condition(body, reader, "the condition", types)
    if reader.faults:
        raise SiteError(reader.faults)
    return condition


def read_excepts(node: Node | None, reader: Reader, types: Collection[str]) -> tuple[Condition, ...]:
    """One mapping or a list of them, any of which excludes."""
    if node is None:
        return ()
    nodes = node.items if isinstance(node, Items) else [node]
    return tuple(read_condition(each, reader, "except", types) for each in nodes)
