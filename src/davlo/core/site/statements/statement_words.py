"""The words of statements: what the codes in their columns mean."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codebook
from ...faults import Place
from ..settings.values import Value
from .new_statements import SAID_STEP, Form, NewStatement, StatementBatch

Columns = Mapping[str, NDArray[Any]]


@dataclass(frozen=True, slots=True)
class StatementWords:
    """What the codes of statements mean."""

    # for each setting its built-in value, and every value that a statement gives it
    values: tuple[Codebook[Value], ...]
    files: Codebook[str]
    reasons: Codebook[str]
    presets: Codebook[tuple[str, Place | None]]

    @classmethod
    def of(cls, built_in: Sequence[Value]) -> StatementWords:
        """Those of settings of which nothing is said yet."""
        return cls(tuple(Codebook([value]) for value in built_in), Codebook(), Codebook([""]), Codebook([("", None)]))

    def freeze(self) -> StatementWords:
        """These words, frozen."""
        for book in self.values:
            book.freeze()
        self.files.freeze()
        self.reasons.freeze()
        self.presets.freeze()
        return self

    def code(self, new: Sequence[NewStatement]) -> Columns:
        """Statements as columns; their words are added."""
        columns = {
            "setting": [s.setting for s in new],
            "scope": [s.scope for s in new],
            "target": [s.target for s in new],
            "value": [self.values[s.setting].code(s.value) for s in new],
            "step": [s.step for s in new],
            "form": [s.form for s in new],
            "locked": [s.locked for s in new],
            "both": [s.both for s in new],
            "file": [self.files.code(s.place.file) for s in new],
            "line": [s.place.line for s in new],
            "because": [self.reasons.code(s.because) for s in new],
            "preset": [self.presets.code((s.preset, s.preset_place)) for s in new],
        }
        return {name: np.array(column, dtype=np.int32) for name, column in columns.items()}

    def code_batch(self, batch: StatementBatch) -> Columns:
        """A batch as columns; its words are added."""
        values = np.array([self.values[setting].code(value) for setting, value in batch.said], dtype=np.int32)
        reasons = np.array([self.reasons.code(word) for word in batch.because.words], dtype=np.int32)
        one = {"step": SAID_STEP, "form": Form.SAID, "both": 0, "file": self.files.code(batch.file), "preset": 0}
        return {
            "setting": batch.setting,
            "scope": batch.scope,
            "target": batch.target,
            "value": values[batch.what],
            "locked": batch.locked.astype(np.int8),
            "line": batch.line,
            "because": reasons[batch.because.codes],
            **{name: np.full(len(batch.line), number, dtype=np.int32) for name, number in one.items()},
        }
