"""Conditions on facts and the tree: `when` and `except`."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from .columns import Mask

if TYPE_CHECKING:
    from .facts import Facts
    from .tree import Tree

KEYS = (
    "path",
    "in_branch",
    "below",
    "type",
    "only_type",
    "tag",
    "language",
    "status",
    "depth",
    "home",
    "facts",
)


class Condition(NamedTuple):
    """What must hold of a page: every key that is given; within a key any of its words.

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
    facts: Mapping[str, tuple[str, ...]] = MappingProxyType({})


def glob_pattern(glob: str) -> re.Pattern[str]:
    """A path glob as a regular expression: `*` any run without `/`, `**` any run, `/**/` also a single `/`.

    Example
    -------
    >>> [bool(glob_pattern("/**/x*").fullmatch(path)) for path in ("/x1", "/a/b/x", "/a/x/b")]
    [True, True, False]
    """
    parts = []
    rest = glob
    while rest:
        for sign, pattern in (("/**/", "(?:/.*)?"), ("**", ".*"), ("*", "[^/]*")):
            if rest.startswith(sign):
                parts.append(pattern)
                rest = rest[3 if sign == "/**/" else len(sign) :]
                break
        else:
            parts.append(re.escape(rest[0]))
            rest = rest[1:]
    return re.compile("".join(parts), re.DOTALL)


def pages_that_meet(condition: Condition, tree: Tree, facts: Facts) -> Mask:
    """Where a condition holds. bool[pages]"""
    met = np.ones(len(tree), dtype=bool)
    if condition.path:
        patterns = [glob_pattern(glob) for glob in condition.path]
        met &= np.array([any(p.fullmatch(path) for p in patterns) for path in tree.paths], dtype=bool)
    for pages, itself in ((condition.in_branch, 0), (condition.below, 1)):
        if pages:
            within = np.zeros(len(tree), dtype=bool)
            for page in (tree.find(path) for path in pages):
                if page >= 0:
                    within[page + itself : int(tree.end[page])] = True
            met &= within
    if condition.type:
        met &= facts.types.pages_of(facts.type_of, condition.type)
    if condition.only_type:
        wanted = [facts.types.find(name) for name in condition.only_type]
        met &= np.isin(facts.type_of, wanted)
    if condition.tag:
        met &= facts.tags.where([bool(set(condition.tag) & set(split_list(word))) for word in facts.tags.words])
    for words, column in ((condition.language, facts.language), (condition.status, facts.status)):
        if words:
            met &= column.mask(words)
    if condition.depth:
        met &= np.any([(tree.depth >= least) & (tree.depth <= most) for least, most in condition.depth], axis=0)
    if condition.home is not None:
        home = np.zeros(len(tree), dtype=bool)
        if facts.home >= 0:
            home[facts.home] = True
        met &= home == condition.home
    for name, words in condition.facts.items():
        met &= facts.column(name).mask(words)
    return met


def pages_selected(when: Condition, excepts: Sequence[Condition], tree: Tree, facts: Facts) -> Mask:
    """Where `when` holds and none of `excepts` does. bool[pages]"""
    met = pages_that_meet(when, tree, facts)
    for condition in excepts:
        met &= ~pages_that_meet(condition, tree, facts)
    return met


def split_list(cell: str) -> list[str]:
    """The items of a list in a cell: `a; b`."""
    return [item.strip() for item in cell.split(";") if item.strip()]
