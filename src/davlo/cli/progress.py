"""A progress bar on standard error for what takes longer than a second; it is cleared before anything is printed."""

from __future__ import annotations

import os
import threading
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rich.progress import Progress, TaskID

PATIENCE = 1.0
"""Seconds before the bar appears."""
_FRAME = 0.1


class Bar:
    """Draws the outermost piece of work in a thread of its own, once it has lasted long enough."""

    def __init__(self) -> None:
        self._deep = 0
        self._what, self._now, self._done, self._steps = "", "", 0, 0
        self._ended = threading.Event()
        self._thread: threading.Thread | None = None

    def begin(self, what: str, steps: int) -> None:
        self._deep += 1
        if self._deep > 1:
            return
        self._what, self._now, self._done, self._steps = what, "", -1, steps
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._draw, args=(self._ended,), daemon=True)
        self._thread.start()

    def step(self, now: str) -> None:
        if self._deep == 1:
            self._now, self._done = now, self._done + 1

    def end(self) -> None:
        self._deep -= 1
        if self._deep == 0 and self._thread is not None:
            self._ended.set()
            self._thread.join()

    def _draw(self, ended: threading.Event) -> None:
        if ended.wait(PATIENCE):
            return
        progress, task = self._bar()
        with progress:
            while not ended.wait(_FRAME):
                progress.update(task, completed=self._so_far(), now=self._now)

    def _so_far(self) -> int:
        return min(max(self._done, 0), self._steps)

    def _bar(self) -> tuple[Progress, TaskID]:
        from rich.console import Console
        from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn
        from rich.theme import Theme

        plain = Theme({"bar.complete": "bold", "bar.finished": "bold", "progress.elapsed": "none"})
        console = Console(stderr=True, theme=plain, no_color=bool(os.environ.get("NO_COLOR")))
        columns = (
            TextColumn("{task.description}"),
            BarColumn(),
            TimeElapsedColumn(),
            TextColumn("{task.fields[now]}", markup=False),
        )
        progress = Progress(*columns, console=console, transient=True)
        return progress, progress.add_task(self._what, total=self._steps, completed=self._so_far(), now=self._now)
