"""The areas of a page by its landmarks (WAI-ARIA 1.2, HTML-AAM), and the blocks that stand in them."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Collection, Iterator, Sequence
from typing import Any

from lxml import etree

from davlo.core.outcomes.areas import CONTENT

from .built_page import MOST_TEXT, BuiltArea, BuiltBlock, Link
from .page_headings import MOST_TRIES, RANKS
from .page_texts import letters_of, text_of
from .selectors import Selectors

LANDMARKS = {
    "banner": "masthead",
    "navigation": "menu",
    "main": "content",
    "complementary": "aside",
    "contentinfo": "footer",
}
"""The roles of landmarks, and what the areas are called."""
_ROLE_OF_TAG = {
    "nav": "navigation",
    "main": "main",
    "aside": "complementary",
    "header": "banner",
    "footer": "contentinfo",
}
_WITH_ROLES = etree.XPath("//@role/..")
MOST_CANDIDATES = 400
_SECTIONS = ("article", "aside", "main", "nav", "section")
"""Within these a `header` or a `footer` is that of a part of the page, and no landmark."""
_MARKED = etree.XPath("boolean(//@aria-current[. = 'page'][not(parent::a)])")
"""Whether a page marks its own entry of the navigation without a link."""
_STRING = etree.XPath("string()")
MOST_AREAS = 12
"""The most areas of a page that are read."""
MOST_BLOCKS = 40
"""The most pieces of an area that are read."""
_TRAIL_WORDS = ("breadcrumb", "you are here", "brotkrume", "brotkrümel", "fil d'ariane", "fil d’ariane", "migas de pan")
"""What breadcrumbs are called in labels: in English, German, French and Spanish."""


class PageAreas:
    """The areas of one page.

    `root`: the page, without scripts and styles. `resolve`: where a link's target leads. `selectors`: what finds areas
    and details first; landmarks find the others. `trail`: the breadcrumbs, where a `nav` is called so. `content`: the
    elements of the page's own content.
    """

    def __init__(self, root: Any, resolve: Callable[[str], str], selectors: Selectors) -> None:
        self._resolve, self._is_marked = resolve, bool(_MARKED(root))
        self.trail: tuple[Link, ...] = ()
        named = selectors.areas_of(root)
        found = [*self._landmarks(root, named)]
        self.areas = tuple(self._named_once(found))
        self.content = [one for role, one in found if role == CONTENT]
        self.details = tuple(selectors.details_of(root, text_of))

    def _landmarks(self, root: Any, named: dict[Any, str]) -> Iterator[tuple[str, Any]]:
        """The areas in the order of the page; an area within another one is left out, except within the content."""
        taken, count = set[Any](), 0
        for element in itertools.islice(_candidates(root, named), MOST_CANDIDATES):
            above = [*element.iterancestors()]
            if not taken.isdisjoint(above):
                continue
            name = named.get(element) or self._area(element, [one.tag for one in above if one.tag in _SECTIONS])
            if not name:
                continue
            if name != CONTENT:
                taken.add(element)
            if name == "menu" and _is_trail(element):
                self.trail = self.trail or self._links(element)
                continue
            count += 1
            if count > MOST_AREAS:
                return
            yield name, element

    @classmethod
    def is_in_area(cls, element: Any) -> bool:
        """Whether an element is within a landmark."""
        return any(cls._area(above, ()) for above in element.iterancestors())

    @staticmethod
    def _area(element: Any, within: Sequence[str]) -> str:
        """The area that an element is by its role, said or its tag's own; empty if it is none.

        `within` are the sections that it is in. As HTML-AAM has it, a `header` or `footer` of a section is no area, nor
        is an `aside` of a section other than `main` unless it has a name; a `nav` in the content is the content's own.
        """
        said = _said_role(element)
        role = said or _ROLE_OF_TAG.get(element.tag, "")
        if role in ("banner", "contentinfo") and not said and within:
            return ""
        if role == "complementary" and not said and {*within} - {"main"} and not _is_labelled(element):
            return ""
        if role == "navigation" and "main" in within and not _is_trail(element):
            return ""
        return LANDMARKS.get(role, "")

    def _named_once(self, found: list[tuple[str, Any]]) -> Iterator[BuiltArea]:
        """The areas, a second of the same name with a number after it; the content once."""
        seen: dict[str, int] = {}
        for name, element in found:
            seen[name] = seen.get(name, 0) + 1
            if name == CONTENT:
                if seen[name] == 1:
                    yield BuiltArea(name, "", ())
                continue
            known = name if seen[name] == 1 else f"{name}-{seen[name]}"
            label = " ".join((element.get("aria-label") or "").split())
            yield BuiltArea(known, label, tuple(self._blocks(element)))

    def _blocks(self, element: Any) -> Iterator[BuiltBlock]:
        """The pieces of an area: its parts, or what follows each heading."""
        navigates = self._is_nav(element)
        while len(element) == 1 and not _own_text(element) and element[0].tag not in ("ul", "ol", "a", *RANKS):
            element = element[0]
            navigates |= self._is_nav(element)
        parts: list[list[Any]] = []
        is_one = navigates and next(element.iter(*RANKS), None) is None  # one navigation, in whatever markup
        if is_one or _own_text(element) or len(element) < 2 or element.tag in ("ul", "ol", "p", "a"):
            parts = [[element]]
        else:
            by_heading = any(child.tag in RANKS for child in element)
            for child in element:
                if by_heading and parts and child.tag not in RANKS:
                    parts[-1].append(child)
                else:
                    parts.append([child])
        for part in parts[:MOST_BLOCKS]:
            block = self._block(part, navigates)
            if block.links or any(map(str.isalpha, block.text + block.heading)):
                yield block

    @staticmethod
    def _is_nav(element: Any) -> bool:
        return bool(element.tag == "nav" or element.get("role") == "navigation")

    def _block(self, elements: list[Any], navigates: bool) -> BuiltBlock:
        heading = next((text for one in elements for text in self._headings(one)), "")
        label = next((one.get("aria-label") for one in elements if one.get("aria-label")), "")
        links = tuple(link for one in elements for link in self._links(one))
        labels = " ".join(text for text, _ in links)
        letters = "".join(map(_STRING, elements))
        is_list = bool(links) and _is_same(f"{heading}{labels}", letters, _unspaced)  # most navigation
        if is_list:
            rest = ""
        else:
            text = " ".join(filter(None, (text_of(one) for one in elements)))
            rest = text.replace(heading, "", 1).strip() if heading else text
            is_list = bool(links) and _is_same(labels, rest, letters_of)
            rest = "" if is_list else rest
        is_nav = navigates or any(self._is_nav(inner) for one in elements for inner in one.iter("nav", "div"))
        return BuiltBlock(heading or " ".join(label.split()), rest[:MOST_TEXT], links, is_list, is_nav)

    @staticmethod
    def _headings(element: Any) -> Iterator[str]:
        for one in itertools.islice(element.iter(*RANKS), MOST_TRIES):
            if text := text_of(one):
                yield text

    def _links(self, element: Any) -> tuple[Link, ...]:
        """The links in an element; the page itself counts, where it is marked as the current one without a link."""
        found, within, marks = list[Link](), set[Any](), 0
        for one in element.iter(None if self._is_marked else "a"):
            target = one.get("href") if one.tag == "a" else None
            if target is None:
                if not self._is_marked or one.get("aria-current") != "page" or marks >= MOST_TRIES:
                    continue
                marks += 1
                if one.find(".//a") is not None:
                    continue
            if one in within:
                continue
            if len(one):
                within.update(one.iter("a"))
            target = self._resolve(target or "")
            if target.startswith(("/", "http://", "https://")):
                found.append((text_of(one), target))
        return tuple(found)


def _candidates(root: Any, named: Collection[Any]) -> Iterator[Any]:
    """The elements that can be areas, in the order of the page: by their tags, their roles, or a selector."""
    others = {*named, *(element for element in _WITH_ROLES(root) if _said_role(element) in LANDMARKS)}
    for element in root.iter(*_ROLE_OF_TAG, *{element.tag for element in others}):
        if element.tag in _ROLE_OF_TAG or element in others:
            yield element


def _said_role(element: Any) -> str:
    """The first role that an element says it has; empty if it says none."""
    return next(iter((element.get("role") or "").lower().split()), "")


def _is_trail(element: Any) -> bool:
    """Whether a `nav` holds the breadcrumbs: by its label, its class or its name."""
    told = " ".join(element.get(name) or "" for name in ("aria-label", "class", "id")).lower()
    return any(word in told for word in _TRAIL_WORDS)


def _is_same(one: str, other: str, of: Callable[[str], str]) -> bool:
    return of(one) == of(other)


def _unspaced(text: str) -> str:
    return "".join(text.split())


def _is_labelled(element: Any) -> bool:
    return bool((element.get("aria-label") or element.get("aria-labelledby") or "").strip())


def _own_text(element: Any) -> bool:
    """Whether an element has text beside its children's."""
    return bool((element.text or "").strip() or any((child.tail or "").strip() for child in element))
