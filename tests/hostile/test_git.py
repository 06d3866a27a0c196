"""A repository whose configuration and trees are a stranger's: no command of it starts, and nothing leaves its folder."""

from __future__ import annotations

import os
import subprocess
import time
from pathlib import Path
from typing import Any

import pytest

import davlo
from tests.conftest import Run


def git(folder: Path, *words: str, given: bytes = b"") -> str:
    """What git prints, with no configuration but the repository's own."""
    environment = {
        **os.environ,
        "GIT_CONFIG_GLOBAL": os.devnull,
        "GIT_AUTHOR_NAME": "Sefa Moana",
        "GIT_AUTHOR_EMAIL": "sefa@quillmere.example",
        "GIT_COMMITTER_NAME": "Sefa Moana",
        "GIT_COMMITTER_EMAIL": "sefa@quillmere.example",
    }
    done = subprocess.run(["git", "-C", str(folder), *words], input=given, capture_output=True, env=environment)
    assert done.returncode == 0, done.stderr
    return done.stdout.decode().strip()


@pytest.fixture
def repository(tmp_path: Path) -> Path:
    """The garden in a repository with one commit."""
    folder = tmp_path / "garden"
    davlo.write_demo(folder)
    git(folder, "init", "-q", "-b", "main")
    git(folder, "add", ".")
    git(folder, "commit", "-q", "-m", "The garden")
    return folder


def since(run: Run, folder: Path, revision: str = "main") -> tuple[int, str]:
    got = run("check", "--since", revision, "--site", str(folder))
    return got.status, got.err


@pytest.mark.parametrize(
    "settings",
    [
        {"remote.origin.url": "{elsewhere}", "remote.origin.uploadpack": "touch {mark}; git-upload-pack"},
        {"remote.origin.url": "ext::sh -c 'touch {mark}'"},
        {"remote.origin.url": "ssh://host.example/garden", "core.sshCommand": "touch {mark};"},
        {"core.fsmonitor": "touch {mark};"},
        {"core.pager": "touch {mark};"},
    ],
)
def test_no_command_of_the_repository_starts(
    repository: Path, tmp_path: Path, run: Run, settings: dict[str, str]
) -> None:
    mark = tmp_path / "mark"
    elsewhere = tmp_path / "elsewhere"
    git(tmp_path, "clone", "-q", "--bare", str(repository), str(elsewhere))
    blob = git(repository, "rev-parse", "main:davlo.yaml")
    git(repository, "config", "core.repositoryFormatVersion", "1")
    git(repository, "config", "extensions.partialClone", "origin")
    git(repository, "config", "remote.origin.promisor", "true")
    for name, value in settings.items():
        git(repository, "config", name, value.format(mark=mark, elsewhere=elsewhere))
    (repository / ".git" / "objects" / blob[:2] / blob[2:]).unlink()
    status, told = since(run, repository)
    assert not mark.exists()
    if "remote.origin.url" in settings:
        assert (status, "is not in this copy of the repository" in told) == (2, True), told


def test_a_bare_repository_in_a_folder_is_not_used(repository: Path, tmp_path: Path, run: Run) -> None:
    hidden = tmp_path / "clone" / "site"
    git(tmp_path, "clone", "-q", "--bare", str(repository), str(hidden))
    davlo.write_demo(tmp_path / "copy")
    for file in (tmp_path / "copy").iterdir():
        file.rename(hidden / file.name)
    assert since(run, hidden)[0] == 2


@pytest.mark.parametrize("name", ["{outside}/victim.csv", "../victim.csv", "a/../../victim.csv"])
def test_a_tree_writes_nothing_outside(repository: Path, tmp_path: Path, run: Run, name: str) -> None:
    outside = tmp_path / "outside"
    outside.mkdir()
    blob = git(repository, "hash-object", "-w", "--stdin", given=b"path\n/\n")
    named = name.format(outside=outside)
    entries = b"".join(
        b"100644 " + one.encode() + b"\0" + bytes.fromhex(hash_)
        for one, hash_ in sorted(
            [(named, blob), ("davlo.yaml", git(repository, "rev-parse", "main:davlo.yaml"))], key=lambda pair: pair[0]
        )
    )
    tree = git(repository, "hash-object", "-w", "-t", "tree", "--literally", "--stdin", given=entries)
    commit = git(repository, "commit-tree", tree, "-m", "A tree")
    status, _ = since(run, repository, commit)
    assert (status, [*outside.iterdir()], [*tmp_path.glob("victim*")]) == (2, [], [])


