"""Condensing: the same values with fewer statements, never with more, and nothing that people asked to keep is lost."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from random import Random

import davlo
from davlo.core.change.steps.apply import apply
from davlo.core.condense.condensing import condensing
from davlo.core.condense.free_statements import Intent
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.statements.new_statements import Form
from tests.conftest import contents
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites, write_site


def said_lines(site: SiteModel) -> set[tuple[str, str, int, str, str]]:
    """What scopes say: setting, kind of scope, target, value and reason."""
    said = site.statements
    rows = zip(said.setting.tolist(), said.scope.tolist(), said.target.tolist(), said.because.tolist(), strict=True)
    return {
        (site.catalogue[setting].name, ScopeKind(scope).word, target, str(said.said(row)), said.reasons[because])
        for row, (setting, scope, target, because) in enumerate(rows)
        if said.form[row] == Form.SAID
    }


@of_made_up_sites(3)
def test_every_page_keeps_every_value_and_nothing_is_left_to_tidy(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    branch = opened.tree.number(random.choice(opened.tree.paths.tolist()))
    pages = range(branch, int(opened.tree.end[branch]))
    for intent in (Intent(), Intent(drop_reasons=True), Intent(keep_here=True), Intent(branch=pages)):
        found = condensing(opened, (), intent)
        after = apply(opened, found.change)
        before_model, after_model = EffectiveModel(opened), EffectiveModel(after)
        for path in opened.tree.paths.tolist():
            one, other = before_model[path], after_model[path]
            assert {name: one[name] for name in other} == dict(other), path
        assert all(one.after < one.before for one in found.settings)
        assert not condensing(after, (), intent).change.steps, (intent, condensing(after, (), intent).change)
        gone = said_lines(opened) - said_lines(after)
        if not intent.drop_reasons:
            assert not [line for line in gone if line[4]]
        if intent.keep_here:
            assert not [line for line in gone if line[1] == "here"]
        if intent.branch is not None:
            assert all(line[2] in pages and line[1] in ("below", "here") for line in gone)


@of_made_up_sites(3)
def test_what_is_written_reads_as_the_same_site_and_is_taken_back(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        before, opened = contents(folder), davlo.open_site(folder)
        change = opened.condense(drop_reasons=True).change
        if change.steps:
            written = opened.write(change, even_so=True)  # which holds that the files read as what `apply` gives
            assert not written.site.condense(drop_reasons=True).change.steps
            written.site.undo()
        assert contents(folder) == before


def test_statements_of_more_gone_pages_than_there_are_pages_stay(small: Callable[..., Path]) -> None:
    gone = [f"/gone/{number}: {{below: {{title.limit: {40 + number}}}}}" for number in range(19)]
    there = [f"/{name}: {{here: {{title.limit: 30}}}}" for name in "abc"]
    rows = "path,title,language\n/,Home,\n/a,A,\n/b,B,\n/c,C,\n"
    site = davlo.open_site(small(f"pages: {{{', '.join([*gone, *there])}}}\n", rows))
    after = site.apply(site.condense().change)
    assert len(after.statements) == len(site.statements) - 2  # one of the home page's branch for three of pages
    assert after.statements.gone == site.statements.gone
