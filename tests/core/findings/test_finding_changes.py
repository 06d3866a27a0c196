"""What becomes of findings: new, gone, on more or fewer pages; worked out from the difference, or from two checks."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import davlo
from davlo.core.change.differences.difference_rows import FindingChanges
from davlo.core.findings.check import finding_changes
from tests.amiss import accepts, amiss
from tests.core.change.test_two_states import later
from tests.core.resolve.test_fold import open_made_up
from tests.files.rewrite.test_rewrite import STEPS_OF_PAGES, step_of, step_of_pages
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


def told(found: FindingChanges) -> set[tuple[object, ...]]:
    """What findings become, without messages, which may name lines."""
    sides = zip(("new", "gone"), found[:2], strict=True)
    rows = {
        (what, one.kind, one.name, one.level, one.setting, tuple(one.pages)) for what, some in sides for one in some
    }
    changed = {(one.after.name, tuple(one.before.pages), tuple(one.after.pages), *one[2:]) for one in found.changed}
    return {*rows, *changed}


def accepted(site: SiteDict, random: Random) -> SiteDict:
    """Add four entries of `accept` to a site; some name no kind."""
    found = accepts(site, random)
    for entry in found["more"]["accept"]:
        if "setting" in entry and random.random() < 0.5:
            del entry["kind"]
    return found


@of_made_up_sites(4)
def test_findings_worked_out_from_the_difference_are_those_of_two_whole_checks(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    strange = amiss(site, random)
    before = open_made_up(accepted(strange, random) if random.random() < 0.6 else strange)
    for _ in range(5):
        step = None
        if len(before.tree):
            kind = random.choice(STEPS_OF_PAGES)
            step = step_of_pages(kind, before, random) if random.random() < 0.4 else step_of(before, random)
        try:
            after = before.apply(davlo.Change((step,))) if step else before
        except davlo.ChangeError:
            continue
        reach = before.reach(davlo.Change((step,) if step else ()))
        pairs = reach.page_pairs
        whole = finding_changes(before.resolve(), after.resolve(), lambda found=pairs: found, None)  # type: ignore[misc]
        assert (step, told(reach.findings) ^ told(whole)) == (step, set())
        before = after


@of_made_up_sites(4)
def test_findings_of_two_folders_are_those_of_two_whole_checks(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    try:
        before, after = open_made_up(site), open_made_up(later(site, random))
    except davlo.SiteError:  # what was taken away is named elsewhere
        return
    found = before.difference(after)
    whole = finding_changes(before.resolve(), after.resolve(), lambda: found.page_pairs, None)
    assert told(found.findings) ^ told(whole) == set()


def test_a_finding_keeps_its_name_while_its_cause_stays(small: Small) -> None:
    site = davlo.open_site(
        small(
            "layouts: {plain: {areas: [content, right]}}\nsidebars: {bare: {}}\n"
            "people: {names: [ann], groups: {crew: [ann]}}\n"
            "everywhere: {layout.name: plain, sidebar.right: bare, access: {crew: [view, edit]}, lock: {title.limit: 50}}\n"
            "pages: {/a: {here: {title.limit: 70}}}\n",
            "path,title,language\n/,Home,\n/a,A,\n/a/b,B,\n/c,C,\n",
        )
    )
    change = (
        davlo.Change()
        .say("sidebar.right", "bare", here="/c")  # one more statement that puts the sidebar there
        .say("title.limit", 80, here="/c")  # one more that the lock overrules
        .drop_page("/a/b")
    )
    found = site.reach(change).findings
    assert {one.kind for one in found.gone} == set()
    changed = {one.after.kind: (one.more, one.fewer) for one in found.changed}
    assert changed["empty-sidebar"] == (0, 1)
    assert changed["lock-overrules"] == (1, 0)
    names = {one.name for one in site.check().findings if one.kind in changed}
    assert names <= {one.name for one in site.apply(change).check().findings}


def test_an_accepted_finding_that_stays_elsewhere_keeps_its_entry_from_being_stray(small: Small) -> None:
    site = davlo.open_site(
        small(
            "everywhere: {title.limit: 50, menu.show: yes}\n"
            "pages: {/a: {here: {title.limit: 50}}, /a/b: {here: {menu.show: yes}}}\n"
            "accept: [{kind: repeats-inherited, because: it shall stay}, {kind: lock-overrules, because: agreed}]\n"
        )
    )
    one_left = site.reach(davlo.Change().say("title.limit", 60, here="/a"))
    assert [one.kind for one in site.check().findings if one.kind == "stray-accept"] == ["stray-accept"]
    assert not [one for one in (*one_left.findings.new, *one_left.findings.gone) if one.kind == "stray-accept"]
    last = site.apply(davlo.Change().say("menu.show", "no", here="/a/b")).reach(
        davlo.Change().say("title.limit", 60, here="/a")
    )
    assert [one.kind for one in last.findings.new if one.kind == "stray-accept"] == ["stray-accept"]


def test_a_page_that_moves_keeps_its_findings_and_its_viewpoint(garden: Path, tmp_path: Path) -> None:
    own = tmp_path / "own"
    davlo.write_demo(own)
    site = davlo.open_site(own)
    change = davlo.Change().move_page("/campaigns", "/drives")
    reach = site.reach(change)
    assert (reach.findings, reach.viewpoint_differences) == (FindingChanges(), [])
    assert reach.numbers.addresses == 6
    site.write(change)
    back = davlo.open_site(own).undoing().reach
    assert (back.findings, back.viewpoint_differences) == (FindingChanges(), [])
    assert set(back.moved) == {(new, old) for old, new in reach.moved}
