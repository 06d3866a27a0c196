"""What each statement of a setting reaches and decides is what every page says of its candidates."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from pathlib import Path

import davlo
from davlo.core.resolve.statement_uses import StatementUses, of_setting
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.source import Source
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
Key = tuple[str, str, int, object, str]


def key(source: Source, says: object, preset: str) -> Key:
    return str(source.scope) + source.scope.name, source.file, source.line, says, preset


@of_made_up_sites(5)
def test_statements_reach_and_decide_what_the_pages_tell(site: SiteDict) -> None:
    effective = open_made_up(site).resolve()
    for name in effective.settings():
        reached: Counter[Key] = Counter()
        decided: Counter[Key] = Counter()
        for path in effective:
            if name not in effective[path]:
                continue
            for one in effective.why(path, name).candidates[1:]:
                assert one.place is not None
                told = key(Source(one.scope, one.place.file, one.place.line), one.says, one.preset)
                reached[told] += 1
                decided[told] += one.verdict == "wins"
        found = [
            use
            for use in effective.statements(name)
            if use.source.scope.kind != ScopeKind.STAMP or effective.is_for_new_pages(effective.setting_number(name))
        ]
        by_key: Counter[Key] = Counter()
        wins: Counter[Key] = Counter()
        for use in found:
            by_key[key(use.source, use.says, use.preset)] += use.reaches
            wins[key(use.source, use.says, use.preset)] += use.decides
        assert (+by_key, +wins) == (+reached, +decided)
        kinds = [use.source.scope.kind for use in found]
        assert kinds == sorted(kinds)


def test_what_single_pages_say_alike_is_gathered(small: Small) -> None:
    rows = "".join(f"/p{number},P{number},{'no' if number % 2 else ''}\n" for number in range(10))
    decisions = "everywhere: {menu.show: yes}\npages: {/p2: {here: {menu.show: no}}}\n"
    effective = davlo.open_site(small(decisions, f"path,title,menu.show\n/,Home,\n{rows}")).resolve()
    found = list(StatementUses(effective, of_setting(effective, "menu.show")).gathered())
    told = [(one.source.file, one.says, one.alike, one.reaches, one.decides) for one in found]
    assert told == [("davlo.yaml", True, 1, 11, 5), ("davlo.yaml", False, 1, 1, 1), ("pages.csv", False, 5, 5, 5)]
