"""Statements: one setting given one value in one scope, with the file and line where it stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from copy import copy
from enum import IntEnum
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Codes, Column, Mask, distinct
from ..faults import Place
from .catalogue import Catalogue
from .values import Change, Value


class Scope(IntEnum):
    """Where a statement applies; the weakest first."""

    BUILT_IN = 0
    EVERYWHERE = 1
    TYPE = 2
    BELOW = 3
    RULE = 4
    STAMP = 5
    HERE = 6


SCOPE_WORD = {
    Scope.EVERYWHERE: "everywhere",
    Scope.TYPE: "type",
    Scope.BELOW: "below",
    Scope.RULE: "rule",
    Scope.STAMP: "stamp",
    Scope.HERE: "here",
}
OF_PAGES = (Scope.BELOW, Scope.STAMP, Scope.HERE)
"""Scopes whose target is a page."""


def settled(scope: NDArray[np.integer], target: NDArray[np.integer], numbers: Codes) -> Codes:
    """Targets with the numbers that stood for pages replaced by what `numbers` has in their place. int32[n]"""
    found = target.astype(np.int32)
    pages = np.flatnonzero((scope == Scope.BELOW) | (scope >= Scope.STAMP))
    found[pages] = numbers[found[pages]]
    return found


class Form(IntEnum):
    """How a scope's body says it; within one body each is stronger than those before."""

    FRESH = 0
    PRESET = 1
    SAID = 2


BUILT_IN = -1
"""The source of a value that no statement gave."""
SAID_STEP = 1 << 20
"""The step of what a body itself says: after any number of presets."""


class NewStatement(NamedTuple):
    """One statement as the files give it, before it becomes a row of `Statements`."""

    setting: int
    scope: Scope
    target: int
    value: Value
    place: Place
    form: Form = Form.SAID
    step: int = SAID_STEP
    locked: bool = False
    both: bool = False
    because: str = ""
    preset: str = ""
    preset_place: Place | None = None


class StatementBatch(NamedTuple):
    """Many statements of one file as columns, each what a scope itself says.

    Attributes
    ----------
    scope : int8[statements]
    target, line : int32[statements]
        As in `Statements`.
    what : int32[statements]
        Codes into `said`, which holds settings' numbers and values.
    locked : bool[statements]
    """

    file: str
    line: Codes
    scope: NDArray[np.int8]
    target: Codes
    what: Codes
    said: Sequence[tuple[int, Value]]
    locked: Mask
    because: Column

    @property
    def setting(self) -> Codes:
        """The setting that each statement is of. int32[statements]"""
        return np.array([setting for setting, _ in self.said], dtype=np.int32)[self.what]


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


