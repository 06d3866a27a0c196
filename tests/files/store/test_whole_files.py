"""Writing is whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.files.store import whole_files as writing
from tests.conftest import Run


def test_a_crash_leaves_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = tmp_path / "out.csv"
    target.write_text("old")
    for step in ("fsync", "replace", "chmod"):
        with monkeypatch.context() as crash:
            crash.setattr(os, step, lambda *args: (_ for _ in ()).throw(OSError("the disk is full")))
            with pytest.raises(OSError, match="the disk is full"):
                writing.write_whole(target, b"new")
        assert target.read_text() == "old"
        assert os.listdir(tmp_path) == ["out.csv"]
    writing.write_whole(target, b"new")
    assert target.read_text() == "new"


def test_a_file_keeps_its_mode(tmp_path: Path) -> None:
    target = tmp_path / "out.csv"
    target.write_text("old")
    target.chmod(0o640)
    writing.write_whole(target, b"new")
    assert target.stat().st_mode & 0o777 == 0o640


def test_a_name_may_be_as_long_as_the_system_takes_it(tmp_path: Path) -> None:
    target = tmp_path / ("\U0001f333" * 62 + ".csv")
    writing.write_whole(target, b"old")
    writing.write_whole(target, b"new")
    assert [path.read_bytes() for path in tmp_path.iterdir()] == [b"new"]


def test_the_demo_is_written_whole_or_not_at_all(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    written: list[str] = []

    def fail_at_the_third(path: Path, content: bytes) -> None:
        written.append(path.name)
        if len(written) == 3:
            raise OSError("the disk is full")
        path.write_bytes(content)

    with monkeypatch.context() as crash:
        crash.setattr(writing, "write_whole", fail_at_the_third)
        with pytest.raises(OSError, match="the disk is full"):
            davlo.write_demo(tmp_path / "garden")
    assert list(tmp_path.iterdir()) == []
    davlo.write_demo(tmp_path / "garden")
    with pytest.raises(FileExistsError):
        davlo.write_demo(tmp_path / "garden")
    with pytest.raises(OSError, match="it cannot be written"):
        davlo.write_demo(tmp_path / "garden" / "davlo.yaml" / "deeper")


def test_what_cannot_be_written_is_named(garden: Path, run: Run, tmp_path: Path) -> None:
    target = tmp_path / "nowhere" / "out.csv"
    outcome = run("export", "--to", str(target), "--site", str(garden))
    assert (outcome.status, outcome.err) == (2, f"{target}: it cannot be written: No such file or directory\n")


def test_what_cannot_be_read_is_named(small: Callable[..., Path], run: Run) -> None:
    folder = small()
    (folder / "stamps.csv").mkdir()
    assert "stamps.csv: the file cannot be read: it is a folder" in run("check", "--site", str(folder)).err


def test_reading_writes_nothing(garden: Path) -> None:
    before = {path.name: path.stat().st_mtime_ns for path in garden.iterdir() if path.is_file()}
    site = davlo.open_site(garden)
    site.check()
    site.resolve()["/"]["heading.show"]
    assert {path.name: path.stat().st_mtime_ns for path in garden.iterdir() if path.is_file()} == before
