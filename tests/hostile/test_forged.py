"""A `.davlo` that somebody else made: it is told in one line, and no command acts on it."""

from __future__ import annotations

import json
import os
import random
import shutil
import socket
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

import davlo
from davlo.cli.main import status_of
from tests.conftest import Run, contents, write_small
from tests.steps_of_writing import end_at_step, steps_of

from .mutations import MUTATIONS
from .test_mutated import FIRST, FOLDERS

WORDS = (
    ["tree"],
    ["check", "--kind", "sitemap-stale"],
    ["undo", "--list"],
    ["undo", "--write"],
    ["set", "title.limit=41", "--everywhere", "--write"],
    ["crawler-files", "--to", "PUBLIC", "--write"],
    ["sitemap", "--to", "PUBLIC/sitemap.xml"],
    ["announce"],
    ["compare", "."],
)


@contextmanager
def as_somebody_else(state: Path) -> Iterator[None]:
    """The key of another user, or of another machine."""
    before = os.environ["DAVLO_STATE"]
    os.environ["DAVLO_STATE"] = str(state)
    try:
        yield
    finally:
        os.environ["DAVLO_STATE"] = before


@pytest.fixture(scope="module")
def theirs(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site with everything in `.davlo` that there can be: two writes, one unfinished, files published, a note of that."""
    above = tmp_path_factory.mktemp("theirs")
    folder = above / "site"
    folder.mkdir()
    write_small(folder, "everywhere: {title.limit: 30}\n")
    with as_somebody_else(above / "state"):
        site = ("--site", str(folder))
        publish = ["crawler-files", "--to", str(folder / "public"), "--write", *site]
        for words in (["set", "title.limit=31", "--everywhere", "--write", *site], publish):
            assert status_of(words) == 0
        with_part = above / "with-part"
        shutil.copytree(folder, with_part)
        end_at_step(publish, steps_of(publish) - 3)
        change = ["set", "menu.show=no", "--here", "/a", "--write", *site]
        for last in range(1, 100):
            end_at_step(change, last)
            if (folder / ".davlo" / "journal.json").exists():
                break
    assert (folder / ".davlo" / "journal.json").exists()
    return folder


def forge(chance: random.Random, theirs: Path, folder: Path, victim: Path) -> None:
    """Give a site a `.davlo` that somebody else made, or made up."""
    own = folder / ".davlo"
    shutil.copytree(theirs / ".davlo", own)
    files = sorted(path for path in own.rglob("*") if path.is_file())
    for _ in range(chance.randrange(4)):
        path = chance.choice(files)
        if (not path.exists() and not path.is_symlink()) or (path.is_file() and path.stat().st_size > 1 << 20):
            continue
        match chance.randrange(7):
            case 0:
                path.write_bytes(chance.choice(MUTATIONS)(chance, path.read_bytes() or b"\n"))
            case 1:
                path.unlink()
                path.symlink_to(victim)
            case 2:
                path.unlink()
                os.mkfifo(path)
            case 3:
                path.unlink()
                path.mkdir()
            case 4:
                number = chance.choice(["999999", "000000", "000002", "-00001", "١٢٣٤٥٦"])
                (own / "writes").mkdir(exist_ok=True)
                if path.is_file() and path.stat().st_size < 1 << 20:
                    shutil.copy(path, own / "writes" / f"{number}.json")
            case 5:
                odd = chance.choice(["Infinity", "9" * 300, "\\u0000", "\\ud800", "-1", "1e999", "[" * 90_000])
                path.write_text(f'{{"davlo": 1, "version": {odd}, "number": {odd}, "size": {odd}}}\n{odd}\n')
            case _:
                with path.open("r+b") as file:
                    file.truncate(1 << 40)  # a hole: it takes no room
        files = [one for one in files if one.is_file() and not one.is_symlink()] or files


@pytest.mark.parametrize("part", range(4))
def test_nothing_is_done_for_a_forged_folder(
    theirs: Path, tmp_path: Path, part: int, capfd: pytest.CaptureFixture[str]
) -> None:
    wrong = []
    victim, published = tmp_path / "victim", tmp_path / "public"
    for seed in range(FIRST + part, FIRST + max(FOLDERS // 10, 40), 4):
        folder = tmp_path / "site"
        folder.mkdir()
        write_small(folder, "everywhere: {title.limit: 30}\n")
        victim.write_text("echo mine\n")
        (folder / ".git" / "hooks").mkdir(parents=True)
        forge(random.Random(seed), theirs, folder, victim)
        before = contents(folder)
        for words in WORDS:
            typed = [word.replace("PUBLIC", str(published)).replace("./", f"{folder}/") for word in words]
            status = status_of([*(str(folder) if word == "." else word for word in typed), "--site", str(folder)])
            err = capfd.readouterr().err
            same = contents(folder) == before or (words[0] == "set" and status == 0)
            if status not in (0, 1, 2) or not same or victim.read_text() != "echo mine\n":
                wrong.append((seed, words, status, same, err[-300:]))
            before = contents(folder)
        if [*(folder / ".git" / "hooks").iterdir()]:
            wrong.append((seed, ["hook"], 0, False, ""))
        shutil.rmtree(folder)
        shutil.rmtree(published, ignore_errors=True)
    assert wrong == []


def test_somebody_elses_unfinished_write_is_told_and_nothing_is_written_until_it_is_set_aside(
    theirs: Path, tmp_path: Path, run: Run
) -> None:
    folder = tmp_path / "site"
    shutil.copytree(theirs, folder)
    site, before = ("--site", str(folder)), contents(folder)
    for words in (["tree"], ["check"], ["why", "/a", "title.limit"], ["undo", "--list"]):
        got = run(*words, *site)
        assert got.status in (0, 1)
        assert len(got.err.splitlines()) == 1
        assert f"on {socket.gethostname()} (20" in got.err
        assert " began a write here that is not finished: some files may be new and others old." in got.err
    for words in (
        ["set", "title.limit=41", "--everywhere", "--write"],
        ["undo", "--write"],
        ["page", "add", "/c", "--write"],
        ["sitemap", "--to", str(tmp_path / "sitemap.xml")],
        ["crawler-files", "--to", str(tmp_path / "public"), "--write"],
        ["announce", "--send", "--endpoint", "https://127.0.0.1:9/", "--key", "quillmere-5d1c0a9e"],
    ):
        got = run(*words, *site)
        assert (got.status, contents(folder)) == (2, before), words
        assert "that is not finished, so nothing was written" in got.err
    assert run("undo", "--set-aside", *site).status == 0
    got = run("set", "title.limit=41", "--everywhere", "--write", *site)
    assert (got.status, got.err) == (0, "")
    assert [one.sentence for one in davlo.open_site(folder).writes()] == ["set title.limit to 41 everywhere"]
    assert len([*(folder / ".davlo" / "set-aside").rglob("*.json")]) == 5
    assert len([*(folder / ".davlo" / "set-aside").rglob("*.new")]) == 1  # what its maker had made ready is kept
    assert run("undo", "--set-aside", *site).out.startswith("There is nothing to put away")


def test_its_maker_finishes_an_unfinished_write(theirs: Path, run: Run) -> None:
    with as_somebody_else(theirs.parent / "state"):
        saved = theirs.parent / "saved"
        shutil.copytree(theirs, saved)
        try:
            got = run("tree", "--site", str(theirs))
        finally:
            shutil.rmtree(theirs)
            saved.rename(theirs)
    assert (got.status, got.err) == (0, "note: a write that was cut off is finished: set menu.show to no on /a\n")


@pytest.mark.parametrize("why", ["moved", "no key", "another key", "no place", "in the site", "open to others"])
def test_a_record_counts_only_for_its_maker_and_its_folder(
    small: Callable[..., Path], run: Run, why: str, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = small()
    assert run("set", "title.limit=41", "--everywhere", "--write", "--site", str(folder)).status == 0
    assert run("undo", "--site", str(folder)).status == 0
    state = tmp_path_factory.mktemp("state")
    can_write = why in ("moved", "no key", "another key")
    if why == "moved":
        folder.rename(folder.with_name("moved"))
        folder = folder.with_name("moved")
    elif why == "another key":
        (state / "key").write_bytes(bytes(32))
        (state / "key").chmod(0o600)
    elif why == "no place":
        (state / "file").write_text("")
        state = state / "file" / "below"
    elif why == "in the site":
        state = folder / "state"
    elif why == "open to others":
        shutil.copy(Path(os.environ["DAVLO_STATE"]) / "key", state)
        (state / "key").chmod(0o644)
    with as_somebody_else(Path(os.environ["DAVLO_STATE"]) if why == "moved" else state):
        got = run("undo", "--site", str(folder))
        assert (got.status, "a record in .davlo is not yours" in got.err) == (1, True)
        before = contents(folder)
        for words in (
            ["set", "title.limit=42", "--everywhere", "--write"],
            ["sitemap", "--to", str(folder / "public.xml")],
            ["crawler-files", "--to", str(folder / "public"), "--write"],
        ):
            got = run(*words, "--site", str(folder))
            assert got.status == (0 if can_write else 2), got.err
            assert can_write or "export DAVLO_STATE=DIR" in got.err
        assert (contents(folder) == before) == (not can_write)
        assert run("tree", "--site", str(folder)).status == 0


def test_the_key_is_for_its_user_alone_and_made_once(
    small: Callable[..., Path], run: Run, tmp_path_factory: pytest.TempPathFactory
) -> None:
    state = tmp_path_factory.mktemp("deep") / "state"
    with as_somebody_else(state):
        for limit in (40, 41):
            words = ("set", f"title.limit={limit}", "--everywhere", "--write", "--site", str(small()))
            assert run(*words).status == 0
            assert [(path.name, path.stat().st_mode & 0o777) for path in state.iterdir()] == [("key", 0o600)]


def test_no_file_of_gits_or_of_davlos_own_is_a_sites_file(small: Callable[..., Path], run: Run) -> None:
    for hidden in (".git", ".GIT", ".davlo", "shop/.git", ".git."):
        for name in ("include: [{}/x.yaml]", "sitemap: {{add_addresses_from: [{}/x.csv]}}", "include: [link.yaml]"):
            folder = small(name.format(hidden) + "\n")
            (folder / hidden).mkdir(parents=True, exist_ok=True)
            (folder / hidden / "x.yaml").write_text("everywhere: {title.limit: 20}\n")
            (folder / hidden / "x.csv").write_text("loc\nhttps://small.example/x\n")
            (folder / "link.yaml").symlink_to(Path(hidden) / "x.yaml")
            got = run("sitemap", "--to", "-", "--site", str(folder))
            assert (got.status, f"lies in {'.davlo' if 'davlo' in hidden else '.git'}, where no" in got.err) == (
                2,
                True,
            )
            (folder / "link.yaml").unlink()
    folder = small()
    for to in (".git/hooks/x.csv", ".davlo/x.csv"):
        assert run("export", "--to", str(folder / to), "--site", str(folder)).status == 2


def test_davlo_is_kept_out_of_version_control(small: Callable[..., Path], run: Run, tmp_path: Path) -> None:
    def git(*words: str) -> str:
        done = subprocess.run(["git", "-C", str(folder), *words], check=True, capture_output=True, text=True)
        return done.stdout

    folder = small()
    git("init", "-q")
    set_ = ("set", "title.limit=41", "--everywhere", "--write", "--site", str(folder))
    first = run(*set_)
    assert first.err == "note: what undo needs is in .davlo, which its .gitignore keeps out of version control\n"
    git("add", ".")
    assert ".davlo" not in git("ls-files")
    git("add", "-f", ".davlo")
    again = run("undo", "--write", "--site", str(folder))
    assert "note: git tracks .davlo" in again.err
    git(*again.err.splitlines()[-1].split()[3:])
    assert run(*set_).err == ""
    assert run("start", str(tmp_path / "new")).status == 0
    assert (tmp_path / "new" / ".davlo" / ".gitignore").read_text() == "*\n"


def test_a_lock_that_is_another_name_of_a_file_empties_nothing(small: Callable[..., Path], run: Run) -> None:
    folder = small()
    (folder / ".davlo").mkdir()
    for make in (os.link, os.symlink):
        make(folder / "pages.csv", folder / ".davlo" / "lock")
        before = contents(folder)
        got = run("set", "title.limit=41", "--everywhere", "--write", "--site", str(folder))
        assert (got.status, "it is no lock of Davlo's: delete it" in got.err) == (2, True)
        assert contents(folder) == before
        (folder / ".davlo" / "lock").unlink()


def test_a_record_is_json_after_one_line(small: Callable[..., Path], run: Run) -> None:
    folder = small()
    run("set", "title.limit=41", "--everywhere", "--write", "--site", str(folder))
    line, record = (folder / ".davlo" / "writes" / "000001.json").read_text().splitlines()
    assert json.loads(line)["kind"] == "write"
    assert json.loads(record)[3] == "set title.limit to 41 everywhere"


@pytest.mark.parametrize("code", ["é" * 64, "", "0" * 64, "\x00", 3, None, ["a"]])
def test_a_code_that_is_none_is_no_fault_of_davlos_own(small: Callable[..., Path], run: Run, code: object) -> None:
    folder = small()
    run("set", "title.limit=41", "--everywhere", "--write", "--site", str(folder))
    path = folder / ".davlo" / "writes" / "000001.json"
    line, record = path.read_text().splitlines()
    path.write_text(f"{json.dumps({**json.loads(line), 'code': code})}\n{record}\n")
    got = run("undo", "--site", str(folder))
    assert (got.status, "a record in .davlo is not yours" in got.err) == (1, True)
