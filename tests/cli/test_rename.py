"""`davlo rename`: everything that names a declaration follows; two of one name become one where they do not differ."""

from __future__ import annotations

from pathlib import Path

import pytest

import davlo
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import ChangeError
from davlo.core.site.declared_names import DECLARED_KINDS, declared_names
from tests.conftest import Run, contents, write_small


@pytest.mark.exhaustive
@pytest.mark.parametrize("kind", DECLARED_KINDS)
def test_declarations_of_every_kind_can_be_renamed_and_back(own: Path, run: Run, kind: str) -> None:
    before, site = contents(own), davlo.open_site(own)
    names = [one.name for one in site.catalogue.own] if kind == "setting" else list(declared_names(site, kind))
    for name in names[:2]:
        if (kind, name) == ("type", "page"):
            continue
        new = "Another name" if kind in ("rule", "guarantee") else "another-name"
        got = run("rename", kind, name, new, "--write", "--even-so", "--site", str(own))
        assert got.status == 0, got.err
        there = davlo.open_site(own)
        assert len(there.tree) == len(site.tree)
        assert {one.kind for one in there.check().findings} == {one.kind for one in site.check().findings}
        back = there.apply(davlo.Change().rename(kind, new, name))
        assert what_differs(site, back) == "", (kind, name)
        there.undo()
        assert contents(own) == before


def test_a_colleague_takes_over(own: Path, run: Run) -> None:
    got = run("rename", "person", "ida.marsh", "noor.haddad", "--write", "--site", str(own))
    assert got.status == 0
    assert "ida.marsh loses view, edit, create on" in got.out
    site = davlo.open_site(own)
    assert "ida.marsh" not in site.people.names
    assert "ida.marsh" not in "".join(path.read_text() for path in own.glob("*.yaml"))


DECISIONS = (
    "people: {names: [ida, bo, al], groups: {staff: [ida, bo], crew: [al]}}\n"
    "sidebars: {main: {blank: yes}, side: {blank: yes}}\n"
    "layouts: {plain: {areas: [content, right]}}\n"
    "presets: {one: {title.limit: 4}, two: {title.limit: 5}}\n"
)


@pytest.mark.parametrize(
    ("more", "words", "told"),
    [
        (
            "everywhere: {access: {ida: [view], bo: [view, edit]}}\n",
            ["person", "ida", "bo"],
            "one scope says different things of both: access.ida (davlo.yaml:7), access.bo (davlo.yaml:7)",
        ),
        ("", ["preset", "one", "two"], "the presets one and two say different things (davlo.yaml:6, davlo.yaml:6)"),
        ("", ["person", "ida", "staff"], "there is group 'staff' already"),
        ("", ["group", "staff", "everyone"], "no group may be called everyone"),
        ("", ["sidebar", "main", "main"], "the sidebar is called main already"),
        ("", ["type", "page", "leaf"], "the type page always exists"),
        (
            "rules: [{name: A, when: {path: /a}, give: {title.limit: 4}}, {name: B, when: {path: /a}, give: {title.limit: 5}}]\n",
            ["rule", "A", "B"],
            "there is a rule 'B' already",
        ),
        (
            "settings: {tint: {kind: color}}\n",
            ["setting", "tint", "title"],
            "there is a setting or a detail 'title' already",
        ),
        (
            "viewpoints: [{page: /, as: ida}, {page: /, as: bo}]\n",
            ["person", "ida", "bo"],
            "two viewpoints would look at one page as bo",
        ),
    ],
    ids=lambda one: " ".join(one) if isinstance(one, list) else "",
)
def test_what_cannot_be_renamed_says_why(tmp_path: Path, run: Run, more: str, words: list[str], told: str) -> None:
    folder = write_small(tmp_path, DECISIONS + more)
    before = contents(folder)
    got = run("rename", *words, "--write", "--site", str(folder))
    assert got.status == 2
    assert told in got.err
    assert contents(folder) == before


def test_what_says_the_same_becomes_one(tmp_path: Path, run: Run) -> None:
    more = (
        "everywhere: {access: {ida: [view], bo: [view]}}\npages: {/a: {here: {sidebar.right: main, page.owner: ida}}}\n"
    )
    folder = write_small(tmp_path, DECISIONS + more)
    assert run("rename", "person", "ida", "bo", "--write", "--site", str(folder)).status == 0
    assert "access: {bo: [view]}" in (folder / "davlo.yaml").read_text()
    assert "names: [bo, al], groups: {staff: [bo], crew: [al]}" in (folder / "davlo.yaml").read_text()
    assert run("rename", "sidebar", "main", "side", "--write", "--site", str(folder)).status == 0
    page = davlo.open_site(folder).resolve()["/a"]
    assert (page["sidebar.right"], page["page.owner"]) == ("side", "bo")


def test_only_one_name_of_a_kind_is_renamed(tmp_path: Path) -> None:
    folder = write_small(
        tmp_path,
        "sidebars: {main: {blank: yes}}\nlooks: {main: {whole: {width: 30%}}}\nlayouts: {main: {areas: [right]}}\n",
    )
    site = davlo.open_site(folder)
    after = site.apply(davlo.Change().rename("look", "main", "other"))
    assert (list(after.declarations.looks), list(after.declarations.sidebars)) == (["other"], ["main"])
    with pytest.raises(ChangeError, match="there is no band 'main'"):
        site.apply(davlo.Change().rename("band", "main", "other"))


def test_a_word_that_was_forgotten_is_told(garden: Path, run: Run) -> None:
    got = run("rename", "main", "usual", "--site", str(garden))
    assert (got.status, "main is a sidebar: davlo rename sidebar main usual" in got.err) == (2, True)
    got = run("rename", "sidebar", "main", "--site", str(garden))
    assert (got.status, "say the new name too: davlo rename sidebar main NEW" in got.err) == (2, True)
    got = run("mend", "--site", str(garden))
    assert (got.status, "name a finding by the short name that stands beside it in: davlo check" in got.err) == (
        2,
        True,
    )
