"""The pages to which blocks that show on some page lead."""

from __future__ import annotations

import numpy as np

from ...arrays.codebooks import Mask
from ..uses import Uses
from .block_links import branch_links, chosen_links
from .menu_order import Pages


class BlockLinks:
    """The pages to which blocks of links lead, those of a menu aside."""

    def __init__(self, uses: Uses) -> None:
        self.site, self._uses = uses.site, uses
        self._listed: dict[tuple[str, int], Pages] = {}

    def blocks(self) -> list[str]:
        """The blocks that list links, menus aside."""
        blocks = self.site.declarations.blocks.items()
        return [name for name, block in blocks if block.kind in ("branch-links", "links")]

    def of(self, name: str, stands: Mask) -> Pages:
        """The pages that a block lists on any of the pages on which it stands. int64[n], in no order"""
        block, language = self.site.declarations.blocks[name], self.site.details.language
        if not stands.any():
            return np.zeros(0, dtype=np.int64)
        if block.kind == "links":
            return np.array([link.page for link in chosen_links(self.site, block) if link.page >= 0], dtype=np.int64)
        codes = np.flatnonzero(np.bincount(language.codes[stands]))
        found = []
        for code in codes.tolist():
            if (name, code) not in self._listed:
                self._listed[name, code] = branch_links(self.site, block, language.words[code]).pages
            found.append(self._listed[name, code])
        return np.unique(np.concatenate(found))

    def listed(self, name: str) -> Mask:
        """The pages that a block lists on any page on which it stands; none if there is no such block. bool[pages]"""
        found = np.zeros(len(self.site.tree), dtype=bool)
        if name in self.blocks():
            found[self.of(name, self._uses.pages("block", name))] = True
        return found

    def linked(self, shown: Mask) -> Mask:
        """The pages that a menu leads to (`shown`), or a block of links that stands on any page. bool[pages]"""
        found = shown.copy()
        for name in self.blocks():
            found |= self.listed(name)
        return found

    def shown_to(self, name: str, visible: Mask) -> Mask:
        """The pages on which a block is shown to somebody who may view these pages. bool[pages]"""
        return self._uses.shown("block", name) & visible
