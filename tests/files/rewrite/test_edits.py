"""The edits that a finding offers: made in the files, they mend it, and change nothing else."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

import pytest

import davlo
from davlo.core.findings.finding import Finding
from davlo.core.findings.finding_kind import Kind
from davlo.core.findings.kinds.every_kind import KINDS
from davlo.core.findings.mending import MOST_STEPS
from davlo.core.site.settings.scopes import Scope
from davlo.files.rewrite.ways import Mender
from tests.conftest import Run
from tests.core.findings.cases import CASES
from tests.files.rewrite.test_rewrite import make
from tests.sites import SiteDict, of_made_up_sites, write_site

Small = Callable[..., Path]
COMMANDS = ("sitemap-stale",)
"""Kinds that a command mends."""


def identity(finding: Finding) -> tuple[object, ...]:
    """What a finding is about, wherever its lines are: taking one thing away may bring out the next."""
    said = [(one.scope, one.value) for one in finding.statements]
    return (finding.kind, finding.setting, said, list(finding.pages), "scopes deny" in finding.message)


def mender(folder: Path) -> tuple[Mender, list[Finding]]:
    site = davlo.open_site(folder)
    return Mender(site.resolve(), folder), list(site.check().findings)


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_each_way_mends_the_finding_and_brings_no_fault(kind: Kind, small: Small) -> None:
    case = CASES[kind.name]
    tells, findings = mender(case.write(small))
    found = next(one for one in findings if one.kind == kind.name)
    ways = tells.ways(found)
    assert bool(ways) == (kind.name not in COMMANDS and not kind.needs_decision)
    assert found.fix.startswith("no single edit mends it: decide ") == kind.needs_decision
    if kind.name != "access-dropped":  # there it would let visitors in
        taken = [f"take away {words}" for words, _ in kind.takes_away]
        assert [way.words for way in ways][: len(taken)] == taken
    for way in ways:
        folder = case.write(small)
        before = {finding.kind for finding in findings}
        make(folder, way.edits)
        left = [finding.kind for finding in mender(folder)[1]]
        assert kind.name not in left
        assert {"guarantee-broken", "lock-clash"} & set(left) <= before


@pytest.mark.parametrize("kind", COMMANDS)
def test_a_command_that_is_told_mends_the_finding(kind: str, small: Small, run: Run) -> None:
    folder = CASES[kind].write(small)
    told = next(one.fix for one in mender(folder)[1] if one.kind == kind)
    words = told.rpartition(": davlo ")[2].split()
    assert run(*words).status == 0
    assert kind not in [one.kind for one in mender(folder)[1]]


@pytest.mark.exhaustive
def test_the_gardens_edits_mend_what_they_are_for(tmp_path: Path) -> None:
    folder = tmp_path / "garden"
    davlo.write_demo(folder)
    files = {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()}
    tells, findings = mender(folder)
    mended = 0
    for finding, way in [(one, way) for one in findings for way in tells.ways(one)]:
        make(folder, way.edits)
        assert identity(finding) not in [identity(one) for one in mender(folder)[1]]
        mended += 1
        for name, content in files.items():
            (folder / name).write_bytes(content)
    assert mended >= 30


@pytest.mark.exhaustive
@of_made_up_sites(2)
def test_what_a_way_says_it_changes_is_what_it_changes(site: SiteDict) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        files = {path.name: path.read_bytes() for path in folder.iterdir()}
        before = davlo.open_site(folder).resolve()
        tells, findings = mender(folder)
        for finding in findings:
            for way in tells.ways(finding):
                make(folder, way.edits)
                after = davlo.open_site(folder)
                if finding.kind != "misspelt-column":
                    assert identity(finding) not in [identity(one) for one in after.check().findings], way
                changed = differing(before, after.resolve())
                assert (finding.kind, way, len(changed)) == (finding.kind, way, way.changes)
                for file, content in files.items():
                    (folder / file).write_bytes(content)


def test_what_hides_one_another_is_counted_together(small: Small) -> None:
    case = CASES["stray-look"]
    tells, findings = mender(case.write(small, more="\npages: {/a: {here: {look.left: slim}}}"))
    way = tells.ways(next(one for one in findings if one.kind == "stray-look"))[0]
    assert (len(way.edits), way.changes) == (1, 3)


def test_a_way_of_very_many_steps_is_none(small: Small) -> None:
    rows = "path,title.limit\n" + "".join(f"/p{i},60\n" for i in range(MOST_STEPS + 1))
    tells, findings = mender(small("", rows))
    assert [(len(one.pages), tells.ways(one)) for one in findings if one.kind == "repeats-inherited"] == [
        (MOST_STEPS + 1, [])
    ]


def differing(before: davlo.Effective, after: davlo.Effective) -> set[str]:
    """The pages of which a setting has another value."""

    built_in = {setting.name: setting.built_in for one in (before, after) for setting in one.site.catalogue.settings}

    def differ(path: str) -> bool:
        was, now = dict(before[path]), dict(after[path])
        return any(was.get(name, built_in[name]) != now.get(name, built_in[name]) for name in was.keys() | now.keys())

    return set(filter(differ, before))


@pytest.mark.parametrize(("setting", "is_named"), [("title.limit", False), ("menu.show", True)])
def test_a_page_that_has_the_statement_already_is_not_offered_instead(
    setting: str, is_named: bool, small: Small
) -> None:
    value = "9" if setting == "title.limit" else "no"
    folder = small("pages: {/stori: {here: {title.limit: 8}}}\n", f"path,{setting}\n/,\n/stories,{value}\n")
    site = davlo.open_site(folder)
    finding = next(one for one in site.check().findings if one.kind == "no-such-page")
    ways = [way.words for way in Mender(site.resolve(), folder).ways(finding)]
    assert ("name /stories instead" in ways) == is_named
    assert ("name /stories" in finding.fix) == is_named


def test_what_a_preset_gives_beside_a_fresh_access_stays_when_the_rest_is_given_again(small: Small) -> None:
    decisions = (
        "people: {names: [ann, bo], groups: {crew: [ann]}}\npresets: {some: {access: {crew: [create]}}}\n"
        "everywhere: {access: {crew: [edit, create]}}\npages: {/a: {here: {use: some, fresh_access: yes}}}\n"
    )
    folder = small(decisions)
    site = davlo.open_site(folder)
    finding = next(one for one in site.check().findings if one.kind == "access-dropped")
    way = next(one for one in Mender(site.resolve(), folder).ways(finding) if one.words == "set it again in that scope")
    make(folder, way.edits)
    mended = davlo.open_site(folder)
    assert mended.resolve()["/a"]["access.crew"] == ("create", "edit")
    assert all(one.kind != "access-dropped" for one in mended.check().findings)


PAGES = """davlo: 1
site: {name: Small, url: 'https://small.example'}
pages:
  /a: {here: {menu.show: no}}
  # why b is otherwise
  /b:
    here:
      menu.show: no
      title.limit: 40
      because: It is long
  /c: {here: {menu.show: no}}  # beside c
  /d:
    below: {menu.show: no}
    here: {menu.show: no}
