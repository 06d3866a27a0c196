"""Why values differ between two states of a site: which statement came, went or says something else."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...arrays.grouping import groups
from ...cached import cached_property
from ...resolve.effective import EffectiveModel
from ...site.model import SiteModel
from ...site.settings.scopes import SINGLE, ScopeKind
from ...site.settings.values import Value
from ...site.source import Source, scope_of, source_of
from .difference import Difference
from .difference_rows import Pages, SettingDifference

NEW, GONE, SAYS, OWN = "new", "gone", "says", "own"
"""A statement is new, is gone, or says something else; pages set something else themselves."""
DETAILS, RULE, DEFAULT, OTHER = "details", "rule", "default", "other"
"""Details of pages differ; a rule matches other pages; the built-in value is another one; anything else."""
_OTHERS = ("language", "tags", "status")
_Key = tuple[object, ...]


class NewValue(NamedTuple):
    """What some pages get: the value, whether they have the setting at all, and how many they are."""

    value: Value
    is_there: bool
    pages: int


class Cause(NamedTuple):
    """Why some pages have another value of a setting."""

    what: str  # one of the words above
    setting: str
    source: Source | None  # the statement; of pages' own ones the first
    is_before: bool  # whether the statement stands in the first state
    says: Value  # what the statement says now, or said if it is gone
    detail: str  # the details that differ, or the name of the rule
    pages: Pages  # int64[n]: their numbers in the first state, ascending
    values: tuple[NewValue, ...]  # what they get, the value of most pages first


def causes(difference: Difference) -> list[Cause]:
    """Why values differ, the cause of most pages first.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = site.apply(davlo.Change().take_away("sidebar.right", below="/visit"))
    >>> found = causes(site.difference(after))
    >>> found[0].what, found[0].source.where, [(one.value, one.pages) for one in found[0].values][:1]
    ('gone', 'davlo.yaml:79', [('main', 21)])
    """
    finder = _Finder(difference)
    found = [cause for one in difference.settings for cause in finder.of_setting(one)]
    return sorted(found, key=lambda one: -len(one.pages))


class _Told(NamedTuple):
    """A cause, as it is found: what, in which state the statement stands, its number (-1: none), a detail."""

    what: str
    is_before: bool
    statement: int
    detail: str = ""


class _Side:
    """One state: what its statements say, for types, branches, rules and everywhere."""

    def __init__(self, effective: EffectiveModel) -> None:
        self.site: SiteModel = effective.site
        self.statements = self.site.statements

    def number(self, setting: str) -> int | None:
        return self.site.catalogue.find(setting)

    def said(self, setting: int) -> dict[_Key, int]:
        """The statements of a setting that are for more than single pages, by scope and preset."""
        last = self.statements.of_setting(setting, ScopeKind.STAMP).start
        return {self.key(one): one for one in range(self.statements.of_setting(setting).start, last)}

    def key(self, statement: int) -> _Key:
        """What identifies a statement in any state."""
        said = self.statements
        scope = scope_of(self.site, ScopeKind(int(said.scope[statement])), int(said.target[statement]))
        return (*scope, int(said.form[statement]), said.presets[int(said.preset[statement])][0])

    def content(self, statement: int) -> tuple[Value, bool]:
        """What it says, and whether it is locked."""
        return self.statements.said(statement), bool(self.statements.locked[statement])

    def keys_of(self, statements: Codes) -> NDArray[np.int64]:
        """A number for each statement; those of single pages share one for each kind of scope and file. int64[n]"""
        said = self.statements
        found = statements.astype(np.int64)
        at = np.maximum(statements, 0)
        single = (statements >= 0) & np.isin(said.scope[at], SINGLE) if len(said) else np.zeros(len(at), dtype=bool)
        found[single] = -2 - (said.file[at[single]] * len(ScopeKind) + said.scope[at[single]]).astype(np.int64)
        return found

    def single(
        self, setting: int | None, page_of: Pages, known: dict[object, int]
    ) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The statements of a setting for single pages, and what each says, in numbers that both states share.

        `page_of`: int64[pages]: the number of each page in the second state. `known`: numbers of values and names of
        presets, the same for both states; new ones are added. Returns the statements; for each its page, kind of scope,
        form, preset, value and lock. int64[n].
        """
        if setting is None:
            return np.zeros(0, dtype=np.int64), np.zeros((0, 6), dtype=np.int64)
        said, begin = self.statements, self.statements.of_setting(setting, ScopeKind.STAMP).start
        span = slice(begin, self.statements.of_setting(setting).stop)
        target = said.target[span]
        page = np.where(target >= 0, page_of[np.maximum(target, 0)], -1)
        words, presets = (
            np.array([known.setdefault((what, one), len(known)) for one in items], dtype=np.int64)
            for what, items in (
                ("value", said.words[setting].items),
                ("preset", [name for name, _ in said.presets.items]),
            )
        )
        columns = (said.scope[span], said.form[span], presets[said.preset[span]], words[said.value[span]])
        table = np.stack([page, *columns, said.locked[span]], axis=1).astype(np.int64)
        return np.arange(span.start, span.stop), table

    def is_single(self, statement: int) -> bool:
        """Whether the page itself or its stamp says it."""
        return statement >= 0 and int(self.statements.scope[statement]) in SINGLE

    def is_like(self, one: _Told, other: _Told) -> bool:
        """Whether two statements of single pages stand in one file and are of one kind of scope."""
        said = self.statements
        places = [(int(said.file[told.statement]), int(said.scope[told.statement])) for told in (one, other)]
        return one.is_before == other.is_before and places[0] == places[1]

    def rule_of(self, statement: int) -> str:
        """The name of the rule that makes a statement; empty if none does."""
        if statement < 0 or self.statements.scope[statement] != ScopeKind.RULE:
            return ""
        return self.site.rules[int(self.statements.target[statement])].name

    def pages_of(self, statement: int) -> Mask:
        """The pages that a statement is for. bool[pages]"""
        kind, target = ScopeKind(int(self.statements.scope[statement])), int(self.statements.target[statement])
        found = np.zeros(len(self.site.tree), dtype=bool)
        if target >= 0:
            found[self.site.scope_pages.of(kind, target)] = True
        return found


