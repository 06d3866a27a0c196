"""Answers that were wrong: each by the command that gave it."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run, write_small

Small = Callable[..., Path]


def test_a_page_near_the_end_may_have_a_very_long_title(
    small: Small, run: Run, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = small("", "path,title\n/,Home\n/a,A\n/b,B\n")
    other = write_small(tmp_path_factory.mktemp("other"), "", f"path,title\n/,Home\n/a,A\n/b,{'漢' * 44}\n")
    assert run("compare", str(other), "--site", str(folder)).status == 0
    assert run("page", "set", "/b", f"title={'字' * 90}", "--site", str(folder)).status == 0
    assert run("set", f"title.pattern={'é' * 200}", "--here", "/b", "--site", str(other)).status == 0


def test_all_keys_of_a_condition_must_hold(small: Small) -> None:
    rules = "rules:\n  - {name: x, when: {language: en, details: {language: fr}}, give: {title.limit: 9}}\n"
    rules += "  - {name: y, when: {status: live, details: {status: draft, language: fr}}, give: {title.limit: 8}}\n"
    rules += "  - {name: z, when: {language: [en, fr], details: {language: fr}}, give: {title.limit: 7}}\n"
    effective = davlo.open_site(small(rules, "path,language,status\n/,en,\n/a,fr,draft\n/b,,\n")).resolve()
    assert [effective[page]["title.limit"] for page in ("/", "/a", "/b")] == [60, 7, 60]


def test_an_unrelated_entry_does_not_move_the_home_page(small: Small, run: Run) -> None:
    rows = "path,title,order,leads_to\n/,Home,1.5,\n/f,F,2,https://else.example/\n/f/x,X,1,\n/h,H,1.2,\n"
    for more in ("", "/g,G,1.7,\n"):
        folder = small("", rows + more)
        listed = json.loads(run("menus", "--format", "json", "--site", str(folder)).out)
        labels = [one["label"] for one in (listed[0]["links"] if isinstance(listed, list) else listed["links"])]
        assert labels == ["H", "Home", *(["G"] if more else []), "X"]


def test_nobody_is_in_the_group_of_a_page(small: Small, run: Run) -> None:
    people = "people: {names: [ed, ann], admins: [ann], groups: {crew: []}}\n"
    folder = small(
        f"{people}everywhere: {{access: {{owner-group: [edit]}}, page.group: crew}}\n", "path,page.group\n/,crew\n"
    )
    told = json.loads(run("check", "--kind", "nobody-may-edit", "--format", "json", "--site", str(folder)).out)
    assert "gives it to the page's group, and nobody is in the group of these pages" in told[0]["message"]


def test_a_phone_order_is_blamed_where_the_area_is_named(small: Small, run: Run) -> None:
    layouts = "layouts: {plain: {areas: [content, footer]}, wide: {areas: [content, right, footer]}}\n"
    more = "everywhere:\n  layout.name: plain\n  layout.phone-order: [content, right]\n"
    folder = small(f"{layouts}{more}pages:\n  /a: {{here: {{layout.phone-order: {{add: [footer]}}}}}}\n")
    words = ("check", "--kind", "phone-order-incomplete", "--format", "json", "--site", str(folder))
    assert {one["line"] for told in json.loads(run(*words).out) for one in told["statements"]} == {6}


def test_a_change_of_nothing_but_a_lock_is_told(small: Small, run: Run) -> None:
    folder = small("everywhere: {title.limit: 50}\n")
    got = run("set", "title.limit=50", "--everywhere", "--lock", "--site", str(folder)).out
    assert "no value changes, on 3 pages a lock does" in got
    assert "title.limit: is locked now on 3 pages: /, /a, /a/b\n" in got


def test_two_rows_with_fragments_must_agree(small: Small, run: Run) -> None:
    got = run("tree", "--site", str(small("", "path,title\n/,H\n/a#x,A\n/a#y,B\n")))
    assert (got.status, "/a is there twice; the first is at line 3, and they differ in title" in got.err) == (2, True)
    assert run("tree", "--site", str(small("", "path,title\n/,H\n/a#x,A\n/a#y,A\n"))).status == 0
    assert run("tree", "--site", str(small("", "path,title\n/,H\n/a#x,A\n/a#y,B\n/a,C\n"))).status == 0


def test_a_link_may_be_written_in_capitals(small: Small, run: Run) -> None:
    links = "{Own: 'HTTPS://Small.example/a', Else: 'Http://else.example/x', Mail: 'MAILTO:a@b.example'}"
    folder = small(
        f"blocks: {{q: {{kind: links, links: {links}}}}}\nlayouts: {{plain: {{areas: [content], blocks: {{content: [q]}}}}}}\n"
    )
    told = json.loads(run("menus", "q", "--on", "/", "--format", "json", "--site", str(folder)).out)
    assert '"/a"' in json.dumps(told)


def test_a_setting_for_the_program_counts_as_shown(small: Small, run: Run) -> None:
    settings = "settings: {cache.static: {kind: flag, used_by: program}, other: {kind: flag, used_by: []}}\n"
    folder = small(f"{settings}everywhere: {{cache.static: yes, other: yes}}\n")
    told = json.loads(run("check", "--kind", "unread-setting", "--format", "json", "--site", str(folder)).out)
    assert [one["setting"] for one in told] == ["other"]
    assert "3 pages" in run("tree", "--shown", "cache.static", "--site", str(folder)).out
    folder = small("blocks: {program: {kind: text, text: x}}\n")
    assert "no block may be called program: the word has a meaning of its own" in run("tree", "--site", str(folder)).err


def test_the_exception_of_a_person_comes_first(small: Small, run: Run) -> None:
    rows = "path\n/\n" + "".join(f"/p{number}\n" for number in range(68))
    folder = small(
        "people: {names: [ed, ann], admins: [ann]}\npages: {/p40: {here: {access: {ed: [view, edit]}}}}\n", rows
    )
    told = run("access", "--as", "ed", "--site", str(folder)).out.splitlines()
    assert told[:2] == ["On most of these pages, 68: view. Otherwise:", "  view, edit on 1 page: /p40"]


def test_a_visitor_is_counted_apart_from_people(small: Small, run: Run) -> None:
    folder = small("people: {names: [ed, bo, ann], admins: [ann]}\n")
    got = run("set", "access.everyone=none", "--everywhere", "--brief", "--site", str(folder)).out
    assert (
        got.splitlines()[1]
        == "3 pages change; a visitor and 2 people lose something; 3 menu entries change; 3 sitemap entries change"
    )


def test_only_pages_with_a_value_are_found_by_what_is_shown(small: Small, run: Run) -> None:
    folder = small(
        "layouts: {plain: {areas: [content, right]}}\nsidebars: {main: {}}\neverywhere: {layout.name: plain}\n"
        "blocks: {b: {kind: text, text: x}}\npages: {/a: {here: {blocks.right: [b]}}}\n"
    )
    assert run("tree", "--shown", "blocks.right", "--format", "csv", "--site", str(folder)).out.count("\n") == 2
    assert run("tree", "--shown", "sidebar.right", "--site", str(folder)).out == "\nno page matches that\n"


def test_sarif_names_files_from_the_root_of_the_repository(tmp_path: Path, run: Run) -> None:
    folder = tmp_path / "sites" / "garden one"
    davlo.write_demo(folder)
    for root, before in ((None, ""), (tmp_path, "sites/garden%20one/"), (folder, "")):
        if root is not None:
            shutil.rmtree(tmp_path / ".git", ignore_errors=True)
            subprocess.run(["git", "init", "-q", str(root)], check=True)
        results = json.loads(run("check", "--all", "--format", "sarif", "--site", str(folder)).out)["runs"][0][
            "results"
        ]
        places = [one["locations"][0]["physicalLocation"] for one in results]
        files = {one["artifactLocation"]["uri"] for one in places}
        assert all(file.startswith(before) and (folder / file[len(before) :]).is_file() for file in files)
        assert all(one["region"]["startLine"] > 0 for one in places)


@pytest.mark.parametrize("name", ["davlo.yaml", "pages.csv"])
def test_a_merge_that_is_not_finished_is_called_that(small: Small, run: Run, name: str) -> None:
    folder = small()
    text = (folder / name).read_text()
    (folder / name).write_text(f"{text}<<<<<<< HEAD\n/x\n=======\n/y\n>>>>>>> side\n")
    got = run("tree", "--site", str(folder))
    line = text.count("\n") + 1
    assert (got.status, f"{name}:{line}: git could not merge two versions here" in got.err) == (2, True)


def test_a_date_of_another_program_may_be_a_year_or_a_month(small: Small, run: Run) -> None:
    rows = "loc,lastmod\nhttps://s.example/a,2026\nhttps://s.example/b,2026-05\n"
    folder = small("sitemap: {add_addresses_from: [x.csv]}\n", files={"x.csv": rows})
    got = run("sitemap", "--to", "-", "--site", str(folder))
    assert "<lastmod>2026</lastmod>" in got.out
    assert "<lastmod>2026-05</lastmod>" in got.out
    (folder / "x.csv").write_text(rows + "https://s.example/c,2026-13\n")
    assert run("sitemap", "--to", "-", "--site", str(folder)).status == 2


def test_robots_that_hide_the_sitemap_are_a_warning(small: Small, run: Run) -> None:
    folder = small("robots: |\n  User-agent: *\n  Disallow: /sitemap.xml\n")
    got = run("crawler-files", "--to", str(folder / "public"), "--site", str(folder)).out
    assert "warning: robots.txt keeps crawlers from the sitemap itself, by 'Disallow: /sitemap.xml'" in got
    told = json.loads(
        run("crawler-files", "--to", str(folder / "public"), "--format", "json", "--site", str(folder)).out
    )
    assert told["closes the sitemap"].startswith("davlo.yaml:")


def test_markdown_calls_nobody_and_links_nothing(
    small: Small, run: Run, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = small("", "path,title\n/,Home\n/a,A\n")
    titled = "path,title\n/,Home\n/a,@ida see https://evil.example or www.evil.example \u202e#12\n"
    other = write_small(tmp_path_factory.mktemp("other"), "", titled)
    got = run("compare", str(folder), "--format", "markdown", "--site", str(other)).out
    assert "@&#8203;ida see https:&#8203;//evil.example or www&#8203;.evil.example" in got
    assert "\u202e" not in got


def test_what_an_alias_says_is_not_taken_away_in_silence(small: Small, run: Run) -> None:
    folder = small("pages:\n  /a:\n    here: &x\n      title.limit: 9\n  /a/b:\n    here: *x\n")
    for words in (["unset", "title.limit", "--here", "/a/b"], ["set", "title.limit=8", "--here", "/a"]):
        got = run(*words, "--site", str(folder))
        assert (got.status, "it is said in one place for several" in got.err) == (1, True)


def test_a_base_is_one_and_no_list(small: Small, run: Run) -> None:
    layouts = "layouts: {plain: {areas: [content]}, two: {areas: [content, right]}, x: {based_on: [plain, two]}}\n"
    looks = "looks: {a: {}, b: {based_on: [a, a]}}\ntypes: {note: {based_on: [page]}}\n"
    got = run("tree", "--site", str(small(layouts + looks)))
    assert got.status == 2
    for kind, first in (("layout", "plain"), ("look", "a"), ("type", "page")):
        assert f"based_on takes one {kind}, not a list\n  based_on: {first}\n" in got.err


def test_pages_that_were_published_and_are_gone_are_named(small: Small, run: Run) -> None:
    more = "blocks: {q: {kind: links, links: {A: /a}}}\n"
    folder = small(more, "path,status,leads_to\n/,,\n/a,,\n/b,,\n/c,,\n")
    words = ("crawler-files", "--to", str(folder / "public"), "--site", str(folder))
    assert run(*words, "--write").status == 0
    (folder / "pages.csv").write_text("path,status,leads_to\n/,,\n/b,draft,\n/c,,\n/d,,/a\n")
    told = json.loads(run(*words, "--format", "json").out)["lost pages"]
    assert [(one["path"], one["draft"]) for one in told] == [("/a", False), ("/b", True)]
    assert told[0]["led_from"] == ["block q (davlo.yaml:3)", "page /d (pages.csv:5, column leads_to)"]
    text = " ".join(run(*words).out.split())
    assert "note: /a was published and is gone, without a redirect; block q (davlo.yaml:3)" in text
    assert "note: /b was published and is a draft now, without a redirect" in text


def test_a_list_counts_what_is_hidden_below_an_entry_alone(small: Small, run: Run) -> None:
    tops = "".join(f"/p{number:02}\n" for number in range(40))
    folder = small(
        "", f"path\n/\n{tops}" + "".join(f"/p{number:02}/x\n/p{number:02}/x/y\n" for number in range(0, 40, 3))
    )
    told = run("menus", "--site", str(folder)).out
    counted = dict(re.findall(r"(/p\d\d) +(\(\+\d+\))", told))
    assert counted
    assert set(counted.values()) == {"(+2)"}
