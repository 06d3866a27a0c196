"""Files that a site folder names: Davlo opens none outside it, and waits for none."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Run

Small = Callable[..., Path]
NAMES = {
    "davlo.yaml": "",
    "more.yaml": "include: more.yaml\n",
    "pages.csv": "",
    "values.csv": "",
    "stamps.csv": "",
    "shop.csv": "sitemap: {add_addresses_from: [shop.csv]}\n",
}
"""Every kind of file that a site reads, and what names it in davlo.yaml."""


def without(name: str, small: Small) -> Path:
    """A small site that reads a file of this name, which is not there."""
    folder = small(NAMES[name])
    if name == "values.csv":
        decisions = (folder / "davlo.yaml").read_text(encoding="utf-8")
        (folder / "davlo.yaml").write_text(
            decisions.replace("{name:", "{values: [values.csv], name:"), encoding="utf-8"
        )
    (folder / name).unlink(missing_ok=True)
    return folder


def asks(name: str, folder: Path) -> list[str]:
    """A command that reads the file."""
    return [*(["sitemap", "--to", "-"] if name == "shop.csv" else ["check"]), "--site", str(folder)]


@pytest.mark.parametrize("name", NAMES)
def test_a_link_out_of_the_folder_is_not_followed(
    name: str, small: Small, run: Run, tmp_path_factory: pytest.TempPathFactory
) -> None:
    outside = tmp_path_factory.mktemp("outside") / "file"
    outside.write_text("secret,words\n", encoding="utf-8")
    folder = without(name, small)
    (folder / name).symlink_to(outside)
    got = run(*asks(name, folder))
    assert (got.status, "outside the site folder" in got.err) == (2, True)
    assert "secret" not in got.err + got.out


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("kind", ["pipe", "folder", "circle"])
def test_only_regular_files_are_read(name: str, kind: str, small: Small, run: Run) -> None:
    folder = without(name, small)
    make: dict[str, Callable[[Path], object]] = {
        "pipe": os.mkfifo,
        "folder": os.mkdir,
        "circle": lambda path: path.symlink_to(path),
    }
    make[kind](folder / name)
    got = run(*asks(name, folder))
    assert got.status == 2
    assert name in got.err


@pytest.mark.parametrize("key", ["include: {}", "sitemap: {{add_addresses_from: {}}}"])
def test_a_name_that_no_file_can_have_is_a_fault(key: str, small: Small, run: Run) -> None:
    got = run("sitemap", "--to", "-", "--site", str(small(key.format('["a\\0b.csv"]') + "\n")))
    assert (got.status, "no file can have this name" in got.err) == (2, True)


def test_a_link_within_the_folder_is_followed(small: Small, run: Run) -> None:
    folder = small("")
    (folder / "pages.csv").rename(folder / "page list.csv")
    (folder / "pages.csv").symlink_to("page list.csv")
    assert run("tree", "--site", str(folder)).status == 0


def test_each_file_is_read_once_however_it_is_named(small: Small, run: Run) -> None:
    names = [f"part-{i}.yaml" for i in range(12)]
    files = {name: f"include: [{', '.join(f'./{one}' for one in names)}]\n" for name in names}
    folder = small(f"include: [{', '.join(names)}]\n", files=files)
    got = run("check", "--site", str(folder))
    assert (got.status, got.err.count("is included twice") + got.err.count("go round in a circle")) == (2, 12 * 12)


def test_a_chain_of_includes_may_be_long(small: Small, run: Run) -> None:
    files = {f"part-{i}.yaml": f"include: part-{i + 1}.yaml\n" for i in range(1500)}
    folder = small("include: part-0.yaml\n", files={**files, "part-1500.yaml": "menu: {max_entries: 7}\n"})
    assert run("show", "/a", "--site", str(folder)).status == 0
