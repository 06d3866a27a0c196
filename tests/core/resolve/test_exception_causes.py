"""Every exception of a site is listed under its cause."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from random import Random

import davlo
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.source import source_of
from tests.conftest import Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


@of_made_up_sites(5)
def test_the_causes_are_those_of_every_settings_departures(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    some = [path for path in opened.tree.paths.tolist() if random.random() < 0.7]
    effective = opened.resolve(pages=some)
    expected = {
        (name, one.path, one.value, one.inherited, str(one.source), one.because)
        for name in opened.catalogue.names()
        for one in effective.exceptions(name).records()
    }
    causes = effective.exception_causes()
    found = [
        (one.setting, opened.tree.paths[page], one.words[value], one.words[inherited], str(source), cause.because)
        for cause in causes
        for one in cause.settings
        for page, value, inherited, said in zip(one.pages, one.value, one.inherited, one.source, strict=True)
        for source in [source_of(opened, int(said))]
    ]
    assert len(found) == len(set(found))
    assert set(found) == expected
    for cause in causes:
        assert {page for one in cause.settings for page in one.pages.tolist()} == set(cause.pages.tolist())
        sources = [source_of(opened, int(said)) for one in cause.settings for said in one.source]
        rules = cause.scope.kind == ScopeKind.RULE
        assert {(one.scope.kind, one.scope.name if rules else "", one.file) for one in sources} == {
            (cause.scope.kind, cause.scope.name if rules else "", cause.source.file)
        }
        for one in cause.settings:
            assert one.different() == len({value.value for value in one.values()})
            assert sum(len(value.pages) for value in one.values()) == len(one.pages)


def test_the_tree_tells_every_exception_with_its_reason(run: Run, garden: Path) -> None:
    site = ("--site", str(garden))
    told = run("tree", "--exceptions", *site).out
    assert "4 pages: The potting bench draws its own frame\n  layout.name open, sidebar.right none" in told
    assert "\n62 of 158 pages are exceptions\n" in told
    assert len(told.splitlines()) < 40
    rows = list(csv.DictReader(io.StringIO(run("tree", "--exceptions", "--format", "csv", *site).out)))
    assert len({row["page"] for row in rows}) == 62
    tickets = next(row for row in rows if row["page"] == "/visit/tickets")
    assert [*tickets.values()] == [
        *("sitemap.priority", "/visit/tickets", "0.9", "0.7", "here", "Most people look for this", "values.csv:6")
    ]
    branch = run("tree", "--exceptions", "/visit", *site).out
    assert "6 of 24 pages are exceptions" in branch
    assert "Campaign" not in branch


def test_a_site_without_exceptions_says_so(small: Small, run: Run) -> None:
    folder = small("everywhere: {title.limit: 9}\n")
    assert run("tree", "--exceptions", "--site", str(folder)).out == ("none of 3 pages are exceptions\n")
    assert davlo.open_site(folder).resolve().exception_causes() == []
