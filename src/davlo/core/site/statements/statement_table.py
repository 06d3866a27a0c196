"""Statements: one setting given one value in one scope, with the file and line where it stands."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codebook, Codes, Mask, frozen
from ...faults import Place
from ..settings.scopes import OF_PAGES, ScopeKind
from ..settings.values import Value
from .new_statements import BUILT_IN, Form, NewStatement, StatementBatch, settled
from .statement_words import Columns, StatementWords

_COLUMNS = {
    "setting": np.int32,
    "scope": np.int8,
    "target": np.int32,
    "value": np.int32,
    "step": np.int32,
    "form": np.int8,
    "locked": np.bool_,
    "both": np.bool_,
    "file": np.int32,
    "line": np.int32,
    "because": np.int32,
    "preset": np.int32,
}
Indices = NDArray[np.intp]


class Statements:
    """All statements, as columns; sorted by setting, and within it in the order of the fold, weakest first.

    A statement is identified by its scope, its target and its setting. Its place in these columns holds for one site
    only. Columns and words are read-only.

    `words`: for each setting its built-in value, and every value that a statement gives it. `gone`: the paths that
    statements name and no page has. `rules`: how many rules there are.
    """

    # `setting`, `target`, `value`, `step`, `line`: int32[statements]: `target`: a type's number, a page's number, or a
    # rule's place from the top; 0 for everywhere. For a page that is gone it is `-1 - n`, and its path is `gone[n]`.
    # `value`: a code into `words[setting]`.
    setting: Codes
    scope: NDArray[np.int8]  # int8[statements]
    target: Codes
    value: Codes
    step: Codes
    form: NDArray[np.int8]  # int8[statements]
    locked: Mask  # `locked`, `both`: bool[statements]: `both`: said by a `here_and_below`
    both: Mask
    file: Codes  # `file`, `because`, `preset`: int32[statements]: codes into `files`, `reasons`, `presets`
    line: Codes
    because: Codes
    preset: Codes

    def __init__(self, columns: Columns, words: StatementWords, rules: int = 0, gone: Sequence[str] = ()) -> None:
        self._books = words.freeze()
        self.gone = tuple(gone)
        self.rules = rules
        self._by_page: dict[int, tuple[NDArray[np.int64], Codes]] = {}
        self._places: dict[int, dict[tuple[int, int], int]] = {}
        self._tables = tuple(object() for _ in words.values)  # one for each setting; sites that say the same share it
        strength = self.strength_of(columns["scope"], columns["target"])
        order = np.lexsort((columns["step"], strength, columns["setting"]))
        for name, dtype in _COLUMNS.items():
            column: NDArray[Any] = columns[name].astype(dtype)[order]
            frozen(column)
            setattr(self, name, column)
        scopes = len(ScopeKind)
        key = self.setting.astype(np.int64) * scopes + self.scope
        self._start: list[int] = np.searchsorted(key, np.arange(len(self.words) * scopes + 1)).tolist()

    @property
    def words(self) -> tuple[Codebook[Value], ...]:
        return self._books.values

    @property
    def files(self) -> Codebook[str]:
        """The files that statements stand in."""
        return self._books.files

    @property
    def reasons(self) -> Codebook[str]:
        """The reasons that statements give."""
        return self._books.reasons

    @property
    def presets(self) -> Codebook[tuple[str, Place | None]]:
        """The presets that statements come from: the name, and where the preset says it."""
        return self._books.presets

    def of_one(
        self, setting: int, pages: range, without: Sequence[int] = (), more: NewStatement | None = None
    ) -> Statements:
        """The statements of one setting in a table of their own, without some of them, or with one more.

        Statements of single pages are left out unless their pages are among `pages`. The statements are numbered anew;
        their codes mean the same, and a value that is new comes after them.
        """
        first, last = setting * len(ScopeKind), (setting + 1) * len(ScopeKind)
        starts = np.array(self._start[first : last + 1])
        single = int(starts[ScopeKind.STAMP])
        rows = np.concatenate([np.arange(starts[0], single), self._of_pages(setting, pages)])
        rows = rows[~np.isin(rows, np.asarray(without, dtype=np.int64))] if len(without) else rows
        starts = np.searchsorted(rows, starts)
        place = 0 if more is None else int(np.searchsorted(rows, self.place_for(more.setting, more.scope, more.target)))
        books = self._books
        if more is not None:
            values = tuple(book.copy() if i == setting else book for i, book in enumerate(books.values))
            books = StatementWords(values, books.files.copy(), books.reasons.copy(), books.presets.copy())
        new = books.code([] if more is None else [more])
        one = copy(self)
        one._books, one._by_page = books.freeze(), {}
        one._tables, one._places = tuple(object() for _ in self._tables), {}
        for name, dtype in _COLUMNS.items():
            column = getattr(self, name)[rows]
            setattr(one, name, np.concatenate([column[:place], new[name].astype(dtype), column[place:]]))
        if more is not None:
            starts[more.scope + 1 :] += 1
        rest = len(self.words) * len(ScopeKind) - last
        one._start = [0] * first + starts.tolist() + [len(one)] * rest
        return one

    def amended(self, gone: Sequence[int], more: Sequence[NewStatement], halved: Sequence[int] = ()) -> Statements:
        """A table with a few statements left out and a few added; settings, types, pages and rules stay the same.

        Only the settings concerned are sorted again. `halved` are statements of a `here_and_below` whose other half is
        left out. Unused words are dropped.
        """
        old, out, halves = self._books, np.array(gone, dtype=np.intp), np.array(halved, dtype=np.intp)
        touched = sorted({*self.setting[out].tolist(), *self.setting[halves].tolist(), *(one.setting for one in more)})
        values = list(old.values)
        for at in touched:
            values[at] = Codebook(old.values[at].items[:1])
        books = StatementWords(tuple(values), old.files.copy(), old.reasons.copy(), old.presets)
        pieces: dict[str, list[NDArray[Any]]] = {name: [] for name in _COLUMNS}
        sizes, done = np.diff(self._start), 0
        for at in touched:
            span, first = self.of_setting(at), at * len(ScopeKind)
            new = [one for one in more if one.setting == at]
            mine = self._amended_setting(at, out[self.setting[out] == at], new, halves, books)
            for name, parts in pieces.items():
                parts += [getattr(self, name)[done : span.start], mine[name]]
            sizes[first : first + len(ScopeKind)] = np.bincount(mine["scope"], minlength=len(ScopeKind))
            done = span.stop
        one = copy(self)
        one._books, one._by_page = books.freeze(), {}
        one._places = {}
        one._tables = tuple(object() if at in touched else table for at, table in enumerate(self._tables))
        one._start = [0, *np.cumsum(sizes).tolist()]
        for name, parts in pieces.items():
            column = np.concatenate([*parts, getattr(self, name)[done:]])
            frozen(column)
            setattr(one, name, column)
        return one

    def _amended_setting(
        self, setting: int, out: Indices, more: Sequence[NewStatement], halves: Indices, books: StatementWords
    ) -> Columns:
        """The statements of one setting in the table that `amended` gives."""
        span = self.of_setting(setting)
        columns = {name: getattr(self, name)[span.start : span.stop] for name in _COLUMNS}
        rows = np.delete(np.arange(len(span)), out - span.start)
        columns["value"] = np.zeros(len(span), dtype=np.int32)
        columns["value"][rows] = _recoded(self.value[rows + span.start], self.words[setting], books.values[setting])
        columns["both"] = columns["both"] & ~np.isin(np.arange(span.start, span.stop), halves)
        added = books.code(more)
        places = self._places_for(setting, added["scope"], added["target"])
        order = np.lexsort((self.strength_of(added["scope"], added["target"]), places))
        take = np.insert(rows, np.searchsorted(rows, places[order] - span.start), len(span) + order)
        return {
            name: np.concatenate([columns[name], added[name].astype(type_)])[take] for name, type_ in _COLUMNS.items()
        }

    def edited(
        self,
        built_in: Sequence[Value],
        keep: Mask | None = None,
        more: Sequence[NewStatement] = (),
        columns: Columns | None = None,
        setting: Codes | None = None,
        gone: Sequence[str] | None = None,
        rules: int | None = None,
    ) -> Statements:
        """A table with some statements left out, some added, and some columns changed. Unused words are dropped.

        `built_in`: for each setting of the new table its built-in value. `keep`: bool[statements]: those that stay; all
        unless given. `more`: by the new numbers of settings, types, pages and rules. `columns`: columns to replace,
        such as `target` if pages have other numbers. `setting`: int32[settings]: the new number of each setting; the
        same unless given. `gone`, `rules`: as attributes of the new table; the same unless given.
        """
        kept = {name: getattr(self, name) for name in _COLUMNS} | dict(columns or {})
        rows = np.arange(len(self)) if keep is None else np.flatnonzero(keep)
        kept = {name: column[rows] for name, column in kept.items()}
        books = StatementWords.of(built_in)
        books.files.extend(self.files.items)
        books.reasons.extend(self.reasons.items)
        used = np.flatnonzero(np.bincount(kept["preset"], minlength=1)).tolist()
        presets = np.zeros(len(self.presets), dtype=np.int32)
        presets[used] = [books.presets.code(self.presets[code]) for code in used]
        kept["preset"] = presets[kept["preset"]]
        value, ends = kept["value"].copy(), np.searchsorted(kept["setting"], np.arange(len(self.words) + 1)).tolist()
        number = np.arange(len(self.words), dtype=np.int32) if setting is None else setting
        for old, (begin, end) in enumerate(pairwise(ends)):
            if begin < end:
                value[begin:end] = _recoded(value[begin:end], self.words[old], books.values[int(number[old])])
        kept |= {"value": value, "setting": number[kept["setting"]]}
        added = books.code(more)
        return Statements(
            {name: np.concatenate([column, added[name]]) for name, column in kept.items()},
            books,
            self.rules if rules is None else rules,
            self.gone if gone is None else gone,
        )

    def _of_pages(self, setting: int, pages: range) -> NDArray[np.int64]:
        """What single pages among these say of a setting, weakest first. int64[n]"""
        index = self._by_page.get(setting)
        if index is None:
            first = self.of_setting(setting, ScopeKind.STAMP).start
            target = self.target[first : self.of_setting(setting, ScopeKind.HERE).stop]
            order = np.argsort(target, kind="stable")
            index = self._by_page[setting] = (order + first, target[order])
        order, ordered = index
        begin, end = np.searchsorted(ordered, (pages.start, pages.stop))
        return np.sort(order[begin:end])

    def place_for(self, setting: int, scope: ScopeKind, target: int) -> int:
        """The index at which to insert a new statement: after all of its scope that are no stronger."""
        return int(self._places_for(setting, np.array([scope]), np.array([target]))[0])

    def _places_for(self, setting: int, scope: Indices, target: Indices) -> Indices:
        """The indexes at which to insert new statements of these scopes and targets. intp[n]"""
        span = self.of_setting(setting)
        strength = self.strength_of(self.scope[span.start : span.stop], self.target[span.start : span.stop])
        places: Indices = span.start + np.searchsorted(strength, self.strength_of(scope, target), "right")
        return places

    def find(self, setting: int, scope: ScopeKind, target: int) -> int:
        """The statement that a scope itself says of a setting, or -1."""
        if setting in self._places:
            return self._places[setting].get((int(scope), target), BUILT_IN)
        span = self.of_setting(setting, scope)
        some = slice(span.start, span.stop)
        found = np.flatnonzero((self.target[some] == target) & (self.form[some] == Form.SAID))
        return span.start + int(found[-1]) if len(found) else BUILT_IN

    def look_up(self, setting: int) -> None:
        """Prepare for asking `find` very often about a setting."""
        span = self.of_setting(setting)
        rows = np.flatnonzero(self.form[span.start : span.stop] == Form.SAID) + span.start
        scopes = zip(self.scope[rows].tolist(), self.target[rows].tolist(), strict=True)
        self._places[setting] = dict(zip(scopes, rows.tolist(), strict=True))

    def __len__(self) -> int:
        return len(self.setting)

    def of_setting(self, setting: int, scope: ScopeKind | None = None) -> range:
        """The statements of a setting, weakest first; of one scope where it is given."""
        first = setting * len(ScopeKind)
        if scope is None:
            return range(self._start[first], self._start[first + len(ScopeKind)])
        return range(self._start[first + scope], self._start[first + scope + 1])

    def strength(self, statements: NDArray[np.integer]) -> NDArray[np.int64]:
        """How strong the statements' scopes are, a number to compare; -1 means built-in.

        Of two types the derived one is stronger, of two branches the inner, of two rules the upper.
        """
        if not len(self):
            return np.zeros(len(statements), dtype=np.int64)
        return np.where(statements < 0, 0, self.strength_of(self.scope[statements], self.target[statements]))

    def strength_of(self, scope: NDArray[np.integer], target: NDArray[np.integer]) -> NDArray[np.int64]:
        """How strong statements of these scopes and targets are. int64[n]"""
        scope, target = scope.astype(np.int64), target.astype(np.int64)
        place = np.where(
            scope == ScopeKind.RULE,
            self.rules - target,
            np.where(scope >= ScopeKind.STAMP, 0, np.maximum(target, -1) + 1),
        )
        return (scope << 32) + place

    def says_the_same(
        self, setting: int, other: Statements, number: int, there: NDArray[np.int64] | None = None
    ) -> bool:
        """Whether another table says the same about a setting, which may have another number there.

        `there`: for each page its number in the other table; None: the same one. int64[pages]
        """
        if there is None and self._tables[setting] is other._tables[number]:
            return self.rules == other.rules
        mine, theirs = self.of_setting(setting), other.of_setting(number)
        if len(mine) != len(theirs) or self.rules != other.rules or self.gone != other.gone:
            return False
        one, two = np.arange(mine.start, mine.stop), np.arange(theirs.start, theirs.stop)
        target = self.target[one]
        if there is not None:
            of_pages = np.isin(self.scope[one], OF_PAGES) & (target >= 0)
            target[of_pages] = there[target[of_pages]]
            order = np.lexsort((target, self.scope[one]))
            one, target = one[order], target[order]
            two = two[np.lexsort((other.target[two], other.scope[two]))]
        if not np.array_equal(target, other.target[two]):
            return False
        for name in ("scope", "form", "locked", "step"):
            if not np.array_equal(getattr(self, name)[one], getattr(other, name)[two]):
                return False
        words = {word: code for code, word in enumerate(other.words[number].items)}
        table = np.array([words.get(word, -1) for word in self.words[setting].items], dtype=np.int32)
        if not np.array_equal(table[self.value[one]], other.value[two]):
            return False
        names = {name: code for code, (name, _) in enumerate(self.presets.items)}
        mine_by_code, theirs_by_code = (
            np.array([names.get(name, -1) for name, _ in some.presets.items], dtype=np.int32) for some in (self, other)
        )
        return np.array_equal(mine_by_code[self.preset[one]], theirs_by_code[other.preset[two]])

    def place(self, statement: int) -> Place:
        """Where a statement stands."""
        return Place(self.files[int(self.file[statement])], int(self.line[statement]))

    def said(self, statement: int) -> Value:
        """What a statement says."""
        return self.words[int(self.setting[statement])][int(self.value[statement])]


def _recoded(codes: Codes, words: Codebook[Value], book: Codebook[Value]) -> Codes:
    """Codes of words as codes of another codebook, which gets the words that it lacks. int32[n]"""
    table = np.zeros(len(words), dtype=np.int32)
    said = np.flatnonzero(np.bincount(codes)).tolist()
    table[said] = [book.code(words[code]) for code in said]
    return table[codes]


def tabulate(
    built_in: Sequence[Value],
    new: Sequence[NewStatement] = (),
    batches: Sequence[StatementBatch] = (),
    rules: int = 0,
    gone: Sequence[str] = (),
    numbers: Codes | None = None,
    setting: Codes | None = None,
) -> Statements:
    """The table of statements.

    `built_in`: for each setting its built-in value. `rules`: how many rules there are. `gone`: the paths of pages that
    are not there. `numbers`: int32[n]: `numbers` maps each target in `new` to its page number. `setting`:
    int32[settings]: for each setting its number in the new table, if it differs.
    """
    words = StatementWords.of(built_in)
    single = dict(words.code(new))
    if numbers is not None:
        single["target"] = settled(single["scope"], single["target"], numbers)
    parts = [single, *(words.code_batch(batch) for batch in batches)]
    columns = {name: np.concatenate([part[name] for part in parts]) for name in _COLUMNS}
    if setting is not None:
        columns["setting"] = setting[columns["setting"]]
        words = replace(words, values=tuple(words.values[old] for old in np.argsort(setting).tolist()))
    return Statements(columns, words, rules, gone)
