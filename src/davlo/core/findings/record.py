"""A finding, and what all findings are made from."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..access import Access
from ..columns import Codes, Mask
from ..effective import EffectiveModel
from ..faults import Place
from ..source import source_of
from ..statements import Form
from ..values import format_value

LEVELS = ("error", "warning", "note")


class Said(NamedTuple):
    """One statement in dispute: its scope, file, line and value in words."""

    scope: str
    file: str
    line: int
    value: str

    @property
    def place(self) -> Place:
        return Place(self.file, self.line)


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that `check` reports.

    Attributes
    ----------
    kind, level : str
    setting : str or None
    pages : tuple of str
        Every page with this cause, in the order of the tree.
    statements : tuple of Said
        The statements in dispute.
    message, fix : str
        Sentences a colleague understands.
    """

    kind: str
    level: str
    setting: str | None
    pages: tuple[str, ...]
    statements: tuple[Said, ...]
    message: str
    fix: str

    def as_json(self) -> dict[str, object]:
        """The finding as JSON holds it."""
        return {
            "kind": self.kind,
            "level": self.level,
            "setting": self.setting,
            "pages": list(self.pages),
            "statements": [
                {"scope": s.scope, "file": s.file, "line": s.line, "value": s.value} for s in self.statements
            ],
            "message": self.message,
            "fix": self.fix,
        }


class Steps(NamedTuple):
    """Every step of one setting's fold, told by `Watch`, end to end.

    `pages: int64[steps]`, `statements`, `before`, `after: int32[steps]`, `blocked: bool[steps]`.
    """

    pages: NDArray[np.int64]
    statements: Codes
    before: Codes
    after: Codes
    blocked: Mask


class Inquiry:
    """What findings are made from: the effective values, access, and the steps that led there."""

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site
        self.statements = effective.site.statements
        self.accepted = False
        self._steps: dict[int, Steps] = {}

    def looked_at(self, kind: str, setting: str | None, pages: NDArray[np.integer]) -> Mask:
        """Which of these pages a kind of finding is about: those it is not accepted on, or (`accepted`) those it is.

        Entries of `accept` that name a piece are left to `check`: they look at whole findings.
        """
        silenced = np.zeros(len(self.site.tree), dtype=bool)
        for accept in self.site.accepts:
            if not accept.piece and accept.kind in ("", kind) and accept.setting in ("", setting):
                silenced |= True if accept.when is None else self.site.pages(accept.when)
        mask: Mask = silenced[pages] == self.accepted
        return mask

    @cached_property
    def access(self) -> Access:
        """Who may do what."""
        return Access(self.effective)

    def steps(self, setting: int) -> Steps:
        """The steps of a setting's fold."""
        if setting not in self._steps:
            told: list[tuple[NDArray[np.int64], Codes, Codes, Codes, Mask]] = []
            self.effective.stations(setting, lambda *columns: told.append(columns))
            if told:
                self._steps[setting] = Steps(*(np.concatenate(column) for column in zip(*told, strict=True)))
            else:
                none = np.zeros(0, dtype=np.int32)
                self._steps[setting] = Steps(none.astype(np.int64), none, none, none, none.astype(bool))
        return self._steps[setting]

    def settings_said(self) -> list[int]:
        """The settings of which anything is said, in their order."""
        return [n for n in self.site.catalogue.ordered() if len(self.statements.of_setting(n))]

    def word(self, setting: int, code: int) -> str:
        """A value in words, as a sentence has it."""
        return format_value(self.statements.words[setting][code]) or "empty"

    def said(self, statements: Iterable[int]) -> tuple[Said, ...]:
        """Statements as a finding holds them; built-in is left out."""
        found = []
        for statement in statements:
            if statement >= 0:
                source = source_of(self.site, statement)
                fresh = int(self.statements.form[statement]) == Form.FRESH
                value = "fresh_access" if fresh else format_value(self.statements.said(statement)) or "empty"
                found.append(Said(source.scope, source.file, source.line, value))
        return tuple(found)

    def where(self, statement: int) -> str:
        """A statement's scope and place, in words."""
        scope, place = source_of(self.site, statement).scope, self.statements.place(statement)
        kind, _, name = scope.partition(" ")
        told = {"rule": f'the rule "{name}"', "here": "the page itself", "stamp": "the page's stamp"}.get(kind, scope)
        return f"{told} ({place})"

    def paths(self, pages: Iterable[int]) -> tuple[str, ...]:
        """Paths of pages, each once, in the order of the tree."""
        return tuple(self.site.tree.paths[p] for p in sorted(set(pages)))


def groups(*keys: NDArray[np.integer], least: int = 1) -> Iterator[tuple[tuple[int, ...], NDArray[np.int64]]]:
    """The different rows of these columns, and where each stands; in the order of the rows' values.

    Rows that stand in fewer than `least` places are left out.
    """
    if not len(keys[0]):
        return
    order = np.lexsort(keys[::-1])
    columns = [key[order] for key in keys]
    differs = np.any([column[1:] != column[:-1] for column in columns], axis=0)
    edges = np.flatnonzero(np.r_[True, differs, True])
    for place in np.flatnonzero(np.diff(edges) >= least).tolist():
        start = edges[place]
        yield tuple(int(column[start]) for column in columns), order[start : edges[place + 1]]
