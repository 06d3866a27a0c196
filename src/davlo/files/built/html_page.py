"""One HTML page read by the web's open conventions: what its head says, its headings, its breadcrumbs.

The HTML standard (html.spec.whatwg.org) for `title`, `lang`, `rel`, `base` and `meta`; schema.org for breadcrumbs and
dates in JSON-LD. The areas are found by `page_areas`.
"""

from __future__ import annotations

import datetime
import email.utils
import itertools
import json
import re
from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import Any
from urllib.parse import urljoin, urlsplit

from lxml import etree

from davlo.core.faults import ValueFault

from .built_page import BuiltPage
from .html_document import html_document
from .page_areas import PageAreas
from .page_headings import MOST_TRIES, headings_of
from .page_texts import text_of
from .page_trails import Resolve, link_up, trail_by_its_end, trail_by_records, trail_by_signs
from .selectors import NO_SELECTORS, Selectors

HERE = "https://built.invalid"
"""Stands for the site's own address while a page's links are resolved; no host can have this name (RFC 6761)."""
MOST_JSON = 1 << 20
MOST_KNOWN, MOST_FOLDERS = 1 << 13, 8
"""As many links of as many folders are kept with where they lead: pages of a folder have most of them in common."""
_MODIFIED = ("last-modified", "dcterms.modified", "dc.date.modified", "article:modified_time", "modified", "revised")
_CREATED = ("dcterms.created", "dc.date.created", "article:published_time", "date", "dcterms.date", "dc.date")
_REFRESH = re.compile(r"\s*\d+[.\d]*\s*[;,]\s*(?:url\s*=\s*)?[\"']?\s*([^\"']+)", re.IGNORECASE)
_CRAWLERS = ("robots", "bot")
"""How the names of the `meta` elements end that speak to crawlers: `robots` to all, others to one of them."""
_NOINDEX = {"noindex", "none"}
_NO_TEXT = ("script", "style", "template", "noscript")


def html_page(content: bytes, file: str, address: str, selectors: Selectors = NO_SELECTORS) -> BuiltPage:
    """What a page shows.

    `file`: what the page is called in messages. `address`: the path at which it is shown. `selectors`: what finds areas
    and details that the conventions do not tell. Raises ValueFault if it is too large, or holds no elements, or too
    many.

    Example
    -------
    >>> page = html_page(b"<html lang=en><title>Visit us</title><main><h1>Visit</h1></main>", "a.html", "/a.html")
    >>> page.title, page.heading, page.language, [area.name for area in page.areas]
    ('Visit us', 'Visit', 'en', ['content'])
    """
    root, amiss = html_document(content)
    base = _base(root, address)
    resolve, records = _resolver(base), [*_records(root)]
    etree.strip_elements(root, *_NO_TEXT, with_tail=False)
    title, rels = _title(root), [*_rels(root)]
    try:
        areas = PageAreas(root, resolve, selectors)
        headings = tuple(headings_of(root, areas.content, areas.is_in_area, title))
        trail = tuple(trail_by_records(records, resolve)) or areas.trail or trail_by_signs(root, resolve)
        trail = trail or trail_by_its_end(root, resolve, [title, *(text for text, _ in headings)])
        up = next(_leading("up", rels, resolve), "") or link_up(root, resolve)
    except etree.XPathEvalError:
        raise ValueFault("it has more elements than can be searched") from None
    named, closed = dict[str, str](), dict[str, None]()
    for element in root.iter("meta"):
        name = (element.get("name") or element.get("property") or element.get("http-equiv") or "").strip().lower()
        said = element.get("content") or ""
        if name:
            named.setdefault(name, said)
        if name.endswith(_CRAWLERS) and {word.lower() for word in re.split(r"[,\s]+", said)} & _NOINDEX:
            closed[name] = None
    alternates = [(code.strip(), resolve(target)) for rel, target, code in rels if "alternate" in rel and code.strip()]
    refresh = _REFRESH.match(named.get("refresh", ""))
    return BuiltPage(
        file=file,
        address=address,
        title=title,
        headings=headings,
        language=(root.get("lang") or root.get("xml:lang") or "").strip(),
        canonicals=tuple(_leading("canonical", rels, resolve)),
        alternates=tuple(dict.fromkeys(alternates)),
        noindex=tuple(closed),
        leads_to=resolve(refresh[1]) if refresh else "",
        created=_day([named.get(name, "") for name in _CREATED] + [*_of_records(records, "datePublished")]),
        modified=_day([named.get(name, "") for name in _MODIFIED] + [*_of_records(records, "dateModified")]),
        trail=trail,
        up=up,
        areas=areas.areas,
        details=areas.details,
        site_name=" ".join(named.get("og:site_name", "").split()),
        amiss=amiss,
    )


