"""Page records as JSON lines, put together field by field: never an object a page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Mask, distinct
from davlo.core.arrays.texts import Texts
from davlo.core.progress import work
from davlo.core.records.page_record import record_form
from davlo.core.records.record import Field, Group, RecordPages
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR
from davlo.core.site.source import Sources

from .json_text import json_text
from .text_columns import JSON, Pieces, cells, lines

Codes = NDArray[np.signedinteger]
PART = 1 << 16
"""Pages whose records are worked out at a time."""


def record_lines(
    effective: EffectiveModel,
    settings: Sequence[int] | None = None,
    pages: NDArray[np.int64] | None = None,
    viewer: str = VISITOR,
) -> Iterator[bytes]:
    """A line of JSON for each page, or for each of some, many at a time; with all settings, or with some.

    `viewer`: who meets what the records hold.

    Example
    -------
    >>> import davlo, json
    >>> lines = b"".join(record_lines(davlo.open_demo().resolve())).splitlines()
    >>> record = json.loads(lines[0])
    >>> record["path"], record["settings"]["layout.theme"], record["sources"]["layout.theme"]["scope"]
    ('/', 'day', 'everywhere')
    """
    records = RecordPages(effective, pages, viewer=viewer)
    return records_as_lines(records, record_form(records, settings))


def records_as_lines(records: RecordPages, form: Group) -> Iterator[bytes]:
    """Records of some form as JSON lines, many at a time."""
    with work("writing the records", len(records)) as step:
        done = 0
        for part in records.parts(PART):
            step(f"page {done:,} of {len(records):,}")
            writer = _Writer(part)
            writer.object(form)
            yield from lines(writer.done("\n"), len(part))
            done += len(part)


class _Writer:
    """Collects the pieces of each line; text that all lines have waits for the next piece."""

    def __init__(self, records: RecordPages) -> None:
        self.records, self.pieces = records, list[Pieces]()
        self._waiting = ""

    def done(self, end: str) -> list[Pieces]:
        """All pieces, with an end to each line."""
        self._waiting += end
        self._flush()
        return self.pieces

    def _flush(self) -> None:
        if self._waiting:
            self.pieces.append(Pieces.constant(self._waiting, len(self.records)))
        self._waiting = ""

    def object(self, group: Group) -> None:
        """The members of a group as an object."""
        self._waiting += "{"
        begun: Codes | bool = False  # whether a member stands before the next one, on all pages or on each
        if group.order is not None:
            begun = self._ordered(group, group.order(self.records))
        for member in group.members if group.order is None else ():
            if isinstance(member, Group):
                self._key(member.name, begun)
                self.object(member)
                begun = True
            else:
                begun = self._field(member, begun)
        self._waiting += "}"

    def _key(self, name: str, begun: Codes | bool) -> None:
        assert isinstance(begun, bool), "a group stands after a field that all pages have, or first"
        self._waiting += f"{', ' if begun else ''}{json_text(name)}: "

    def _field(self, field: Field[Any], begun: Codes | bool) -> Codes | bool:
        """One field; whether a member stands before the next one then."""
        codes, values = self.records.values(field)
        there = codes >= 0
        if field.is_optional and not there.all():
            words = [f"{json_text(field.name)}: {word}" if word else "" for word in self._words(field, codes)]
            return self._items(words, codes, begun)
        self._key(field.name, begun) if isinstance(begun, bool) else self._comma(begun, field.name)
        if isinstance(values, Texts):
            self._texts(values, codes, there)
        elif isinstance(values, Sources):
            self._sources(values, codes)
        else:
            words = [self._waiting + word for word in (*self._words(field, codes), "null")]
            self.pieces.append(Pieces.of(words, np.where(there, codes, len(words) - 1)))
            self._waiting = ""
        return True

    def _texts(self, values: Texts, codes: Codes, there: Mask) -> None:
        """A text of each page's own; null where there is none."""
        if there.all():
            self.pieces += cells((codes, values), JSON, self._waiting)
            self._waiting = ""
            return
        self._flush()
        own = values.take(np.where(there, codes, 0))
        _, text, _ = cells((np.arange(len(own)), own), JSON)
        blank = Texts(text.words.data, text.words.start, np.where(there, text.words.end, text.words.start))
        quoted = there.astype(np.int32)
        self.pieces += [Pieces.of(["null", '"'], quoted), Pieces(blank), Pieces.of(["", '"'], quoted)]

    def _sources(self, values: Sources, codes: Codes) -> None:
        """The sources of a setting that all pages have, member by member."""
        found = values.columns()
        line, which = distinct(found.line.astype(np.int64))
        members: dict[str, tuple[Codes, list[object]]] = {
            "scope": (found.scope.codes, [*found.scope.words]),
            "file": (found.file.codes, [word or None for word in found.file.words]),
            "line": (which, [number or None for number in found.line[line].tolist()]),
            "locked": (found.locked.astype(np.int32), [False, True]),
        }
        for place, (name, (numbers, words)) in enumerate(members.items()):
            before = f"{self._waiting}{', ' if place else '{'}{json_text(name)}: "
            self.pieces.append(Pieces.of([before + json_text(word) for word in words], numbers[codes]))
            self._waiting = ""
        self._waiting = "}"

    def _comma(self, begun: Codes, name: str) -> None:
        self._flush()
        self.pieces.append(Pieces.of(["", ", "], begun))
        self._waiting = f"{json_text(name)}: "

    def _words(self, field: Field[Any], codes: Codes) -> list[str]:
        """The values as JSON has them; empty where no page has one, since it may be no value of a page."""
        values = self.records.values(field).values
        used = np.bincount(codes[codes >= 0], minlength=len(values)).tolist()
        return [json_text(field.as_json(value)) if uses else "" for value, uses in zip(values, used, strict=True)]

    def _items(self, words: Sequence[str], codes: Codes, begun: Codes | bool) -> Codes:
        """Items of an object, each on the pages that have it (`codes` >= 0); a comma follows an item before it."""
        self._flush()
        after = np.broadcast_to(np.int64(begun), codes.shape) if isinstance(begun, bool) else begun
        texts = [*words, *(f", {word}" for word in words), ""]
        self.pieces.append(Pieces.of(texts, np.where(codes >= 0, codes + after * len(words), len(texts) - 1)))
        return after | (codes >= 0)

    def _ordered(self, group: Group, places: Sequence[Codes]) -> Codes | bool:
        """The members of a group whose order differs from page to page, place by place."""
        begun: Codes | bool = False
        offset, words, of_member = 0, list[str](), list[Codes]()
        for member in group.members:
            assert isinstance(member, Field)
            codes = self.records.values(member).codes
            told = self._words(member, codes)
            words += [f"{json_text(member.name)}: {word}" if word else "" for word in told]
            of_member.append(np.where(codes >= 0, codes + offset, -1))
            offset += len(told)
        for place in places:
            here = np.full(len(self.records), -1, dtype=np.int64)
            for number, codes in enumerate(of_member):
                here = np.where(place == number, codes, here)
            begun = self._items(words, here, begun)
        return begun
