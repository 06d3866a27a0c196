"""Breadcrumbs: the way from the top of a site to a page, told by records, by the signs between links, or by its end.

schema.org/BreadcrumbList for records in JSON-LD. `page_areas` finds those that a `nav` is called.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Collection, Iterator, Sequence
from typing import Any, TypeAlias

from lxml import etree

from .built_page import Link
from .page_texts import text_of

Resolve: TypeAlias = "Callable[[str], str]"
"""Where a link's target leads."""
_WITH_LINKS = etree.XPath("//*[a[@href][2]]")
_LISTS = etree.XPath("//*[self::ul or self::ol][li[1]][not(li[10])]")
_UP = etree.XPath("//a[@href][@rel or @accesskey]")
_SIGNS = frozenset("›»>→❯▸▶⟩")
"""Signs that stand between the links of breadcrumbs."""
MOST_TRIES = 20
"""How many lists, and elements with links, are looked at."""


def trail_by_records(records: Sequence[dict[str, Any]], resolve: Resolve) -> Iterator[Link]:
    """The first list of breadcrumbs (schema.org/BreadcrumbList): names and addresses, the top first."""
    for record in records:
        items = record.get("itemListElement")
        if record.get("@type") != "BreadcrumbList" or not isinstance(items, list):
            continue
        steps = [step for step in items if isinstance(step, dict)]
        for step in sorted(steps, key=_position):
            item = step.get("item")
            name, target = step.get("name"), item
            if isinstance(item, dict):
                name, target = name or item.get("name"), item.get("@id") or item.get("url")
            yield (name if isinstance(name, str) else "", resolve(target) if isinstance(target, str) else "")
        return


def _position(step: dict[str, Any]) -> float:
    try:
        return float(step.get("position", 0))
    except (TypeError, ValueError):
        return 0.0


def trail_by_signs(root: Any, resolve: Resolve) -> tuple[Link, ...]:
    """The first links that follow each other with a sign such as › between, whatever element holds them."""
    for element in _WITH_LINKS(root)[:MOST_TRIES]:
        links = [child for child in element if child.tag == "a"]
        if all((link.tail or "").strip() in _SIGNS for link in links[:-1]):
            return _links(links, resolve)
    return ()


def trail_by_its_end(root: Any, resolve: Resolve, names: Collection[str]) -> tuple[Link, ...]:
    """The links of the first short list before the page's own name, which is no link; each is an entry of its own.

    `names`: what the page is called.
    """
    for element in _LISTS(root)[:MOST_TRIES]:
        above = list[Any]()
        for entry in element:
            links = [*itertools.islice(entry.iter("a"), 2)]
            if len(links) > 1 or (not links and above and text_of(entry) in names):
                break
            above += links
        else:
            continue
        if len(links) == 0:
            return _links(above, resolve)
    return ()


def link_up(root: Any, resolve: Resolve) -> str:
    """Where the first link leads that is the way up: by `rel`, or by the access key u; empty if there is none."""
    for element in _UP(root)[:MOST_TRIES]:
        words = (element.get("rel") or "").lower().split()
        if "up" in words or element.get("accesskey") == "u":
            return resolve(element.get("href"))
    return ""


def _links(elements: Sequence[Any], resolve: Resolve) -> tuple[Link, ...]:
    return tuple((text_of(one), resolve(one.get("href"))) for one in elements if one.get("href") is not None)
