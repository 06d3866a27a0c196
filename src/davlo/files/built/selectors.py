"""A small file of CSS selectors that name the areas and details of built pages."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

from davlo.core.faults import Fault, Place, SiteError

from ..read.site_file import open_regular
from ..read.yaml.node_reader import Reader
from ..read.yaml.yaml_nodes import Mapping, Node, Scalar, read_yaml

KEYS = ("areas", "details", "skip")
SHAPE = "areas: {right: 'div.sidebar', content: '#body'}"


class DetailSelector(NamedTuple):
    """Where a detail of a page stands: in the text of the first element that matches, or in one of its attributes."""

    detail: str
    select: Any
    attribute: str


class Selectors(NamedTuple):
    """What finds areas and details; compiled selectors of lxml."""

    areas: tuple[tuple[str, Any], ...] = ()  # for each area, the first element that matches
    details: tuple[DetailSelector, ...] = ()
    skip: tuple[Any, ...] = ()  # elements to remove from a page before it is read

    def areas_of(self, root: Any) -> dict[Any, str]:
        """The elements that are areas, by name; elements to skip are removed from the page."""
        for select in self.skip:
            for element in select(root):
                above = element.getparent()
                if above is not None:
                    above.remove(element)
        found: dict[Any, str] = {}
        for name, select in self.areas:
            for element in select(root)[:1]:
                found.setdefault(element, name)
        return found

    def details_of(self, root: Any, text_of: Callable[[Any], str]) -> Iterator[tuple[str, str]]:
        """The details that the page shows, and what they are."""
        for detail, select, attribute in self.details:
            for element in select(root)[:1]:
                text = " ".join((element.get(attribute) or "").split()) if attribute else text_of(element)
                if text:
                    yield detail, text


NO_SELECTORS = Selectors()


def read_areas(path: Path) -> Selectors:
    """What a file of selectors says.

    Raises SiteError if it cannot be read or understood; it lists every fault.
    """
    try:
        with open_regular(path) as file:
            return read_selectors(file.readall(), str(path))
    except OSError as error:
        raise SiteError([Fault(Place(str(path)), f"it cannot be read: {error.strerror or error}")]) from None


def read_selectors(content: bytes, file: str) -> Selectors:
    """What such a file says.

    Raises SiteError if it cannot be understood; it lists every fault.

    Example
    -------
    >>> found = read_selectors(b"areas: {right: 'div.side'}", "parts.yaml")
    >>> [name for name, _ in found.areas]
    ['right']
    """
    reader = Reader()
    try:
        node, faults = read_yaml(content.decode("utf-8-sig"), file)
    except UnicodeDecodeError:
        raise SiteError([Fault(Place(file), "it is no UTF-8 text")]) from None
    reader.faults += faults
    areas, details, skip = list[tuple[str, Any]](), list[DetailSelector](), list[Any]()
    if node is not None:
        body = reader.mapping(node, file, KEYS)
        for name, place, inner in _entries(body, "areas", reader):
            reader.name(name, place, "area")
            areas += [(name, select) for select in _compiled(inner, f"areas: {name}", reader)]
        for name, _, inner in _entries(body, "details", reader):
            if isinstance(inner, Mapping):
                parts = reader.mapping(inner, f"details: {name}", ("select", "attribute"))
                attribute = reader.text(parts.entries.get("attribute"), "attribute")
                select = parts.entries.get("select", Scalar("", place, bare=True))
            else:
                attribute, select = "", inner
            details += [DetailSelector(name, one, attribute) for one in _compiled(select, f"details: {name}", reader)]
        if "skip" in body.entries:
            for item in reader.items_or_one(body.entries["skip"]):
                skip += _compiled(item, "skip", reader)
    if reader.faults:
        raise SiteError(reader.faults)
    return Selectors(tuple(areas), tuple(details), tuple(skip))


def _entries(body: Mapping, key: str, reader: Reader) -> Iterator[tuple[str, Place, Any]]:
    node = body.entries.get(key)
    if node is None:
        return
    if not isinstance(node, Mapping):
        reader.fault(node.place, f"{key} takes names, each with a CSS selector", hint=SHAPE)
        return
    yield from node


def _compiled(node: Node, what: str, reader: Reader) -> list[Any]:
    """The compiled selector of a text; none if it is no selector, which is reported."""
    from cssselect import SelectorError
    from lxml.cssselect import CSSSelector

    if not isinstance(node, Scalar):
        reader.fault(node.place, f"{what} takes a CSS selector", hint=SHAPE)
        return []
    try:
        return [CSSSelector(node.text, translator="html")]
    except (SelectorError, RecursionError) as error:
        reader.fault(node.place, f"{what} takes a CSS selector, and {node.text!r} is none: {error}")
        return []
