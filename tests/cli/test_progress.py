"""The progress bar: on a terminal's standard error when something takes long, and nowhere else."""

from __future__ import annotations

import os
import pty
import subprocess
import sys
from pathlib import Path

import pytest

from davlo.core.progress import listening, work

SCRIPT = (
    "import sys; from davlo.cli import main, progress; progress.PATIENCE = float(sys.argv[1]); "
    "sys.exit(main.status_of(sys.argv[2:]))"
)


def on_terminal(*words: str, patience: float = 0.0) -> tuple[str, str]:
    """What a command prints to a pipe, and to a terminal on its standard error."""
    ours, theirs = pty.openpty()
    environment = {**os.environ, "TERM": "xterm", "COLUMNS": "120"}
    command = [sys.executable, "-c", SCRIPT, str(patience), *words]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=theirs, env=environment) as child:
        os.close(theirs)
        shown = b""
        while True:
            try:
                shown += os.read(ours, 4096)
            except OSError:  # the terminal is closed
                break
            if not shown:
                break
        assert child.stdout
        printed = child.stdout.read()
    os.close(ours)
    assert child.returncode == 0
    return printed.decode(), shown.decode()


def test_what_takes_long_shows_a_bar_and_takes_it_away(garden: Path) -> None:
    printed, shown = on_terminal("tree", "--site", str(garden))
    assert "reading the site" in shown
    assert shown.rstrip().endswith(("\x1b[2K", "\x1b[?25h"))  # the line is erased, the cursor is back
    assert "\x1b" not in printed


def test_what_is_quick_shows_none(garden: Path) -> None:
    assert on_terminal("show", "/", "--site", str(garden), patience=30.0)[1] == ""


def test_in_a_pipe_there_is_none(garden: Path) -> None:
    command = [sys.executable, "-c", SCRIPT, "0", "show", "/", "--site", str(garden)]
    assert subprocess.run(command, capture_output=True, text=True, check=True).stderr == ""


class Told(list[str]):
    """What a listener was told."""

    def begin(self, what: str, steps: int) -> None:
        self.append(f"{what} in {steps}")

    def step(self, now: str) -> None:
        self.append(now)

    def end(self) -> None:
        self.append("end")


def test_listeners_hear_of_the_end_whatever_happens() -> None:
    told = Told()

    def fail() -> None:
        with work("this", 2) as step:
            step("one")
            raise RuntimeError

    with listening(told), pytest.raises(RuntimeError):
        fail()
    with work("that", 1) as step:
        step("unheard")
    assert told == ["this in 2", "one", "end"]
