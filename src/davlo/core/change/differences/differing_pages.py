"""The pages that two states of a site both have: on which of them details differ, and which stand elsewhere."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ...arrays.codebooks import Column, Mask
from ...arrays.texts import Texts
from ...site.model import SiteModel
from ...site.pages.tree import Tree
from .difference_rows import Pages

FEW_WORDS = 4
"""A column with at least this many pages for each of its words is compared by codes, not by texts."""


def differing_details(
    before: SiteModel, after: SiteModel, number_after: Pages, names: Iterable[str]
) -> dict[str, Mask]:
    """For each of these details, the pages of the first state on which it differs. bool[pages] each

    `number_after`: int64[pages]: for each page of the first state its number in the second; -1: it is gone.
    """
    first = np.flatnonzero(number_after >= 0)
    second = number_after[first]
    found = {}
    for name in dict.fromkeys(names):
        one, other = (site.details.column(name) if name in site.details.columns else None for site in (before, after))
        mask = np.zeros(len(number_after), dtype=bool)
        if one is not None and other is not None:
            mask[first] = _differ(one, other, first, second)
        elif one is not None or other is not None:
            alone, pages = (one, first) if one is not None else (other, second)
            assert alone is not None
            mask[first] = alone.where([bool(word) for word in alone.words])[pages]
        found[name] = mask
    return found


def _differ(one: Column, other: Column, first: Pages, second: Pages) -> Mask:
    """On which pages two columns hold different texts. bool[n]"""
    differs: Mask
    if one.words is other.words:
        differs = one.codes[first] != other.codes[second]
        some = np.flatnonzero(differs)  # a word can have several codes
        differs[some] = _texts_differ(one, other, first[some], second[some])
        return differs
    if max(len(one.words), len(other.words)) > len(first) // FEW_WORDS:
        return _texts_differ(one, other, first, second)
    known = {word: code for code, word in enumerate(one.words)}
    codes = np.array([known.get(word, -1) for word in other.words], dtype=np.int64)
    differs = one.codes[first] != codes[other.codes[second]]
    return differs


def _texts_differ(one: Column, other: Column, first: Pages, second: Pages) -> Mask:
    columns = (Column(side.codes[pages], side.words) for side, pages in ((one, first), (other, second)))
    was, now = map(Texts.of_column, columns)
    return was.differ(now)


def below_another_page(before: Tree, after: Tree, number_after: Pages) -> Mask:
    """The pages that stand below another page than before, or below one that does. bool[pages of the first]"""
    first = np.flatnonzero(number_after >= 0)
    second = number_after[first]
    there = np.append(number_after, -1)
    moved = np.zeros(len(after), dtype=bool)
    moved[second[there[before.parent[first]] != after.parent[second]]] = True
    found = np.zeros(len(before), dtype=bool)
    found[first] = with_all_below(after, moved)[second]
    return found


def with_all_below(tree: Tree, some: Mask) -> Mask:
    """Some pages, and all pages below them. bool[pages]"""
    pages = np.flatnonzero(some)
    steps = np.zeros(len(tree) + 1, dtype=np.int64)
    np.add.at(steps, pages, 1)
    np.add.at(steps, tree.end[pages], -1)
    found: Mask = np.cumsum(steps[:-1]) > 0
    return found
