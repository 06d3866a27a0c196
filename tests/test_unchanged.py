"""No question changes what the next question answers: a site stays as it was read."""

from __future__ import annotations

import datetime
import tempfile
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pytest
from matplotlib.figure import Figure
from matplotlib.text import Text

import davlo
from davlo import draw
from davlo.core.change.steps.statement_reach import StatementEdit, reach
from davlo.core.change.ways_to_change import ways_to_change
from davlo.core.outcomes.area_fits import is_column
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.statements.statement_table import Statements
from tests.sites import SiteDict, of_made_up_sites, write_site

DAY = datetime.date(2026, 11, 25)


def tables(site: davlo.Site) -> list[object]:
    """Every array and every table of words that a site holds."""
    found: list[object] = [[one.name for one in site.catalogue.settings], site.statements.gone, len(site.statements)]
    columns = [getattr(site.statements, name).tobytes() for name in Statements.__annotations__]
    found += [*columns, [list(book.items) for book in site.statements.words], list(site.statements.reasons.items)]
    found += [array.tobytes() for array in (site.tree.parent, site.tree.depth, site.tree.end, site.tree.line)]
    found += [site.details.type_of.tobytes(), site.details.order.tobytes(), list(site.types.names)]
    found += [(name, column.codes.tobytes(), list(column.words)) for name, column in site.details.columns.items()]
    return [*found, site.tree.paths.tolist()]


def asked(site: davlo.Site, page: str, setting: str) -> dict[str, Callable[[], object]]:
    """Questions that anybody may ask, and what they answer as something to compare."""
    number, path = site.setting_number(setting), site.tree.number(page)
    change = davlo.Change().say("sidebar.right", "spare", below=page).say("topics", {"add": ["t1", "t9"]}, here=page)
    below = StatementEdit(site.setting_number("sidebar.right"), ScopeKind.BELOW, path, "spare")
    more = StatementEdit(site.setting_number("layout.width"), ScopeKind.HERE, path, "narrow")

    def found(report: davlo.Report) -> object:
        return [(one.as_json(), [way.words for way in one.ways]) for one in (*report.findings, *report.accepted)]

    return {
        "values": lambda: {one: dict(settings) for one, settings in site.resolve().items()},
        "sources": lambda: [str(site.resolve().source(one, setting)) for one in site.tree.paths],
        "why": lambda: site.resolve().why(page, setting) if setting in site.resolve()[page] else None,
        "check": lambda: found(site.check(DAY)),
        "page": lambda: str(site.page(page)),
        "new page": lambda: str(site.new_page("/brand-new", type="note")),
        "declared": lambda: str(site.declared()),
        "access": lambda: [site.access().actions(who, page) for who in ("visitor", "celia.dunn")],
        "exceptions": lambda: site.resolve().exceptions(setting).records(),
        "frame": lambda: site.resolve().to_frame(sources=True).to_csv(),
        "arrow": lambda: str(site.resolve().to_arrow().to_pydict()),
        "reach": lambda: [reach(site.resolve(), edit).values() for edit in (below, more)],
        "ways": lambda: [(str(way.scope), way.reaches) for way in ways_to_change(site.resolve(), path, number)],
        "change": lambda: [str(row) for row in site.reach(change).values(sources_too=True)],
        "no setting": lambda: site.catalogue.find("access.amber.finch"),
        "columns": lambda: [is_column(site, area) for area in site.declarations.areas()],
        "html": lambda: site.resolve()._repr_html_(),
    }


@of_made_up_sites(5)
def test_any_questions_in_any_order_answer_as_a_site_freshly_read(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        opened = davlo.open_site(folder)
        page, setting = random.choice(opened.tree.paths.tolist()), random.choice(["topics", "sidebar.right", "rank"])
        questions = asked(opened, page, setting)
        before = tables(opened)
        for question in random.choices(list(questions), k=8):
            answer: Any = questions[question]()
            assert tables(opened) == before, question
            assert answer == asked(davlo.open_site(folder), page, setting)[question](), question


def words(figure: Figure) -> list[str]:
    return [text.get_text() for text in figure.findobj(Text)]


def test_a_drawing_changes_nothing_and_is_changed_by_no_question() -> None:
    site = davlo.open_demo()
    before, numbers = tables(site), site.setting_number("sidebar.menu")
    first = words(draw.page(site.resolve(), "/visit/maps"))
    reach(site.resolve(), StatementEdit(numbers, ScopeKind.EVERYWHERE, 0, "main"))
    again = words(draw.page(site.resolve(), "/visit/maps"))
    assert (first, tables(site)) == (again, before)
    with pytest.raises(davlo.UnknownName):
        site.catalogue.number("access.ida.marsh")
    mine, fresh = site.check(DAY).findings, davlo.open_demo().check(DAY).findings
    assert [one.as_json() for one in mine] == [one.as_json() for one in fresh]


def test_arrays_that_are_given_away_cannot_be_changed() -> None:
    effective = davlo.open_demo().resolve()
    codes, _ = effective.codes("layout.name")
    for array in (codes, effective.site.statements.value):
        with pytest.raises(ValueError, match="read-only"):
            array[0] = np.int32(7)
