"""Breadcrumbs: the way from the top of a site to a page, told by records, by the signs between links, or by its end.

schema.org/BreadcrumbList for records in JSON-LD. `page_areas` finds those that a `nav` is called.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Collection, Iterator, Sequence
from typing import Any, TypeAlias

from .built_page import Link
from .page_texts import text_of

Resolve: TypeAlias = "Callable[[str], str]"
"""Where a link's target leads."""
_SIGNS = frozenset("›»>→❯▸▶⟩")
"""Signs that stand between the links of breadcrumbs."""
MOST_TRIES = 20
"""How many lists, and elements with such signs, are looked at."""
MOST_STEPS = 9
"""Longer lists are no breadcrumbs."""


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
    seen = set[Any]()
    for link in root.iter("a"):
        tail = link.tail
        if not tail or tail.strip() not in _SIGNS or (element := link.getparent()) in seen:
            continue
        links = [*element.iterchildren("a")]
        if len(links) > 1 and all((link.tail or "").strip() in _SIGNS for link in links[:-1]):
            return _links(links, resolve)
        seen.add(element)
        if len(seen) == MOST_TRIES:
            break
    return ()


def trail_by_its_end(root: Any, resolve: Resolve, names: Collection[str]) -> tuple[Link, ...]:
    """The links of the first short list before the page's own name, which is no link; each is an entry of its own.

    `names`: what the page is called.
    """
    short = (one for one in root.iter("ul", "ol") if 0 < _count(one.iterchildren("li"), MOST_STEPS + 1) <= MOST_STEPS)
    for element in itertools.islice(short, MOST_TRIES):
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
    for element in root.iter("a"):
        words = element.get("rel")
        if (words and "up" in words.lower().split()) or element.get("accesskey") == "u":
            target = element.get("href")
            if target is not None:
                return resolve(target)
    return ""


def _count(elements: Iterator[Any], most: int) -> int:
    """How many there are; no more than `most` are counted."""
    return sum(1 for _ in itertools.islice(elements, most))


def _links(elements: Sequence[Any], resolve: Resolve) -> tuple[Link, ...]:
    return tuple((text_of(one), resolve(one.get("href"))) for one in elements if one.get("href") is not None)
