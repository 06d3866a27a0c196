"""EffectiveModel values as tables: long (a row a page and setting), wide (a row a page), and records."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codebook, Codes, Mask
from davlo.core.outcomes.met import Met
from davlo.core.outcomes.page_outcomes import Outcomes, PageOutcomes
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.source import Source, source_of
from davlo.core.site.values import format_value, json_value

LONG_COLUMNS = ("path", "setting", "value", "source", "locked", "file", "line")


class LongTable(NamedTuple):
    """A row for every page and every setting that it has, in the order of the tree, then of the settings.

    Attributes
    ----------
    page, setting, value, source : int32[rows]
        Numbers of pages; codes into `settings`, `values`, `sources`.
    """

    paths: Sequence[str]
    settings: list[str]
    values: list[str]
    sources: list[Source]
    page: Codes
    setting: Codes
    value: Codes
    source: Codes

    def rows(self) -> Iterator[tuple[str, str, str, str, str, str, str]]:
        """The rows as texts, in the order of `LONG_COLUMNS`."""
        told = [(str(s.scope), "yes" if s.locked else "", s.file, str(s.line or "")) for s in self.sources]
        columns = (self.page, self.setting, self.value, self.source)
        for page, setting, value, source in zip(*(c.tolist() for c in columns), strict=True):
            yield self.paths[page], self.settings[setting], self.values[value], *told[source]


def long_table(effective: EffectiveModel, pages: Sequence[int] | None = None) -> LongTable:
    """The long table of all pages, or of some.

    Parameters
    ----------
    effective : EffectiveModel
    pages : sequence of int, optional
        Numbers of pages.
    """
    site = effective.site
    numbers = range(len(site.catalogue))
    chosen: NDArray[np.int64] = np.arange(len(site.tree)) if pages is None else np.array(pages, dtype=np.int64)
    values: Codebook[str] = Codebook()
    has: Mask = np.zeros((len(chosen), len(numbers)), dtype=bool)
    value: Codes = np.zeros(has.shape, dtype=np.int32)
    source: Codes = np.zeros(has.shape, dtype=np.int32)
    for i, number in enumerate(numbers):
        found = effective.resolved(number)
        words = [values.code(format_value(word)) for word in found.words]
        has[:, i] = site.has(number)[chosen]
        value[:, i] = np.array(words, dtype=np.int32)[found.value[chosen]]
        source[:, i] = found.source[chosen]
    page, setting = np.nonzero(has)
    different, which = np.unique(source[has], return_inverse=True)
    return LongTable(
        site.tree.paths,
        [site.catalogue[n].name for n in numbers],
        values.items,
        [source_of(site, s) for s in different.tolist()],
        chosen[page].astype(np.int32),
        setting.astype(np.int32),
        value[has],
        which.ravel().astype(np.int32),
    )


def wide_rows(effective: EffectiveModel, settings: Sequence[int]) -> Iterator[list[str]]:
    """A row a page: its path, then the value of each setting; empty where the page does not have it."""
    site = effective.site
    columns = []
    for number in settings:
        texts = [format_value(word) for word in effective.resolved(number).words]
        there = site.has(number).tolist()
        codes = effective.resolved(number).value.tolist()
        columns.append([texts[code] if has else "" for code, has in zip(codes, there, strict=True)])
    for row in zip(site.tree.paths, *columns, strict=True):
        yield list(row)


def outcome_record(outcomes: PageOutcomes) -> dict[str, object]:
    """The outcomes of one page as JSON holds them."""
    composition = outcomes.composition
    return {
        "title": outcomes.title,
        "headings": list(outcomes.headings),
        "menu": {"shown": outcomes.in_menu, "label": outcomes.label, "reason": outcomes.not_in_menu or None},
        "visitor may view": outcomes.visitor_may_view,
        "sitemap": {"listed": outcomes.in_sitemap, "reason": outcomes.not_in_sitemap or None},
        "width": composition.width or None,
        "areas": {
            area.area: [{"kind": kind, "name": name} for kind, name in area.stands] for area in composition.areas
        },
        "theme": {
            "name": composition.theme.name if composition.theme else None,
            "areas": {area.area: area.theme_name or None for area in composition.areas},
            "instead": {area.area: area.instead.words for area in composition.areas if not area.theme_name},
        },
        "phone": list(composition.phone),
    }


def records(effective: EffectiveModel) -> Iterator[dict[str, object]]:
    """One record a page: facts, settings, sources and outcomes, as JSON holds them."""
    site = effective.site
    outcomes = Outcomes(effective)
    outcomes.fill()
    met = Met(effective)
    numbers = range(len(site.catalogue))
    for page, path in enumerate(site.tree.paths):
        kind = int(site.facts.type_of[page])
        settings: dict[str, object] = {}
        sources: dict[str, object] = {}
        for number in numbers:
            if site.has_by_type[number, kind]:
                name = site.catalogue[number].name
                settings[name] = json_value(effective.value(page, number))
                source = source_of(site, int(effective.resolved(number).source[page]))
                sources[name] = {"scope": str(source.scope), "file": source.file or None, "line": source.line or None}
        unmet = [(name, met.reason(page, site.setting_number(name))) for name in settings]
        parent = int(site.tree.parent[page])
        facts = {name: column[page] for name, column in site.facts.columns.items() if name != "parent"}
        yield {
            "path": path,
            "facts": {
                **facts,
                "parent": site.tree.paths[parent] if parent >= 0 else None,
                "depth": int(site.tree.depth[page]),
            },
            "settings": settings,
            "sources": sources,
            "not met": {name: reason for name, reason in unmet if reason},
            "outcomes": outcome_record(outcomes.of(page)),
        }
