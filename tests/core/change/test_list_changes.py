"""Items that are put into a list, or taken out, as a person expects: by what each page then has."""

from __future__ import annotations

import itertools
from pathlib import Path

import pytest

import davlo
from davlo.core.change.differences.list_changes import changed_list, said_before
from davlo.core.faults import ValueFault
from davlo.core.site.settings.scopes import Scope
from davlo.core.site.settings.values import ListChange, raw_of
from tests.conftest import write_small

BLOCKS = "layouts: {plain: {areas: [content]}}\nblocks: {a: {kind: text, text: A}, b: {kind: text, text: B}, c: {kind: text, text: C}}\n"
SAID = ["", "[a, b]", "{add: [b]}", "{first: [c], add: [b]}", "{remove: [a]}", "[]"]
CHANGES = [
    ListChange(**{part: (item,), **({other: (more,)} if other else {})})
    for part, item in itertools.product(("add", "first", "remove"), "abc")
    for other, more in (("", ""), ("add", "b"), ("remove", "c"))
    if other != part and item != more
]


@pytest.mark.parametrize("said", SAID)
def test_the_page_has_what_was_added_and_not_what_was_taken_away(said: str, tmp_path: Path) -> None:
    below = f"pages: {{/a: {{below: {{blocks.content: {said}}}}}}}\n" if said else ""
    folder = write_small(tmp_path, f"{BLOCKS}everywhere: {{blocks.content: [a]}}\n{below}")
    site = davlo.open_site(folder)
    before = site.resolve()["/a/b"]["blocks.content"]
    assert isinstance(before, tuple)
    for change in CHANGES:
        value = changed_list(site, Scope.below("/a"), "blocks.content", change)
        after = site.apply(davlo.Change().say("blocks.content", raw_of(value), below="/a")).resolve()["/a/b"][
            "blocks.content"
        ]
        assert isinstance(after, tuple)
        assert set(change.add) | set(change.first) <= set(after), (said, change, value)
        assert not set(change.remove) & set(after), (said, change, value)
        touched = {*change.add, *change.first, *change.remove}
        assert [one for one in after if one not in touched] == [one for one in before if one not in touched]
        if change.first and change.first[0] not in before:
            assert after[0] == change.first[0], (said, change, value)


def test_roles_stand_for_their_actions(tmp_path: Path) -> None:
    people = (
        "people: {names: [ida]}\nroles: {tending: [view, edit]}\neverywhere: {access: {ida: [view, edit, create]}}\n"
    )
    site = davlo.open_site(write_small(tmp_path, people))
    value = changed_list(site, Scope.everywhere(), "access.ida", ListChange(remove=("tending",)))
    assert value == ("create",)
    assert changed_list(site, Scope.below("/a"), "deny.ida", ListChange(add=("tending",))) == ListChange(
        add=("view", "edit")
    )


def test_what_is_no_list_or_a_reference_is_refused(tmp_path: Path) -> None:
    site = davlo.open_site(
        write_small(tmp_path, f"{BLOCKS}pages: {{/a: {{here: {{blocks.content: <everywhere>}}}}}}\n")
    )
    with pytest.raises(ValueFault, match="say it with ="):
        changed_list(site, Scope.everywhere(), "title.limit", ListChange(add=("a",)))
    with pytest.raises(ValueFault, match="by a reference"):
        changed_list(site, Scope.here("/a"), "blocks.content", ListChange(add=("a",)))


def test_a_lock_and_a_reason_that_are_there_are_known() -> None:
    site = davlo.open_demo()
    assert said_before(site, Scope.everywhere(), "band.footer")[0]
    assert said_before(site, Scope.below("/press"), "band.footer") == (
        False,
        "Editors ask for the press contact on every page",
    )
    assert said_before(site, Scope.everywhere(), "access.nobody") == (False, "")
    assert said_before(site, Scope.here("/visit"), "band.footer") == (False, "")
