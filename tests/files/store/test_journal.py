"""A write is whole or not at all: wherever the process ends, and whatever fails."""

from __future__ import annotations

import errno
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from itertools import product
from pathlib import Path

import pytest

import davlo
from davlo.files.rewrite.cannot_rewrite import ChangedSince
from davlo.files.store.write_lock import SiteInUse, write_lock
from tests.conftest import Run, contents, write_small
from tests.steps_of_writing import as_it_is, at_each_step, end_at_step, steps_of

WRITE = ("set", "menu.show=no", "--here", "/*", "--because", "Autumn", "--write")
"""It changes davlo.yaml and values.csv of `twofold` together."""


@pytest.fixture
def twofold(tmp_path: Path) -> Path:
    """A small site of which one change touches two files."""
    folder = tmp_path / "small"
    folder.mkdir()
    decisions = "pages: {/a: {here: {menu.show: yes, title.limit: 50}}}\n"
    write_small(folder, decisions, "path\n/\n/a\n/b\n/c\n/d\n", {"values.csv": "where,setting,value,because\n"})
    text = (folder / "davlo.yaml").read_text()
    (folder / "davlo.yaml").write_text(text.replace("languages: [en, fr]", "values: [values.csv]"))
    return folder


def states(folder: Path, words: tuple[str, ...]) -> tuple[dict[str, bytes], dict[str, bytes], int]:
    """What the files hold before and after a command, and the number of its steps; the folder stays as it is."""
    old = contents(folder)
    with as_it_is(folder):
        steps = steps_of([*words, "--site", str(folder)])
        new = contents(folder)
    assert old != new
    return old, new, steps


@pytest.mark.exhaustive
@pytest.mark.parametrize("command", [WRITE, ("undo", "--write")], ids=["write", "undo"])
def test_wherever_the_process_ends_the_next_command_finds_the_old_or_the_new_files(
    twofold: Path, run: Run, command: tuple[str, ...]
) -> None:
    if command[0] == "undo":
        assert run(*WRITE, "--site", str(twofold)).status == 0
    old, new, steps = states(twofold, command)
    assert steps > 20
    found = set()
    with as_it_is(twofold) as bring_back:
        for last in range(1, steps + 1):
            end_at_step([*command, "--site", str(twofold)], last)
            assert run("show", "/", "--site", str(twofold)).status == 0
            now = contents(twofold)
            assert now in (old, new), last
            found.add(now == new)
            writes = json.loads(run("undo", "--list", "--format", "json", "--site", str(twofold)).out)
            assert len(writes) == ((now == new) if command[0] == "set" else (now == old)), last
            assert not (twofold / ".davlo" / "journal.json").exists()
            bring_back()
    assert found == {True, False}


@pytest.mark.exhaustive
@pytest.mark.parametrize("why", [errno.ENOSPC, errno.EACCES], ids=["no space", "no permission"])
def test_whatever_fails_the_files_are_the_old_or_the_new_ones(twofold: Path, run: Run, why: int) -> None:
    old, new, steps = states(twofold, WRITE)

    def fail(number: int) -> None:
        if number == at:
            raise OSError(why, os.strerror(why))

    with as_it_is(twofold) as bring_back:
        for at in range(1, steps + 1):
            with at_each_step(fail):
                got = run(*WRITE, "--site", str(twofold))
            assert got.status in (0, 1, 2), (at, got.err)
            if got.status:
                assert os.strerror(why) in got.err or "Traceback" not in got.err
            assert run("show", "/", "--site", str(twofold)).status == 0
            assert contents(twofold) == (new if got.status == 0 else old), (at, got.err)
            bring_back()


def cut_off(folder: Path, command: tuple[str, ...], is_there: Callable[[Path], bool]) -> None:
    """Cut a command off at the first step after which something is true of the folder."""
    with tempfile.TemporaryDirectory() as holder:
        shutil.copytree(folder, Path(holder) / "saved")
        for last in range(1, 100):
            end_at_step([*command, "--site", str(folder)], last)
            if is_there(folder):
                return
            shutil.rmtree(folder)
            shutil.copytree(Path(holder) / "saved", folder)
    raise AssertionError("it is never so")


