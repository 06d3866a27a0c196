"""`davlo set --new-rule`: a rule is made by the command that says what it gives."""

from __future__ import annotations

from pathlib import Path

import pytest

import davlo
from tests.conftest import Ask, Run, contents

HAND_BUILT, SOLD_OUT = "Hand-built pages run edge to edge", "Sold-out events leave the sitemap"


def names(site: davlo.Site) -> list[str]:
    return [rule.name for rule in site.rules]


def test_a_new_rule_is_the_strongest_unless_it_is_put_after_another(own: Path, run: Run) -> None:
    before, rules = contents(own), names(davlo.open_site(own))
    where = ("--when", "type=event", "--when", "tag=night", "--except", "in_branch=/events/2027", "--site", str(own))
    assert run("set", "sidebar.right=quiet", "--new-rule", "Late", *where, "--write").status == 0
    site = davlo.open_site(own)
    assert names(site) == ["Late", *rules]
    late = site.rules[0]
    assert (late.when.type, late.when.tag, late.excepts[0].in_branch) == (("event",), ("night",), ("/events/2027",))
    more = ("--lock", "--because", "Cold", "--weaker-than", SOLD_OUT, *where, "--write")
    assert run("set", "title.limit=40", "menu.show=no", "--new-rule", "Later", *more).status == 0
    site = davlo.open_site(own)
    assert names(site) == ["Late", *rules[: rules.index(SOLD_OUT) + 1], "Later", *rules[rules.index(SOLD_OUT) + 1 :]]
    assert "{lock: {title.limit: 40, menu.show: no}, because: Cold}" in (own / "davlo.yaml").read_text(encoding="utf-8")
    for _ in range(2):
        assert run("undo", "--write", "--site", str(own)).status == 0
    assert contents(own) == before


def test_the_reach_tells_which_rules_it_overrides_and_no_other_places(ask: Ask) -> None:
    told = ask("set", "sidebar.right=quiet", "--new-rule", "Quiet", "--when", "in_branch=/campaigns")
    assert 'the rule "Quiet" overrides the rule' in told
    assert "place in the list" not in told


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("--new-rule", "X"), "say for which pages the rule is"),
        (("--new-rule", "X", "--when", "typ=event"), "did you mean type?"),
        (("--new-rule", "X", "--when", "type=event", "--everywhere"), "leave out the other scope"),
        (("--everywhere", "--when", "type=event"), "go with --new-rule"),
        (("--new-rule", "X", "--when", "type=event", "--weaker-than", "Y"), "there is no rule 'Y'"),
        (("--new-rule", HAND_BUILT, "--when", "type=event"), "already"),
    ],
)
def test_what_does_not_go_together_says_what_to_type(garden: Path, run: Run, words: tuple[str, ...], told: str) -> None:
    got = run("set", "menu.show=no", *words, "--site", str(garden))
    assert (got.status, told in got.err) == (2, True), got.err
