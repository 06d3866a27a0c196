"""Defaults and exceptions for values that were seen: the fewest statements that give each page the values it has."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from ..arrays.codebooks import Codebook, Codes, Mask
from ..arrays.in_background import MANY, results_of
from ..change.steps.change import Say
from ..progress import work
from ..site.model import SiteModel
from ..site.settings.scopes import Scope
from ..site.settings.setting import Setting
from ..site.settings.values import ByDepth, Plain, Value
from .least_statements import LeastStatements
from .type_statements import TypeStatements
from .wanted import ANY, NOTHING, VALUE, Said, Wanted

FEW = 4
"""How many of the most common values are tried as what everywhere says."""
UNSEEN = -1


class SeenValues(NamedTuple):
    """The values of one setting that were seen."""

    # int32[pages]: for each page, in the order of the site's tree, the place of its value in `values`; -1 if any will
    # do
    codes: Codes
    values: Sequence[Plain]


def explained(site: SiteModel, seen: Mapping[str, SeenValues]) -> list[Say]:
    """The fewest statements that give each page the values that were seen.

    `site`: the pages, their types and what is declared; nobody says anything of these settings. `seen`: values by the
    name of their setting. Returns setting by setting; of each what everywhere, types, branches and single pages say.

    Notes
    -----
    Exact for branches and single pages, once it is decided what everywhere and the types say. For everywhere it tries
    the built-in value, the most common ones, and numbers that fall with the depth; for types see `TypeStatements`.

    Example
    -------
    >>> import davlo
    >>> site = davlo.Site.from_frames(
    ...     {"path": ["/", "/a", "/a/b", "/a/c"]},
    ...     {"davlo": 1, "site": {"name": "A", "url": "https://a.example"}},
    ... )
    >>> seen = SeenValues(np.array([0, 1, 1, -1], dtype=np.int32), [60, 40])
    >>> [(one.scope.name, one.scope.both, one.value) for one in explained(site, {"title.limit": seen})]
    [('/a', True, 40)]
    """
    names = list(seen)
    with work("looking for defaults", len(names)) as step:

        def one(name: str) -> list[Say]:
            step(name)
            return list(_Explained(site, site.catalogue[site.setting_number(name)], seen[name]).says())

        found = results_of(one, names, len(site.tree) >= MANY)
    return [say for says in found for say in says]


class _Everywhere(NamedTuple):
    """What everywhere might say: a value (None: nothing), what each page gets by it, how many statements that is."""

    value: Value
    codes: Codes
    counts: int


@dataclass(frozen=True)
class _Explained:
    """The fewest statements for one setting."""

    site: SiteModel
    setting: Setting
    seen: SeenValues

    def says(self) -> Iterator[Say]:
        """The statements."""
        tree, is_seen = self.site.tree, self.seen.codes != UNSEEN
        if not is_seen.any():
            return
        book: Codebook[Value] = Codebook([*self.seen.values])
        if self.setting.default_for == "new-pages":
            same = self.seen.codes == book.code(self.setting.built_in)
            for page in np.flatnonzero(is_seen & ~same).tolist():
                yield Say(Scope.here(tree.paths[page]), self.setting.name, book[int(self.seen.codes[page])])
            return
        built_in = self.setting.built_in
        choices = [self._same(value, book, int(value != built_in)) for value in self._common(is_seen)]
        if all(choice.value != built_in for choice in choices):
            choices.insert(1, self._same(built_in, book, 0))
        choices += [_Everywhere(value, self._by_depth(value, book), 1) for value in self._depths(is_seen)]
        value = np.where(is_seen, self.seen.codes, 0).astype(np.int32)
        nothing = np.full(len(tree), NOTHING, dtype=np.int32)
        wanted = Wanted(value, np.where(is_seen, VALUE, ANY).astype(np.int8), nothing, nothing)
        least = LeastStatements(tree.parent, tree.end, tree.depth, wanted, len(book))
        names = self.site.types.names
        may = np.array([name in self.site.types.declared for name in names], dtype=bool)
        may &= np.count_nonzero(np.bincount(self.site.details.type_of, minlength=len(names))) > 1
        none = np.full(len(names), NOTHING, dtype=np.int32)

        def best(may: Mask) -> tuple[tuple[Codes, Codes, int], _Everywhere]:
            found = []
            for choice in choices:
                trials = TypeStatements(self.site, wanted, len(book), choice.codes, may)
                found.append((trials.best(least, none, choice.codes, choice.counts), choice))
            return min(found, key=lambda one: one[0][2])  # of several the value that most pages have

        (types, by_type, _), choice = best(may)
        said = least.chosen(by_type, Said.nothing(len(tree)))
        if self._clash(by_type != choice.codes, by_type, said):
            alone = is_seen & (value != by_type)
            counts = choice.counts + np.count_nonzero(types != NOTHING) + np.count_nonzero(alone)
            without, everywhere = best(np.zeros(len(names), dtype=bool))
            if counts <= without[2]:
                said = Said.nothing(len(tree))._replace(here=alone)
            else:
                (types, by_type, _), choice = without, everywhere
                said = least.chosen(by_type, Said.nothing(len(tree)))
        if choice.counts:
            yield Say(Scope.everywhere(), self.setting.name, choice.value)
        for number in np.flatnonzero(types != NOTHING).tolist():
            yield Say(Scope.type(names[number]), self.setting.name, book[int(types[number])])
        yield from self._of_pages(said, value, book)

    def _clash(self, of_type: Mask, by_type: Codes, said: Said) -> bool:
        """Whether some page has a type and a branch that say different things, and does not say itself what holds.

        `of_type`: bool[pages]: whether a type says something of the page. Readers of the files could not tell which of
        both was meant.
        """
        if not of_type.any() or not (said.below != NOTHING).any():
            return False
        tree = self.site.tree
        reaches = np.full(len(tree), NOTHING, dtype=np.int32)
        for level in range(1, int(tree.depth.max()) + 1):
            pages = np.flatnonzero(tree.depth == level)
            above = tree.parent[pages]
            reaches[pages] = np.where(said.below[above] != NOTHING, said.below[above], reaches[above])
        clashes = of_type & (reaches != NOTHING) & (reaches != by_type) & ~said.here & ~said.both
        return bool(clashes.any())

    def _of_pages(self, said: Said, value: Codes, book: Codebook[Value]) -> Iterator[Say]:
        """What branches and single pages say."""
        paths, name = self.site.tree.paths, self.setting.name
        for page in np.flatnonzero(said.any() | said.both).tolist():
            path, below = paths[page], int(said.below[page])
            if said.both[page]:
                yield Say(Scope.here_and_below(path), name, book[below])
                continue
            if below != NOTHING:
                yield Say(Scope.below(path), name, book[below])
            if said.here[page]:
                yield Say(Scope.here(path), name, book[int(value[page])])

    def _same(self, value: Plain, book: Codebook[Value], counts: int) -> _Everywhere:
        """One value for every page."""
        return _Everywhere(value, np.full(len(self.site.tree), book.code(value), dtype=np.int32), counts)

    def _common(self, is_seen: Mask) -> list[Plain]:
        """The values that most pages have, the most common first."""
        counts = np.bincount(self.seen.codes[is_seen], minlength=len(self.seen.values))
        order = np.argsort(-counts, kind="stable")[:FEW]
        return [self.seen.values[code] for code in order.tolist() if counts[code]]

    def _depths(self, is_seen: Mask) -> list[ByDepth]:
        """Numbers that fall with the depth of a page: from the most common value of each depth, if they do."""
        if self.setting.kind != "number":
            return []
        depth, codes = self.site.tree.depth[is_seen], self.seen.codes[is_seen]
        common = []
        for level in range(int(depth.max()) + 1):
            mine = codes[depth == level]
            value = self.seen.values[int(np.bincount(mine).argmax())] if len(mine) else None
            if not isinstance(value, int | float) or isinstance(value, bool):
                break
            common.append(float(value))
        if len(common) < 3:
            return []
        step = round(common[0] - common[1], 4)
        falls = ByDepth(common[0], step, min(common))
        does = step > 0 and all(falls.at(level) == value for level, value in enumerate(common))
        return [falls] if does else []

    def _by_depth(self, value: ByDepth, book: Codebook[Value]) -> Codes:
        levels = [book.code(value.at(level)) for level in range(int(self.site.tree.depth.max()) + 1)]
        return np.array(levels, dtype=np.int32)[self.site.tree.depth]
