"""The `types` section."""

from __future__ import annotations

from davlo.core.faults import Place
from davlo.core.site.pages.types import Type
from davlo.core.site.settings.catalogue import Catalogue

from ...form.davlo_yaml import TYPE
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, Node
from .form_reader import read_fields


def read_types(node: Node | None, reader: Reader) -> dict[str, Type]:
    """The declared types; `page` always exists."""
    section = reader.mapping(node, "types") if node is not None else Mapping(Place("davlo.yaml"))
    names = ("page", *(name for name in section.entries if name != "page"))
    found = {"page": Type("page", section.keys.get("page", Place("davlo.yaml")))}
    for name, place, value in section:
        reader.name(name, place, "type")
        body = reader.mapping(value, f"the type {name}", TYPE.keys)
        found[name] = Type(name, place, **read_fields(body, TYPE, reader, {}, ("give",), lambda kind: names))
    above: dict[str, tuple[str, ...]] = {name: (t.based_on,) if t.based_on else () for name, t in found.items()}
    for name in reader.circles(above, {**section.keys, "page": found["page"].place}, "types"):
        found[name] = Type(name, found[name].place)
    return found


def check_without(section: Node | None, catalogue: Catalogue, reader: Reader) -> None:
    """Whether the settings that types are without are settings."""
    families = {f"{s.family}.*" for s in catalogue.settings if s.family}
    for _, _, body in section if isinstance(section, Mapping) else ():
        node = body.entries.get("without") if isinstance(body, Mapping) else None
        for word, place in reader.words(node, "without"):
            if catalogue.find(word) is None and word not in families and not catalogue.could_be(word):
                reader.fault(place, f"there is no setting {word!r}", word, catalogue.names())
