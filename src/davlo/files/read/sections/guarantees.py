"""Guarantees and accepted findings, as files hold them."""

from __future__ import annotations

from collections.abc import Collection

from davlo.core.faults import Place, UnknownName, ValueFault
from davlo.core.site.model import Accept, Guarantee
from davlo.core.site.pages.conditions import Condition
from davlo.core.site.settings.catalogue import Catalogue, Vocabulary
from davlo.core.site.settings.parse_values import read_value
from davlo.core.site.settings.values import ListChange, Reference, Value, expand_roles

from ...form.davlo_yaml import ACCEPT, GUARANTEE
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, Node, raw
from .when import read_condition, read_excepts


def read_guarantees(
    node: Node | None, catalogue: Catalogue, words: Vocabulary, reader: Reader, types: Collection[str]
) -> tuple[Guarantee, ...]:
    """The `guarantees` section."""
    if node is None:
        return ()
    found = []
    first: dict[str, Place] = {}
    for item in reader.items(node, "guarantees"):
        body = reader.mapping(item, "a guarantee", GUARANTEE.keys)
        name = reader.text(body.entries.get("name"), "name")
        if not name:
            reader.fault(item.place, "the guarantee has no name", hint="name: what must hold")
        elif name in first:
            reader.fault(body.keys["name"], f"a second guarantee is called {name!r}; the first is at {first[name]}")
        first.setdefault(name, item.place)
        if not set(body.entries) & {*GUARANTEE.any_of}:
            reader.fault(item.place, f"the guarantee {name!r} guarantees nothing", hint="may_not: {everyone: [view]}")
        when = read_condition(body.entries.get("when", Mapping(item.place)), reader, "when", types)
        excepts = read_excepts(body.entries.get("except"), reader, types)
        may, may_not = (_subjects(body.entries.get(key), key, words, reader) for key in ("may", "may_not"))
        found.append(
            Guarantee(name, item.place, when, excepts, _has(body.entries.get("has"), catalogue, reader), may, may_not)
        )
    return tuple(found)


def _has(node: Node | None, catalogue: Catalogue, reader: Reader) -> dict[int, Value]:
    found: dict[int, Value] = {}
    for name, place, value in reader.mapping(node, "has") if node is not None else ():
        number = catalogue.find(name)
        if number is None and catalogue.could_be(name):
            reader.fault(place, f"no statement sets {name}, so no page can have it")
            continue
        try:
            number = catalogue.number(name)
            wanted = read_value(catalogue[number], raw(value))
            if isinstance(wanted, Reference | ListChange):
                raise ValueFault(f"a guarantee holds a plain value of {name}, not a change or a reference")
            found[number] = wanted
        except UnknownName as error:
            reader.unknown(place, error)
        except ValueFault as error:
            reader.value_fault(place, error)
    return found


def _subjects(node: Node | None, key: str, words: Vocabulary, reader: Reader) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for subject, place, value in reader.mapping(node, key) if node is not None else ():
        if subject not in words.subjects:
            reader.fault(place, f"there is no person or group {subject!r}", subject, words.subjects)
            continue
        said = reader.known(value, key, (*words.actions, *words.roles), "action or role")
        for role in words.roles.keys() & set(said):
            reader.note_role(role, place, f"{key}.{subject}", tuple(said))
        found[subject] = expand_roles(words.roles, said)
    return found


def read_accepts(node: Node | None, catalogue: Catalogue, reader: Reader, types: Collection[str]) -> tuple[Accept, ...]:
    """The `accept` section."""
    if node is None:
        return ()
    found = []
    for item in reader.items(node, "accept"):
        body = reader.mapping(item, "an accept", ACCEPT.keys)
        because = reader.text(body.entries.get("because"), "because")
        if not because:
            reader.fault(item.place, "the accept has no because", hint="because: why this is meant")
        if len(set(body.entries) - {"because"}) == 0:
            reader.fault(
                item.place,
                "the accept would silence everything",
                hint="name a kind, a setting, a declaration or a when",
            )
        when: Condition | None = None
        if "when" in body.entries:
            when = read_condition(body.entries["when"], reader, "when", types)
        found.append(
            Accept(
                item.place,
                because,
                kind=reader.one_of(body.entries.get("kind"), "kind", ACCEPT.choices("kind"), ""),
                setting=_setting(body, catalogue, reader),
                declaration=reader.text(body.entries.get("declaration"), "declaration"),
                when=when,
            )
        )
    return tuple(found)


def _setting(body: Mapping, catalogue: Catalogue, reader: Reader) -> str:
    name = reader.text(body.entries.get("setting"), "setting")
    if name and not catalogue.could_be(name):
        place: Place = body.keys["setting"]
        reader.fault(place, f"there is no setting {name!r}", name, catalogue.names())
    return name
