"""What was seen of a site that somebody has: its pages, their details, and the values of settings."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, TypeAlias
from urllib.parse import urlsplit

import numpy as np

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.outcomes.areas import CONTENT
from davlo.core.site.settings.names import RESERVED_NAMES
from davlo.core.site.settings.values import Raw

Seen: TypeAlias = "Raw | None"
"""A value as a file would hold it; None if any value will do, and `UNSAID` for the built-in value."""
Cells: TypeAlias = "Sequence[str] | Column"
"""A text for each page."""
UNSAID = ""
_BEGINS = re.compile(r"[^/?#]*//[^/?#]*")
LONGEST_NAME = 40


class Remark(NamedTuple):
    """Something that Davlo guessed, or could not recover."""

    what: str  # a sentence
    pages: int = 0  # how many pages it is about; 0 if it is about none in particular
    example: str = ""  # one of them, or the words that were read; may be empty
    of_decisions: bool = False  # whether it is about what pages show and get, not about the pages and their details


class ColumnMeaning(NamedTuple):
    """What a column of a table is read as, and why."""

    column: str
    became: str
    why: str


@dataclass(frozen=True)
class SeenColumn:
    """The values of one setting that were seen: `codes: int32[pages]` into `words`.

    Example
    -------
    >>> column = SeenColumn.of(["main", None, ["a"], "main", ["a"]])
    >>> column.words, column.codes.tolist(), column.count_said()
    (['main', None, ['a']], [0, 1, 2, 0, 2], 4)
    """

    codes: Codes
    words: Sequence[Seen]

    @classmethod
    def of(cls, seen: Iterable[Seen]) -> SeenColumn:
        """The column of these values, which is one already or holds one for each page."""
        if isinstance(seen, SeenColumn):
            return seen
        code, words = dict[object, int](), list[Seen]()
        codes = list[int]()
        for one in seen:
            key = one if one is None or isinstance(one, str) else (repr(one),)
            number = code.setdefault(key, len(words))
            if number == len(words):
                words.append(one)
            codes.append(number)
        return cls(np.array(codes, dtype=np.int32), words)

    def __len__(self) -> int:
        return len(self.codes)

    def __iter__(self) -> Iterator[Seen]:
        return map(self.words.__getitem__, self.codes.tolist())

    def take(self, pages: Codes) -> SeenColumn:
        """The values of these pages, in that order."""
        return SeenColumn(self.codes[pages], self.words)

    def count_said(self) -> int:
        """On how many pages it says something."""
        says = np.array([word not in (None, UNSAID) for word in self.words], dtype=bool)
        return int(np.count_nonzero(says[self.codes])) if len(says) else 0


@dataclass(frozen=True)
class SeenSite:
    """What one source shows of a site, or several together."""

    addresses: Cells  # one for each page: a path, or a full address
    # by column of the page list, a text for each page; empty where nothing was seen
    details: Mapping[str, Cells]
    # by setting, a value for each page; None where any will do, `UNSAID` where nothing is said
    values: Mapping[str, Sequence[Seen] | SeenColumn] = field(default_factory=dict)
    # what settings name, by the sections of davlo.yaml
    declared: Mapping[str, Mapping[str, Raw]] = field(default_factory=dict)
    url: str = ""  # `url`, `name`: the site's address and its name; empty if nothing tells them
    name: str = ""
    languages: tuple[str, ...] = ()  # the first is the one that others are translated from
    robots: tuple[str, ...] = ()  # the site's own lines of robots.txt
    columns: tuple[ColumnMeaning, ...] = ()
    guessed: tuple[Remark, ...] = ()  # `guessed`, `lost`: what was guessed, and what could not be recovered
    lost: tuple[Remark, ...] = ()


def name_from(text: str, taken: Iterable[str] = (), otherwise: str = "part") -> str:
    """A name for a declaration, from what people call the thing: lower-case words with `-` between.

    Example
    -------
    >>> name_from("Öffnungszeiten & Preise"), name_from("On this page", ["on-this-page"]), name_from("目次")
    ('offnungszeiten-preise', 'on-this-page-2', 'part')
    """
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    words, name = re.findall(r"[a-z0-9]+", plain), ""
    for word in words:
        if name and len(name) + len(word) >= LONGEST_NAME:
            break
        name = f"{name}-{word}" if name else word[:LONGEST_NAME]
    name = name or otherwise
    known, number, found = {*taken, *RESERVED_NAMES}, 1, name
    while found in known:
        number += 1
        found = f"{name}-{number}"
    return found


def most_common(words: Iterable[str]) -> str:
    """The most frequent word, the first among equals; empty if there is none."""
    found = Counter(word for word in words if word).most_common(1)
    return found[0][0] if found else ""


def as_column(cells: Cells) -> Column:
    """The column of these texts, which are one already or one for each page."""
    return cells if isinstance(cells, Column) else Column.of(cells)


def most_common_origin(sources: Iterable[Cells]) -> str:
    """The most frequent origin of addresses, the first among equals; empty if none has one."""
    known, counts = dict[str, str](), Counter[str]()
    for addresses in sources:
        for address in addresses:
            begins = _BEGINS.match(address)
            key = begins[0] if begins else address
            if key not in known:
                known[key] = origin(address)
            counts[known[key]] += 1
    del counts[""]
    return counts.most_common(1)[0][0] if counts else ""


def in_order(areas: Iterable[str]) -> list[str]:
    """Areas, each once, the content among them: those above it first, the footer last.

    Example
    -------
    >>> in_order(["footer", "right", "masthead", "left", "right"])
    ['masthead', 'left', 'content', 'right', 'footer']
    """
    order = {"masthead": 0, "menu": 1, "left": 2, CONTENT: 3, "footer": 5}
    return sorted(dict.fromkeys([*areas, CONTENT]), key=lambda area: order.get(kind_of_area(area), 4))


def origin(address: str) -> str:
    """The scheme and the host of an address; empty if it has none."""
    try:
        parts = urlsplit(address)
    except ValueError:
        return ""
    return f"{parts.scheme}://{parts.netloc}" if parts.scheme in ("http", "https") and parts.netloc else ""


def kind_of_area(name: str) -> str:
    """The name of an area without the number that a second one of its kind has.

    Example
    -------
    >>> kind_of_area("aside-2"), kind_of_area("footer")
    ('aside', 'footer')
    """
    return name.rstrip("-0123456789")
