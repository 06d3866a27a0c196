"""The headings of built pages: the page's own, and those that are not, such as the site's name in each masthead.

The HTML standard (html.spec.whatwg.org, section 4.3.6) has headings of six ranks; where an `h1` stands, and whether
most other pages have the same one, tell which is the page's own.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from .built_page import BuiltPage
from .page_texts import text_of

RANKS = ("h1", "h2", "h3", "h4", "h5", "h6")
MOST_TRIES = 20
"""How many headings of a rank are read."""
LEAST_PAGES = 3
"""A heading on fewer pages is never taken for the site's name."""
_PERMALINK = "permalink"


def headings_of(
    root: Any, content: Sequence[Any], is_elsewhere: Callable[[Any], bool], title: str
) -> Iterator[tuple[str, str]]:
    """The headings of a page that can be its own, and their tags: each `h1`, then a lower one that the title repeats.

    `content`: the elements of the page's own content; may be empty. `is_elsewhere`: whether an element is in another
    area, which counts on a page without such content. `title`: the document title.
    """
    for rank in RANKS:
        seen = set[Any]()
        for element in content or [root]:
            for one in itertools.islice(element.iter(rank), MOST_TRIES):
                text = text_of(one, is_no_word)
                if not text or one in seen or (not content and is_elsewhere(one)):
                    continue
                if rank != "h1" and text not in title:
                    continue
                seen.add(one)
                yield text, rank
                if rank != "h1":
                    return


def is_no_word(element: Any) -> bool:
    """Whether an element of a heading is none of its words: a button, or a mark that links to the heading itself."""
    if element.tag in ("button", "input", "select", "textarea") or element.get("hidden") is not None:
        return True
    if element.get("aria-hidden") == "true" or (element.get("role") or "").strip().lower() == "button":
        return True
    target = (element.get("href") or "").strip().lower()
    if element.tag != "a" or not target:
        return False
    told = " ".join(element.get(name) or "" for name in ("title", "aria-label", "class", "rel")).lower()
    is_sign = not any(map(str.isalnum, text_of(element)))
    return target.startswith("javascript:") or (target.startswith("#") and (is_sign or _PERMALINK in told))


def with_own_headings(pages: Sequence[BuiltPage]) -> list[BuiltPage]:
    """Pages with their own headings: a heading that most pages of a language have, beside another, is the site's.

    Example
    -------
    >>> pages = [BuiltPage(name, name, headings=(("Site", "h1"), (name, "h1"))) for name in "abc"]
    >>> [(page.heading, page.more_headings) for page in with_own_headings(pages)]
    [('a', ()), ('b', ()), ('c', ())]
    """
    of_language = Counter(page.language.lower() for page in pages)
    counts, beside = Counter[tuple[str, object]](), Counter[tuple[str, object]]()
    for page in pages:
        keys = {(page.language.lower(), one) for one in page.headings}
        counts.update(keys)
        beside.update(keys if len(keys) > 1 else ())
    shared = {
        key
        for key, number in counts.items()
        if number >= LEAST_PAGES and number * 2 > of_language[key[0]] and beside[key] * 2 > number
    }
    return [
        page._replace(headings=tuple(one for one in page.headings if (page.language.lower(), one) not in shared))
        for page in pages
    ]
