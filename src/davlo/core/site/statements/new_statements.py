"""Statements before they are a table: one by one, or many of one file as columns."""

from __future__ import annotations

from collections.abc import Sequence
from enum import IntEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Column, Mask
from ...faults import Place
from ..settings.scopes import ScopeKind
from ..settings.values import Value


class Form(IntEnum):
    """In which form a scope's body says it; within one body each form is stronger than those before."""

    FRESH = 0
    PRESET = 1
    SAID = 2


BUILT_IN = -1
"""Stands for the source of a built-in value."""
SAID_STEP = 1 << 20
"""The step of what a body itself says: after any number of presets."""
PRESET_STEP, PRESET_STEP_OF_OTHER = 2, 10_000
"""The step of the first preset of a body; that of a `below` or `here`, whose presets come after `here_and_below`'s."""


class NewStatement(NamedTuple):
    """One statement as the files give it, before it becomes a row of `Statements`."""

    setting: int
    scope: ScopeKind
    target: int
    value: Value
    place: Place
    form: Form = Form.SAID
    step: int = SAID_STEP
    locked: bool = False
    both: bool = False
    because: str = ""
    preset: str = ""
    preset_place: Place | None = None


class StatementBatch(NamedTuple):
    """Many statements of one file as columns, each what a scope itself says."""

    file: str
    line: Codes  # int32[statements]: as in `Statements`
    scope: NDArray[np.int8]  # int8[statements]
    target: Codes  # int32[statements]: as in `Statements`
    what: Codes  # int32[statements]: codes into `said`, which holds settings' numbers and values
    said: Sequence[tuple[int, Value]]
    locked: Mask  # bool[statements]
    because: Column

    @property
    def setting(self) -> Codes:
        """The setting that each statement is of. int32[statements]"""
        return np.array([setting for setting, _ in self.said], dtype=np.int32)[self.what]


def settled(scope: NDArray[np.integer], target: NDArray[np.integer], numbers: Codes) -> Codes:
    """Targets with the numbers that stood for pages replaced by what `numbers` has in their place. int32[n]"""
    found = target.astype(np.int32)
    pages = np.flatnonzero((scope == ScopeKind.BELOW) | (scope >= ScopeKind.STAMP))
    found[pages] = numbers[found[pages]]
    return found
