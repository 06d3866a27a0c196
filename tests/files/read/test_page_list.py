"""The page list: details and parents; and what the library gives of a site."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.arrays.codebooks import Codebook
from davlo.frames.table import LONG_COLUMNS
from davlo.frames.text_tables import wide
from tests.rows import long_rows, rows_of

Small = Callable[..., Path]
PAGES = """title,path,type,parent,status,order,color,menu.show
Home,/,,,,,,
Deep,/a/b/c,note,,draft,2,blue,no
Trees,/a,,,,,"gre
en",
Moved,/a/moved,,/x,,1.5,,
X,/x,stray,,live,,,yes

Twin,/x/twin,,,,,,
"""


def test_details_parents_and_lines(small: Small) -> None:
    site = davlo.open_site(small("types: {note: {label: Note}}\n", PAGES))
    tree, details = site.tree, site.details
    assert tree.paths.tolist() == ["/", "/a", "/a/b/c", "/x", "/a/moved", "/x/twin"]
    parents = {
        path: tree.paths[int(tree.parent[i])] if tree.parent[i] >= 0 else "" for i, path in enumerate(tree.paths)
    }
    assert parents == {"/": "", "/a": "/", "/a/b/c": "/a", "/x": "/", "/x/twin": "/x", "/a/moved": "/x"}
    lines = {path: int(tree.line[i]) for i, path in enumerate(tree.paths)}
    assert lines == {"/": 2, "/a/b/c": 3, "/a": 4, "/a/moved": 6, "/x": 7, "/x/twin": 9}
    deep, moved = tree.number("/a/b/c"), tree.number("/a/moved")
    assert (details.status[deep], details.column("color")[deep], bool(details.live[deep])) == ("draft", "blue", False)
    assert details.column("color")[tree.number("/a")] == "gre\nen"
    assert details.column("nothing of the kind")[deep] == ""
    assert [site.types.names[t] for t in details.type_of[[deep, moved, tree.number("/x")]]] == ["note", "page", "stray"]
    assert (details.order[moved], details.order[deep], details.order[0]) == (1.5, 2.0, float("inf"))
    assert "menu.show" not in details.columns
    assert str(site.resolve().source("/a/b/c", "menu.show")) == "here, pages.csv:3"


def test_what_an_page_list_brings_about_is_no_error(small: Small) -> None:
    pages = "path,type,language,translates,page.owner\n/,leaflet,de,/gone,who.left\n"
    decisions = "pages: {/gone: {below: {title.limit: 9}, here: {menu.show: no}}}\n"
    stamps = "path,setting,value,on,source\n/gone,page.owner,who.left,2026-01-01,here\n/,title.limit,7,,\n"
    effective = davlo.open_site(small(decisions, pages, {"stamps.csv": stamps})).resolve()
    assert effective["/"]["page.owner"] == "who.left"
    assert effective["/"]["title.limit"] == 60


@pytest.mark.parametrize("home", ["/", "/a", "/gone"])
def test_the_home_page(home: str, small: Small) -> None:
    folder = small("rules: [{name: h, when: {home: yes}, give: {title.limit: 9}}]\n")
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]}", f"[en, fr], home: {home}}}")
    (folder / "davlo.yaml").write_text(text)
    site = davlo.open_site(folder)
    short = [path for path, page in site.resolve().items() if page["title.limit"] == 9]
    assert short == ([home] if home != "/gone" else [])


def test_an_empty_page_list_is_a_site_of_no_pages(small: Small) -> None:
    site = davlo.open_site(small("types: {note: {give: {menu.show: no}}}\n", "path,title\n"))
    assert (len(site.resolve()), site.check().findings) == (0, ())
    assert long_rows(site.resolve()) == []


def test_effective_is_a_mapping_of_mappings(garden: Path) -> None:
    site = davlo.open_site(garden)
    effective = site.resolve()
    assert (len(effective), "/visit" in effective, "/nowhere" in effective) == (158, True, False)
    page = effective["/visit"]
    assert page["layout.name"] == "plain"
    assert "audio-guide" not in page
    assert {**page}["sitemap.priority"] == 0.85
    with pytest.raises(KeyError):
        effective["/nowhere"]
    with pytest.raises(davlo.UnknownName, match=r"there is no setting 'sidebar\.top'"):
        effective.codes("sidebar.top")
    with pytest.raises(davlo.UnknownName, match="there is no page '/nowhere'"):
        effective.source("/nowhere", "menu.show")
    assert [repr(thing).split(":")[0].split(" of ")[0] for thing in (site, effective, page)] == [
        "<Site 'Quillmere Botanic Garden'",
        "<Effective",
        "<PageSettings",
    ]


def test_codes_and_tables_say_the_same(garden: Path) -> None:
    effective = davlo.open_site(garden).resolve()
    codes, words = effective.codes("sidebar.right")
    assert codes.dtype == "int32"
    assert [words[code] for code in codes.tolist()] == [page["sidebar.right"] for page in effective.values()]
    number = effective.site.setting_number("sidebar.right")
    values = {row[0]: row[1] for row in rows_of(wide(effective, [number]))}
    rows = [dict(zip(LONG_COLUMNS, row, strict=True)) for row in long_rows(effective, [0, 5])]
    assert {row["path"] for row in rows} == {effective.site.tree.paths[0], effective.site.tree.paths[5]}
    assert all(row["value"] == values[row["path"]] for row in rows if row["setting"] == "sidebar.right")


def test_words_are_coded_once() -> None:
    words = Codebook(["a", "b", "a"])
    assert (words.find("b"), words.find("c"), words.code("c"), words.items) == (1, -1, 2, ["a", "b", "c"])


def test_a_title_names_a_page_where_only_one_has_it(garden: Path) -> None:
    site = davlo.open_site(garden)
    assert site.tree.paths[site.find_page("Dog rose")] == "/plants/roses/dog-rose"
    assert site.tree.paths[site.find_page("/fr")] == "/fr"
    with pytest.raises(davlo.UnknownName) as caught:
        site.find_page("Opening times")
    assert caught.value.allowed == ("/visit/opening-times", "/visit/cafe/opening-times")