def has_journal(folder: Path) -> bool:
    return (folder / ".davlo" / "journal.json").exists()


@pytest.mark.exhaustive
def test_the_next_command_says_that_it_finished_a_write(twofold: Path, run: Run) -> None:
    _, new, _ = states(twofold, WRITE)
    cut_off(twofold, WRITE, has_journal)
    got = run("show", "/", "--site", str(twofold))
    assert got.err == "note: a write that was cut off is finished: set menu.show to no on / and 4 other pages\n"
    assert contents(twofold) == new


@pytest.mark.exhaustive
def test_a_write_that_cannot_be_finished_is_taken_back(twofold: Path, run: Run) -> None:
    old, new, _ = states(twofold, WRITE)
    half = lambda folder: has_journal(folder) and contents(folder)["davlo.yaml"] == new["davlo.yaml"]  # noqa: E731
    cut_off(twofold, WRITE, half)
    mine = old["values.csv"] + b"here /b,title.limit,33,\n"
    (twofold / "values.csv").write_bytes(mine)
    got = run("show", "/", "--site", str(twofold))
    assert got.err.startswith("note: a write that was cut off is taken back: set menu.show to no")
    assert contents(twofold) == {**old, "values.csv": mine}


def save_into(path: Path, content: bytes) -> None:
    path.write_bytes(content)


def save_beside(path: Path, content: bytes) -> None:
    """Save as most editors do: a new file gets the name of the old one."""
    path.with_name("mine").write_bytes(content)
    path.with_name("mine").rename(path)


@pytest.mark.exhaustive
def test_an_editor_that_saves_while_a_write_is_prepared_loses_nothing(twofold: Path, run: Run) -> None:
    old, new, steps = states(twofold, WRITE)
    mine, seen = old["davlo.yaml"] + b"# mine\n", set()
    path = twofold / "davlo.yaml"
    with as_it_is(twofold) as bring_back:
        for at, saves in product(range(1, steps + 1), (save_into, save_beside)):
            with at_each_step(partial(lambda at, saves, step: saves(path, mine) if step == at else None, at, saves)):
                got = run(*WRITE, "--site", str(twofold))
            now = contents(twofold)
            if got.status:
                assert "somebody else changed davlo.yaml" in got.err
                assert now == {**old, "davlo.yaml": mine}, at
            else:  # it was saved after the write
                assert now in (new, {**new, "davlo.yaml": mine}), at
            seen.add(got.status)
            bring_back()
    assert seen == {0, 1}