class _Targets(dict[str, str]):
    """Where links lead from the pages of one folder: `base` is its address."""

    def __init__(self, base: str) -> None:
        super().__init__()
        self.base = base

    def __missing__(self, target: str) -> str:
        if len(self) == MOST_KNOWN:
            self.clear()
        found = self[target] = _resolved(target.strip(), self.base)
        return found


@lru_cache(MOST_FOLDERS)
def _targets(base: str) -> _Targets:
    return _Targets(base)


def _resolver(base: str) -> Resolve:
    """What gives where a link of a page leads; a link with a path leads to the same from all pages of a folder."""
    targets, itself = _targets(base[: base.rfind("/") + 1]), _resolved("", base)

    def resolve(target: str) -> str:
        if target[:1] == "#":
            return itself
        of_page = target[:1] in "? \t\r\n\f"
        return _resolved(target.strip(), base) if of_page else targets[target]

    return resolve


def _resolved(target: str, base: str) -> str:
    """Where a link leads: a path of the folder (its fragment aside), or the full address of another host."""
    try:
        whole = urljoin(base, target)
        parts = urlsplit(whole)
    except ValueError:  # as of a host in brackets that is none
        return ""
    whole = str(whole.partition("#")[0])
    return (whole[len(HERE) :] or "/") if f"{parts.scheme}://{parts.netloc}" == HERE else whole


def _base(root: Any, address: str) -> str:
    """What links of the page begin from."""
    own = HERE + address
    for element in root.iter("base"):
        if element.get("href"):
            try:
                return str(urljoin(own, element.get("href").strip()))
            except ValueError:
                break
    return own


def _title(root: Any) -> str:
    """The document title; titles of drawings (SVG) are none."""
    for element in itertools.islice(root.iter("title"), MOST_TRIES):
        if all(above.tag != "svg" for above in element.iterancestors()):
            return text_of(element)
    return ""


def _rels(root: Any) -> Iterator[tuple[set[str], str, str]]:
    """The `link` elements: their relations, their target, and the language of the target."""
    for element in root.iter("link"):
        target = element.get("href")
        if target:
            yield {word.lower() for word in (element.get("rel") or "").split()}, target, element.get("hreflang") or ""


def _leading(word: str, rels: Sequence[tuple[set[str], str, str]], resolve: Resolve) -> Iterator[str]:
    """Where the `link` elements of a relation lead, each address once."""
    found = (resolve(target) for rel, target, _ in rels if word in rel)
    yield from filter(None, dict.fromkeys(found))


def _records(root: Any) -> Iterator[dict[str, Any]]:
    """The records in JSON-LD; what is no JSON is left out."""
    for element in root.iter("script"):
        if (element.get("type") or "").strip().lower() == "application/ld+json":
            text = element.text or ""
            try:
                found = json.loads(text) if len(text) <= MOST_JSON else None
            except (ValueError, RecursionError):
                continue
            waiting = [found]
            while waiting:
                one = waiting.pop(0)
                if isinstance(one, list):
                    waiting[:0] = one
                elif isinstance(one, dict):
                    yield one
                    waiting[:0] = [one.get("@graph"), one.get("breadcrumb")]


def _of_records(records: list[dict[str, Any]], key: str) -> Iterator[str]:
    yield from (record[key] for record in records if isinstance(record.get(key), str))


def _day(said: list[str]) -> str:
    """The first date that can be read, as ISO 8601 has it; empty if none can."""
    for text in filter(None, map(str.strip, said)):
        try:
            return datetime.datetime.fromisoformat(text).date().isoformat()
        except ValueError:
            pass
        try:
            return email.utils.parsedate_to_datetime(text).date().isoformat()
        except (ValueError, TypeError, IndexError, OverflowError):
            pass
    return ""
