"""Writes that the system kills at any moment: the files are the old ones or the new ones, never some of each."""

from __future__ import annotations

import os
import random
import shutil
import subprocess
import sys
import time
from pathlib import Path

from davlo.cli.main import status_of

KILLS = int(os.environ.get("DAVLO_KILLS", "3"))
"""How many; by hand many more: `make test-hostile KILLS=500`."""
NAMES = ("main", "usual")
"""The names of a sidebar that statements in several files name: each write gives it the other one."""


def files_of(folder: Path) -> dict[str, bytes]:
    """The files of a site folder, without Davlo's own."""
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()}


def begun(words: list[str]) -> subprocess.Popen[bytes]:
    """A command in a process of its own."""
    silent = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    return subprocess.Popen([sys.executable, "-m", "davlo", *words], **silent)  # type: ignore[call-overload,no-any-return]


def test_a_write_that_is_killed_leaves_old_files_or_new_ones(own: Path, tmp_path: Path) -> None:
    chance = random.Random(KILLS)
    site = ("--site", str(own))
    (own / "values.csv").write_text((own / "values.csv").read_text() + "below /press,sidebar.right,main,,\n")
    start = time.monotonic()
    assert begun(["rename", "sidebar", *NAMES, "--write", *site]).wait() == 0
    assert begun(["undo", "--write", *site]).wait() == 0
    takes = (time.monotonic() - start) / 2
    written: list[dict[str, bytes]] = []
    came = [0, 0]
    for _ in range(KILLS):
        old = files_of(own)
        takes_back = bool(written) and chance.random() < 0.3
        if takes_back:
            words, new = ["undo"], written[-1]
        else:
            by_name = NAMES if b"\n  main:" in old["declared.yaml"] else NAMES[::-1]
            words, copy = ["rename", "sidebar", *by_name], tmp_path / "copy"
            shutil.copytree(own, copy, ignore=shutil.ignore_patterns(".davlo"))
            assert status_of([*words, "--write", "--site", str(copy)]) == 0
            new = files_of(copy)
            shutil.rmtree(copy)
        assert sum(old[name] != new[name] for name in old) > 1
        process = begun([*words, "--write", *site])
        time.sleep(takes * chance.uniform(0.5, 1.1))
        process.kill()
        process.wait()
        assert status_of(["list", "sidebars", *site]) == 0  # ends what was cut off
        found = files_of(own)
        assert found in (old, new)
        came[found == new] += 1
        if found == new:
            written = written[:-1] if takes_back else [*written, old]
    assert KILLS < 50 or min(came) > KILLS // 20  # the kills come before the end and after it
