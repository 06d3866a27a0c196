"""The files that search engines read: what is in them, what is new, and that they are written whole or not at all."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from protego import Protego

import davlo.files.output.publication as publication
from davlo.files.output.redirects import redirects
from tests.conftest import Run

Small = Callable[..., Path]
ROBOTS = "robots: |\n  User-agent: *\n  Disallow: /find\n"


def files(folder: Path) -> dict[str, str]:
    return {str(path.relative_to(folder)): path.read_text() for path in folder.rglob("*") if path.is_file()}


def test_the_garden_is_published_and_then_what_is_new(own: Path, run: Run) -> None:
    words = ("crawler-files", "--to", str(own / "public"), "--today", "2026-11-25", "--site", str(own))
    told = run(*words)
    assert (told.status, (own / "public").exists()) == (0, False)
    assert told.out.endswith(
        f"Nothing is written. To write them: davlo crawler-files --to {own}/public --write --site {own}\n"
    )
    assert run(*words, "--write").status == 0
    written = files(own / "public")
    assert written["robots.txt"] == (
        "User-agent: *\nDisallow: /search?\n\nSitemap: https://quillmere.example/sitemap.xml\n"
    )
    assert (sorted(written), written["quillmere-5d1c0a9e.txt"]) == (
        ["quillmere-5d1c0a9e.txt", "robots.txt", "sitemap.xml"],
        "quillmere-5d1c0a9e",
    )
    again = json.loads(run(*words, "--format", "json").out)
    assert {one["what"] for one in again["files"]} == {"as it is"}
    assert "There is nothing to write" in run(*words).out
    assert run("page", "move", "/visit/cafe", "/cafe", "--write", "--site", str(own)).status == 0
    then = json.loads(run(*words, "--format", "json").out)
    assert then["sitemap"] == {
        "new": ["/cafe", "/cafe/menu", "/cafe/opening-times"],
        "changed": ["/fr/visiter/cafe"],
        "gone": [],
    }
    assert {one["file"]: one["what"] for one in then["files"]} == {
        "sitemap.xml": "changed",
        "robots.txt": "as it is",
        "quillmere-5d1c0a9e.txt": "as it is",
        "redirects.csv": "new",
    }
    assert run(*words, "--write").status == 0
    host = "https://quillmere.example"
    assert files(own / "public")["redirects.csv"].splitlines()[:2] == ["from,to", f"{host}/visit/cafe,{host}/cafe"]
    assert run("check", "--site", str(own)).out.count("sitemap-stale") == 0
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert json.loads(run(*words, "--format", "json").out)["redirects"][f"{host}/cafe"] == f"{host}/visit/cafe"
    stale = json.loads(run("check", "--format", "json", "--site", str(own)).out)
    fixes = [one["fix"] for one in stale if one["kind"] == "sitemap-stale"]
    assert [fix.split(" --site")[0].split(" --to")[0] for fix in fixes] == ["write it again: davlo crawler-files"]
    assert fixes[0].split(" --site")[0].endswith("public --write")


def test_proofs_are_files_or_tags_of_the_home_page(own: Path, run: Run) -> None:
    head = json.loads(run("show", "/", "--format", "json", "--site", str(own)).out)["head"]
    assert head == ['<meta name="quillmere-proof" content="9b41f6e2">']
    assert json.loads(run("show", "/visit", "--format", "json", "--site", str(own)).out)["head"] == []


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("../a.txt", "it leaves the folder"),
        ("/a.txt", "it leaves the folder"),
        ("C:a.txt", "it leaves the folder"),
        ("a/../../b", "it leaves the folder"),
        ("robots.txt", "Davlo writes that file"),
        ("sitemap-2.xml", "Davlo writes that file"),
        (".git/hooks", "no file can be called that"),
        ("a//b", "no file can be called that"),
    ],
)
def test_a_proof_that_leaves_the_folder_is_refused(small: Small, run: Run, name: str, why: str) -> None:
    folder = small("")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(
        text.replace("languages:", f'ownership_proofs: [{{file: "{name}", text: x}}], languages:')
    )
    got = run("crawler-files", "--to", str(folder / "public"), "--write", "--site", str(folder))
    assert (got.status, why in got.err, (folder / "public").exists()) == (2, True, False)


def test_no_file_of_the_site_is_written_over(small: Small, run: Run) -> None:
    folder = small("", "path\n/\n")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(
        text.replace("languages:", "ownership_proofs: [{file: pages.csv, text: x}], languages:")
    )
    got = run("crawler-files", "--to", str(folder), "--write", "--replace", "--site", str(folder))
    assert (got.status, "which the site reads" in got.err, (folder / "pages.csv").read_text()) == (2, True, "path\n/\n")
    assert not (folder / "robots.txt").exists()


def test_a_link_leads_no_file_out_of_the_folder(small: Small, run: Run, tmp_path: Path) -> None:
    folder = small("", "path\n/\n")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(
        text.replace("languages:", 'ownership_proofs: [{file: "w/a.txt", text: x}], languages:')
    )
    public, outside = tmp_path / "public", tmp_path / "outside"
    public.mkdir()
    outside.mkdir()
    (public / "w").symlink_to(outside)
    got = run("crawler-files", "--to", str(public), "--write", "--site", str(folder))
    assert (got.status, [*outside.iterdir()], [path.name for path in public.iterdir()]) == (2, [], ["w"])


def test_robots_txt_never_hides_that_a_page_is_not_to_be_found(small: Small, run: Run) -> None:
    pages = "path,robots.index\n/,\n/find,no\n/find/more,\n"
    folder = small(ROBOTS, pages)
    words = ("crawler-files", "--to", str(folder / "public"), "--write", "--site", str(folder))
    got = run(*words)
    assert (got.status, (folder / "public").exists()) == (1, False)
    assert "davlo.yaml:5: 'Disallow: /find' keeps crawlers from reading /find, so they never learn" in got.err
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text + "  Allow: /find$\n")
    got = run(*words)
    assert got.status == 0
    assert "warning: 1 page is in the sitemap, and robots.txt keeps crawlers away; the first: /find/more" in got.out
    robots = Protego.parse((folder / "public" / "robots.txt").read_text())
    found = [robots.can_fetch(f"https://small.example{path}", "any") for path in ("/", "/find", "/find/more")]
    assert (found, [*robots.sitemaps]) == ([True, True, False], ["https://small.example/sitemap.xml"])


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("Disallow: /a", "comes before any User-agent"),
        ("no colon", "takes a word, a colon and a value"),
        ("User-agent: two words", "User-agent takes the name of a crawler"),
        ("User-agent: *\n  Allow: a", "Allow takes a path that begins with /"),
        ("User-agent: *\n  Disallow: /" + "a" * 600_000, "longer than the 512,000 bytes"),
    ],
)
def test_lines_that_crawlers_would_not_take_are_faults(small: Small, run: Run, line: str, told: str) -> None:
    got = run("crawler-files", "--to", "x", "--site", str(small(f"robots: |\n  {line}\n")))
    assert (got.status, told in got.err) == (2, True), got.err


def test_files_that_are_not_davlos_are_written_over_only_if_told(small: Small, run: Run) -> None:
    folder = small(ROBOTS, "path\n/\n")
    (folder / "public").mkdir()
    (folder / "public" / "robots.txt").write_text("User-agent: *\nDisallow: /private\n")
    words = ("crawler-files", "--to", str(folder / "public"), "--site", str(folder))
    got = run(*words, "--write")
    assert (got.status, files(folder / "public")["robots.txt"].endswith("/private\n")) == (1, True)
    assert "robots.txt is there already, and Davlo did not write it" in got.err
    assert (run(*words, "--write", "--replace").status, "Sitemap:" in files(folder / "public")["robots.txt"]) == (
        0,
        True,
    )


def test_what_cannot_be_written_leaves_the_old_files(small: Small, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = small(ROBOTS, "path\n/\n")
    words = ("crawler-files", "--to", str(folder / "public"), "--site", str(folder), "--write")
    assert run(*words).status == 0
    before = files(folder / "public")
    (folder / "pages.csv").write_text("path\n/\n/new\n")
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("/find", "/look"))

    def fails(site: object, *rest: object) -> bytes:
        raise OSError(28, "no space left", str(folder / "public" / "robots.txt"))

    monkeypatch.setattr(publication, "record_of_files", fails)
    assert run(*words).status == 2
    assert files(folder / "public") == before
    monkeypatch.undo()
    (folder / "davlo.yaml").write_text(
        text.replace("languages:", "ownership_proofs: [{file: p.txt, text: x}], languages:")
    )
    assert run(*words).status == 0
    assert sorted(files(folder / "public")) == ["p.txt", "robots.txt", "sitemap.xml"]
    (folder / "davlo.yaml").write_text(text)
    assert run(*words).status == 0
    assert sorted(files(folder / "public")) == ["robots.txt", "sitemap.xml"]


def test_pages_that_went_without_a_redirect_are_counted(small: Small, run: Run) -> None:
    folder = small("", "path\n/\n/a\n/b\n/c\n/d\n")
    words = ("crawler-files", "--to", str(folder / "public"), "--site", str(folder))
    assert run(*words, "--write").status == 0
    assert run("page", "move", "/a", "/e", "--write", "--site", str(folder)).status == 0
    assert "without a redirect" not in run(*words).out
    (folder / "pages.csv").write_text("path\n/\n/e\n/bee\n/c\n")
    assert (
        "note: 2 pages that were published are gone, without a redirect: davlo page move notes one" in run(*words).out
    )
    assert json.loads(run(*words, "--format", "json").out)["gone without a redirect"] == 2
    assert run(*words, "--write").status == 0
    assert json.loads(run(*words, "--format", "json").out)["gone without a redirect"] == 0


@given(st.data())
def test_every_address_that_was_published_leads_to_the_page_or_is_one(data: st.DataObject) -> None:
    """Pages move about, and are published now and then; whoever knows an old address finds the page, if it can be."""
    names = "abcdef"
    at = {page: page for page in data.draw(st.lists(st.sampled_from(names), min_size=1, max_size=3, unique=True))}
    known, left = set(at.values()), dict[str, str]()
    moves, before = list[tuple[str, str]](), dict[str, str]()
    for _ in range(data.draw(st.integers(1, 8))):
        page = data.draw(st.sampled_from(sorted(at)))
        free = sorted(set(names) - set(at.values()))
        new = data.draw(st.sampled_from(free))
        moves.append((at[page], new))
        left[at[page]] = page
        at[page] = new
        if data.draw(st.booleans()):
            before = redirects(before, moves, set(at.values()).__contains__)
            known |= set(at.values())
            if data.draw(st.booleans()):
                moves = []
    found = redirects(before, moves, set(at.values()).__contains__)
    for address in known - set(at.values()):
        assert found[address] == at[left[address]]
    assert not set(found) & set(at.values())
    assert set(found.values()) <= set(at.values())
