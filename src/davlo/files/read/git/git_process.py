"""Running git on a repository that may be a stranger's. No other module does it.

Its configuration can name commands: to fetch a missing object, to watch files, to show pages. git is run so that none
of them starts, so that it talks to nobody, and within bounds of time and of what it prints.
"""

from __future__ import annotations

import os
import shlex
import subprocess
import threading
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from typing import IO

from davlo.core.faults import DavloError

SETTINGS = (
    "core.fsmonitor=false",
    "core.hooksPath=/dev/null",
    "core.pager=cat",
    "core.sshCommand=false",
    "core.askPass=false",
    "credential.helper=",
    "protocol.allow=never",
    "safe.bareRepository=explicit",
)
ENVIRONMENT = {
    "GIT_ALLOW_PROTOCOL": "none",
    "GIT_NO_LAZY_FETCH": "1",
    "GIT_CONFIG_NOSYSTEM": "1",
    "GIT_TERMINAL_PROMPT": "0",
    "GIT_OPTIONAL_LOCKS": "0",
    "GIT_NO_REPLACE_OBJECTS": "1",
}
MOST_SECONDS = 30
MOST_PRINTED = 64 << 20
"""The most bytes that git may print, where nothing else is said."""
MOST_COMPLAINT = 1 << 14


class RevisionFault(DavloError, ValueError):
    """A state of a site that cannot be read: no site folder and no revision; `hint` says what to type instead."""

    def __init__(self, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.hint = hint


def run_git(folder: Path, *words: str, input_: bytes = b"") -> bytes:
    """What git prints.

    Raises RevisionFault if it cannot be run, refuses, prints too much or takes too long.
    """

    def read(printed: IO[bytes]) -> bytes:
        content = printed.read(MOST_PRINTED + 1)
        if len(content) > MOST_PRINTED:
            raise RevisionFault(f"git {words[0]} prints more than {MOST_PRINTED:,} bytes, and Davlo reads no more")
        return content

    return git_output(folder, words, read, input_)


def git_output(folder: Path, words: tuple[str, ...], read: Callable[[IO[bytes]], bytes], input_: bytes = b"") -> bytes:
    """What a function makes of what git prints; raises as `run_git` does.

    `folder`: where it is run. `words`: the command of git and its options. `read`: reads what git prints, and bounds
    it. `input_`: what git reads.
    """
    options = [word for setting in SETTINGS for word in ("-c", setting)]
    command = ["git", "--no-pager", *options, "-C", str(folder), *words]
    pipe = subprocess.PIPE
    try:
        process = subprocess.Popen(command, stdin=pipe, stdout=pipe, stderr=pipe, env=_environment(os.environ))
    except (OSError, ValueError) as error:
        raise RevisionFault(f"git cannot be run: {getattr(error, 'strerror', None) or error}") from None
    assert process.stdin is not None
    assert process.stdout is not None
    assert process.stderr is not None
    complaint: list[bytes] = []
    is_late = threading.Event()

    def stop() -> None:
        is_late.set()
        process.kill()

    timer = threading.Timer(MOST_SECONDS, stop)
    beside = [
        threading.Thread(target=_feed, args=(process.stdin, input_), daemon=True),
        threading.Thread(target=_drain, args=(process.stderr, complaint), daemon=True),
    ]
    with process:
        for thread in (timer, *beside):
            thread.daemon = True
            thread.start()
        try:
            found = read(process.stdout)
            status = process.wait()
        finally:
            timer.cancel()
            process.kill()
            for thread in beside:
                thread.join()
    if is_late.is_set():
        raise RevisionFault(f"git gave no answer within {MOST_SECONDS} seconds")
    if status:
        told = b"".join(complaint).decode("utf-8", "replace").strip().split("\n")
        if any("lazy fetching disabled" in line for line in told):
            raise missing_from_copy(folder, "a file")
        raise RevisionFault(told[0] or f"git knows no such revision ({' '.join(words[-1:])})")
    return found


def missing_from_copy(folder: Path, name: str) -> RevisionFault:
    """The error about an object that a partial clone lacks: git is not let fetch it."""
    hint = f"git -C {shlex.quote(str(folder))} fetch --refetch --no-filter"
    return RevisionFault(f"{name} of that revision is not in this copy of the repository", hint)


def _feed(pipe: IO[bytes], content: bytes) -> None:
    with suppress(OSError, ValueError):
        pipe.write(content)
    with suppress(OSError, ValueError):
        pipe.close()


def _drain(pipe: IO[bytes], into: list[bytes]) -> None:
    """Keep the first of what git complains about, and read the rest so that it does not wait."""
    with suppress(OSError, ValueError):
        into.append(pipe.read(MOST_COMPLAINT))
        while pipe.read(MOST_COMPLAINT):
            pass


def _environment(own: Mapping[str, str]) -> dict[str, str]:
    """The environment for git: nothing in it names another repository, a configuration, or a command."""
    return {**{name: value for name, value in own.items() if not name.startswith("GIT_")}, **ENVIRONMENT}
