"""Paths as people's files hold them: as full addresses of the site, with a slash, an index file or a fragment."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.codebooks import Column, Mask
from davlo.core.arrays.texts import Texts
from davlo.core.site.pages.page_names import PageNames

from ..yaml.node_reader import Reader

_HASH, _QUERY, _PERCENT = map(ord, "#?%")


class PathCells(NamedTuple):
    """The cells of a column of paths."""

    paths: Column  # the paths that they mean
    written: Column | None  # the names as they are written, without fragments; None if all are just paths
    fragment: Mask | None  # bool[rows]: where a cell names a place in a page; None if none does


class Paths:
    """Reads paths from files, and counts those that are written differently.

    `names`: the reader of names of the site's pages.
    """

    def __init__(self, names: PageNames) -> None:
        self.names = names
        self._count, self._before, self._after = 0, "", ""

    def word(self, word: str, rows: int = 1) -> str:
        """One path, as several rows have it."""
        text = word.strip()
        path = self.names.path(text)
        if path != text:
            self._note(rows, text, path)
        return path

    def column(self, column: Column) -> Column:
        """A column of paths."""
        if isinstance(column.words, Texts):
            return Column(column.codes, self._texts(column.words))
        rows = np.bincount(column.codes, minlength=len(column.words)).tolist()
        after = {word: self.word(word, count) for word, count in zip(column.words, rows, strict=True) if word}
        return column.changed(lambda word: after.get(word, word))

    def cells(self, column: Column) -> PathCells:
        """A column of paths, and how they are written."""
        before = self._count
        paths = self.column(column)
        if self._count == before:
            return PathCells(paths, None, None)
        words = column.words
        if isinstance(words, Texts):
            words = words.stripped()
            holds = np.flatnonzero(words.first(_HASH) >= 0)
            names = [self.names.read(words[number]) for number in holds.tolist()]
            has = np.zeros(len(words), dtype=bool)
            has[holds] = [bool(name.fragment) for name in names]
            written: Sequence[str] = words.replaced(holds, Texts.of(name.written for name in names))
        else:
            names = [self.names.read(word) for word in words]
            has = np.array([bool(name.fragment) for name in names], dtype=bool)
            written = [name.written for name in names]
        fragment = has[column.codes]
        return PathCells(paths, Column(column.codes, written), fragment if fragment.any() else None)

    def _texts(self, texts: Texts) -> Texts:
        """The paths of very many cells at once; each is in one row."""
        texts = texts.stripped()
        paths = texts if texts.begins_with(ord("/")).all() else self._stripped_of_host(texts)
        marked = np.maximum.reduce([paths.first(byte) for byte in (_HASH, _QUERY, _PERCENT)]) >= 0
        odd = np.flatnonzero(marked | paths.begins_with(ord("h")) | paths.begins_with(ord("H")))
        paths = self._plain(paths)
        if len(odd):
            paths = paths.replaced(odd, Texts.of(self.names.path(texts[number]) for number in odd.tolist()))
        if paths is not texts:
            moved = np.flatnonzero((paths.start != texts.start) | (paths.end != texts.end))
            some = paths.take(moved)
            changed = moved[~texts.same(moved, some, some.end)]
            if len(changed):
                self._note(len(changed), texts[int(changed[0])], paths[int(changed[0])])
        return paths

    def _stripped_of_host(self, texts: Texts) -> Texts:
        """Addresses that begin just as the site's own, without that; those with percent-encoding are left."""
        for scheme in ("https", "http"):
            prefix = Texts.of([f"{scheme}://{self.names.host}{self.names.base}/"])
            length = int(prefix.end[0])
            begins = np.flatnonzero((texts.end - texts.start >= length) & texts.begins_with(ord("h")))
            some = texts.take(begins)
            own = begins[prefix.same(np.zeros(len(begins), dtype=np.int64), some, some.start + length)]
            start = texts.start.copy()
            start[own] += length - 1
            texts = Texts(texts.data, start, texts.end) if len(own) else texts
        return texts

    def _plain(self, texts: Texts) -> Texts:
        """Paths without the slashes and the index files at their end."""
        endings = [Texts.of([f"/{name}"]) for name in self.names.index]
        left = np.flatnonzero(texts.begins_with(ord("/")))
        end = texts.end.copy()
        while len(left):
            some = Texts(texts.data, texts.start[left], end[left])
            length = some.end - some.start
            cut = np.zeros(len(left), dtype=np.int64)
            cut[(some.lasts == ord("/")) & (length > 1)] = 1
            for ending in endings:
                size = int(ending.end[0])
                long = np.flatnonzero(length >= size)
                tails = Texts(texts.data, some.end[long] - size, some.end[long])
                ends = ending.same(np.zeros(len(long), dtype=np.int64), tails, tails.end)
                # leave the slash before it to the next turn, unless it is the whole path
                cut[long[ends]] = size - 1
            left = left[cut > 0]
            end[left] -= cut[cut > 0]
        return texts if (end == texts.end).all() else Texts(texts.data, texts.start, end)

    def _note(self, count: int, before: str, after: str) -> None:
        if not self._count:
            self._before, self._after = before, after
        self._count += count

    def tell(self, reader: Reader, file: str) -> None:
        """Note what was read differently, once and with a count."""
        if self._count:
            cells = "1 cell names a page" if self._count == 1 else f"{self._count} cells name pages"
            reader.note(file, f"{cells} in another form than by the path ({self._before} is {self._after})")
        self._count = 0