def test_a_link_in_a_tree_is_no_file(repository: Path, run: Run) -> None:
    (repository / "values.csv").unlink()
    (repository / "values.csv").symlink_to("/etc/passwd")
    git(repository, "commit", "-q", "-a", "-m", "A link")
    status, told = since(run, repository)
    assert (status, "root:" in told) == (2, False)


def test_an_earlier_state_that_cannot_be_read_is_named(repository: Path, tmp_path: Path, run: Run) -> None:
    good = (repository / "davlo.yaml").read_text(encoding="utf-8")
    (repository / "davlo.yaml").write_text(f"{good}\nrulez: []\n", encoding="utf-8")
    git(repository, "commit", "-q", "-a", "-m", "A slip")
    (repository / "davlo.yaml").write_text(good, encoding="utf-8")
    status, told = since(run, repository)
    assert (status, "main:davlo.yaml:" in told) == (2, True)
    other = tmp_path / "other"
    other.mkdir()
    (other / "davlo.yaml").write_text("davlo: 2\n", encoding="utf-8")
    status, told = since(run, repository, str(other))
    assert (status, f"{other}/davlo.yaml:" in told) == (2, True)


def test_many_files_are_read_by_one_process(repository: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(300):
        (repository / f"part-{number}.csv").write_text("where,setting,value\n", encoding="utf-8")
    git(repository, "add", ".")
    git(repository, "commit", "-q", "-m", "Many")
    started: list[object] = []
    real: Any = subprocess.Popen.__init__

    def count(self: object, *words: Any, **rest: Any) -> None:
        started.append(words)
        real(self, *words, **rest)

    monkeypatch.setattr(subprocess.Popen, "__init__", count)
    assert since(run, repository)[0] == 0
    assert 0 < len(started) <= 6


def compared(run: Run, folder: Path, *words: str) -> str:
    """What is said about a comparison that cannot be made; it comes soon."""
    begun = time.monotonic()
    got = run("compare", *words, "--site", str(folder))
    assert got.status == 2, got.out
    assert time.monotonic() - begun < 20
    return got.err


def tree_of(folder: Path, entries: dict[str, str], mode: str) -> str:
    listed = "".join(
        f"{mode} {'tree' if mode == '040000' else 'blob'} {one}\t{name}\n" for name, one in entries.items()
    )
    return git(folder, "mktree", given=listed.encode())


def test_a_tree_of_very_many_names_is_not_unfolded(repository: Path, run: Run) -> None:
    blob = git(repository, "hash-object", "-w", "--stdin", given=b"path\n/\n")
    tree = tree_of(repository, {f"{number}.csv": blob for number in range(10)}, "100644")
    for _ in range(8):
        tree = tree_of(repository, {str(number): tree for number in range(10)}, "040000")
    commit = git(repository, "commit-tree", tree, "-m", "A tree")
    assert "there is no davlo.yaml" in compared(run, repository, commit) or "prints more than" in compared(
        run, repository, commit
    )


def test_many_names_of_one_large_object_are_not_unfolded(repository: Path, run: Run) -> None:
    blob = git(repository, "hash-object", "-w", "--stdin", given=b"#" * (40 << 20))
    names = {f"{number}.csv": blob for number in range(40)}
    tree = tree_of(repository, {"davlo.yaml": git(repository, "rev-parse", "main:davlo.yaml"), **names}, "100644")
    told = compared(run, repository, git(repository, "commit-tree", tree, "-m", "A tree"))
    assert "bytes, and Davlo reads 1,073,741,824" in told


@pytest.mark.parametrize("name", ["config", "HEAD", "refs/heads/x", "objects/info/packs", "packed-refs"])
def test_git_does_not_wait_for_a_pipe(repository: Path, run: Run, name: str) -> None:
    path = repository / ".git" / name
    path.unlink(missing_ok=True)
    os.mkfifo(path)
    assert "is no regular file, so git is not run" in compared(run, repository, "main")
    path.unlink()
    path.symlink_to("/dev/zero")
    assert "is a link that leads out of the repository" in compared(run, repository, "main")


def test_a_configuration_brings_in_no_device(repository: Path, run: Run) -> None:
    git(repository, "config", "include.path", "/dev/zero")
    assert "brings in /dev/zero, which is no regular file" in compared(run, repository, "main")


def test_another_repository_is_not_read(repository: Path, tmp_path: Path, run: Run) -> None:
    other = tmp_path / "other"
    davlo.write_demo(other)
    (other / ".git").write_text(f"gitdir: {repository / '.git'}\n")
    assert "which does not name it back, so git is not run" in compared(run, other, "main")
    (other / ".git").unlink()
    (other / ".git").symlink_to(repository / ".git")
    assert "so git is not run" in compared(run, other, "main")
    (other / ".git").unlink()
    git(other, "init", "-q")
    (other / ".git" / "objects" / "info" / "alternates").write_text(f"{repository / '.git' / 'objects'}\n")
    commit = git(repository, "rev-parse", "main")
    assert "brings in objects from outside" in compared(run, other, commit)


def test_worktrees_and_submodules_are_read(repository: Path, tmp_path: Path, run: Run) -> None:
    git(repository, "worktree", "add", "-q", str(tmp_path / "tree"), "-b", "side")
    assert since(run, tmp_path / "tree", "main")[0] == 0
    above = tmp_path / "above"
    above.mkdir()
    git(above, "init", "-q")
    git(above, "-c", "protocol.file.allow=always", "submodule", "add", "-q", str(repository), "shop/garden")
    assert since(run, above / "shop" / "garden", "HEAD")[0] == 0


def test_a_revision_that_cannot_be_read_says_what_to_type(repository: Path, tmp_path: Path, run: Run) -> None:
    (repository / "davlo.yaml").write_text((repository / "davlo.yaml").read_text() + "\n# more\n")
    git(repository, "commit", "-q", "-a", "-m", "More")
    assert "\n  davlo compare HEAD~1 main\n" in compared(run, repository, "HEAD~1..main")
    assert "\n  davlo compare HEAD~1 main\n" in compared(run, repository, "HEAD~1...main")
    shallow = tmp_path / "shallow"
    git(tmp_path, "clone", "-q", "--depth", "1", f"file://{repository}", str(shallow))
    assert f"\n  git -C {shallow} fetch --unshallow\n" in compared(run, shallow, "HEAD~1")
    partial = tmp_path / "partial"
    git(repository, "config", "uploadpack.allowFilter", "true")
    git(tmp_path, "clone", "-q", "--filter=blob:none", f"file://{repository}", str(partial))
    assert f"\n  git -C {partial} fetch --refetch --no-filter\n" in compared(run, partial, "HEAD~1")
    git(partial, "fetch", "-q", "--refetch", "--no-filter")
    assert run("compare", "HEAD~1", "--site", str(partial)).status == 0
    whole = tmp_path / "whole"
    (whole / "garden").mkdir(parents=True)
    davlo.write_demo(whole / "garden")
    git(whole, "init", "-q", "-b", "main")
    git(whole, "add", ".")
    git(whole, "commit", "-q", "-m", "The garden")
    git(whole, "mv", "garden", "shop")
    told = compared(run, whole / "shop", "HEAD")
    assert "there is no davlo.yaml in shop at HEAD\n  davlo compare HEAD:garden\n" in told
    assert run("compare", "HEAD:garden", "--site", str(whole / "shop")).status == 0


def test_two_other_states_are_compared_whatever_the_files_here_are(repository: Path, tmp_path: Path, run: Run) -> None:
    other = tmp_path / "other"
    davlo.write_demo(other)
    (repository / "davlo.yaml").write_text("rules: [\n")
    assert run("compare", "main", str(other), "--site", str(repository)).status == 0
    assert run("compare", "main", "--site", str(repository)).status == 2
