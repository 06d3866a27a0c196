"""The fewest statements of branches and pages: as few as trying all of them gives, and they give what is wanted."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from davlo.core.condense.least_statements import LeastStatements
from davlo.core.condense.wanted import ANY, CHANGES, INHERITED, ITSELF, NOTHING, VALUE, Said, Wanted

MOST_PAGES, VALUES = 6, 3
CODES = st.lists(st.integers(0, VALUES - 1), min_size=MOST_PAGES, max_size=MOST_PAGES)
SAID = st.lists(st.sampled_from([NOTHING, NOTHING, 0, 1]), min_size=MOST_PAGES, max_size=MOST_PAGES)


class SmallTree:
    """A tree of a few pages, what they want and what stays; the reference tries every choice of branches."""

    def __init__(self, above: list[int], value: list[int], need: list[int], below: list[int], now: list[int]) -> None:
        self.size = len(above)
        self.parent: list[int] = []
        for page, up in enumerate(above):
            chain = [page - 1] if page else []
            while chain and self.parent[chain[-1]] >= 0:
                chain.append(self.parent[chain[-1]])
            self.parent.append(([*chain, -1])[min(up, len(chain))])
        self.depth = [0] * self.size
        self.end = list(range(1, self.size + 1))
        for page in range(1, self.size):
            self.depth[page] = self.depth[self.parent[page]] + 1 if self.parent[page] >= 0 else 0
        for page in reversed(range(self.size)):
            if self.parent[page] >= 0:
                self.end[self.parent[page]] = max(self.end[self.parent[page]], self.end[page])
        self.need, self.below, self.now = need[: self.size], below[: self.size], now[: self.size]
        for page in range(self.size):
            if self.below[page] == CHANGES:
                for inside in range(page + 1, self.end[page]):
                    self.need[inside], self.below[inside] = ANY, NOTHING
            if self.below[page] != NOTHING:
                self.now[page] = NOTHING
        self.comes = self.coming(self.now)
        self.value = value[: self.size]

    def coming(self, said: Sequence[int]) -> list[int]:
        """What comes down to each page if branches say this besides what stays; NOTHING where none speaks."""
        found: list[int] = []
        for page, up in enumerate(self.parent):
            speaks = NOTHING if up < 0 else self.below[up] if self.below[up] >= 0 else said[up]
            found.append(NOTHING if up < 0 else found[up] if speaks == NOTHING else speaks)
            assert page == len(found) - 1
        return found

    def gets(self, said: Sequence[int], by_type: Sequence[int]) -> list[int]:
        """The value that each page gets."""
        return [by_type[page] if code == NOTHING else code for page, code in enumerate(self.coming(said))]

    def cost(self, said: Sequence[int], by_type: Sequence[int]) -> int | None:
        """How many statements are needed if branches say this; None: that cannot be."""
        total, comes, gets = 0, self.coming(said), self.gets(said, by_type)
        for page, need in enumerate(self.need):
            total += said[page] != NOTHING
            if need == ITSELF or (need == VALUE and gets[page] != self.value[page]):
                total += said[page] != self.value[page]  # a statement for the page and its branch counts one
            if need == INHERITED and gets[page] != self.value[page]:
                return None
            if self.below[page] == CHANGES and comes[page] != self.comes[page]:
                return None
        return total

    def fewest(self, by_type: Sequence[int]) -> int:
        """The fewest of all choices."""
        codes = range(NOTHING, VALUES)
        choices = [codes if self.below[page] == NOTHING else [NOTHING] for page in range(self.size)]
        return min(cost for said in itertools.product(*choices) if (cost := self.cost(said, by_type)) is not None)


@pytest.mark.made_up
@settings(deadline=None, max_examples=150)
@given(
    st.lists(st.sampled_from([0, 0, 1, 2, 9]), min_size=1, max_size=MOST_PAGES),
    CODES,
    st.lists(st.sampled_from([VALUE] * 5 + [ANY, ITSELF, INHERITED]), min_size=MOST_PAGES, max_size=MOST_PAGES),
    st.lists(st.sampled_from([NOTHING] * 6 + [0, CHANGES]), min_size=MOST_PAGES, max_size=MOST_PAGES),
    SAID,
    CODES,
)
def test_no_choice_of_branches_needs_fewer(
    above: list[int], value: list[int], need: list[int], below: list[int], now: list[int], by_type: list[int]
) -> None:
    tree = SmallTree(above, value, need, below, now)
    for page in range(tree.size):  # what it must inherit it inherits now
        if tree.need[page] == INHERITED:
            tree.value[page] = tree.gets(tree.now, by_type)[page]
    parent, end, depth, wants, stays, comes, types = (
        np.array(one, dtype=np.int32)
        for one in (tree.parent, tree.end, tree.depth, tree.value, tree.below, tree.comes, by_type[: tree.size])
    )
    wanted = Wanted(wants, np.array(tree.need, dtype=np.int8), stays, comes)
    least = LeastStatements(parent, end, depth, wanted, VALUES)
    fewest = tree.fewest(by_type)
    assert least.count(types) == fewest
    have = Said.nothing(tree.size)
    have.below[:] = tree.now
    said = least.chosen(types, have)
    assert said.size() == fewest
    gets = tree.gets(said.below.tolist(), by_type)
    for page in range(tree.size):
        itself = bool(said.here[page] or said.both[page])
        assert not (said.here[page] and said.both[page])
        assert tree.need[page] == ANY or itself or gets[page] == tree.value[page]
        assert tree.need[page] in (VALUE, ITSELF) or not itself
        assert tree.need[page] != ITSELF or itself
        assert not said.both[page] or said.below[page] == tree.value[page]
    assert tree.cost(said.below.tolist(), by_type) == fewest
