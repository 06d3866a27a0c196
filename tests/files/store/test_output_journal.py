"""Files that leave the site are the old or the new ones: wherever the process ends, and whatever fails."""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable
from pathlib import Path

import pytest

from davlo.files.output import sitemap_xml
from tests.conftest import Run, write_small
from tests.steps_of_writing import as_it_is, at_each_step, end_at_step, steps_of

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
    """The published files before and after a command, and the number of its steps; the folder stays as it is."""
    old = contents(folder / "public")
    with as_it_is(folder):
        steps = steps_of(command(folder))
        return old, contents(folder / "public"), steps


@pytest.mark.exhaustive
@pytest.mark.parametrize("command", [crawler_files, sitemap])
def test_wherever_the_process_ends_the_next_command_finds_the_old_or_the_new_files(
    published: Path, run: Run, command: Command
) -> None:
    old, new, steps = states(published, command)
    assert (steps > 30, len(new) < len(old)) == (True, True)
    found, told = set(), set()
    with as_it_is(published) as bring_back:
        for last in range(1, steps + 1):
            end_at_step(command(published), last)
            again = run(*crawler_files(published)[:-1], "--format", "json")
            assert again.status == 0, again.err
            now = contents(published / "public")
            assert now in (old, new), last
            found.add(now == new)
            told.add(again.err.replace(str(published), "SITE"))
            if now == new and command == crawler_files:
                assert {one["what"] for one in json.loads(again.out)["files"]} == {"as it is"}
            assert not list((published / ".davlo").glob("output*.json"))
            bring_back()
    assert found == {True, False}
    cut_off = "note: writing to SITE/public was cut off, and is "
    assert told == {"", f"{cut_off}taken back now\n", f"{cut_off}finished now\n"}


@pytest.mark.exhaustive
@pytest.mark.parametrize("command", [crawler_files, sitemap])
def test_whatever_fails_the_files_are_the_old_or_the_new_ones(published: Path, run: Run, command: Command) -> None:
    old, new, steps = states(published, command)

    def fail(number: int) -> None:
        if number == at:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    outcomes = set()
    with as_it_is(published) as bring_back:
        for at in range(1, steps + 1):
            with at_each_step(fail):
                got = run(*command(published))
            assert (got.status, "Traceback" in got.err) in ((0, False), (2, False)), (at, got.err)
            assert run(*crawler_files(published)[:-1]).status == 0
            assert contents(published / "public") == (old if got.status else new), (at, got.err)
            assert not list((published / ".davlo").glob("output*.json"))
            outcomes.add(got.status)
            bring_back()
    assert outcomes == {0, 2}


@pytest.mark.exhaustive
@pytest.mark.parametrize("command", [crawler_files, sitemap])
def test_what_another_program_saves_while_files_are_put_into_place_is_not_lost(
    published: Path, run: Run, command: Command
) -> None:
    old, new, steps = states(published, command)
    name, theirs = "sitemap.xml", b"theirs"
    path = published / "public" / name

    def save(number: int) -> None:
        if number == at:
            path.write_bytes(theirs)

    refused = []
    with as_it_is(published) as bring_back:
        for at in range(1, steps + 1):
            with at_each_step(save):
                got = run(*command(published))
            now = contents(published / "public")
            if got.status:
                refused.append(at)
                assert (now, got.status) == ({**old, name: theirs}, 2), at
                assert f"{name}: somebody else changed it while Davlo worked: run this again" in got.err
            else:  # it was saved before Davlo looked, or after the last file was in its place
                assert now in (new, {**new, name: theirs}), at
            bring_back()
    assert len(refused) > 3
    assert refused == [*range(refused[0], refused[-1] + 1)]
