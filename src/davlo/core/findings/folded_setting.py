"""One setting for findings about decisions: folded on one page of each group of pages that are alike."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..arrays.grouping import groups, run_begins, sorted_by
from ..cached import cached_property
from ..resolve.fold import FoldStages, SettingWords, fold_stages
from ..resolve.page_groups import PageGroups, page_groups
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import Value, shown

if TYPE_CHECKING:
    from ..resolve.effective import EffectiveModel

Pages = NDArray[np.int64]


class Steps(NamedTuple):
    """Every step of the fold, weakest first, end to end.

    `samples: int64[steps]`; `statements`, `before`, `after: int32[steps]`: the value without and with the statement;
    `blocked: bool[steps]`: where a lock had ended the fold, so that `before` stays.
    """

    samples: NDArray[np.int64]
    statements: Codes
    before: Codes
    after: Codes
    blocked: Mask


class _Fold(NamedTuple):
    """The fold of a setting on one page of each group."""

    groups: PageGroups
    stages: FoldStages
    steps: Steps
    words: SettingWords
    has: Mask  # bool[samples]: which have the setting


class FoldedSetting:
    """The fold of one setting on sample pages; it is folded when the fold is first asked for.

    `for_new_pages`: whether its default is for new pages.
    """

    def __init__(self, effective: EffectiveModel, setting: int) -> None:
        site = effective.site
        self.site, self.statements = site, site.statements
        self.setting, self.name = setting, site.catalogue[setting].name
        self.for_new_pages = effective.is_for_new_pages(setting)

    @cached_property
    def _fold(self) -> _Fold:
        site, setting = self.site, self.setting
        groups = page_groups(site, setting)
        scope_pages = site.scope_pages.sampled(groups.sample)
        told: list[tuple[NDArray[np.int64], Codes, Codes, Codes, Mask]] = []
        words = SettingWords(self.statements, setting)
        stages = fold_stages(
            self.statements, setting, scope_pages, self.for_new_pages, lambda *step: told.append(step), words
        )
        none = np.zeros(0, dtype=np.int32)
        empty = [(none.astype(np.int64), none, none, none, none.astype(bool))]
        steps = Steps(*(np.concatenate(column) for column in zip(*(told or empty), strict=True)))
        return _Fold(groups, stages, steps, words, site.has_by_type[setting][scope_pages.type_of])

    @property
    def groups(self) -> PageGroups:
        """The groups of pages that are alike."""
        return self._fold.groups

    @property
    def fold_stages(self) -> FoldStages:
        """What the fold of each sample comes to. Each [samples]"""
        return self._fold.stages

    @property
    def steps(self) -> Steps:
        """Every step of the fold."""
        return self._fold.steps

    @property
    def setting_words(self) -> SettingWords:
        """What the statements of the setting say."""
        return self._fold.words

    @property
    def has(self) -> Mask:
        """Which samples have the setting. bool[samples]"""
        return self._fold.has

    @property
    def words(self) -> Sequence[Value]:
        """What the codes of values mean."""
        return self.setting_words.book.items

    def replaces(self, statements: NDArray[np.integer]) -> Mask:
        """Which of these statements replace what weaker ones gave, and do not change a list. bool[n]"""
        found: Mask = self.setting_words.replaces[self.statements.value[statements]]
        return found

    def word(self, code: int) -> str:
        """A value in words, as a sentence has it."""
        return shown(self.words[code])

    @cached_property
    def scope(self) -> NDArray[np.int8]:
        """The scope of each step's statement. int8[steps]"""
        return self.statements.scope[self.steps.statements]

    @cached_property
    def locks(self) -> bool:
        """Whether any statement of the setting is locked."""
        span = self.statements.of_setting(self.setting)
        return bool(self.statements.locked[span.start : span.stop].any())

    @cached_property
    def replaces_only(self) -> bool:
        """Whether each statement replaces what was there: no list is changed, and none refers to another scope."""
        return self.setting_words.replaces_only

    @cached_property
    def without_stamps(self) -> tuple[Codes, Codes]:
        """What the value and its source are where the removal of a default is asked for: of a setting whose default is
        for new pages in the live fold. Each int32[samples]"""
        found = self.fold_stages
        return (found.live_value, found.live_source) if self.for_new_pages else (found.value, found.source)

    def scope_of(self, sources: Codes) -> NDArray[np.int8]:
        """The scopes of statements, built-in for -1. int8[n]"""
        return np.append(self.statements.scope, ScopeKind.BUILT_IN)[sources]

    def gathered(
        self, samples: NDArray[np.int64], *keys: NDArray[np.integer], keep: Callable[[Pages], Mask] | None = None
    ) -> Iterator[tuple[tuple[int, ...], NDArray[np.int64], Pages]]:
        """Rows about samples, gathered by keys: the key, the rows, and all pages that are like their samples.

        `samples`: int64[n]. `*keys`: int[n]. `keep`: which pages count; a key that is left without any is left out.
        """
        if not len(samples):
            return
        wanted = np.zeros(len(self.groups.sample), dtype=bool)
        wanted[samples] = True
        pages = self.groups.pages(wanted)
        if keep is not None:
            pages = pages[keep(pages)]
        group = self.groups.group[pages]
        order = sorted_by(group)
        pages, group = pages[order], group[order]
        begins, ends = group.searchsorted(samples), group.searchsorted(samples, "right")
        for key, rows in groups(*keys):
            rows = rows[begins[rows] < ends[rows]]
            if not len(rows):
                continue
            parts = [pages[begin:end] for begin, end in zip(begins[rows].tolist(), ends[rows].tolist(), strict=True)]
            found = parts[0] if len(parts) == 1 else np.concatenate(parts)
            if len(parts) > 1:
                found = np.sort(found)
                found = found[run_begins(found)]
            yield key, rows, found
