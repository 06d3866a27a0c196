"""What a change would do: where it has no effect, and why, as each page tells; and all of it in numbers."""

from __future__ import annotations

from random import Random
from typing import Any

import davlo
from davlo.core.change.no_effect import ALREADY, KEEPS_STAMP, LOCKED, OVERRIDDEN
from davlo.core.change.steps.change import Declare
from davlo.core.outcomes.shown_values import ShownValues
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import format_value
from davlo.core.wording import count
from davlo.words.outcomes import outcome_sentences
from davlo.words.reach import reach_sentence
from tests.core.resolve.test_fold import open_made_up
from tests.sites import WORDS, SiteDict, of_made_up_sites, some_scope

VERDICTS = {"wins": ALREADY, "overruled": LOCKED, "left out": KEEPS_STAMP, "overridden": OVERRIDDEN}


@of_made_up_sites(3)
def test_where_a_change_has_no_effect_is_where_no_value_changes(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    for _ in range(4):
        name = random.choice([name for name in WORDS if name != "sitemap.priority"])
        where = some_scope(random, opened.tree.paths.tolist())
        try:
            reach = opened.reach(davlo.Change().say(name, random.choice(WORDS[name]), **where))
        except davlo.ChangeError:
            continue
        before, after = opened.resolve(), reach.after
        expected: dict[str, str] = {}
        for path in opened.tree.paths.tolist():
            if name not in before[path] or before[path][name] != after[path][name]:
                continue
            trace = after.why(path, name)
            for one in trace.candidates:
                if one.place and one.place.file == "the change":
                    is_own = one.verdict == "left out" and trace.winner.scope.kind == ScopeKind.HERE
                    expected[path] = OVERRIDDEN if is_own else VERDICTS[one.verdict]
        found = {opened.tree.paths[page]: one.reason for one in reach.no_effect for page in one.pages.tolist()}
        assert found == expected
        changed = [p for p in before if name in before[p] and before[p][name] != after[p][name]]
        assert reach.numbers.changed == len(changed)
        assert sum(reach.numbers[3:7]) == len(expected)


@of_made_up_sites(3)
def test_rows_are_what_each_page_shows_differently(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    name = random.choice(["layout.name", "layout.theme", "sidebar.right", "menu.show", "robots.index", "weight"])
    path = random.choice(opened.tree.paths.tolist())
    reach = opened.reach(davlo.Change().say(name, random.choice(WORDS[name]), below=path))
    before, after = opened.resolve(), reach.after
    was, now = ShownValues(before), ShownValues(after)

    def state(effective: EffectiveModel, shown: ShownValues, page: str, setting: str) -> tuple[object, ...]:
        source = effective.source(page, setting)
        is_shown = not shown.reason(effective.page_number(page), effective.setting_number(setting))
        return effective[page][setting], source.scope, source.locked, is_shown

    expected = {
        (page, setting): (one, other)
        for page in before
        for setting in before[page]
        if (one := state(before, was, page, setting)) != (other := state(after, now, page, setting))
    }
    found = {}
    for row in reach.rows():
        sides = ((row.before, row.source_before, row.shown_before), (row.after, row.source_after, row.shown_after))
        one, other = ((value, s.scope, s.locked, shown) for value, s, shown in sides if s is not None)
        found[row.path, row.setting] = (one, other)
    assert found == expected


def test_the_garden_is_told_in_a_sentence() -> None:
    site = davlo.open_demo()

    def told(setting: str, value: object, **where: Any) -> str:
        return reach_sentence(site.reach(davlo.Change().say(setting, value, **where)).numbers)

    nobody = "nobody gains or loses anything"
    assert told("sidebar.right", "main", type="article") == (
        f"17 pages look different, 17 pages change, 15 keep what a stronger statement says; {nobody}"
    )
    assert told("band.footer", "none", below="/press") == f"no page changes, 5 are locked; {nobody}"
    assert told("access.everyone", ["view"], below="/staff").endswith("; a visitor and 4 people gain something")
    assert (
        told("blocks.content", ["plate"], type="event")
        == f"no page changes, 15 keep what they got when they were made; {nobody}"
    )
    reach = site.reach(davlo.Change().say("band.footer", "none", below="/press"))
    assert [(one.reason, str(one.by)) for one in reach.no_effect] == [("locked", "everywhere, davlo.yaml:47")]
    assert format_value(reach.after["/press/pictures"]["band.footer"]) == "footer-legal"


def test_pages_that_enter_or_leave_a_list_are_named() -> None:
    site = davlo.open_demo()
    block = site.declarations.blocks["next-events"]
    reach = site.reach(davlo.Change((Declare(block._replace(leave_out=("/events/2026/apple-day",), levels=1)),)))
    rows = [row for row in reach.outcomes if row.field == "shows.right"]
    told = next(outcome_sentences(reach.outcome_changes, site.tree.paths))
    assert told.startswith("the block next-events no longer lists /events/2026/apple-day")
    assert f": {count(len(rows), 'page')}: {rows[0].path}, {rows[1].path}, {rows[2].path} and" in told
    nowhere = site.reach(davlo.Change().say("sidebar.right", "main", type="event"))
    assert {row.path for row in nowhere.outcomes if row.field == "shows.right"} == {r.path for r in nowhere.values()}
