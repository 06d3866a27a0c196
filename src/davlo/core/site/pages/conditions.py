"""Conditions on details and the tree: `when` and `except`."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Mask
from ...arrays.texts import Texts

if TYPE_CHECKING:
    from .details import Details
    from .tree import Tree


class Condition(NamedTuple):
    """What a page must match: every key that is given, and any of the words of a key.

    `depth` holds pairs (least, most); `home` is None where it is not asked.
    """

    path: tuple[str, ...] = ()
    in_branch: tuple[str, ...] = ()
    below: tuple[str, ...] = ()
    type: tuple[str, ...] = ()
    only_type: tuple[str, ...] = ()
    tag: tuple[str, ...] = ()
    language: tuple[str, ...] = ()
    status: tuple[str, ...] = ()
    depth: tuple[tuple[int, int], ...] = ()
    home: bool | None = None
    details: Mapping[str, tuple[str, ...]] = MappingProxyType({})


EVERY_PATH = ("**", "/**")
"""The globs that every path matches."""
EVERY_PAGE = Condition(path=("/**",))
"""The condition that every page matches."""


def glob_pattern(glob: str) -> re.Pattern[str]:
    """A path glob as a regular expression: `*` any run without `/`, `**` any run, `/**/` also a single `/`.

    Each part up to a star takes the first place where it fits, as an atomic group: a later place would leave less for
    the rest. So the time does not grow with the number of ways in which stars can divide a path.

    Example
    -------
    >>> [bool(glob_pattern("/**/x*").fullmatch(path)) for path in ("/x1", "/a/b/x", "/a/x/b")]
    [True, True, False]
    """
    parts = _GLOB.split(glob)  # pieces, and between them what lets any run through: `**`, or `/**/`
    written = ""
    for at in range(0, len(parts), 2):
        is_last = at == len(parts) - 1
        ends = "/" if not is_last and parts[at + 1].startswith("/") else ""
        piece = _piece(parts[at] + ends, is_last)
        between = parts[at - 1] if at else ""
        skips = "(?:.*/)?" if between.startswith("/") else ".*" if between else ""
        if is_last:
            written += skips + piece
        else:
            lazy = skips.replace(".*", ".*?").replace(")?", ")??")
            written += f"(?>{lazy}{piece})"
    return re.compile(written, re.DOTALL)


_GLOB = re.compile(r"((?:/\*\*)+/|\*\*)")


def _piece(text: str, is_last: bool) -> str:
    """A part of a glob in which each star is a run without `/`; the last one ends where the path ends."""
    first, *others = text.split("*")
    written = re.escape(first)
    for number, literal in enumerate(others, 1):
        run = "[^/]*" + ("" if is_last and number == len(others) else "?") + re.escape(literal)
        written += run if is_last and number == len(others) else f"(?>{run})"
    return written


def pages_named(conditions: Iterable[Condition], tree: Tree) -> dict[str, int]:
    """The pages that the branches of conditions name, -1 where there is none; all are looked up at once."""
    paths = list(dict.fromkeys(path for one in conditions for path in (*one.in_branch, *one.below)))
    return dict(zip(paths, tree.find_all(Texts.of(paths)).tolist(), strict=True))


def _span_of(condition: Condition, tree: Tree, named: Mapping[str, int]) -> slice:
    """The run of pages in which a condition can hold: the span of its branches, or all pages."""
    begin, stop = 0, len(tree)
    for pages, itself in ((condition.in_branch, 0), (condition.below, 1)):
        if pages:
            found = [named[path] for path in pages if named[path] >= 0]
            begin = max(begin, min((page + itself for page in found), default=len(tree)))
            stop = min(stop, max((int(tree.end[page]) for page in found), default=0))
    return slice(begin, max(begin, stop))


def _pages_that_meet(condition: Condition, tree: Tree, details: Details, part: slice, named: Mapping[str, int]) -> Mask:
    """Where in a run of pages a condition holds. bool[pages of the run]"""
    pages = np.arange(part.start, part.stop)
    matched = np.ones(len(pages), dtype=bool)
    for branches, itself in ((condition.in_branch, 0), (condition.below, 1)):
        if branches:
            within = np.zeros(len(pages), dtype=bool)
            for page in (named[path] for path in branches):
                if page >= 0:
                    within |= (pages >= page + itself) & (pages < tree.end[page])
            matched &= within
    if condition.type:
        matched &= details.types.pages_of(details.type_of[part], condition.type)
    if condition.only_type:
        wanted = [details.types.find(name) for name in condition.only_type]
        matched &= np.isin(details.type_of[part], wanted)
    if condition.tag:
        tagged = [bool(set(condition.tag) & set(split_list(word))) for word in details.tags.words]
        matched &= details.tags.take(pages).where(tagged)
    # `details` may name these columns, too: then both must hold
    for name, words in (("language", condition.language), ("status", condition.status), *condition.details.items()):
        if words:
            matched &= details.column(name).take(pages).mask(words)
    if condition.depth:
        depth = tree.depth[part]
        matched &= np.any([(depth >= least) & (depth <= most) for least, most in condition.depth], axis=0)
    if condition.home is not None:
        matched &= (pages == details.home) == condition.home
    if condition.path and not any(glob in EVERY_PATH for glob in condition.path):
        left = np.flatnonzero(matched)
        paths = tree.paths.take(pages[left])
        met = np.zeros(len(left), dtype=bool)
        for glob in condition.path:
            pattern, maybe = glob_pattern(glob), _maybe(glob, paths)
            met[maybe] |= np.array([pattern.fullmatch(path) is not None for path in paths.take(maybe)], dtype=bool)
        matched[left] = met
    return matched


def _maybe(glob: str, paths: Texts) -> NDArray[np.int64]:
    """The paths that can match a glob: they hold its longest piece between stars, and as many slashes. int64[n]"""
    plain = _GLOB.sub(lambda run: "/" if run[0].startswith("/") else "**", glob)
    slashes, pieces = plain.count("/"), re.split(r"\*+", plain)
    longest = max(pieces, key=len).encode("utf-8", "surrogatepass")
    maybe = np.flatnonzero(paths.end - paths.start >= slashes)
    if slashes > 1 and len(maybe):
        places = np.flatnonzero(paths.data == ord("/"))
        maybe = maybe[places.searchsorted(paths.end[maybe]) - places.searchsorted(paths.start[maybe]) >= slashes]
    return maybe[paths.take(maybe).holding_text(longest)] if longest and len(maybe) else maybe


def pages_selected(
    when: Condition, excepts: Sequence[Condition], tree: Tree, details: Details, named: Mapping[str, int] | None = None
) -> NDArray[np.int64]:
    """The pages on which `when` holds and none of `excepts` does, in their order. int64[n]

    `named` are the pages that their branches name, if they were looked up already.
    """
    if named is None:
        named = pages_named((when, *excepts), tree)
    part = _span_of(when, tree, named)
    matched = _pages_that_meet(when, tree, details, part, named)
    for condition in excepts:
        matched &= ~_pages_that_meet(condition, tree, details, part, named)
    pages: NDArray[np.int64] = np.flatnonzero(matched) + part.start
    return pages


def split_list(cell: str) -> list[str]:
    """The items of a list in a cell: `a; b`."""
    return [item.strip() for item in cell.split(";") if item.strip()]
