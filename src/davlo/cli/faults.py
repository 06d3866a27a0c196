"""Faults as a person reads them: the place, what is wrong, what was probably meant, what may stand there."""

from __future__ import annotations

from collections.abc import Sequence

from davlo.core.faults import SiteError, UnknownName
from davlo.core.wording import shortened

from .old_names import now
from .screen import Styled, note

SEE_ALL = {
    "page": "davlo tree",
    "finding": "davlo check --all",
    "declaration": "davlo list",
    "command": "davlo --help",
    "setting": "davlo show PAGE --all",
}
MOST_LETTERS = 600
"""How many letters of a fault are shown: a file can hold a word of any length."""
MOST_LISTED = 12
MOST_FAULTS = 200
"""The most faults shown; the rest is counted."""
MOST_SEARCHED, FEW_NAMES = 20, 1000
"""How many faults get near names if there are very many names: each search takes a while."""


def near_names(word: str, allowed: Sequence[str], most: int = 3) -> list[str]:
    """The names most like a word, the nearest first; or else those that hold it, as `layout.theme` holds theme."""
    from rapidfuzz import fuzz, process, utils

    begins = [name for name in allowed if name.startswith(f"{word}.") or name.startswith(f"{word}-")]
    if begins:
        return begins[:most]
    found = process.extract(
        word, allowed, scorer=fuzz.ratio, processor=utils.default_process, limit=most, score_cutoff=64
    )
    near = [name for name, score, _ in found if score >= found[0][1] - 15]
    return near or [name for name in allowed if word in name.split(".")][:most]


def meant(word: str, allowed: Sequence[str], said: str = "") -> str:
    """What was probably meant, or what may stand there; empty if nothing helps, or if the message says it already."""
    if not allowed:
        return ""
    if new := now(word, allowed):
        return new
    near = near_names(word, allowed) if word else []
    if near:
        return f"did you mean {' or '.join(near)}?"
    if len(allowed) <= MOST_LISTED and not all(name in said for name in allowed):
        return f"allowed here: {', '.join(allowed)}"
    return ""


def print_error(error: SiteError | UnknownName) -> None:
    """Tell an error on standard error."""
    if isinstance(error, UnknownName):
        note(shortened(str(error), MOST_LETTERS))
        if error.what.startswith("single page"):
            note("  several pages have this title; name one by its path:")
            for path in error.allowed:
                note(f"    {path}")
            return
        is_told = bool(error.hint) and not near_names(error.word, error.allowed)
        for line in ("" if is_told else meant(error.word, error.allowed), error.hint, _see_all(error)):
            if line:
                note(f"  {line}")
        return
    for number, fault in enumerate(error.faults[:MOST_FAULTS]):
        note(Styled(str(fault.place)), ": ", shortened(fault.what, MOST_LETTERS))
        near = number < MOST_SEARCHED or len(fault.allowed) <= FEW_NAMES
        for line in (meant(fault.word, fault.allowed, fault.what) if near else "", fault.hint):
            if line:
                note("  ", shortened(line, MOST_LETTERS))
    if len(error.faults) > MOST_FAULTS:
        note(f"… and {len(error.faults) - MOST_FAULTS} more")
    files = {fault.place.file for fault in error.faults}
    faults = "1 fault" if len(error.faults) == 1 else f"{len(error.faults)} faults"
    where = "1 file" if len(files) == 1 else f"{len(files)} files"
    note()
    note(f"{faults} in {where}: fix them, then run this again.")


def _see_all(error: UnknownName) -> str:
    command = None if error.hint else SEE_ALL.get(error.what)
    if error.what == "kind of finding" and not near_names(error.word, error.allowed):
        return f"the kinds are: {', '.join(sorted(error.allowed))}"
    return f"see all of them with: {command}" if command else ""