class Statements:
    """All statements, as columns; sorted by setting, and within it in the order of the fold, weakest first.

    Attributes
    ----------
    setting, target, value, step, line : int32[statements]
        `target`: a type's number, a page's, or a rule's place from the top; 0 for everywhere; of a page that is gone
        `-1 - n`, its path being `gone[n]`.
        `value`: a code into `words[setting]`.
    scope, form : int8[statements]
    locked, both : bool[statements]
        `both`: said by a `here_and_below`.
    file, because, preset : int32[statements]
        Codes into `files`, `reasons`, `presets`.
    words : list of Words
        For each setting, every value that is said of it, and what resolving adds.
    """

    setting: Codes
    scope: NDArray[np.int8]
    target: Codes
    value: Codes
    step: Codes
    form: NDArray[np.int8]
    locked: Mask
    both: Mask
    file: Codes
    line: Codes
    because: Codes
    preset: Codes

    def __init__(
        self,
        catalogue: Catalogue,
        stated: Sequence[NewStatement] = (),
        batches: Sequence[StatementBatch] = (),
        rules: int = 0,
        gone: Sequence[str] = (),
        numbers: Codes | None = None,
    ) -> None:
        """`numbers` are those of the pages that the targets of `stated` stand for, where they are none yet."""
        self.words: list[Codebook[Value]] = [Codebook([s.built_in]) for s in catalogue.settings]
        self.files: Codebook[str] = Codebook()
        self.reasons: Codebook[str] = Codebook([""])
        self.presets: Codebook[tuple[str, Place | None]] = Codebook([("", None)])
        self.gone = tuple(gone)
        self.count_of_settings = len(catalogue)
        self._is_list = [s.kind == "list" for s in catalogue.settings]
        self._rules = rules
        self._changes: dict[tuple[int, int, int], int] = {}
        self._by_page: dict[int, tuple[NDArray[np.int64], Codes]] = {}
        single = self._of_stated(stated)
        if numbers is not None:
            single["target"] = settled(single["scope"], single["target"], numbers)
        parts = [single, *(self._of_batch(batch) for batch in batches)]
        for name, dtype in _COLUMNS.items():
            setattr(self, name, np.concatenate([part[name] for part in parts]).astype(dtype))
        self._sort()

    def _of_stated(self, stated: Sequence[NewStatement]) -> dict[str, NDArray[np.integer]]:
        columns = {
            "setting": [s.setting for s in stated],
            "scope": [s.scope for s in stated],
            "target": [s.target for s in stated],
            "value": [self.words[s.setting].code(s.value) for s in stated],
            "step": [s.step for s in stated],
            "form": [s.form for s in stated],
            "locked": [s.locked for s in stated],
            "both": [s.both for s in stated],
            "file": [self.files.code(s.place.file) for s in stated],
            "line": [s.place.line for s in stated],
            "because": [self.reasons.code(s.because) for s in stated],
            "preset": [self.presets.code((s.preset, s.preset_place)) for s in stated],
        }
        return {name: np.array(column, dtype=np.int32) for name, column in columns.items()}

    def _of_batch(self, batch: StatementBatch) -> dict[str, NDArray[np.integer]]:
        rows = len(batch.line)
        values = np.array([self.words[setting].code(value) for setting, value in batch.said], dtype=np.int32)
        reasons = np.array([self.reasons.code(word) for word in batch.because.words], dtype=np.int32)
        one = {"step": SAID_STEP, "form": Form.SAID, "both": 0, "file": self.files.code(batch.file), "preset": 0}
        return {
            "setting": batch.setting,
            "scope": batch.scope,
            "target": batch.target,
            "value": values[batch.what],
            "locked": batch.locked.astype(np.int8),
            "line": batch.line,
            "because": reasons[batch.because.codes],
            **{name: np.full(rows, number, dtype=np.int32) for name, number in one.items()},
        }

    def of_one(
        self, setting: int, pages: range, without: Sequence[int] = (), more: NewStatement | None = None
    ) -> Statements:
        """The statements of one setting alone, in a table of their own; some of them left out, or one more said.

        What single pages say is left out but for those among `pages`. Words, files and reasons are shared: their codes
        mean the same. The statements are numbered anew.
        """
        first, last = setting * len(Scope), (setting + 1) * len(Scope)
        starts = np.array(self._start[first : last + 1])
        single = int(starts[Scope.STAMP])
        rows = np.concatenate([np.arange(starts[0], single), self._of_pages(setting, pages)])
        for number in without:
            rows = rows[rows != number]
        starts = np.searchsorted(rows, starts)
        place = 0 if more is None else int(np.searchsorted(rows, self.place_for(more.setting, more.scope, more.target)))
        new = self._of_stated([] if more is None else [more])
        one = copy(self)
        one._by_page = {}
        for name, dtype in _COLUMNS.items():
            column = getattr(self, name)[rows]
            setattr(one, name, np.concatenate([column[:place], new[name].astype(dtype), column[place:]]))
        if more is not None:
            starts[more.scope + 1 :] += 1
        rest = self.count_of_settings * len(Scope) - last
        one._start = [0] * first + starts.tolist() + [len(one)] * rest
        return one

    def renumbered(self, numbers: Codes, path: str, page: int) -> Statements:
        """The same statements where pages have other numbers, and a page that was gone is there.

        Parameters
        ----------
        numbers : int32[pages]
            The new number of each page.
        path, page
            Of the page that was not there before.
        """
        of_pages = np.isin(self.scope, OF_PAGES)
        target = self.target.copy()
        there = of_pages & (target >= 0)
        target[there] = numbers[target[there]]
        if path in self.gone:
            target[of_pages & (self.target == -1 - self.gone.index(path))] = page
        return self._changed({**{name: getattr(self, name) for name in _COLUMNS}, "target": target})

    def with_more(self, stated: Sequence[NewStatement]) -> Statements:
        """These statements and some more."""
        more = self._of_stated(stated)
        return self._changed({name: np.concatenate([getattr(self, name), more[name]]) for name in _COLUMNS})

    def apart(self, setting: int) -> Statements:
        """The same statements; what is added to the words of this setting is seen by nobody else."""
        one = copy(self)
        one._changes = {}
        one.words = list(self.words)
        one.words[setting] = Codebook(self.words[setting].items)
        return one

    def _changed(self, columns: Mapping[str, NDArray[Any]]) -> Statements:
        """A table of these columns; words, files and reasons are shared."""
        one = copy(self)
        one._by_page = {}
        for name, dtype in _COLUMNS.items():
            setattr(one, name, columns[name].astype(dtype))
        one._sort()
        return one

    def _of_pages(self, setting: int, pages: range) -> NDArray[np.int64]:
        """What single pages among these say of a setting, weakest first. int64[n]"""
        index = self._by_page.get(setting)
        if index is None:
            first = self.of_setting(setting, Scope.STAMP).start
            target = self.target[first : self.of_setting(setting, Scope.HERE).stop]
            order = np.argsort(target, kind="stable")
            index = self._by_page[setting] = (order + first, target[order])
        order, ordered = index
        begin, end = np.searchsorted(ordered, (pages.start, pages.stop))
        return np.sort(order[begin:end])

    def place_for(self, setting: int, scope: Scope, target: int) -> int:
        """Before which statement a new one belongs: after all of its scope that are no stronger."""
        span = self.of_setting(setting, scope)
        strength = self.strength_of(self.scope[span.start : span.stop], self.target[span.start : span.stop])
        mine = self.strength_of(np.array([scope]), np.array([target]))
        return span.start + int(np.searchsorted(strength, mine[0], "right"))

    def find(self, setting: int, scope: Scope, target: int) -> int:
        """The statement that a scope itself says of a setting, or -1."""
        span = self.of_setting(setting, scope)
        some = slice(span.start, span.stop)
        found = np.flatnonzero((self.target[some] == target) & (self.form[some] == Form.SAID))
        return span.start + int(found[-1]) if len(found) else BUILT_IN

    def _sort(self) -> None:
        strength = self.strength(np.arange(len(self.setting)))
        order = np.lexsort((self.step, strength, self.setting))
        for name in _COLUMNS:
            setattr(self, name, getattr(self, name)[order])
        scopes = len(Scope)
        key = self.setting.astype(np.int64) * scopes + self.scope
        self._start: list[int] = np.searchsorted(key, np.arange(self.count_of_settings * scopes + 1)).tolist()

    def __len__(self) -> int:
        return len(self.setting)

    def of_setting(self, setting: int, scope: Scope | None = None) -> range:
        """The statements of a setting, weakest first; of one scope where it is given."""
        first = setting * len(Scope)
        if scope is None:
            return range(self._start[first], self._start[first + len(Scope)])
        return range(self._start[first + scope], self._start[first + scope + 1])

    def strength(self, statements: NDArray[np.integer]) -> NDArray[np.int64]:
        """How strong the statements' scopes are, a number to compare; -1 stands for built-in.

        Of two types the derived one is stronger, of two branches the inner, of two rules the upper.
        """
        if not len(self.setting):
            return np.zeros(len(statements), dtype=np.int64)
        return np.where(statements < 0, 0, self.strength_of(self.scope[statements], self.target[statements]))

    def strength_of(self, scope: NDArray[np.integer], target: NDArray[np.integer]) -> NDArray[np.int64]:
        """How strong statements of these scopes and targets are. int64[n]"""
        scope, target = scope.astype(np.int64), target.astype(np.int64)
        place = np.where(
            scope == Scope.RULE, self._rules - target, np.where(scope >= Scope.STAMP, 0, np.maximum(target, -1) + 1)
        )
        return (scope << 32) + place

    def place(self, statement: int) -> Place:
        """Where a statement stands."""
        return Place(self.files[int(self.file[statement])], int(self.line[statement]))

    def said(self, statement: int) -> Value:
        """What a statement says."""
        return self.words[int(self.setting[statement])][int(self.value[statement])]

    def replaces(self, setting: int) -> Mask:
        """For each code of a setting: whether it replaces what was there, and is not a change. bool[words]"""
        return np.array([not isinstance(word, Change) for word in self.words[setting].items], dtype=bool)

    def fold(self, setting: int, state: Codes, said: int | Codes) -> Codes:
        """What becomes of `state` when `said` is folded in: one code, or one for each. int32[n]"""
        if isinstance(said, int):
            if not isinstance(self.words[setting][said], Change):
                return np.full(len(state), said, dtype=np.int32)
            table = np.zeros(len(self.words[setting]), dtype=np.int32)
            states = state.astype(np.intp)
            for code in np.flatnonzero(np.bincount(states)).tolist():
                table[code] = self.fold_one(setting, code, said)
            return table.take(states, mode="clip")
        changes = ~self.replaces(setting)[said] if self._is_list[setting] else np.zeros(0, dtype=bool)
        if not changes.any():
            return said
        pairs = (state.astype(np.int64) << 32) + said
        first, which = distinct(pairs[changes])
        codes = [self.fold_one(setting, pair >> 32, pair & 0xFFFFFFFF) for pair in pairs[changes][first].tolist()]
        result = said.copy()
        result[changes] = np.array(codes, dtype=np.int32)[which]
        return result

    def fold_one(self, setting: int, state: int, said: int) -> int:
        """The same for one value."""
        words = self.words[setting]
        change = words[said]
        if not isinstance(change, Change):
            return said
        key = (setting, state, said)
        if key not in self._changes:
            items = words[state]
            assert isinstance(items, tuple)
            self._changes[key] = words.code(change.apply(items))
        return self._changes[key]
