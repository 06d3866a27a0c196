"""Declarations from a file: joined into a site they are those of a site that includes the file."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

import pytest
import yaml

import davlo
from davlo.core.change.differences.same_state import what_differs
from davlo.core.change.steps.change import Change
from davlo.files.rewrite.declared_by_file import DECLARING, declared_by_file
from davlo.files.rewrite.rewrite import rewrite
from tests.conftest import Run, contents
from tests.files.rewrite.test_rewrite import make
from tests.sites import SiteDict, of_made_up_sites, write_site


@of_made_up_sites(8)
def test_all_that_a_site_declares_can_come_from_a_file(site: SiteDict) -> None:
    """A site of bare pages gets all of it by one change. To join the file in again changes nothing."""
    rows = [{key: text for key, text in row.items() if key not in site["columns"]} for row in site["rows"]]
    bare = {**site, "everywhere": {}, "pages": {}, "values": [], "stamps": [], "columns": [], "rows": rows}
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(bare, Path(name))
        wanted, said = davlo.open_site(folder), dict[str, object]()
        for file in ("davlo.yaml", "declared.yaml"):
            said |= yaml.load((folder / file).read_text("utf-8-sig"), yaml.BaseLoader)
        declared = {key: value for key, value in said.items() if key in DECLARING}
        content = yaml.safe_dump(declared, allow_unicode=True, sort_keys=False).encode()
        start = {key: said[key] for key in ("davlo", "site")}
        (folder / "davlo.yaml").write_text(yaml.safe_dump(start, allow_unicode=True), encoding="utf-8")
        opened = davlo.open_site(folder)
        change = Change(declared_by_file(opened, content, "more.yaml"))
        assert what_differs(wanted, opened.apply(change)) == ""
        make(folder, rewrite(opened, folder, change))
        read = davlo.open_site(folder)
        assert what_differs(wanted, read) == ""
        assert declared_by_file(read, content, "more.yaml") == ()


def test_a_file_is_joined_in_and_taken_back_by_one_command(own: Path, run: Run, tmp_path: Path) -> None:
    before, where = contents(own), ("--site", str(own))
    more = tmp_path / "more.yaml"
    more.write_text(
        "people: {names: [sam.finch], admins: [sam.finch], groups: {sellers: [sam.finch]}}\n"
        "types: {goods: {based_on: page, give: {use: bare, lock: {menu.show: no}, access: {sellers: [tending]},"
        " fresh_access: yes, because: The shop asked}}}\n"
        "sidebars: {shopping: {blocks: [basket, search-box]}}   # a comment\n"
        "blocks: {basket: {kind: text, text: Your basket}}\n"
        "rules:\n  - {name: Sale, when: {tag: sale}, give: {sidebar.right: shopping}, because: January, note: Yearly}\n"
        "accept: [{kind: type-without-pages, because: They come in spring}]\n",
        encoding="utf-8",
    )
    got = run("declare", "--from", str(more), *where, "--write", "--even-so")
    assert got.status == 0, got.err
    site = davlo.open_site(own)
    assert (site.people.is_admin("sam.finch"), site.rules[-1].note) == (True, "Yearly")
    assert len(site.rules) == len(davlo.open_demo().rules) + 1
    text = (own / "davlo.yaml").read_text(encoding="utf-8")
    given = text.partition("goods:")[2].partition("\n")[0]
    for said in ("use: bare", "access: {sellers: [tending]}", "fresh_access: yes", "because: The shop asked"):
        assert said in given
    again = run("declare", "--from", str(more), *where)
    assert (again.status, again.out) == (0, f"The site declares all that {more} declares.\n")
    assert run("undo", "--write", *where).status == 0
    assert contents(own) == before


@pytest.mark.parametrize(
    ("content", "told"),
    [
        ("", "the file is empty"),
        ("sidebars: [", "this is not YAML"),
        ("a: 1", "the file has no key 'a'"),
        ("everywhere: {menu.show: no}", "everywhere declares nothing"),
        ("site: {name: A}", "site declares nothing"),
        ("<<<<<<< ours\nsidebars: {}\n=======\n>>>>>>> theirs\n", "could not merge"),
        (
            "sidebars: {main: {blocks: [search-box]}}",
            "the sidebar main is declared already, and otherwise, at declared",
        ),
        ("sidebars: {kids: {blocks: [nothing]}}", "there is no block 'nothing'"),
        (
            "types: {event: {label: Event, based_on: article, give: {sidebar.right: main}}}",
            "sets sidebar.right already",
        ),
        ("settings: {blocks.content: {default_for: all-pages}}", "the setting blocks.content is declared already"),
        ("people: {groups: {editors: [ida.marsh]}}", "the group editors is declared already"),
        ("rules: [{name: Hand-built pages run edge to edge, when: {home: yes}, give: {use: bare}}]", "is a rule"),
        ("guarantees: [{name: Staff pages stay private, may: {everyone: [view]}}]", "is a guarantee"),
        ("types: {a: {based_on: b}, b: {based_on: a}}", "circle"),
        ("sidebars: {kids: {blocks: [x]}}\nrules: [{name: A, when: {tpye: b}}]\nroles: {tending: [view]}", "tpye"),
    ],
)
def test_a_file_that_cannot_be_joined_in_says_why(own: Path, run: Run, tmp_path: Path, content: str, told: str) -> None:
    before, file = contents(own), tmp_path / "bad.yaml"
    file.write_text(content, encoding="utf-8")
    got = run("declare", "--from", str(file), "--write", "--site", str(own))
    assert (got.status, told in got.err, "bad.yaml" in got.err) == (2, True, True), got.err
    if "tpye" in content:  # every fault at once
        assert "no block 'x'" in got.err
        assert "role tending is declared already" in got.err
    assert contents(own) == before


def test_a_file_is_read_whatever_its_letters(small: Callable[..., Path]) -> None:
    site = davlo.open_site(small(""))
    with pytest.raises(davlo.SiteError, match="not UTF-8"):
        declared_by_file(site, b"sidebars: {a: {note: \xff}}", "x.yaml")
    assert (
        declared_by_file(site, "\ufeffsidebars: {a: {note: é}}".encode(), "x.yaml")[0].words == "declare the sidebar a"
    )
