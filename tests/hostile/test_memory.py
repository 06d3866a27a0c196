"""Files that would fill a machine, read with little memory: a message with their names, and no traceback."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

Small = Callable[..., Path]
MEMORY = 1 << 30


def ask(folder: Path, *words: str) -> tuple[int, str]:
    """The status of a command that may take a gigabyte, and what it reports."""
    done = subprocess.run(
        [sys.executable, "-m", "davlo", *words, "--site", str(folder)],
        capture_output=True,
        text=True,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY)),
    )
    return done.returncode, done.stderr


@pytest.mark.parametrize("name", ["pages.csv", "davlo.yaml", "stamps.csv"])
@pytest.mark.parametrize("size", [1 << 32, 1 << 42])
def test_a_file_that_is_too_large_is_named(small: Small, name: str, size: int) -> None:
    folder = small("")
    with (folder / name).open("ab") as file:
        try:
            os.truncate(file.fileno(), size)
        except OSError:
            pytest.skip("no file of that size can be made here")
    status, told = ask(folder, "check")
    assert (status, f"{name}: the file cannot be read: there is not enough memory" in told) == (2, True), told


def test_aliases_that_unfold_are_counted_and_not_unfolded(small: Small) -> None:
    bomb = "a0: &a0 [x, x, x, x, x, x, x, x, x, x]\n"
    bomb += "".join(f"a{i}: &a{i} [{', '.join([f'*a{i - 1}'] * 10)}]\n" for i in range(1, 12))
    status, told = ask(small(bomb), "check")
    assert (status, "unfold to more than 5,000,000 values" in told) == (2, True)


def test_nesting_names_its_line(small: Small) -> None:
    deep = "menu:\n" + "".join(" " * i + "- \n" for i in range(1, 3000))
    status, told = ask(small(deep), "check")
    assert (status, "nested too deep" in told, "davlo.yaml:" in told) == (2, True, True)
