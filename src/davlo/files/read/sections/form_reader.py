"""Reads the values under the keys of a form, each by its shape. A key that is missing keeps its default."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

from davlo.files.form.shapes import Fields, Flag, NameOf, Number, Shape, Text, Word, Words

from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping as MappingNode
from ..yaml.yaml_nodes import Node

Names = Callable[[str], Sequence[str]]
"""The names that are declared, by kind."""


def read_fields(
    body: MappingNode,
    form: Fields,
    reader: Reader,
    defaults: Mapping[str, Any],
    leave: Collection[str] = (),
    names: Names = lambda kind: (),
) -> dict[str, Any]:
    """The values of the keys that are there, but for those to `leave`.

    A value that its key cannot take is a fault, and the key's default stands in its place.
    """
    return {
        key: _value(node, key, form.fields[key].shape, reader, names, defaults.get(key))
        for key, _, node in body
        if key in form.fields and key not in leave
    }


def _value(node: Node, key: str, shape: Shape, reader: Reader, names: Names, default: Any) -> Any:
    if isinstance(shape, Text):
        return _read(reader.text(node, key), shape, reader)
    if isinstance(shape, Flag):
        return reader.flag(node, key, bool(default))
    if isinstance(shape, Number):
        number = reader.number(node, key, default or 0, *shape.bounds)
        return int(number) if shape.whole else number
    if isinstance(shape, Word):
        return reader.one_of(node, key, shape.choices, default or "")
    if isinstance(shape, NameOf):
        return reader.known_one(node, key, _allowed(shape, names), shape.words)
    assert isinstance(shape, Words), f"{key} is read by a function of its own"
    if isinstance(shape.of, Text):
        return tuple(_read(word, shape.of, reader) for word, _ in reader.words(node, key))
    if isinstance(shape.of, Word):
        return reader.known(node, key, shape.of.choices, shape.of.what)
    return reader.known(node, key, _allowed(shape.of, names), shape.of.words)


def _read(word: str, shape: Text, reader: Reader) -> str:
    return reader.page_path(word) if shape.names == "page" else word


def _allowed(shape: NameOf, names: Names) -> Sequence[str]:
    if len(shape.kinds) == 1 and not shape.besides:  # the same names for all declarations: they are not copied
        return names(shape.kinds[0])
    return [*(name for kind in shape.kinds for name in names(kind)), *shape.besides]
