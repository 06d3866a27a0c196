"""Steps grow with the size of a site, not with its square: counted as calls and lines, never as time."""

from __future__ import annotations

import sys
from pathlib import Path
from types import FrameType

import pytest
from benchmarks.shapes import SHAPES, write_shape

from davlo.cli.main import status_of

SIZES = {"a glob of many parts": 40, "people in groups": 100, "a long title": 4000, "a long line": 4000}
MOST = 2.6
"""The most times the steps that twice the size may take: n log n takes a little over 2."""


def steps(words: list[str]) -> int:
    """How many calls and lines of Python a command takes."""
    count = 0

    def trace(frame: FrameType, event: str, arg: object) -> object:
        nonlocal count
        count += 1
        return trace

    sys.settrace(trace)  # type: ignore[arg-type]
    try:
        assert status_of(words) in (0, 1, 2)
    finally:
        sys.settrace(None)
    return count


@pytest.mark.parametrize("name", SHAPES)
def test_steps_grow_with_the_size(name: str, tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    size = SIZES.get(name, 400)
    write_shape(name, 10, tmp_path / "first")
    status_of([*write_shape(name, 10, tmp_path / "again")])  # what is imported and made ready only once
    once = steps(write_shape(name, size, tmp_path / "once"))
    twice = steps(write_shape(name, 2 * size, tmp_path / "twice"))
    assert twice < MOST * once
