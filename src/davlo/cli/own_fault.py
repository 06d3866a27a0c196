"""A fault of Davlo's own: one line about it, and a file with what its developers need."""

from __future__ import annotations

import os
import shlex
import tempfile
import traceback
from collections.abc import Sequence

from .screen import note

HINTS = {
    MemoryError: "there is not enough memory for this site",
    RecursionError: "something in this site is nested deeper than Davlo can follow",
}


def print_own_fault(error: Exception, words: Sequence[str]) -> None:
    """Report a fault of Davlo's own on standard error: what was being done, what went wrong, and where to read more."""
    what = HINTS.get(type(error), f"{type(error).__name__}: {str(error)[:200]}")
    note(f"davlo has failed, by a fault of its own, at: davlo {shlex.join(words)}")
    note(f"  {what}")
    told = "".join(traceback.format_exception(error))
    try:
        handle, name = tempfile.mkstemp(prefix="davlo-fault-", suffix=".txt")
        with os.fdopen(handle, "w", encoding="utf-8", errors="backslashreplace") as file:
            file.write(told)
    except OSError:
        note("  what its developers need to know could not be written to a file")
    else:
        note(f"  what its developers need to know is in {name}")
