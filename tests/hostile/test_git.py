"""A repository whose configuration and trees are a stranger's: no command of it starts, and nothing leaves its folder."""

from __future__ import annotations

import os
import subprocess
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
    assert 0 < len(started) <= 4
