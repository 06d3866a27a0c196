"""Paths as people's files hold them: as full addresses of the site, or with a slash at the end."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.texts import Texts
from davlo.core.site.page_names import PageNames

from .node_reader import Reader


class _Change(NamedTuple):
    """How often one kind of change was made, and the first of them."""

    times: int = 0
    before: str = ""
    after: str = ""


class Paths:
    """Reads paths; an address of the site's own host is read as a path, and a slash at the end is dropped.

    Parameters
    ----------
    url : str
        The site's own address.
    """

    def __init__(self, url: str) -> None:
        self.names = PageNames(url)
        self._addresses, self._slashes = _Change(), _Change()

    def word(self, word: str, rows: int = 1) -> str:
        """One path, as several rows have it."""
        text = word.strip()
        path = self.names.of_address(text)
        if path != text:
            self._addresses = _more(self._addresses, rows, text, path)
        plain = self.names.without_slash(path)
        if plain != path:
            self._slashes = _more(self._slashes, rows, path, plain)
        return plain

    def column(self, column: Column) -> Column:
        """A column of paths."""
        if isinstance(column.words, Texts):
            return Column(column.codes, self._texts(column.words))
        rows = np.bincount(column.codes, minlength=len(column.words)).tolist()
        after = {word: self.word(word, count) for word, count in zip(column.words, rows, strict=True) if word}
        return column.changed(lambda word: after.get(word, word))

    def _texts(self, texts: Texts) -> Texts:
        """The paths of very many cells at once; each is in one row."""
        texts = texts.stripped()
        if not texts.begins_with(ord("/")).all():
            texts = self._stripped_of_host(texts)
            odd = np.flatnonzero(texts.begins_with(ord("h")) | texts.begins_with(ord("H")))
            if len(odd):
                texts = texts.replaced(odd, Texts.of(self.word(texts[number]) for number in odd.tolist()))
        slashed = left = _slashed(texts)
        if not len(slashed):
            return texts
        end, first = texts.end.copy(), int(slashed[0])
        while len(left):
            end[left] -= 1
            left = left[_slashed(Texts(texts.data, texts.start[left], end[left]))]
        plain = Texts(texts.data, texts.start, end)
        self._slashes = _more(self._slashes, len(slashed), texts[first], plain[first])
        return plain

    def _stripped_of_host(self, texts: Texts) -> Texts:
        """Addresses that begin just as the site's own, without that; those with percent-encoding are left."""
        for scheme in ("https", "http"):
            prefix = Texts.of([f"{scheme}://{self.names.host}{self.names.base}/"])
            length = int(prefix.end[0])
            begins = np.flatnonzero((texts.end - texts.start >= length) & texts.begins_with(ord("h")))
            some = texts.take(begins)
            own = begins[prefix.same(np.zeros(len(begins), dtype=np.int64), some, some.start + length)]
            own = own[~_holds(texts.take(own), b"%")]
            if len(own):
                start, first = texts.start.copy(), int(own[0])
                start[own] += length - 1
                paths = Texts(texts.data, start, texts.end)
                self._addresses = _more(self._addresses, len(own), texts[first], paths[first])
                texts = paths
        return texts

    def tell(self, reader: Reader, file: str) -> None:
        """Note what was changed, once and with a count."""
        count, before, after = self._addresses
        if count:
            what = "1 address is read as a path" if count == 1 else f"{count} addresses are read as paths"
            reader.note(file, f"{what} ({before} as {after})")
        count, before, after = self._slashes
        if count:
            what = "1 path loses the slash" if count == 1 else f"{count} paths lose the slash"
            reader.note(file, f"{what} at the end ({before} is read as {after})")
        self._addresses = self._slashes = _Change()


def _more(change: _Change, count: int, before: str, after: str) -> _Change:
    return change._replace(times=change.times + count) if change.times else _Change(count, before, after)


def _slashed(texts: Texts) -> NDArray[np.int64]:
    """Which texts begin and end with a slash, and are longer than that. int64[n]"""
    ends = np.flatnonzero(texts.lasts == ord("/"))  # few do
    some = texts.take(ends)
    found: NDArray[np.int64] = ends[(some.end - some.start > 1) & some.begins_with(ord("/"))]
    return found


def _holds(texts: Texts, byte: bytes) -> NDArray[np.bool_]:
    """Which texts hold a byte. bool[n]"""
    places = np.flatnonzero(texts.data == ord(byte))
    held: NDArray[np.bool_] = np.searchsorted(places, texts.start) < np.searchsorted(places, texts.end)
    return held
