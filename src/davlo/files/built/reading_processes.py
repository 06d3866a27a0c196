"""Built pages read by several processes: each sends a block once, since the pages of a site share most of them."""

from __future__ import annotations

import gc
import os
import sys
from array import array
from collections.abc import Callable, Hashable, Iterator, Sequence
from typing import NamedTuple, TypeVar

from .built_page import BuiltArea, BuiltBlock, BuiltPage, Link

MANY, CHUNK = 64, 8
"""From this many files on several processes read them, as many at a time."""
_T = TypeVar("_T", bound=Hashable)


def read_in_order(read: Callable[[str], BuiltPage | str], files: Sequence[str]) -> Iterator[BuiltPage | str]:
    """The pages of files, in their order, read by as many processes as there are cores.

    `read`: gives the page of a file, or why it cannot be read. The processes are copies of this one (Linux alone does
    that safely), so that a script that calls Davlo is not run again. If one of them ends before its time, this process
    reads on by itself.
    """
    cores, done = os.cpu_count() or 1, 0
    if cores > 1 and len(files) >= MANY and sys.platform == "linux":
        from concurrent.futures import ProcessPoolExecutor
        from concurrent.futures.process import BrokenProcessPool
        from multiprocessing import get_context

        receiver = _Receiver()
        try:
            with ProcessPoolExecutor(cores, get_context("fork"), _begin, (read,)) as pool:
                for sent in pool.map(_read_in_process, files, chunksize=CHUNK):
                    done += 1
                    yield receiver.page(sent)
        except BrokenProcessPool:
            pass
    yield from map(read, files[done:])


class _Sent(NamedTuple):
    """A page without its blocks, or why it cannot be read; blocks and links that its process did not send before."""

    process: int
    page: BuiltPage | str
    numbers: tuple[tuple[int, ...], ...]  # of the blocks, for each area
    blocks: list[tuple[BuiltBlock, array[int]]]  # each without its links, and the numbers of these
    links: list[Link]


class _Numbers(dict[_T, int]):
    """Numbers things in the order in which they first come."""

    def __init__(self) -> None:
        super().__init__()
        self._new = list[_T]()

    def __missing__(self, thing: _T) -> int:
        self[thing] = number = len(self)
        self._new.append(thing)
        return number

    def take_new(self) -> list[_T]:
        """The things that came since this was last called."""
        new, self._new = self._new, []
        return new


class _Sender:
    """Reads pages in a process of its own."""

    def __init__(self, read: Callable[[str], BuiltPage | str]) -> None:
        self._read, self._blocks, self._links = read, _Numbers[BuiltBlock](), _Numbers[Link]()

    def sent(self, name: str) -> _Sent:
        """The page of a file, as it is sent to the other process."""
        page, links_of = self._read(name), self._links.__getitem__
        numbers: tuple[tuple[int, ...], ...] = ()
        if not isinstance(page, str):
            numbers = tuple(tuple(map(self._blocks.__getitem__, area.blocks)) for area in page.areas)
            page = page._replace(areas=tuple(area._replace(blocks=()) for area in page.areas))
        new = self._blocks.take_new()
        blocks = [(block._replace(links=()), array("I", map(links_of, block.links))) for block in new]
        return _Sent(os.getpid(), page, numbers, blocks, self._links.take_new())


class _Receiver:
    """Puts the pages together that other processes sent; keeps once what is equal on several pages."""

    def __init__(self) -> None:
        self._links, self._blocks = dict[Link, Link](), dict[BuiltBlock, BuiltBlock]()
        self._trails, self._words = dict[tuple[Link, ...], tuple[Link, ...]](), dict[str, str]()
        self._areas = dict[tuple[tuple[str, str, tuple[int, ...]], ...], tuple[BuiltArea, ...]]()
        self._sent: dict[int, tuple[list[BuiltBlock], list[Link]]] = {}  # by process, in the order of its numbers

    def page(self, sent: _Sent) -> BuiltPage | str:
        """The page, or why it cannot be read; those of one process come in the order in which it read them."""
        blocks, links = self._sent.setdefault(sent.process, ([], []))
        links += (self._links.setdefault(link, link) for link in sent.links)
        for bare, numbers in sent.blocks:
            block = bare._replace(links=tuple(map(links.__getitem__, numbers)))
            blocks.append(self._blocks.setdefault(block, block))
        if isinstance(sent.page, str):
            return sent.page
        page = sent.page
        of_areas = [[blocks[at] for at in some] for some in sent.numbers]
        key = tuple(
            (area.name, area.label, tuple(map(id, some))) for area, some in zip(page.areas, of_areas, strict=True)
        )
        if key not in self._areas:
            whole = zip(page.areas, of_areas, strict=True)
            self._areas[key] = tuple(area._replace(blocks=tuple(some)) for area, some in whole)
        trail = tuple(self._links.setdefault(link, link) for link in page.trail)
        return page._replace(
            areas=self._areas[key],
            trail=self._trails.setdefault(trail, trail),
            language=self._words.setdefault(page.language, page.language),
            up=self._words.setdefault(page.up, page.up),
        )


_of_process: list[_Sender] = []
"""What reads the pages in a process of its own."""


def _begin(read: Callable[[str], BuiltPage | str]) -> None:
    gc.disable()  # pages hold no circles, and a search for them looks at every page that was read
    _of_process.append(_Sender(read))


def _read_in_process(name: str) -> _Sent:
    return _of_process[0].sent(name)
