"""Two colleagues change one site in a repository of git: what both wrote can be kept by keeping both sides."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path
from random import Random

import pytest

import davlo
from davlo.core.change.steps.change import CHANGED, AddRule, Change, ChangeError, Declare, Say, Step
from davlo.core.site.declarations import Sidebar
from davlo.core.site.pages.conditions import Condition
from davlo.core.site.settings.scopes import Scope
from davlo.files.rewrite.cannot_rewrite import CannotRewrite
from davlo.files.rewrite.rewrite import rewrite
from tests.conftest import Run, contents
from tests.files.rewrite.test_rewrite import make
from tests.sites import SiteDict, of_made_up_sites, write_site


def both_sides(base: bytes, ours: bytes, theirs: bytes) -> bytes:
    """A file merged by git; of a conflict both sides stay, ours first."""
    with tempfile.TemporaryDirectory() as name:
        files = [Path(name, one) for one in ("ours", "base", "theirs")]
        for file, content in zip(files, (ours, base, theirs), strict=True):
            file.write_bytes(content)
        run = subprocess.run(["git", "merge-file", "-p", "--union", *files], capture_output=True, check=False)
        assert run.returncode >= 0, run.stderr
        return run.stdout


@of_made_up_sites(8)
def test_after_both_sides_are_kept_the_file_reads_and_says_both(site: SiteDict) -> None:
    random = Random(str(site["rows"]))
    with tempfile.TemporaryDirectory() as name:
        folder = write_site(site, Path(name))
        for file, content in contents(folder).items():  # to git, a file with the line ends of old Macs is one line
            (folder / file).write_bytes(content.replace(b"\r\n", b"\n").replace(b"\r", b"\n"))
        opened, before = davlo.open_site(folder), contents(Path(name))
        mine = [path for path in opened.tree.paths if not any(key[0] == path for key in said_in(opened))]
        random.shuffle(mine)
        sides, wanted = list[dict[str, bytes]](), list[Step]()
        for number in range(2):
            pages = mine[number::2][:3]
            steps: list[Step] = [Say(Scope.here(path), "menu.show", False) for path in pages]
            steps += [AddRule(f"Side {number}", Condition(path=("/",)), (("title.limit", 50 + number),), (), "")]
            steps += [Declare(Sidebar(f"side-{number}", CHANGED, note="New"))]
            try:
                make(folder, rewrite(opened, folder, Change(tuple(steps))))
            except (ChangeError, CannotRewrite):
                return
            wanted += steps
            sides.append(contents(Path(name)))
            for file, content in before.items():
                Path(name, file).write_bytes(content)
        for file, content in before.items():
            Path(name, file).write_bytes(both_sides(content, sides[0][file], sides[1][file]))
        merged = davlo.open_site(folder)
        assert {rule.name for rule in merged.rules} >= {"Side 0", "Side 1"}
        assert {"side-0", "side-1"} <= set(merged.declarations.sidebars)
        menu = merged.setting_number("menu.show")
        for step in wanted:
            if isinstance(step, Say):
                row = merged.statements.find(menu, step.scope.kind, merged.tree.number(step.scope.name))
                assert row >= 0
                assert merged.statements.said(row) is False


def said_in(site: davlo.Site) -> set[tuple[str, str]]:
    """The pages that say something themselves already: two sides that change one entry have to agree."""
    from davlo.core.site.source import source_of

    scopes = (source_of(site, row).scope for row in range(len(site.statements)))
    return {(scope.name, scope.kind.word) for scope in scopes if scope.name.startswith("/")}


@pytest.mark.parametrize("begun", ["", "rules: []   # none yet\n", "menu: {max_entries: 7}\n"])
def test_the_first_rules_of_two_people_can_both_be_kept(tmp_path: Path, begun: str) -> None:
    base = f'davlo: 1\nsite: {{name: A, url: "https://a.example"}}\n{begun}'.encode()
    (tmp_path / "pages.csv").write_text("path,title\n/,Home\n/a,A\n", encoding="utf-8")
    file, sides = tmp_path / "davlo.yaml", list[bytes]()
    for number in range(2):
        file.write_bytes(base)
        change = Change().add_rule(f"Rule {number}", Condition(path=("/a",)), {"menu.label": str(number)})
        make(tmp_path, rewrite(davlo.open_site(tmp_path), tmp_path, change))
        sides.append(file.read_bytes())
    file.write_bytes(both_sides(base, *sides))
    assert {rule.name for rule in davlo.open_site(tmp_path).rules} == {"Rule 0", "Rule 1"}
    assert "none yet" not in begun or "rules:   # none yet\n  - {" in file.read_text(encoding="utf-8")


@pytest.mark.parametrize(
    ("content", "pages"),
    [
        ("pages:\n<<<<<<< HEAD\n  /a: {here: {}}\n=======\n  '/b': {}\n>>>>>>> side\n", "of /a, /b"),
        ("pages:\n  /a:\n    here:\n<<<<<<< HEAD\n      menu.show: no\n=======\n      x: 1\n>>>>>>> x\n", "of /a"),
        ("sidebars:\n<<<<<<< HEAD\n  one: {}\n=======\n  two: {}\n>>>>>>> side\n", "still stand in the file\n"),
    ],
)
def test_a_conflict_names_its_pages(tmp_path: Path, run: Run, content: str, pages: str) -> None:
    (tmp_path / "davlo.yaml").write_text(f"davlo: 1\nsite: {{name: A, url: 'https://a.example'}}\n{content}", "utf-8")
    (tmp_path / "pages.csv").write_text("path,title\n/,Home\n", encoding="utf-8")
    got = run("check", "--site", str(tmp_path))
    assert (got.status, pages in got.err, "take out the lines <<<<<<<" in got.err) == (2, True, True), got.err


def test_a_conflict_in_a_sheet_names_its_pages(own: Path, run: Run) -> None:
    with (own / "pages.csv").open("a", encoding="utf-8") as file:
        file.write("<<<<<<< HEAD\n/new-one,One\n=======\n/new-two,Two\n>>>>>>> side\n")
    got = run("check", "--site", str(own))
    assert (got.status, "of /new-one, /new-two" in got.err) == (2, True), got.err


def test_davlos_own_folder_stays_out_of_the_repository(own: Path, run: Run) -> None:
    subprocess.run(["git", "init", "-q", str(own)], check=True)
    assert run("set", "menu.show=no", "--here", "/visit/maps", "--write", "--site", str(own)).status == 0
    told = subprocess.run(["git", "-C", str(own), "status", "--porcelain"], capture_output=True, text=True, check=True)
    assert ".davlo/" not in told.stdout
    assert (own / ".davlo").is_dir()
