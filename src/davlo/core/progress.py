"""How far a long piece of work has come. A listener may follow it."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Protocol, TypeVar

Item = TypeVar("Item")


class Listener(Protocol):
    """Is called about work in progress, from the thread that works."""

    def begin(self, what: str, steps: int) -> None:
        """Work of `steps` steps begins."""

    def step(self, now: str) -> None:
        """A step begins; `told` says what it does."""

    def end(self) -> None:
        """The piece of work has ended, well or not."""


_listeners: list[tuple[Listener, int]] = []


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Within this context, `listener` is called about all work of this thread."""
    mine = listener, threading.get_ident()
    _listeners.append(mine)
    try:
        yield
    finally:
        _listeners.remove(mine)


@contextmanager
def work(what: str, steps: int) -> Iterator[Callable[[str], None]]:
    """A piece of work of `steps` steps; call the function that it gives as each step begins.

    Example
    -------
    >>> with work("counting", steps=2) as step:
    ...     step("one")
    ...     step("two")
    """
    listeners = tuple(listener for listener, thread in _listeners if thread == threading.get_ident())
    for listener in listeners:
        listener.begin(what, steps)

    def step(now: str) -> None:
        for listener in listeners:
            listener.step(now)

    try:
        yield step
    finally:
        for listener in listeners:
            listener.end()


def each(what: str, items: Sequence[Item], name: Callable[[Item], str] = str) -> Iterator[Item]:
    """The items one by one, each a step of a piece of work.

    Example
    -------
    >>> list(each("counting", ["one", "two"]))
    ['one', 'two']
    """
    with work(what, len(items)) as step:
        for item in items:
            step(name(item))
            yield item
