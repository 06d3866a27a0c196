"""A folder of built HTML pages, in any layout; links that lead out of the folder are not followed."""

from __future__ import annotations

import io
import os
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple
from urllib.parse import quote

from davlo.core.faults import ValueFault
from davlo.core.progress import work

from ..read.site_file import open_regular
from .built_page import BuiltBlock, BuiltPage, Link
from .html_document import MOST_BYTES
from .html_page import html_page
from .page_headings import with_own_headings
from .selectors import NO_SELECTORS, Selectors

ENDINGS = (".html", ".htm", ".xhtml")
INDEX_FILES = ("index.html", "index.htm", "index.xhtml")
MANY, CHUNK = 64, 8
"""From this many files on several processes read them, as many at a time."""
_KEPT = "/!$&'()*+,;=:@~ "
"""Letters of a path that need no percent-encoding here, beside letters of any script."""


class BuiltFolder(NamedTuple):
    """What a folder of built pages holds."""

    pages: tuple[BuiltPage, ...]  # by file name
    # files that cannot be read as pages, and why, in a sentence without its subject
    left_out: tuple[tuple[str, str], ...]


def read_built_folder(folder: Path, selectors: Selectors = NO_SELECTORS) -> BuiltFolder:
    """The pages of a folder, read on all cores if they are many.

    Raises OSError if the folder cannot be listed.
    """
    files, pages, left_out = sorted(_files(folder)), list[BuiltPage](), list[tuple[str, str]]()
    with work("reading the pages", len(files)) as step:
        for name, found in zip(files, _in_order(_Reader(folder, selectors), files), strict=True):
            step(name)
            if isinstance(found, str):
                left_out.append((name, found))
            else:
                pages.append(found)
    return BuiltFolder(tuple(with_own_headings(pages)), tuple(left_out))


class _Reader:
    """Reads the pages of a folder; `selectors` find areas and details that the conventions do not tell."""

    def __init__(self, folder: Path, selectors: Selectors) -> None:
        self._folder, self._inside, self._selectors = folder, folder.resolve(), selectors

    def page(self, name: str) -> BuiltPage | str:
        """The page of a file, or why it cannot be read, in a sentence without its subject."""
        path = self._folder / name
        if path.name.startswith("."):
            return "its name begins with a dot: it is hidden"
        try:
            if not path.resolve().is_relative_to(self._inside):
                return "it is a link that leads out of the folder"
            with io.BufferedReader(open_regular(path)) as file:
                content = file.read(MOST_BYTES + 1)
            return html_page(content, name, address_of(name), self._selectors)
        except ValueFault as error:
            return error.what
        except OSError as error:
            return f"it cannot be read: {error.strerror or error}"


class _Sender:
    """Reads pages in a process of its own, and sends each block once: pages of a site share most of them."""

    def __init__(self, reader: _Reader) -> None:
        self._reader, self._numbers = reader, dict[BuiltBlock, int]()

    def sent(self, name: str) -> _Sent:
        """The page of a file, as it is sent to the other process."""
        found, new = self._reader.page(name), list[BuiltBlock]()
        if isinstance(found, str):
            return _Sent(os.getpid(), found, (), new)
        numbers = list[tuple[int, ...]]()
        for area in found.areas:
            for block in area.blocks:
                if block not in self._numbers:
                    self._numbers[block] = len(self._numbers)
                    new.append(block)
            numbers.append(tuple(self._numbers[block] for block in area.blocks))
        bare = tuple(area._replace(blocks=()) for area in found.areas)
        return _Sent(os.getpid(), found._replace(areas=bare), tuple(numbers), new)


class _Sent(NamedTuple):
    """A page, or why it cannot be read; its blocks by their numbers, and those that its process did not send before."""

    process: int
    page: BuiltPage | str
    numbers: tuple[tuple[int, ...], ...]  # for each area
    new: list[BuiltBlock]


_of_process: list[_Sender] = []
"""What reads the pages in a process of its own."""


def _read_in_process(name: str) -> _Sent:
    return _of_process[0].sent(name)


def _in_order(reader: _Reader, files: Sequence[str]) -> Iterator[BuiltPage | str]:
    """The pages of files, in their order, read by as many processes as there are cores.

    The processes are copies of this one (Linux alone does that safely), so that a script that calls Davlo is not run
    again. If one of them ends before its time, this process reads on by itself.
    """
    cores, done = os.cpu_count() or 1, 0
    if cores > 1 and len(files) >= MANY and sys.platform == "linux":
        from concurrent.futures import ProcessPoolExecutor
        from concurrent.futures.process import BrokenProcessPool
        from multiprocessing import get_context

        blocks, one_each = dict[int, list[BuiltBlock]](), _OneEach()
        try:
            with ProcessPoolExecutor(cores, get_context("fork"), _of_process.append, (_Sender(reader),)) as pool:
                for sent in pool.map(_read_in_process, files, chunksize=CHUNK):
                    known = blocks.setdefault(sent.process, [])  # a process sends its pages in the order of the files
                    known += map(one_each.block, sent.new)
                    done += 1
                    if isinstance(sent.page, str):
                        yield sent.page
                        continue
                    areas = zip(sent.page.areas, sent.numbers, strict=True)
                    yield sent.page._replace(
                        areas=tuple(area._replace(blocks=tuple(known[at] for at in some)) for area, some in areas)
                    )
        except BrokenProcessPool:
            pass
    for name in files[done:]:
        yield reader.page(name)


class _OneEach:
    """Keeps equal blocks and links of pages once in memory: pages of a site share most of them."""

    def __init__(self) -> None:
        self._links: dict[Link, Link] = {}
        self._blocks: dict[BuiltBlock, BuiltBlock] = {}

    def block(self, block: BuiltBlock) -> BuiltBlock:
        """The block that is kept."""
        known = self._blocks.get(block)
        if known is None:
            known = block._replace(links=tuple(self._links.setdefault(link, link) for link in block.links))
            self._blocks[known] = known
        return known


def address_of(name: str) -> str:
    """The path at which a server shows a file of the folder.

    Example
    -------
    >>> address_of("visit/index.html"), address_of("visit.html"), address_of("50% off?.html")
    ('/visit/', '/visit.html', '/50%25 off%3F.html')
    """
    above, _, last = name.rpartition("/")
    shown = f"{above}/" if above else ""
    whole = shown if last.lower() in INDEX_FILES else name
    encoded = "".join(letter if letter.isalnum() else quote(letter, safe=_KEPT + "-._") for letter in whole)
    return f"/{encoded}"


def _files(folder: Path) -> Iterator[str]:
    """The HTML files, from the folder on, with `/` between; hidden folders are left out."""

    def told(error: OSError) -> None:
        if Path(error.filename or "") == folder:
            raise error

    for above, folders, files in os.walk(folder, onerror=told):
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in files:
            if name.lower().endswith(ENDINGS):
                yield (Path(above) / name).relative_to(folder).as_posix()
