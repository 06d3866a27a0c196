"""What is written: never over what the site reads, whole or not at all, and nothing that was not Davlo's goes."""

from __future__ import annotations

import io
import os
import shutil
import signal
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.files.output import sitemap_xml
from tests.conftest import Run

Small = Callable[..., Path]


def contents(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    """The garden, in a folder of the test's own."""
    davlo.write_demo(tmp_path / "garden")
    return tmp_path / "garden"


@pytest.mark.parametrize("name", ["davlo.yaml", "pages.csv", "values.csv", "stamps.csv", "people.yaml"])
@pytest.mark.parametrize("way", ["itself", "link", "hard link", "by another way"])
def test_no_file_that_the_site_reads_is_written_over(copy: Path, tmp_path: Path, run: Run, name: str, way: str) -> None:
    target = copy / name
    if way == "by another way":
        target = copy / ".." / "garden" / name
    elif way != "itself":
        target = tmp_path / f"link{Path(name).suffix}"
        (os.link if way == "hard link" else os.symlink)(copy / name, target)
    before = contents(copy)
    for words in (["export", "--long"], ["sitemap"], ["picture", "/visit"]):
        assert run(*words, "--to", str(target), "--site", str(copy)).status == 2
    assert contents(copy) == before


def test_stamps_that_are_not_there_yet_are_not_made(small: Small, run: Run) -> None:
    folder = small("")
    assert run("export", "--to", str(folder / "stamps.csv"), "--site", str(folder)).status == 2
    assert not (folder / "stamps.csv").exists()


@pytest.mark.parametrize("make", [os.mkfifo, os.mkdir])
def test_only_a_regular_file_is_written_over(
    copy: Path, tmp_path: Path, run: Run, make: Callable[[Path], object]
) -> None:
    target = tmp_path / "out.csv"
    make(target)
    assert run("export", "--to", str(target), "--site", str(copy)).status == 2
    assert not target.is_file()


def test_a_record_that_is_a_link_is_neither_followed_nor_written(copy: Path, tmp_path: Path, run: Run) -> None:
    outside = tmp_path / "outside"
    outside.mkdir()
    shutil.rmtree(copy / ".davlo")
    (copy / ".davlo").symlink_to(outside)
    got = run("sitemap", "--to", str(tmp_path / "sitemap.xml"), "--site", str(copy))
    assert (got.status, [*outside.iterdir()]) == (0, [])
    assert "check cannot tell when it is stale" in got.err
    assert run("check", "--fail-on", "error", "--site", str(copy)).status in (0, 1)


def test_parts_that_belong_no_more_go_unless_somebody_changed_them(
    copy: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    def write(most: int) -> set[str]:
        monkeypatch.setattr(sitemap_xml, "MOST_ADDRESSES", most)
        assert run("sitemap", "--to", str(copy / "sitemap.xml"), "--site", str(copy)).status == 0
        return {path.name for path in copy.glob("sitemap*.xml")}

    (copy / "sitemap-9.xml").write_text("somebody's own", encoding="utf-8")
    assert write(50) == {"sitemap.xml", "sitemap-1.xml", "sitemap-2.xml", "sitemap-3.xml", "sitemap-9.xml"}
    assert write(100) == {"sitemap.xml", "sitemap-1.xml", "sitemap-2.xml", "sitemap-9.xml"}
    (copy / "sitemap-2.xml").write_text("changed by somebody", encoding="utf-8")
    assert write(1000) == {"sitemap.xml", "sitemap-2.xml", "sitemap-9.xml"}


def test_ctrl_c_waits_until_all_parts_are_in_their_places(
    copy: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sitemap_xml, "MOST_ADDRESSES", 50)
    real, moved = os.replace, []

    def replace(one: str, other: str) -> None:
        if Path(other).name.startswith("sitemap"):
            os.kill(os.getpid(), signal.SIGINT)
            moved.append(Path(other).name)
        real(one, other)

    monkeypatch.setattr(os, "replace", replace)
    got = run("sitemap", "--to", str(copy / "sitemap.xml"), "--site", str(copy))
    assert (got.status, "after the files were written" in got.err) == (130, True)
    assert moved[-1] == "sitemap.xml"
    assert {path.name for path in copy.glob("sitemap*.xml")} == {
        *("sitemap.xml", "sitemap-1.xml", "sitemap-2.xml", "sitemap-3.xml")
    }


def test_a_disk_that_is_full_is_told_with_its_file(
    copy: Path, tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Full(io.BytesIO):
        def write(self, content: object) -> int:
            raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "open", lambda path, mode: Full())
    got = run("export", "--to", str(tmp_path / "out.csv"), "--site", str(copy))
    assert (got.status, [*tmp_path.glob("*out.csv*")]) == (2, [])
    assert got.err.strip().endswith(f"{tmp_path / 'out.csv'}: it cannot be written: No space left on device")
