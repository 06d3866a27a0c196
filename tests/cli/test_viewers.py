"""What one viewer meets and another does not: by page, by command, and as one of them sees a page."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import pytest

import davlo
from tests.amiss import amiss
from tests.conftest import Ask, Run
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


def met(site: davlo.Site, path: str, viewer: str) -> tuple[tuple[str, ...], dict[str, Any]]:
    """What a viewer may do on a page, and the fields of its record that depend on who looks."""
    told = site.page(path, viewer=viewer).as_json("outcomes")
    fields = {f"{group}.{name}": value for group in ("shows", "menu") for name, value in told[group].items()}
    return tuple(told["may"]), fields


@of_made_up_sites(4)
def test_the_difference_of_two_viewers_is_that_of_their_records(site: SiteDict) -> None:
    draw = Random(str(site["rows"]))
    opened = open_made_up(amiss(site, draw))
    viewers = ["visitor", "signed-in", *opened.people.names, *opened.people.groups]
    one, other = draw.choice(viewers), draw.choice(viewers)
    found, paths = opened.viewer_difference(one, other), opened.tree.paths
    only_one, only_other = ([paths[page] for page in some] for some in (found.seen_by_one, found.seen_by_other))
    rights = {paths[page]: (some.one, some.other) for some in found.rights for page in some.pages.tolist()}
    rows = {(row.path, row.field): (row.before, row.after) for row in found.outcomes}
    for path in paths:
        (may, mine), (other_may, theirs) = met(opened, path, one), met(opened, path, other)
        sees, other_sees = "view" in may, "view" in other_may
        assert (path in only_one, path in only_other) == (sees and not other_sees, other_sees and not sees)
        assert rights.get(path) == ((may, other_may) if may != other_may else None)
        differ = {name: (mine[name], theirs[name]) for name in mine if mine[name] != theirs[name]}
        told = {field: sides for (page, field), sides in rows.items() if page == path}
        assert told == (differ if sees and other_sees else {})


def test_viewers_are_compared_by_every_command_that_shows_one(ask: Ask) -> None:
    told = ask("compare", "--as", "visitor", "--as", "rowan.pike")
    assert "21 only for rowan.pike" in told
    assert "the block top-menu lists /members only for rowan.pike" in told
    part = ask("compare", "--as", "visitor", "--as", "rowan.pike", "--only", "menu", "--format", "csv")
    assert {row["what"].partition(".")[0] for row in csv.DictReader(io.StringIO(part))} == {"menu"}
    record = json.loads(ask("compare", "--as", "visitor", "--as", "tomas.vell", "--format", "json"))
    assert "/staff/rota" in record["seen by one alone"]["tomas.vell"]
    assert ask("compare", "--as", "visitor", "--as", "signed-in").splitlines()[-1] == "They meet the same."
    assert "a visitor may do nothing; ida.marsh may view, edit, create" in ask(
        "access", "/staff", "--as", "visitor", "--as", "ida.marsh"
    )
    links = ask("menus", "--as", "visitor", "--as", "ida.marsh", "--format", "csv")
    assert "ida.marsh,,en,Members,/members\n" in links.replace("\r", "")
    tree = ask("tree", "/staff", "--as", "visitor", "--as", "tomas.vell", "--format", "csv")
    assert {row["only seen by"] for row in csv.DictReader(io.StringIO(tree))} == {"tomas.vell"}
    assert "/staff/rota" not in ask("tree", "/staff", "--as", "visitor", "--format", "csv")


def test_a_page_as_somebody_meets_it_on_a_screen(small: Small, run: Run, ask: Ask) -> None:
    folder = small(
        "layouts: {plain: {areas: [content, right]}}\nlooks: {wide-only: {shows_on: [wide]}}\n"
        "sidebars: {main: {blocks: [hours, top]}}\n"
        "blocks: {hours: {kind: text, text: Open}, top: {kind: menu, levels: 3}}\n"
        "people: {names: [ann, bo], admins: [bo], groups: {crew: [ann]}}\n"
        "everywhere: {layout.name: plain, sidebar.right: main, look.right: wide-only, layout.phone-order: [right]}\n"
        "pages: {/a: {here_and_below: {fresh_access: yes, access: {crew: [view]}}}}\n"
    )
    told = run("show", "/a", "--as", "visitor", "--as", "ann", "--site", str(folder)).out
    assert "(nothing): does not see this page" in told
    phone = run("show", "/a", "--as", "ann", "--screen", "phone", "--site", str(folder)).out
    lines = [line.split("  ") for line in phone.splitlines() if line.startswith("  area")]
    assert [line[1] for line in lines] == ["area right", "area content"]
    assert "sidebar main (not on a phone)" in phone
    site = davlo.open_site(folder)
    links = [
        [link.label for block in site.page("/", viewer=who)["shows.right"][0].blocks for link in block.links]
        for who in ("visitor", "ann")
    ]
    assert [len(some) for some in links] == [1, 3]
    with pytest.raises(davlo.UnknownName, match="watch"):
        site.page("/", screen="watch")
    json_of_ann = json.loads(ask("show", "/staff", "--as", "tomas.vell", "--format", "json"))
    assert (json_of_ann["viewer"], json_of_ann["outcomes"]["may"]) == ("tomas.vell", ["view"])


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["compare", "--as", "visitor", "--as", "visitor"], "say --as twice, with different names"),
        (["compare", "--as", "visitor", "--as", "ida.marsh", "--as", "rowan.pike"], "say --as twice"),
        (["compare", "HEAD", "--as", "visitor", "--as", "ida.marsh"], "say --as once, or leave OTHER out"),
        (["compare", "--as", "visitor", "--as", "ida.marsh", "--only", "sitemap"], "access, areas, menu, not sitemap"),
        (["compare"], "two viewers: davlo compare --as"),
        (["menus", "--as", "idda.marsh"], "did you mean ida.marsh?"),
        (["tree", "--as", "visitor", "--as", "nobody"], "nobody"),
        (["show", "/visit", "--as", "ida.marsh", "--format", "csv"], "leave out --as and --screen"),
        (["report", "--as", "visitor", "--as", "ida.marsh"], "--as is said 2 times, and takes one value"),
        (["tree", "--columns", "layout.name", "--columns", "menu.show"], "--columns is said 2 times"),
    ],
)
def test_what_cannot_be_compared_is_said(words: list[str], says: str, run: Run, garden: Path) -> None:
    told = run(*words, "--site", str(garden))
    assert told.status == 2
    assert says in told.err


def test_states_are_compared_as_a_viewer_meets_them(small: Small, run: Run, tmp_path: Path) -> None:
    decisions = (
        "layouts: {plain: {areas: [content]}}\npeople: {names: [ann], groups: {crew: [ann]}}\n"
        "blocks: {top: {kind: menu, levels: 2}}\neverywhere: {layout.name: plain, blocks.content: [top]}\n"
        "pages: {/a: {here_and_below: {fresh_access: yes, access: {crew: [view]}, menu.show: no}}}\n"
    )
    before = davlo.open_site(small(decisions))
    (tmp_path / "later").mkdir()
    later = tmp_path / "later"
    later.joinpath("davlo.yaml").write_text(
        (tmp_path / "davlo.yaml").read_text(encoding="utf-8").replace(", menu.show: no", ""), encoding="utf-8"
    )
    later.joinpath("pages.csv").write_bytes((tmp_path / "pages.csv").read_bytes())
    after = davlo.open_site(later)
    shown = {who: before.difference(after, viewer=who).outcomes_of("areas") for who in ("visitor", "ann")}
    assert (len(shown["visitor"]), len(shown["ann"])) == (0, 1)
    told = run("compare", str(tmp_path), str(later), "--as", "ann").out
    assert "as ann meets it" in told
    assert "the block top lists /a, /a/b too" in told
