"""Files that leave the site are the old or the new ones: wherever the process ends, and whatever fails."""

from __future__ import annotations

import errno
import json
import os
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest

from davlo.files.output import sitemap_xml
from tests.conftest import Run, write_small
from tests.steps_of_writing import at_each_step, end_at_step, steps_of

SITE = """site: {name: Small, url: "https://small.example", languages: [en], ownership_proofs: [{file: known/a.txt, text: a}]}
"""

Command = Callable[[Path], list[str]]


@pytest.fixture
def published(tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A site that was published, and of which a sitemap would have a part less and a part that differs, and no ownership proof."""
    monkeypatch.setattr(sitemap_xml, "MOST_ADDRESSES", 2)
    folder = tmp_path / "small"
    folder.mkdir()
    write_small(folder, "", "path\n/\n/a\n/b\n/c\n/d\n")
    (folder / "davlo.yaml").write_text("davlo: 1\n" + SITE)
    assert run(*crawler_files(folder)).status == 0
    (folder / "davlo.yaml").write_text("davlo: 1\n" + SITE.split(", ownership_proofs")[0] + "}\n")
    (folder / "pages.csv").write_text("path\n/\n/a\n/c\n")
    return folder


def crawler_files(folder: Path) -> list[str]:
    return ["crawler-files", "--to", str(folder / "public"), "--today", "2026-11-28", "--site", str(folder), "--write"]


def sitemap(folder: Path) -> list[str]:
    return ["sitemap", "--to", str(folder / "public" / "sitemap.xml"), "--today", "2026-11-28", "--site", str(folder)]


def contents(folder: Path) -> dict[str, bytes]:
    """Every file of a folder but Davlo's own."""
    files = (path for path in folder.rglob("*") if path.is_file() and ".davlo" not in path.parts)
    return {str(path.relative_to(folder)): path.read_bytes() for path in files}


def states(folder: Path, command: Command) -> tuple[dict[str, bytes], dict[str, bytes], int]:
    """The published files before and after a command, and the number of its steps."""
    old, other = contents(folder / "public"), copied(folder, 0)
    steps = steps_of(command(other))
    return old, contents(other / "public"), steps


def copied(folder: Path, number: int) -> Path:
    """A copy of a site beside it, with what was published from it."""
    other = folder.parent / f"at-{number}"
    shutil.copytree(folder, other)
    return other


@pytest.mark.parametrize("command", [crawler_files, sitemap])
def test_wherever_the_process_ends_the_next_command_finds_the_old_or_the_new_files(
    published: Path, run: Run, command: Command
) -> None:
    old, new, steps = states(published, command)
    assert (steps > 30, len(new) < len(old)) == (True, True)
    found, told = set(), set()
    for last in range(1, steps + 1):
        folder = copied(published, last)
        end_at_step(command(folder), last)
        again = run(*crawler_files(folder)[:-1], "--format", "json")
        assert again.status == 0, again.err
        now = contents(folder / "public")
        assert now in (old, new), last
        found.add(now == new)
        told.add(again.err.replace(str(folder), "SITE"))
        if now == new and command == crawler_files:
            assert {one["what"] for one in json.loads(again.out)["files"]} == {"as it is"}
        assert not list((folder / ".davlo").glob("output*.json"))
        shutil.rmtree(folder)
    assert found == {True, False}
    cut_off = "note: writing to SITE/public was cut off, and is "
    assert told == {"", f"{cut_off}taken back now\n", f"{cut_off}finished now\n"}


@pytest.mark.parametrize("command", [crawler_files, sitemap])
def test_whatever_fails_the_files_are_the_old_or_the_new_ones(published: Path, run: Run, command: Command) -> None:
    old, new, steps = states(published, command)

    def fail(number: int) -> None:
        if number == at:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    outcomes = set()
    for at in range(1, steps + 1):
        folder = copied(published, at)
        with at_each_step(fail):
            got = run(*command(folder))
        assert (got.status, "Traceback" in got.err) in ((0, False), (2, False)), (at, got.err)
        assert run(*crawler_files(folder)[:-1]).status == 0
        assert contents(folder / "public") == (old if got.status else new), (at, got.err)
        assert not list((folder / ".davlo").glob("output*.json"))
        outcomes.add(got.status)
        shutil.rmtree(folder)
    assert outcomes == {0, 2}


FORGED = [
    {"file": "../victim.txt", "own": False, "new": ".victim.txt.abcd.part", "old": ".victim.txt.abcd.old"},
    {"file": "victim.txt", "own": False, "new": "davlo.yaml", "old": ".victim.txt.abcd.old"},
    {"file": "victim.txt", "own": False, "new": None, "old": "victim.txt"},
    {"file": "victim.txt", "own": False, "new": None, "old": ".victim.txt.abcd.old"},
    {"file": "victim.txt", "own": False, "new": ".victim.txt.abcd.part", "old": "../.victim.txt.abcd.old"},
    {"file": "../davlo.yaml", "own": True, "new": None, "old": ".davlo.yaml.abcd.old"},
    {"file": ["victim.txt"], "own": False, "new": 3, "old": None},
    {},
]


@pytest.mark.parametrize("forged", [*FORGED, None])
def test_a_forged_note_does_nothing(published: Path, run: Run, forged: dict[str, object] | None) -> None:
    end_at_step(crawler_files(published), steps_of(crawler_files(copied(published, 0))) - 1)
    noted = next((published / ".davlo").glob("output*.json"))
    run(*crawler_files(published)[:-1])
    (published / "victim.txt").write_text("mine")
    (published / "public" / "victim.txt").write_text("mine")
    before = contents(published)
    noted.write_text(json.dumps({"version": 1, "complete": True, "files": [forged] if forged is not None else 1}))
    assert run(*crawler_files(published)[:-1]).status == 0
    assert (contents(published), noted.exists()) == (before, False)
