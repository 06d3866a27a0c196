"""How a command uses the machine. A library may not decide such things for a whole process; a command may."""

from __future__ import annotations

import atexit
import gc
import io
import os
import sys
from contextlib import chdir, suppress
from typing import NoReturn

TYPED = "davlo.typed"
"""Where the context of the commands keeps the words that were typed."""
SWITCH = 0.0003
"""Seconds that one thread runs before another may; with Python's 0.005 the reading threads wait for each other."""
_TRIM_THRESHOLD, _MMAP_MAX, _ARENA_MAX = -1, -4, -8  # the names of mallopt(3), from malloc.h
_MOST = (1 << 31) - 1


def begin() -> None:
    """Before anything else."""
    _open_streams()
    gc.set_threshold(200_000)  # a command makes many objects that stay, and ends soon
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # no linear algebra is done here: its threads would only start
    sys.setswitchinterval(SWITCH)


def _open_streams() -> None:
    """Make sure that standard output and error are open and take any letter.

    If one were closed, the next file that is opened would get its number, and the output would go into that file.
    """
    while (handle := os.open(os.devnull, os.O_RDWR)) <= 2:
        pass
    os.close(handle)
    sys.stdout = sys.stdout or open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115
    sys.stderr = sys.stderr or open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")


def keep_memory() -> None:
    """Let the C library keep the memory of columns that are dropped, and use it for the next; before any thread begins.

    If memory went back to the system, the system would hand it out again page by page, each filled with zeros. If the C
    library has no mallopt(3), nothing happens.
    """
    import ctypes

    with suppress(OSError, AttributeError, TypeError):
        mallopt = ctypes.CDLL(None).mallopt
        for option, value in ((_ARENA_MAX, 1), (_MMAP_MAX, 0), (_TRIM_THRESHOLD, _MOST)):
            mallopt(option, value)


def import_drawing() -> None:
    """Import Matplotlib, away from the current folder: it would obey a `matplotlibrc` there, which may be a stranger's.

    Its messages about its own caches are for programmers, so they are left out.
    """
    import logging

    logging.getLogger("matplotlib").setLevel(logging.ERROR)
    with chdir(os.path.dirname(os.path.abspath(__file__))):
        import matplotlib.font_manager  # noqa: F401


def leave(status: int) -> NoReturn:
    """End the process without freeing every object: all is written, and freeing takes a while."""
    for stream in (sys.stdout, sys.stderr):
        with suppress(OSError):
            stream.flush()
    if "matplotlib" in sys.modules:
        atexit._run_exitfuncs()  # where it could not write to the home folder, it takes its temporary one away
    os._exit(status)
