"""Something happens at a step of writing: the process ends, or the disk is full."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from davlo.cli.main import status_of

STEPS_OF_WRITING = ("replace", "link", "fsync", "fdopen", "chmod", "unlink", "mkdir", "rmdir")


@contextmanager
def at_each_step(act: Callable[[int], None]) -> Iterator[None]:
    """Call `act` with a number before each step of writing: each flush, rename, link, new folder and write."""
    done = 0
    before: dict[tuple[Any, str], Any] = {(os, name): getattr(os, name) for name in STEPS_OF_WRITING}
    before |= {(Path, name): getattr(Path, name) for name in ("write_bytes", "write_text")}

    def counted(real: Any) -> Any:
        def call(*args: Any, **options: Any) -> Any:
            nonlocal done
            done += 1
            act(done)
            return real(*args, **options)

        return call

    try:
        for (owner, name), real in before.items():
            setattr(owner, name, counted(real))
        yield
    finally:
        for (owner, name), real in before.items():
            setattr(owner, name, real)


@contextmanager
def as_it_is(folder: Path) -> Iterator[Callable[[], None]]:
    """A function that brings a folder back to what it is now: what Davlo notes counts only where it was written."""
    with tempfile.TemporaryDirectory() as holder:
        saved = Path(holder) / "saved"
        shutil.copytree(folder, saved)

        def bring_back() -> None:
            shutil.rmtree(folder)
            shutil.copytree(saved, folder)

        yield bring_back
        bring_back()


def steps_of(words: Sequence[str]) -> int:
    """How many steps of writing a command takes."""
    seen: list[int] = []
    with at_each_step(seen.append):
        assert status_of([*words]) == 0
    return len(seen)


def end_at_step(words: Sequence[str], last: int) -> None:
    """Run a command in a process that ends before a step of writing, as if the machine had stopped."""
    child = os.fork()
    if child == 0:
        with at_each_step(lambda number: os._exit(9) if number == last else None):
            os._exit(status_of([*words]))
    assert os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 9
