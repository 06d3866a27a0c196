"""Findings about promises."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..access import VISITOR, Decision
from ..columns import Mask
from ..effective import EffectiveModel
from ..model import Promise
from ..values import ByDepth, format_value
from ..wording import count
from .grouping import groups
from .inquiry import Inquiry
from .mending import Put, Remedy, without
from .record import Finding, Pages, Said

FEW = 12
"""So many pages are left out of a promise one by one."""


class Kept(NamedTuple):
    """What became of a promise.

    Attributes
    ----------
    promise : Promise
    pages : int
        How many pages it is about.
    broken : tuple of Finding
        What breaks it; none where it holds.
    """

    promise: Promise
    pages: int
    broken: tuple[Finding, ...]

    def broken_pages(self) -> int:
        """On how many pages it is broken."""
        return len({int(page) for finding in self.broken for page in finding.pages.numbers})


def promises_kept(effective: EffectiveModel) -> list[Kept]:
    """Every promise, and whether it holds; accepted or not.

    Example
    -------
    >>> import davlo
    >>> [(one.promise.name, one.pages, one.broken_pages()) for one in promises_kept(davlo.open_demo().resolve())][0]
    ('Staff pages stay private', 9, 1)
    """
    inquiry = Inquiry(effective, heeds_accepts=False)
    found = []
    for promise in effective.site.promises:
        pages = np.flatnonzero(effective.site.pages(promise.when, promise.excepts))
        found.append(Kept(promise, len(pages), tuple(_broken(inquiry, promise, pages))))
    return found


def promise_broken(inquiry: Inquiry) -> Iterator[Finding]:
    """A page that meets a promise's `when` breaks it."""
    for promise in inquiry.site.promises:
        yield from _broken(inquiry, promise, np.flatnonzero(inquiry.site.pages(promise.when, promise.excepts)))


def _broken(inquiry: Inquiry, promise: Promise, pages: NDArray[np.int64]) -> Iterator[Finding]:
    yield from _has(inquiry, promise, pages)
    yield from _may(inquiry, promise, pages, "can")
    yield from _may(inquiry, promise, pages, "cannot")


def _has(inquiry: Inquiry, promise: Promise, pages: NDArray[np.int64]) -> Iterator[Finding]:
    site, statements = inquiry.site, inquiry.statements
    for setting, wanted in promise.has.items():
        found = inquiry.effective.resolved(setting)
        if isinstance(wanted, ByDepth):
            code = np.array(
                [statements.words[setting].find(wanted.at(int(d))) for d in site.tree.depth[pages]], dtype=np.int64
            )
        else:
            code = np.full(len(pages), statements.words[setting].find(wanted), dtype=np.int64)
        broken = pages[(found.value[pages] != code) | ~site.has(setting)[pages]]
        name = site.catalogue[setting].name
        broken = broken[inquiry.looked_at("promise-broken", name, broken)]
        for (source, value), rows in groups(found.source[broken], found.value[broken]):
            paths = inquiry.paths(broken[rows])
            given = "as it is built in" if source < 0 else f"from {inquiry.where(source)}"
            yield _finding(
                inquiry,
                promise,
                name,
                paths,
                inquiry.said([source]),
                [source],
                f"{name} should be {format_value(wanted) or 'empty'} and is {inquiry.word(setting, value)} {given}",
                f"change that statement, or give the promise at {promise.place} an except for these pages",
            )


def _may(inquiry: Inquiry, promise: Promise, pages: NDArray[np.int64], word: str) -> Iterator[Finding]:
    access = inquiry.access
    for subject, actions in (promise.can if word == "can" else promise.cannot).items():
        for action in actions:
            broken: dict[tuple[str, str], list[int]] = {}
            said: dict[tuple[str, str], tuple[Said, ...]] = {}
            blamed: dict[tuple[str, str], set[int]] = {}
            for person in access.people_ever_covered(subject):
                if word == "cannot" and access.is_admin(person):
                    continue
                may = access.may(person, action)
                wrong = access.covered(person, subject) & (may if word == "cannot" else ~may)
                at_fault = pages[wrong[pages]]
                at_fault = at_fault[inquiry.looked_at("promise-broken", f"access.{subject}", at_fault)]
                for page in at_fault.tolist():
                    decision = access.why(person, action, page)
                    broken.setdefault((person, decision.reason), []).append(page)
                    sources = [*decision.allowed_by, *decision.denied_by]
                    blamed.setdefault((person, decision.reason), set()).update(_blamed(inquiry, decision, may, page))
                    told = tuple(Said(s.scope, s.file, s.line, action) for _, s in sources if s.file)
                    said[person, decision.reason] = told
            for (person, reason), at in broken.items():
                verb = "may" if word == "cannot" else "may not"
                yield _finding(
                    inquiry,
                    promise,
                    f"access.{subject}",
                    inquiry.paths(np.array(at, dtype=np.int64)),
                    said[person, reason],
                    sorted(blamed[person, reason]),
                    f"{'a visitor' if person == VISITOR else person} {verb} {action}: {reason}",
                    f"change that statement, or give the promise at {promise.place} an except for these pages",
                )


def _blamed(inquiry: Inquiry, decision: Decision, may: Mask, page: int) -> Iterator[int]:
    """The statements because of which someone may act on a page, or may not."""
    family, told = ("access", decision.allowed_by) if may[page] else ("deny", decision.denied_by)
    for subject, _ in told:
        number = inquiry.site.setting_number(f"{family}.{subject}")
        yield int(inquiry.effective.resolved(number).source[page])


def _finding(
    inquiry: Inquiry,
    promise: Promise,
    setting: str,
    paths: Pages,
    said: Sequence[Said],
    blamed: Sequence[int],
    what: str,
    fix: str,
) -> Finding:
    """The finding of a promise that is broken; `blamed` are the statements that break it, if that is all it takes."""
    message = f'the promise "{promise.name}" ({promise.place}) is broken on {count(len(paths), "page")}: {what}'
    ways = [without(inquiry.site, "what breaks it", blamed)]
    if not promise.excepts and len(paths) <= FEW:
        step = Put(("except",), {"path": list(paths)}, promise.place)
        ways.append(Remedy("leave these pages out of the promise", (step,)))
    return Finding("promise-broken", "error", setting, paths, said, message, fix, tuple(filter(None, ways)))
