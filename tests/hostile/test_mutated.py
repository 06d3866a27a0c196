"""Folders with mistakes and malice in them: every command answers or reports, and no letter of theirs acts."""

from __future__ import annotations

import os
import re
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
import davlo.site
from davlo.cli.main import status_of

from .mutations import COMMANDS, mutate

FOLDERS = int(os.environ.get("DAVLO_FOLDERS", "40"))
"""How many folders; by hand many more: `make test-hostile FOLDERS=20000`."""
PARTS = max(4, FOLDERS // 100)
FIRST = int(os.environ.get("DAVLO_FIRST_FOLDER", "0"))
ACTS = re.compile("[\x00-\x09\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")
"""What a terminal would obey: all controls but the end of a line, and overrides of direction."""


def opened_once(read: Callable[[str | Path], davlo.Site]) -> Callable[[str | Path], davlo.Site]:
    """Opens a folder as `davlo.open_site` does, and gives the same site again until a file is another one."""
    known: dict[object, davlo.Site | davlo.SiteError] = {}

    def open_site(folder: str | Path) -> davlo.Site:
        files = [path for path in sorted(Path(folder).rglob("*")) if ".davlo" not in path.parts]
        stats = [path.lstat() for path in files]
        key = str(folder), *map(str, files), *((one.st_ino, one.st_mtime_ns, one.st_size) for one in stats)
        if key not in known:
            known.clear()
            try:
                known[key] = read(folder)
            except davlo.SiteError as error:
                known[key] = error
        found = known[key]
        if isinstance(found, davlo.SiteError):
            raise found
        return found

    return open_site


@pytest.mark.parametrize("part", range(PARTS))
def test_every_command_answers_or_reports(
    garden: Path, tmp_path: Path, part: int, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(davlo.site, "open_site", opened_once(davlo.site.open_site))
    wrong = []
    for seed in range(FIRST + part, FIRST + FOLDERS, PARTS):
        folder = tmp_path / "garden"
        shutil.copytree(garden, folder)
        done = mutate(folder, seed)
        # most folders cannot be read any more: then all commands meet the same faults, and one in seven is asked
        is_read = FOLDERS > 1000 and status_of(["list", "--site", str(folder)]) != 2
        for words in COMMANDS if is_read else COMMANDS[seed % 7 :: 7]:
            capfd.readouterr()
            status = status_of([*words, "--site", str(folder)])
            out, err = capfd.readouterr()
            acting = ACTS.search(err if "csv" in words else out + err)  # CSV is exact in a pipe
            if status not in (0, 1, 2) or acting or (status == 2 and not err.strip()):
                wrong.append((seed, done, words, status, acting, err[-300:]))
        shutil.rmtree(folder)
    assert wrong == []


SOURCES = {
    "pages.csv": ("page", "refresh", "--drop-missing", "--from"),
    "declared.yaml": ("declare", "--from"),
    "davlo.yaml": ("declare", "--from"),
    "values.csv": ("page", "add", "--from"),
}
"""Files that commands take from elsewhere, each with the command."""


@pytest.mark.parametrize("part", range(4))
def test_a_source_with_mistakes_is_read_or_refused_and_nothing_acts(
    garden: Path, tmp_path: Path, part: int, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """What somebody hands over to be joined in, or pasted, is as strange as a stranger's site."""
    monkeypatch.setattr(davlo.site, "open_site", opened_once(davlo.site.open_site))
    wrong = []
    for seed in range(FIRST + part, FIRST + FOLDERS, 4):
        folder = tmp_path / "theirs"
        shutil.copytree(garden, folder)
        done = mutate(folder, seed)
        for name, words in SOURCES.items():
            capfd.readouterr()
            status = status_of([*words, str(folder / name), "--site", str(garden)])
            out, err = capfd.readouterr()
            if status not in (0, 1, 2) or ACTS.search(out + err) or (status == 2 and not err.strip()):
                wrong.append((seed, done, name, status, err[-300:]))
        shutil.rmtree(folder)
    assert wrong == []