class _Finder:
    """Finds the causes of a difference."""

    def __init__(self, difference: Difference) -> None:
        self.difference = difference
        self.before, self.after = _Side(difference.before), _Side(difference.after)
        self._said: dict[tuple[bool, int], dict[_Key, int]] = {}
        self._differing: dict[str, list[_Told]] = {}
        self._staying: dict[str, tuple[Mask, Mask]] = {}

    def of_setting(self, one: SettingDifference) -> Iterator[Cause]:
        """The causes of what differs in one setting."""
        at = np.flatnonzero(one.changed)
        keys = self.before.keys_of(one.source_before[at]), self.after.keys_of(one.source_after[at])
        together: dict[_Told, list[NDArray[np.int64]]] = {}
        for _, rows in groups(*keys):
            for told, some in self._causes(one, at[rows]):
                side = self.before if told.is_before else self.after
                if told.what == OWN:  # one for all pages of a file and a kind of scope
                    same = (known for known in together if known.what == OWN and side.is_like(known, told))
                    told = next(same, told)
                together.setdefault(told, []).append(some)
        for told, parts in together.items():
            rows = np.sort(np.concatenate(parts))
            side = self.before if told.is_before else self.after
            source = None if told.statement < 0 else source_of(side.site, told.statement)
            says = side.statements.said(told.statement) if told.statement >= 0 else None
            pages, values = one.pages[rows], _values(one, rows)
            yield Cause(told.what, one.setting, source, told.is_before, says, told.detail, pages, values)

    def _causes(self, one: SettingDifference, rows: NDArray[np.int64]) -> Iterator[tuple[_Told, NDArray[np.int64]]]:
        """Why rows with the same two sources differ; what single pages say counts as one source."""
        was, now = int(one.source_before[rows[0]]), int(one.source_after[rows[0]])
        if self.before.is_single(was) and self.after.is_single(now):
            same = self._same_content(one.source_before[rows], one.source_after[rows])
            yield from self._elsewhere(one, rows[same], was, now)
            rows = rows[~same]
            if not len(rows):
                return
        for is_before, statement in ((False, now), (True, was)):
            side = self.before if is_before else self.after
            if side.is_single(statement):
                sources = one.source_before if is_before else one.source_after
                stays = self._stays(one.setting, is_before)[sources[rows]]
                if not stays.all():
                    yield _Told(OWN, is_before, int(sources[rows[~stays]].min())), rows[~stays]
                rows = rows[stays]
            elif statement >= 0 and (told := self._told(one.setting, side, statement, is_before)):
                yield told, rows
                return
        yield from self._elsewhere(one, rows, was, now)

    def _same_content(self, was: Codes, now: Codes) -> Mask:
        """Which statements of one setting say the same in both states, and are locked in both or in neither. bool[n]"""
        one, other = self.before.statements, self.after.statements
        known = {word: code for code, word in enumerate(one.words[int(one.setting[was[0]])].items)}
        codes = [known.get(word, -1) for word in other.words[int(other.setting[now[0]])].items]
        same = np.array(codes, dtype=np.int64)[other.value[now]] == one.value[was]
        alike: Mask = same & (one.locked[was] == other.locked[now])
        return alike

    def _elsewhere(
        self, one: SettingDifference, rows: NDArray[np.int64], was: int, now: int
    ) -> Iterator[tuple[_Told, NDArray[np.int64]]]:
        """Why rows differ although their source says the same in both states: parts of a list, or details."""
        for told in self._parts(one.setting) if len(rows) else ():
            side, pages = self.after, self.difference.number_after[one.pages[rows]]
            if told.is_before:
                side, pages = self.before, one.pages[rows]
            mine = side.pages_of(told.statement)[pages]
            if mine.any():
                yield told, rows[mine]
                rows = rows[~mine]
        if len(rows):
            yield from self._by_details(one, rows, was, now)

    def _told(self, setting: str, side: _Side, statement: int, is_before: bool) -> _Told | None:
        """Whether a statement is new, is gone or says something else in the other state; None if it is the same."""
        other = self.after if is_before else self.before
        number = other.number(setting)
        found = None if number is None else self._statements(not is_before, number).get(side.key(statement))
        if found is None:
            return _Told(GONE if is_before else NEW, is_before, statement)
        if other.content(found) == side.content(statement):
            return None
        return _Told(SAYS, False, found if is_before else statement)

    def _stays(self, setting: str, is_before: bool) -> Mask:
        """Which statements of single pages the other state has too, with the same content. bool[statements]"""
        if setting not in self._staying:
            known: dict[object, int] = {}
            every = np.arange(len(self.after.site.tree))
            at, was = self.before.single(self.before.number(setting), self.difference.number_after, known)
            to, now = self.after.single(self.after.number(setting), every, known)
            _, numbers = np.unique(np.concatenate([was, now]), axis=0, return_inverse=True)
            one, other = np.split(numbers.ravel(), [len(was)])
            stays = [np.zeros(len(side.statements), dtype=bool) for side in (self.before, self.after)]
            stays[0][at], stays[1][to] = np.isin(one, other), np.isin(other, one)
            self._staying[setting] = (stays[0], stays[1])
        return self._staying[setting][0 if is_before else 1]

    def _statements(self, is_before: bool, setting: int) -> dict[_Key, int]:
        key = (is_before, setting)
        if key not in self._said:
            self._said[key] = (self.before if is_before else self.after).said(setting)
        return self._said[key]

    def _parts(self, setting: str) -> list[_Told]:
        """The statements for more than single pages that differ: the strongest first, later before earlier."""
        one, other = self.before.number(setting), self.after.number(setting)
        if one is None or other is None:
            return []
        if setting not in self._differing:
            was, now = self._statements(True, one), self._statements(False, other)
            found = [
                _Told(NEW if key not in was else SAYS, False, statement)
                for key, statement in reversed([*now.items()])
                if key not in was or self.before.content(was[key]) != self.after.content(statement)
            ]
            found += [_Told(GONE, True, said) for key, said in reversed([*was.items()]) if key not in now]
            self._differing[setting] = found
        return self._differing[setting]

    def _by_details(
        self, one: SettingDifference, rows: NDArray[np.int64], was: int, now: int
    ) -> Iterator[tuple[_Told, NDArray[np.int64]]]:
        """Why rows differ although all their statements are the same."""
        names = [*self._details]
        bits = np.zeros(len(rows), dtype=np.int64)
        for bit, name in enumerate(names):
            bits |= self._details[name][one.pages[rows]].astype(np.int64) << bit
        for (which,), some in groups(bits):
            told = " and ".join(name for bit, name in enumerate(names) if which >> bit & 1)
            if told:
                yield _Told(DETAILS, False, -1, told), rows[some]
            elif self._default_differs(one.setting):
                yield _Told(DEFAULT, False, -1), rows[some]
            elif rule := self.after.rule_of(now):
                yield _Told(RULE, False, now, rule), rows[some]
            elif rule := self.before.rule_of(was):
                yield _Told(RULE, True, was, rule), rows[some]
            else:
                yield _Told(OTHER, False, now), rows[some]

    def _default_differs(self, setting: str) -> bool:
        one, other = self.before.number(setting), self.after.number(setting)
        if one is None or other is None:
            return True
        return self.before.site.catalogue[one] != self.after.site.catalogue[other]

    @cached_property
    def _details(self) -> dict[str, Mask]:
        """For each detail that conditions use, the pages of the first state on which it differs. bool[pages] each"""
        sites = (self.before.site, self.after.site)
        asked = {name for site in sites for rule in site.rules for name in _asked(rule.when, *rule.excepts)}
        found = self.difference.differing_details(["type", *_OTHERS, *sorted(asked)])
        found["the page above"] = self.difference.below_another
        return {name: mask for name, mask in found.items() if mask.any()}


def _asked(*conditions: object) -> Iterator[str]:
    for condition in conditions:
        yield from getattr(condition, "details", {})


def _values(one: SettingDifference, rows: NDArray[np.int64]) -> tuple[NewValue, ...]:
    """The values that some rows get, the most frequent first."""
    found = []
    for (code,), some in groups(one.after[rows]):
        found.append(NewValue(one.words[code] if code >= 0 else None, code >= 0, len(some)))
    return tuple(sorted(found, key=lambda value: -value.pages))
