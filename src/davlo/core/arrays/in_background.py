"""Work on several cores: NumPy and pyarrow let other threads go on while they compute."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Sequence
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

Result = TypeVar("Result")
Task = TypeVar("Task")
_BLOCK = 1 << 14
"""Elements taken at a time, so that one step's data stays in the processor's cache."""
MANY = 1 << 15
"""From this many elements on, blocks are worked on side by side."""


def in_blocks(count: int, work: Callable[[slice], None], threads: bool = True) -> None:
    """Do `work` on every block of this many elements; with many elements, on several blocks at a time."""
    blocks = [slice(at, min(at + _BLOCK, count)) for at in range(0, count, _BLOCK)]
    if threads and count >= MANY:
        side_by_side(work, blocks)
    else:
        for block in blocks:
            work(block)


def side_by_side(work: Callable[[Task], None], tasks: Iterable[Task]) -> None:
    """Do `work` on every task, as many at a time as there are cores; an error in one is raised."""
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for _ in pool.map(work, tasks):
            pass


def results_of(work: Callable[[Task], Result], tasks: Sequence[Task], takes_long: bool) -> list[Result]:
    """What `work` gives for each task, in their order; with `is_long`, several at a time."""
    if not takes_long:
        return [work(task) for task in tasks]
    found: dict[int, Result] = {}

    def one(at: int) -> None:
        found[at] = work(tasks[at])

    side_by_side(one, range(len(tasks)))
    return [found[at] for at in range(len(tasks))]


def gathered(columns: Sequence[NDArray[Any]], numbers: NDArray[np.integer]) -> list[NDArray[Any]]:
    """The values of each column at these numbers; with many numbers, several columns at a time."""
    found: list[NDArray[Any]] = [column[:0] for column in columns]

    def gather(which: int) -> None:
        found[which] = columns[which].take(numbers, mode="clip")

    if len(numbers) >= MANY:
        side_by_side(gather, range(len(columns)))
    else:
        for which in range(len(columns)):
            gather(which)
    return found


def in_background(work: Callable[[], Result], takes_long: bool) -> Callable[[], Result]:
    """Start a piece of work, in another thread if it takes long; the function that it returns waits for the result."""
    if not takes_long:
        result = work()
        return lambda: result
    from concurrent.futures import Future
    from threading import Thread

    found: Future[Result] = Future()

    def run() -> None:
        try:
            found.set_result(work())
        except BaseException as error:  # raised where the result is asked for
            found.set_exception(error)

    Thread(target=run, daemon=True).start()  # Ctrl-C need not wait for a database
    return found.result
