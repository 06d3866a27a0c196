"""A kind of finding during one search: the pages to report, and the findings that it makes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.grouping import groups
from ..site.model import Accept
from .context import FindingContext
from .finding import Finding, Said
from .mending import Remedy

MOST_SAID = 8
"""The most statements that a finding names."""
NO_PAGES = np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, slots=True)
class BoundKind:
    """A kind of finding, bound to a site and to the setting that its findings name."""

    context: FindingContext
    name: str
    level: str
    setting: str | None = None
    accepted: bool = False  # whether to look for what an entry of `accept` silences, and for nothing else

    def of(self, setting: str | None) -> BoundKind:
        """This kind, for findings about another setting."""
        return replace(self, setting=setting)

    def _entries(self) -> list[Accept]:
        """The entries of `accept` that are about this kind and setting.

        Those that name a declaration are left to `check`: they silence whole findings.
        """
        entries = [one for one in self.context.accepts if not one.declaration]
        return [one for one in entries if one.kind in ("", self.name) and one.setting in ("", self.setting)]

    def concerns(self, pages: NDArray[np.integer]) -> Mask:
        """Which of these pages to report: of those asked about the ones that no `accept` silences, or that one does."""
        silenced = np.zeros(len(pages), dtype=bool)
        for accept in self._entries():
            silenced |= self.context.meant_by(accept)[pages]
        mask: Mask = silenced == self.accepted
        return mask if self.context.asked is None else mask & self.context.asked[pages]

    @property
    def keep(self) -> Callable[[NDArray[np.int64]], Mask] | None:
        """`concerns`, or None if all pages count."""
        return self.concerns if self.accepted or self.context.asked is not None or self._entries() else None

    def grouped(
        self, pages: NDArray[np.int64], *keys: NDArray[np.integer]
    ) -> Iterator[tuple[tuple[int, ...], NDArray[np.int64]]]:
        """The pages to report, gathered by their keys; each key is int[pages]."""
        if self.keep is not None:
            pages = pages[self.concerns(pages)]
        if not keys and len(pages):
            yield (), pages
        elif len(pages):
            for key, rows in groups(*(column[pages] for column in keys)):
                yield key, pages[rows]

    def reports(self, pages: NDArray[np.integer]) -> bool:
        """Whether to report an indivisible finding: it has a page to report.

        A finding without pages is silenced by an entry that has no `when`, and left out if only some pages are asked
        about.
        """
        if not len(pages):
            is_accepted = any(accept.when is None for accept in self._entries())
            return self.context.asked is None and is_accepted == self.accepted
        return self.keep is None or bool(self.concerns(pages).any())

    def finding(
        self,
        pages: NDArray[np.integer],
        statements: Iterable[int] | Iterable[Said],
        message: str,
        fix: str,
        *ways: Remedy | None,
        level: str = "",
        about: Iterable[int | str] | None = None,
    ) -> Finding:
        """One finding of this kind.

        `pages`: int[n]. `statements`: the numbers of built-in values (-1) are left out. `*ways`: what else would mend
        it than taking its statements away. `level`: its level, where that is not the kind's. `about`: the statements,
        by number, and the names, pages or words that are its cause, where its statements come and go with its pages
        (default: its statements).
        """
        some = [*statements]
        told = tuple(one for one in some if isinstance(one, Said))
        said = told or self.context.said(one for one in some if not isinstance(one, Said))
        remedies = tuple(way for way in ways if way is not None)
        paths = self.context.paths(pages)
        cause: tuple[object, ...] = ()
        if about is not None:
            named = [(one,) if isinstance(one, str) else self.context.said([one]).causes() for one in about]
            cause = (self.name, self.setting, tuple(one for some in named for one in some))
        return Finding(self.name, level or self.level, self.setting, paths, said, message, fix, remedies, _cause=cause)
