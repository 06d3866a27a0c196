"""The step that brings stamps up to date."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ...resolve.fold import FoldStages, fold_stages
from ...site.settings.scopes import ScopeKind
from ...site.settings.values import Plain
from ...site.statements.new_statements import NewStatement
from ...wording import count
from .rebuild import with_changes
from .step import CHANGED, CannotDo, Step


@dataclass(frozen=True, slots=True)
class Restamp(Step):
    """Pages get the stamps that a new page would get; with `add`, a list keeps its items and gets the new ones."""

    setting: str
    pages: tuple[str, ...]
    add: bool = False

    def done(self, site: Any) -> Any:
        number = site.setting_number(self.setting)
        if site.catalogue[number].default_for != "new-pages":
            raise CannotDo(f"{self.setting} has its default for all pages: they follow it already")
        pages = np.array(sorted({site.page_number(path) for path in self.pages}), dtype=np.int64)
        stages = fold_stages(site.statements, number, site.scope_pages, True)
        more = []
        for page in pages.tolist():
            value: Plain = stages.words[int(stages.live_value[page])]  # type: ignore[assignment]
            if self.add:
                value = (*items_of(stages.words[int(stages.base_value[page])]), *missing_items(stages, page))
            more.append(NewStatement(number, ScopeKind.STAMP, page, value, CHANGED))
        said = site.statements
        old = (said.setting == number) & (said.scope == ScopeKind.STAMP) & np.isin(said.target, pages)
        return with_changes(site, statements=said.edited(site.catalogue.built_in(), ~old, more))

    @property
    def words(self) -> str:
        pages = count(len(self.pages), "page")
        if self.add:
            return f"add to {self.setting} of {pages} the items that only the default has"
        return f"bring {self.setting} of {pages} up to date"


def items_of(value: object) -> tuple[str, ...]:
    """The items of a list; none if it is none."""
    return value if isinstance(value, tuple) else ()


def missing_items(stages: FoldStages, page: int) -> list[str]:
    """The items that only the default of a page has, and not its stamp."""
    base, live = (items_of(stages.words[int(codes[page])]) for codes in (stages.base_value, stages.live_value))
    return [one for one in live if one not in base]