"""
SAID = [("menu.show", "here", path) for path in ("/a", "/b", "/c", "/d")]
SAID += [("title.limit", "here", "/b"), ("menu.show", "below", "/d")]


@pytest.mark.parametrize("gone", [range(6), range(5), (0, 1, 2), (1, 4), (3, 5), (0, 2, 3, 5), (4, 2, 1)])
def test_many_neighbours_are_taken_away_at_once(gone: Sequence[int], tmp_path: Path) -> None:
    (tmp_path / "davlo.yaml").write_text(PAGES, encoding="utf-8")
    (tmp_path / "pages.csv").write_text("path,title\n/,Home\n/a,A\n/b,B\n/c,C\n/d,D\n/d/e,E\n", encoding="utf-8")
    site, change = davlo.open_site(tmp_path), davlo.Change()
    for setting, scope, path in (SAID[at] for at in gone):
        change = change.take_away(setting, **{scope: path})
    site.write(change)
    left = davlo.open_site(tmp_path)
    assert site.apply(change).difference(left).count() == 0
    said = [(setting, scope, path) for setting, scope, path in SAID if _says(left, setting, scope, path)]
    assert said == [one for at, one in enumerate(SAID) if at not in gone]


def _says(site: davlo.Site, setting: str, scope: str, path: str) -> bool:
    target = site.tree.find(path)
    return site.statements.find(site.setting_number(setting), getattr(Scope, scope)(path).kind, target) >= 0
