"""What davlo.yaml says of robots.txt and of proofs of ownership."""

from __future__ import annotations

import re
from pathlib import PurePosixPath

from davlo.core.faults import Place
from davlo.core.site.publication import OwnershipProof, RobotsLine

from ...form.davlo_yaml import PROOF
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Node

ROBOTS = "robots.txt"
SITEMAP = "sitemap"
REDIRECTS = "redirects.csv"
MOST_BYTES = 500 * 1024
"""Crawlers read at least 500 kibibytes of robots.txt, and maybe no more (RFC 9309, section 2.5)."""
_LINE = re.compile(r"\s*(?:[A-Za-z][A-Za-z-]*\s*:.*)?(?:#.*)?\s*")
_AGENT = re.compile(r"\*|[A-Za-z_-]+")
_HIDDEN = (".davlo", ".git")


def read_robots(node: Node | None, reader: Reader) -> tuple[RobotsLine, ...]:
    """The site's own lines for robots.txt, checked as RFC 9309 (section 2.2) has them."""
    found = list[RobotsLine]()
    for text, place in reader.words(node, "robots"):
        lines = text.rstrip("\n").split("\n")
        first = place.line + (len(lines) > 1)
        found += [RobotsLine(line.rstrip(), place._replace(line=first + at)) for at, line in enumerate(lines)]
    has_agent = False
    for line in found:
        if not _LINE.fullmatch(line.text) or not line.text.isprintable():
            hint = 'as "Disallow: /search"'
            reader.fault(
                line.place, f"a line of robots takes a word, a colon and a value, not {line.text!r}", hint=hint
            )
        elif line.key == "user-agent":
            has_agent = True
            if not _AGENT.fullmatch(line.value):
                reader.fault(line.place, f"User-agent takes the name of a crawler, or *, not {line.value!r}")
        elif line.key in ("allow", "disallow"):
            if not has_agent:
                what = f"{line.text} comes before any User-agent: crawlers ignore it"
                reader.fault(line.place, what, hint='put "User-agent: *" above it')
            if line.value and not line.value.startswith(("/", "*")):
                what = f"{line.key.title()} takes a path that begins with /, not {line.value!r}"
                reader.fault(line.place, what, hint=f"{line.key.title()}: /{line.value}")
    if sum(len(line.text.encode("utf-8", "replace")) + 1 for line in found) > MOST_BYTES:
        reader.fault(found[0].place, f"robots is longer than the {MOST_BYTES:,} bytes that crawlers read of robots.txt")
    return tuple(found)


def read_ownership_proofs(node: Node | None, reader: Reader) -> tuple[OwnershipProof, ...]:
    """The proofs of ownership in the site section."""
    found, names = list[OwnershipProof](), dict[str, Place]()
    for item in reader.items_or_one(node) if node is not None else ():
        body = reader.mapping(item, "a proof", PROOF.keys)
        file, tag, text = (reader.text(body.entries.get(key), key) for key in ("file", "tag", "text"))
        if bool(file) == bool(tag):
            reader.fault(
                item.place, "a proof is a file, or a tag: it needs one of both", hint="{file: NAME, text: TEXT}"
            )
            continue
        if not text:
            reader.fault(item.place, "the proof has no text", hint=f"text: what the {'file' if file else 'tag'} holds")
        key = (file or f"tag {tag}").lower()
        if key in names:
            reader.fault(body.place, f"a second proof is called {file or tag}; the first is at {names[key]}")
        names.setdefault(key, item.place)
        why = why_no_file(file) if file else ""
        if why:
            reader.fault(body.keys["file"], f"file takes the name of a file to publish, not {file!r}: {why}")
        found.append(OwnershipProof(text, item.place, file, tag))
    return tuple(found)


def why_no_file(name: str) -> str:
    """Why a proof cannot be a file of this name; empty if it can.

    Example
    -------
    >>> why_no_file("../robots.txt"), why_no_file(".well-known/proof.txt"), why_no_file("robots.txt")
    ('it leaves the folder', '', 'Davlo writes that file')
    """
    parts = PurePosixPath(name).parts
    if name.startswith("/") or ".." in parts or re.search(r"[\\:]", name):
        return "it leaves the folder"
    if not name.isprintable() or name != "/".join(parts) or not parts or parts[0].lower() in _HIDDEN:
        return "no file can be called that"
    first = parts[0].lower()
    if first in (ROBOTS, REDIRECTS) or re.fullmatch(rf"{SITEMAP}(-\d+)?\.xml(\.gz)?", first):
        return "Davlo writes that file"
    return ""
