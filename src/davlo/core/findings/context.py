"""What findings are made from: effective values, access, outcomes, folds; and what is accepted."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Collection, Iterable

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..arrays.in_background import MANY, in_background
from ..arrays.texts import Texts
from ..cached import cached_property
from ..change.differences.same_parts import SameParts
from ..faults import Place
from ..outcomes.access.access_model import AccessModel
from ..outcomes.areas import Standing
from ..outcomes.menus.linked_pages import BlockLinks
from ..outcomes.page_outcomes import Outcomes
from ..outcomes.placeholders import HEADING, Filling
from ..outcomes.sitemap.sitemap_entries import sitemap_entries
from ..outcomes.sitemap.sitemap_marks import Drift, Published, drift
from ..outcomes.uses import Uses
from ..resolve.effective import EffectiveModel
from ..site.mentions import Mentions
from ..site.model import Accept
from ..site.people import VISITOR
from ..site.settings.near_names import near_paths
from ..site.settings.scopes import Scope, ScopeKind
from ..site.source import source_of
from .finding import Pages, Statements
from .folded_setting import FoldedSetting
from .statement_effects import StatementEffects
from .title_marks import BLOCK, Titles, titles_of

OF_EFFECTS = ("not-applicable", "hidden-rule", "redundant-default", "stray-look")
"""The kinds that are found by what statements change."""


class FindingContext:
    """What findings are made from: the effective values, access, and the steps that led there."""

    def __init__(
        self,
        effective: EffectiveModel,
        heeds_accepts: bool = True,
        published: Callable[[], Published | None] | None = None,
        today: datetime.date | None = None,
        asked: Mask | None = None,
        same: SameParts | None = None,
    ) -> None:
        self.effective = effective
        self.site = effective.site
        self.statements = effective.site.statements
        self._published = published
        self.today = today or datetime.datetime.now().astimezone().date()
        self.asked = asked
        self.accepts = effective.site.accepts if heeds_accepts else ()
        self.effects = StatementEffects(len(self.statements), len(self.site.rules))
        self._same = same
        self._drift: Callable[[], Drift | None] | None = None
        self._folded: dict[int, FoldedSetting] = {}
        self._ahead: tuple[int, Callable[[], FoldedSetting]] | None = None
        self._sources: dict[int, Codes] = {}
        self._meant: dict[Place, Mask] = {}

    @cached_property
    def published(self) -> Published | None:
        """The sitemap that was written last, if that is known."""
        return self._published() if self._published else None

    def begin_drift(self) -> None:
        """Begin to work out `drift`, beside other work."""
        if self._published is None:
            return
        for setting in ("sitemap.changefreq", "sitemap.priority"):
            self.effective.column(setting)  # resolved before, so that two threads do not
        listed = np.flatnonzero(self.outcomes.sitemap == 0)
        self._drift = in_background(lambda: self._drift_of(listed), True)

    @cached_property
    def drift(self) -> Drift | None:
        """How a sitemap written now would differ from the one written last; None where that cannot be known."""
        return self._drift() if self._drift else self._drift_of(np.flatnonzero(self.outcomes.sitemap == 0))

    def _drift_of(self, listed: NDArray[np.int64]) -> Drift | None:
        last = self.published
        if last is None:
            return None
        return drift(self.effective, sitemap_entries(self.effective, listed, self.today), last.told)

    def meant_by(self, accept: Accept) -> Mask:
        """The pages that an entry of `accept` means; worked out once. bool[pages]"""
        found = self._meant.get(accept.place)
        if found is None:
            found = np.ones(len(self.site.tree), dtype=bool) if accept.when is None else self.site.pages(accept.when)
            self._meant[accept.place] = found
        return found

    def source(self, setting: str) -> Codes:
        """The statement that gave each page its value of a setting; -1: built in. int32[pages]

        Where one line makes two statements, as a `here_and_below` does, only the first is named.
        """
        number = self.site.setting_number(setting)
        if number not in self._sources:
            raw, span = self.effective.resolved(number).source, self.statements.of_setting(number)
            twice = self.statements.both[span.start : span.stop].any()
            self._sources[number] = self.as_written(raw) if twice else raw
        return self._sources[number]

    def as_written(self, statements: Codes) -> Codes:
        """For each statement the first that the same `here_and_below` says of the same setting. int32[n]"""
        return self._as_written[statements]

    @cached_property
    def _as_written(self) -> Codes:
        said = self.statements
        found = np.arange(-1, len(said), dtype=np.int32)
        halves = np.flatnonzero(said.both)
        columns = (said.setting, said.file, said.line, said.target, said.value)
        keys = np.stack([halves, *(column[halves] for column in reversed(columns))])
        order = halves[np.lexsort(keys)]
        same = np.ones(len(order), dtype=bool)
        for column in columns:
            same[1:] &= column[order][1:] == column[order][:-1]
        same[:1] = False
        first = np.maximum.accumulate(np.where(same, 0, np.arange(len(order))))
        found[order + 1] = order[first]
        return np.roll(found, -1)  # the last is that of -1

    def by(self, statement: int) -> str:
        """Where a value came from, in words: `by the built-in value`, or `by everywhere (davlo.yaml:4)`."""
        if statement < 0:
            return "by the built-in value"
        scope = source_of(self.site, statement).scope
        if scope.kind == ScopeKind.BELOW and self.statements.both[statement]:
            return f"by what {scope.name} sets for itself and below ({self.statements.place(statement)})"
        return f"by {self.where(statement)}"

    def cells(self, said: NDArray[np.integer]) -> NDArray[np.int64]:
        """The pages that the scopes of some statements are for, each once. int64[n]"""
        return np.flatnonzero(self.site.scope_pages.together(self.statements.scope[said], self.statements.target[said]))

    def none_in(self, said: NDArray[np.integer], where: Mask) -> Mask:
        """For each of some statements whether something holds on none of the pages that its scope is for. bool[n]"""
        found: Mask = (
            self.site.scope_pages.counts(self.statements.scope[said], self.statements.target[said], where) == 0
        )
        return found

    @cached_property
    def access(self) -> AccessModel:
        """Who may do what."""
        return self.effective.shared(AccessModel)

    def folded(self, setting: int) -> FoldedSetting:
        """The fold of a setting; of a large site that of the last one asked for is kept, else all are."""
        if setting not in self._folded:
            if len(self.site.tree) >= MANY:
                self._folded.clear()  # its arrays go before others come
            number, found = self._ahead or (-1, None)
            self._ahead = None
            self._folded[setting] = found() if found and number == setting else FoldedSetting(self.effective, setting)
        return self._folded[setting]

    def fold_ahead(self, setting: int) -> None:
        """Begin to fold a setting that is asked for next, beside other work."""
        ahead = FoldedSetting(self.effective, setting)

        def folded() -> FoldedSetting:
            _ = ahead.steps
            return ahead

        self._ahead = setting, in_background(folded, True)

    def settings_said(self) -> list[int]:
        """The settings of which anything is said, in their order."""
        return [n for n in range(len(self.site.catalogue)) if len(self.statements.of_setting(n))]

    def is_same(self, word: str) -> bool:
        """Whether a setting or another part is known to be the same in a state to which this one is compared."""
        return self._same is not None and self._same(word)

    def has_same(self, setting: int) -> bool:
        """Whether a setting is known to be the same in a state to which this one is compared."""
        return self.is_same(self.site.catalogue[setting].name)

    @cached_property
    def settings_to_note(self) -> frozenset[int]:
        """The settings whose statements' effects are noted: those that may differ, and others of the same rules."""
        every, said = self.settings_said(), self.statements
        found = {number for number in every if not self.has_same(number)}
        if self._same is not None and len(found) < len(every):
            of_rules = np.flatnonzero(said.scope == ScopeKind.RULE)
            found |= set(said.setting[of_rules[self._same.rules_touched[said.target[of_rules]]]].tolist())
        return frozenset(found)

    @cached_property
    def rules_noted(self) -> Mask:
        """The rules of which all settings are noted. bool[rules]"""
        said, found = self.statements, np.ones(len(self.site.rules), dtype=bool)
        of_rules = np.flatnonzero(said.scope == ScopeKind.RULE)
        missing = ~np.isin(said.setting[of_rules], [*self.settings_to_note])
        found[said.target[of_rules[missing]]] = False
        return found

    @cached_property
    def mentions(self) -> Mentions:
        """What names each declaration."""
        return Mentions(self.site)

    @cached_property
    def uses(self) -> Uses:
        """What uses each declaration."""
        return self.effective.shared(Uses)

    @cached_property
    def outcomes(self) -> Outcomes:
        """What readers and search engines see."""
        return self.effective.shared(Outcomes)

    @cached_property
    def linked(self) -> Mask:
        """The pages that a menu or a block of links leads to. bool[pages]"""
        return self.block_links.linked(self.outcomes.menu.shown)

    @cached_property
    def block_links(self) -> BlockLinks:
        """The pages to which blocks of links lead."""
        return BlockLinks(self.uses)

    @cached_property
    def visible(self) -> Mask:
        """The pages that a visitor may view. bool[pages], to be read only"""
        return self.access.allowed(VISITOR, "view")

    @cached_property
    def has_title(self) -> Mask:
        """The pages of whose titles findings ask: no folders, and none that only lead elsewhere. bool[pages]"""
        return ~(self.site.details.folder | self.site.details.leads_away)

    @cached_property
    def titles(self) -> Titles:
        """The document titles, as marks."""
        return titles_of(self.effective)

    @cached_property
    def empty_heading(self) -> Mask:
        """The pages whose heading is shown and says nothing, or only spaces. bool[pages]"""
        shown = np.flatnonzero(self.effective.column("heading.show").where(lambda word: word is True) & self.has_title)
        found, filling = np.zeros(len(self.site.tree), dtype=bool), Filling(self.effective, HEADING)
        for begin in range(0, len(shown), BLOCK):
            some = shown[begin : begin + BLOCK]
            found[some] = Texts.of_column(filling.of(some)).blank()
        return found

    def standing(self, area: str) -> Standing:
        """What an area holds, on every page."""
        return self.uses.standing[area]

    def said(self, statements: Iterable[int]) -> Statements:
        """Statements as a finding holds them; built-in is left out."""
        return Statements(self.site, tuple(statement for statement in statements if statement >= 0))

    def near_pages(self, gone: Collection[str]) -> dict[str, str]:
        """For paths without a page, the page that was probably meant."""
        near = near_paths(gone, self.site.tree.paths)
        return {path: found for path, found in near.items() if not found.startswith(f"{path}/")}

    def plain_list(self, statement: int) -> list[str]:
        """The items of a statement's plain list; nothing if it says something else."""
        said = self.statements.said(statement) if statement >= 0 else None
        return [*said] if isinstance(said, tuple) else []

    def where(self, statement: int) -> str:
        """A statement's scope and place, in words."""
        scope, place = source_of(self.site, statement).scope, self.statements.place(statement)
        if scope.kind == ScopeKind.BELOW and self.statements.both[statement]:
            scope = Scope.here_and_below(scope.name)
        return f"{scope.sentence} ({place})"

    def paths(self, pages: NDArray[np.integer]) -> Pages:
        """Paths of pages, each once, in the order of the tree."""
        numbers = pages.astype(np.int64)
        in_order = bool((numbers[1:] > numbers[:-1]).all())
        return Pages(self.site.tree.paths, numbers if in_order else np.unique(numbers))
