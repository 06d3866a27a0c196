"""Resolution agrees with the reference, for every page and setting of made-up sites."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

import davlo
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.sitemap.addresses import published
from davlo.core.site.settings.values import format_value
from tests.plain import resolution as reference
from tests.rows import long_rows
from tests.sites import SiteDict, of_made_up_sites, write_site


def open_made_up(site: SiteDict) -> davlo.Site:
    with tempfile.TemporaryDirectory() as folder:
        return davlo.open_site(write_site(site, Path(folder)))


@of_made_up_sites(15)
def test_values_sources_and_locks_are_the_references(site: SiteDict) -> None:
    rows = long_rows(open_made_up(site).resolve())
    found = {(path, setting): (value, source, locked) for path, setting, value, source, locked, _, _ in rows}
    wanted = reference.long_table(site)
    assert {key: (found.get(key), wanted.get(key)) for key in found | wanted if found.get(key) != wanted.get(key)} == {}


@of_made_up_sites(5)
def test_why_ends_at_the_effective_value_and_names_its_source(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    for path, values in effective.items():
        for name, value in values.items():
            trace = effective.why(path, name)
            winner, source = trace.winner, effective.source(path, name)
            assert trace.value == value == winner.gives
            place = (winner.place.file, winner.place.line) if winner.place else ("", 0)
            assert (winner.scope, *place) == (source.scope, source.file, source.line)
            verdicts = [candidate.verdict for candidate in trace.candidates]
            assert "overruled" not in verdicts[: verdicts.index("wins")]


@of_made_up_sites(5)
def test_who_may_do_what_is_the_references(site: SiteDict) -> None:
    access = AccessModel(open_made_up(site).resolve())
    for who in ("visitor", "amber.finch", "bruno.wray", "celia.dunn"):
        for action in ("view", "edit"):
            may = access.may(who, action)
            for page, path in enumerate(access.site.tree.paths):
                assert bool(may[page]) == reference.may(site, who, action, path)
                assert access.why(who, action, page).may == may[page]


@of_made_up_sites(5)
def test_the_order_of_the_rows_changes_no_value(site: SiteDict) -> None:
    def values(rows: list[dict[str, str]]) -> dict[tuple[str, str], str]:
        effective = open_made_up({**site, "rows": rows}).resolve()
        return {(p, s): format_value(v) for p, page in effective.items() for s, v in page.items()}

    before, after = values(site["rows"]), values(site["rows"][::-1])
    assert {key: (before[key], after.get(key)) for key in before if before[key] != after.get(key)} == {}


@of_made_up_sites(5)
def test_addresses_are_the_references(site: SiteDict) -> None:
    opened = open_made_up(site)
    found: dict[str, list[str]] = {}
    told = published(opened, np.arange(len(opened.tree)))
    for page, url in zip(told.page.tolist(), told.urls(), strict=True):
        found.setdefault(opened.tree.paths[page], []).append(url)
    assert found == reference.addresses(site)
