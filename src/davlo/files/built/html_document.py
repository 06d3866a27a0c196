"""The bytes of an HTML page as a tree of elements, through lxml; a hostile page gives a message, or a part of the page.

The HTML standard (html.spec.whatwg.org) says how the letters of a page are encoded: a byte order mark, else what a
`meta` element within the first 1024 bytes says. A page that says neither is UTF-8, or windows-1252 if it is no UTF-8.
"""

from __future__ import annotations

import codecs
import re
from typing import Any, NamedTuple

from lxml import etree

from davlo.core.faults import ValueFault

MOST_BYTES = 64 << 20
"""Larger pages are not read."""
MOST_ATTRIBUTES = 100
"""Further attributes of a tag are left out: the parser compares each with all others."""
MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_SAID = re.compile(rb"<meta\b[^>]{0,200}?charset\s*=\s*[\"']?\s*([\w.:-]+)", re.IGNORECASE)
_ATTRIBUTE = r"[^\s/>=]++(?:\s*+=\s*+(?:\"[^\"]*+\"|'[^']*+'|[^\s>\"'][^\s>]*+)?+)?+"
_TAG = re.compile(rf"<[a-zA-Z][^\s/>]*+(?:[\s/=]++|{_ATTRIBUTE})*+")
_LONG_TAG = re.compile(rf"<[a-zA-Z][^\s/>]*+(?:[\s/=]*+{_ATTRIBUTE}){{{MOST_ATTRIBUTES}}}")


class HtmlDocument(NamedTuple):
    """A page as elements."""

    root: Any
    amiss: str  # what is wrong with it, in a sentence without its subject; empty if nothing is


def html_document(content: bytes) -> HtmlDocument:
    """The elements of a page.

    Raises ValueFault if it is too large, or holds no elements.

    Example
    -------
    >>> html_document(b"<title>Visit</title><p>Hello").root.findtext(".//title")
    'Visit'
    """
    if len(content) > MOST_BYTES:
        raise ValueFault(f"it has {len(content):,} bytes, and Davlo reads pages of up to {MOST_BYTES:,}")
    text, amiss = _text(content)
    text = text.replace("\0", "\ufffd")  # as the standard has it
    parser = etree.HTMLParser(
        encoding="utf-8", no_network=True, remove_comments=True, remove_pis=True, huge_tree=True, recover=True
    )
    try:
        root = etree.fromstring(_with_fewer_attributes(text).encode("utf-8", "replace"), parser)
    except (etree.LxmlError, ValueError) as error:
        raise ValueFault(f"it cannot be read as HTML: {str(error) or type(error).__name__}") from None
    if root is None:
        raise ValueFault("it holds no elements")
    if any(entry.type_name == "ERR_INTERNAL_ERROR" or "depth" in entry.message for entry in parser.error_log):
        amiss = "its elements are nested too deep: it is read down to there"
    return HtmlDocument(root, amiss)


def _text(content: bytes) -> tuple[str, str]:
    """The letters of a page, and what is wrong with them."""
    for mark, encoding in MARKS:
        if content.startswith(mark):
            return content[len(mark) :].decode(encoding, "replace"), ""
    said = _SAID.search(content[:1024])
    name = said[1].decode("ascii", "replace") if said else "utf-8"
    try:
        encoding = codecs.lookup(name).name
        if encoding.startswith("utf-16"):  # the standard: whoever can read this element is not in UTF-16
            encoding = "utf-8"
        return content.decode(encoding), ""
    except (LookupError, UnicodeError, ValueError):
        told = f"it says that it is in {name}, and is not" if said else ""
    try:
        return content.decode("utf-8"), told
    except UnicodeDecodeError:
        return content.decode("windows-1252", "replace"), told


def _with_fewer_attributes(text: str) -> str:
    """A page without the attributes of a tag that come after the first hundred."""
    parts, done = list[str](), 0
    for start in _LONG_TAG.finditer(text):
        if start.start() < done:  # a text that looks like a tag, within one
            continue
        parts.append(text[done : start.end()])
        tag = _TAG.match(text, start.start())
        done = tag.end() if tag else start.end()
    return "".join([*parts, text[done:]]) if parts else text
