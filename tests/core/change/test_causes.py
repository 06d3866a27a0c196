"""Why values differ between two states: each page and setting that differs has one cause, and it is the right one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from pathlib import Path
from random import Random

import davlo
from davlo.core.change.differences.causes import DETAILS, GONE, NEW, OWN, SAYS
from davlo.core.change.differences.comparison import Comparison
from davlo.core.site.settings.scopes import ScopeKind
from davlo.words.comparison import cause_words, escaped
from tests.core.resolve.test_fold import open_made_up
from tests.sites import WORDS, SiteDict, of_made_up_sites, some_scope

Small = Callable[..., Path]


def assert_each_has_one(found: Comparison) -> None:
    """Every page and setting that differs has one cause, which says what the page gets."""
    values = Counter[tuple[str, str]]()
    for cause in found.causes:
        gets = Counter[str]()
        for page in cause.pages.tolist():
            path = found.before.site.tree.paths[page]
            values[path, cause.setting] += 1
            there = found.after[found.after.site.tree.paths[int(found.number_after[page])]]
            gets[repr(there.get(cause.setting))] += 1
        assert gets == Counter({repr(one.value): one.pages for one in cause.values})
    assert values == Counter(
        (row.path, row.setting)
        for row in found.values()
        if (row.before, row.source_before is None) != (row.after, row.source_after is None)
    )


@of_made_up_sites(4)
def test_of_one_statement_that_changes_all_that_differs_comes(site: SiteDict) -> None:
    opened, random = open_made_up(site), Random(str(site["rows"]))
    for _ in range(4):
        name = random.choice([name for name in WORDS if name not in ("sitemap.priority", "page.owner")])
        where = some_scope(random, opened.tree.paths.tolist())
        try:
            after = opened.apply(davlo.Change().say(name, random.choice(WORDS[name]), **where))
        except davlo.ChangeError:
            continue
        for before, then, allowed in ((opened, after, (NEW, SAYS, OWN)), (after, opened, (GONE, SAYS, OWN))):
            found = before.difference(then)
            assert_each_has_one(found)
            for cause in found.causes:
                assert (cause.setting, cause.what in allowed, cause.source is not None) == (name, True, True), cause
                assert cause.source is not None
                word = "built-in" if cause.source.scope.kind == ScopeKind.BUILT_IN else cause.source.scope.kind.word
                assert word in where, cause


def test_details_that_bring_other_values_are_named(small: Small) -> None:
    decisions = """\
types: {event: {give: {title.limit: 40}}}
rules: [{name: Made by hand, when: {details: {made: hand}}, give: {layout.width: full}}]
pages: {/a: {below: {menu.show: no}}, /a/b: {here: {heading.show: no}}}
"""
    rows = "path,type,made,parent\n/,,,\n/a,,,\n/a/b,,,\n/a/c,,,\n/d,,,\n"
    folder = small(decisions, rows)
    before = davlo.open_site(folder)
    (folder / "pages.csv").write_text(rows.replace("/d,,,", "/d,event,hand,/a"))
    found = before.difference(davlo.open_site(folder))
    assert_each_has_one(found)
    told = {one.setting: (one.what, one.detail, cause_words(one, "main")) for one in found.causes}
    assert told["title.limit"][:2] == (DETAILS, "type and made and the page above")
    assert told["menu.show"][2] == "another type and made and the page above in the page list"
    assert list(found.details) == ["type", "parent", "made"]
    yaml = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(
        yaml.replace("title.limit: 40", "title.limit: 50").replace("{here: {heading.show: no}}", "{}")
    )
    found = davlo.open_site(folder).difference(before)
    assert_each_has_one(found)
    assert {cause_words(one, "main") for one in found.causes if one.setting != "title.limit"} >= {
        "pages themselves say so (davlo.yaml)"
    }
    (folder / "davlo.yaml").write_text(yaml.replace("details: {made: hand}", "path: /a"))
    (folder / "pages.csv").write_text(rows)
    found = before.difference(davlo.open_site(folder))
    assert [cause_words(one, "main") for one in found.causes] == [
        'the rule "Made by hand" (davlo.yaml:4) matches other pages'
    ]


def test_a_change_of_a_list_below_is_the_cause_where_a_page_adds_to_it(small: Small) -> None:
    decisions = """\
blocks: {one: {kind: text, text: One}, two: {kind: text, text: Two}}
layouts: {plain: {areas: [content]}}
everywhere: {layout.name: plain}
pages: {/a: {below: {blocks.content: [one]}}, /a/b: {here: {blocks.content: {add: [two]}}}}
"""
    folder = small(decisions, "path\n/\n/a\n/a/b\n/a/c\n")
    before = davlo.open_site(folder)
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("below: {blocks.content: [one]}", "below: {blocks.content: []}"))
    found = before.difference(davlo.open_site(folder))
    assert_each_has_one(found)
    assert [(one.what, len(one.pages), str(one.source)) for one in found.causes] == [
        (SAYS, 2, "below /a, davlo.yaml:6")
    ]


def test_only_chosen_pages_are_compared(garden: Path) -> None:
    site = davlo.open_site(garden)
    after = site.apply(davlo.Change().say("title.limit", 40, everywhere=True).drop_page("/visit/thanks"))
    after = after.apply(davlo.Change().say("access.staff", ["edit"], below="/press"))
    whole, some = site.difference(after), site.difference(after, ["below=/visit"])
    assert (whole.count(), some.count(), some.gone) == (157, 22, ("/visit/thanks",))
    assert (bool(whole.access), bool(some.access)) == (True, False)
    assert {row.path for row in some.values()} == {path for path in site.tree.paths if path.startswith("/visit/")} - {
        "/visit/thanks"
    }
    assert site.difference(after, ["below=/press"]).gone == ()


def test_markdown_shows_a_text_as_it_is() -> None:
    assert escaped("a*b <script> [x](y)\n# |`") == r"a\*b \<script\> \[x\](y) \# \|\`"


def test_a_page_that_says_what_it_always_said_is_no_cause(small: Small) -> None:
    folder = small("everywhere: {lock: {title.limit: 50}}\npages: {/a: {here: {title.limit: 40}}}\n", "path\n/\n/a\n")
    before = davlo.open_site(folder)
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("{lock: {title.limit: 50}}", "{title.limit: 50}"))
    (one,) = before.difference(davlo.open_site(folder)).causes
    assert (one.what, one.source and one.source.words, one.is_before, one.pages.tolist()) == (
        SAYS,
        "everywhere",
        False,
        [1],
    )
    (other,) = davlo.open_site(folder).difference(before).causes
    assert (other.what, other.says, other.pages.tolist()) == (SAYS, 50, [1])


def test_what_a_page_no_longer_says_is_the_cause_where_its_stamp_counts_again(small: Small) -> None:
    stamps = {"stamps.csv": "path,setting,value,on,source\n/a,page.group,none,2026-01-05,\n"}
    people = "people: {names: [ida], groups: {editors: [ida]}}\n"
    before = davlo.open_site(small(people + "pages: {/a: {here: {page.group: editors}}}\n", "path\n/\n/a\n", stamps))
    (one,) = before.difference(before.apply(davlo.Change().take_away("page.group", here="/a"))).causes
    assert (one.what, one.source and str(one.source.scope), one.is_before, one.says) == (OWN, "here", True, "editors")