def test_what_was_asked_is_written_though_nobody_reads_what_is_printed(own: Path) -> None:
    asked = [
        ["set", "title.limit=40", "--below", "/visit"],
        ["undo"],
        ["page", "add", "/new", "title=New"],
        ["crawler-files", "--to", str(own / "public")],
    ]
    for words in asked:
        before = contents(own)
        process = subprocess.Popen(
            [sys.executable, "-m", "davlo", *words, "--write", "--site", str(own)],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        assert process.stdout is not None
        process.stdout.close()
        assert process.wait() == 0
        assert contents(own) != before or (own / "public" / "robots.txt").exists(), words


def test_a_write_is_taken_back_whatever_else_changed_in_the_files(own: Path, run: Run) -> None:
    assert run("set", "title.limit=40", "--everywhere", "--write", "--site", str(own)).status == 0
    path = own / "davlo.yaml"
    lines = path.read_text().splitlines(keepends=True)
    at = next(number for number, line in enumerate(lines) if "title.limit: 40" in line)
    by_hand = ["# mine\n", *lines[:at], "# above\n", lines[at], "# below\n", *lines[at + 1 :], "# end\n"]
    path.write_text("".join(by_hand))
    assert run("undo", "--write", "--site", str(own)).status == 0
    assert path.read_text() == "".join(line for line in by_hand if "title.limit: 40" not in line)
    assert run("set", "title.limit=40", "--everywhere", "--write", "--site", str(own)).status == 0
    path.write_text(path.read_text().replace("title.limit: 40", "title.limit: 41"))
    got = run("undo", "--write", "--site", str(own))
    assert got.status == 1
    assert re.search(r"cannot be taken back: line \d+ of davlo\.yaml has changed since, and it is part", got.err)


def test_two_writers_write_one_after_the_other(own: Path) -> None:
    words = [sys.executable, "-m", "davlo", "set", "--write", "--site", str(own)]
    both = [
        subprocess.Popen(
            [*words, f"title.limit={limit}", "--here", page], stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )
        for limit, page in ((40, "/visit/maps"), (41, "/visit/tickets"), (42, "/press"))
    ]
    done = [process.communicate() for process in both]
    codes = [process.returncode for process in both]
    effective = davlo.open_site(own).resolve()
    for code, (limit, page), (_, err) in zip(
        codes, ((40, "/visit/maps"), (41, "/visit/tickets"), (42, "/press")), done, strict=True
    ):
        assert code in (0, 1), err
        assert (effective[page]["title.limit"] == limit) == (code == 0), err
        assert code == 0 or b"since Davlo read it: run this again; nothing was written" in err
    assert 0 in codes
    assert len(davlo.open_site(own).writes()) == codes.count(0)


def test_who_waits_too_long_learns_who_is_writing(own: Path) -> None:
    hold = "import sys, time; from pathlib import Path; from davlo.files.store.write_lock import write_lock\n"
    hold += "with write_lock(Path(sys.argv[1])): print('held', flush=True); time.sleep(30)"
    holder = subprocess.Popen([sys.executable, "-c", hold, str(own)], stdout=subprocess.PIPE)
    try:
        assert holder.stdout is not None
        holder.stdout.readline()
        begun = time.monotonic()
        with (
            pytest.raises(SiteInUse, match=rf"\(process {holder.pid}, since \d\d:\d\d\) is writing this site"),
            write_lock(own, 0.2),
        ):
            pass
        assert time.monotonic() - begun < 20
    finally:
        holder.kill()
        holder.wait()
        if holder.stdout:
            holder.stdout.close()
    with write_lock(own, 5):  # a lock whose holder is gone is free
        pass


def test_a_file_that_another_hand_changed_meanwhile_is_not_written_over(own: Path) -> None:
    site = davlo.open_site(own)
    change = davlo.Change().say("title.limit", 40, everywhere=True)
    reach = site.reach(change)
    (own / "davlo.yaml").write_text((own / "davlo.yaml").read_text() + "# mine\n")
    before = contents(own)
    with pytest.raises(ChangedSince, match=r"somebody else changed davlo\.yaml since"):
        site.write(reach)
    assert contents(own) == before


def test_links_are_followed_within_the_folder_and_never_out_of_it(own: Path, run: Run) -> None:
    (own / "real").mkdir()
    (own / "davlo.yaml").rename(own / "real" / "decisions.yaml")
    (own / "davlo.yaml").symlink_to(Path("real") / "decisions.yaml")
    (own / "real" / "decisions.yaml").chmod(0o640)
    assert run("set", "title.limit=40", "--everywhere", "--write", "--site", str(own)).status == 0
    assert (own / "davlo.yaml").is_symlink()
    assert "title.limit: 40" in (own / "real" / "decisions.yaml").read_text()
    assert (own / "real" / "decisions.yaml").stat().st_mode & 0o777 == 0o640
    outside = own.parent / "outside"
    outside.mkdir()
    shutil.rmtree(own / ".davlo")
    (own / ".davlo").symlink_to(outside)
    got = run("set", "title.limit=41", "--everywhere", "--write", "--site", str(own))
    assert (got.status, list(outside.iterdir())) == (2, [])
    assert "it is a link, and no folder" in got.err
