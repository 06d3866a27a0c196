"""Opening the files of a site folder: no other module does it.

A site folder may be a stranger's. A file is opened only if it lies in the folder, links followed, and is a regular
file: a named pipe would block, and a device never ends.
"""

from __future__ import annotations

import errno
import os
import re
import stat
from io import FileIO
from itertools import islice
from pathlib import Path

from davlo.core.wording import some_of

NEVER = (".davlo", ".git")
"""Folders whose files are never a site's: Davlo's own, and git's, in which files are run."""


class OutsideFolder(OSError):
    """A file that does not lie in the site folder, or a link that leads out of it, or into Davlo's or git's own.

    `where` says where it lies: outside the site folder, or in .git.
    """

    def __init__(self, where: str, name: str) -> None:
        super().__init__(errno.EPERM, f"it lies {where}", name)
        self.where = where


def path_inside(folder: Path, name: str) -> Path:
    """The path of a file of a site folder, links followed.

    Raises OutsideFolder if it lies outside, or in a folder `.davlo` or `.git`; OSError if no file can have such a name,
    or its links go round in a circle.
    """
    try:
        root = folder.resolve()
        path = (root / name).resolve()
    except ValueError:  # a NUL
        raise OSError(errno.EINVAL, "no file can have this name", name) from None
    except RuntimeError:  # how Python 3.11 and 3.12 report a circle of links
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), name) from None
    if not path.is_relative_to(root):
        raise OutsideFolder("outside the site folder", name)
    own = in_never(path.relative_to(root))
    if own:
        raise OutsideFolder(f"in {own}, where no file of a site may be", name)
    return path


def in_never(path: Path) -> str:
    """The folder of `NEVER` that a path leads into; empty if none. Some systems ignore case, and dots at the end.

    Example
    -------
    >>> in_never(Path("shop/.Git/hooks/x.csv")), in_never(Path("shop/.github/x.csv"))
    ('.git', '')
    """
    parts = {part.casefold().rstrip(". ") for part in path.parts}
    return next((own for own in NEVER if own in parts), "")


def open_site_file(folder: Path, name: str) -> FileIO:
    """Open a file of a site folder to read its bytes.

    Raises FileNotFoundError if it is not there; OutsideFolder if it lies outside; OSError if it is no regular file, or
    cannot be read.
    """
    return open_regular(path_inside(folder, name))


def open_regular(path: Path, *, follow: bool = True) -> FileIO:
    """Open a file to read its bytes if it is a regular one; nothing else is waited for.

    `follow`: whether the file may be a link. Raises OSError if it is not there, is no regular file, or cannot be read.
    """
    try:
        no_link = 0 if follow else getattr(os, "O_NOFOLLOW", 0)
        handle = os.open(path, os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0) | no_link)
    except ValueError:
        raise OSError(errno.EINVAL, "no file can have this name", str(path)) from None
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        what = "it is a folder" if stat.S_ISDIR(mode) else "it is no regular file"
        raise OSError(errno.EINVAL, what, str(path))
    return FileIO(handle)


def read_site_file(folder: Path, name: str) -> bytes:
    """The bytes of a file of a site folder; raises as `open_site_file` does."""
    with open_site_file(folder, name) as file:
        try:
            return file.read()
        except (MemoryError, OverflowError):
            raise too_large(name) from None


MARKERS = (b"<<<<<<< ", b">>>>>>> ")
"""What git puts around the lines of two versions that it could not merge."""


def conflict_line(content: bytes | memoryview) -> int:
    """The line of the first conflict marker of git in a file; 0 if it has none.

    Example
    -------
    >>> conflict_line(b"a: 1\\n<<<<<<< HEAD\\nb: 2\\n=======\\nb: 3\\n>>>>>>> side\\n"), conflict_line(b"a: <<<<<<< b")
    (2, 0)
    """
    if len(content) >= MOST_SEARCHED:
        return 0
    whole = b"\n" + bytes(content)
    places = [whole.find(b"\n" + marker) for marker in MARKERS]
    return whole.count(b"\n", 0, min(places) + 1) if min(places) >= 0 else 0


def conflict_in(content: bytes | memoryview) -> tuple[int, str]:
    """The line of the first conflict marker of git in a file, and what to say about it; 0 and nothing if it has none.

    Example
    -------
    >>> conflict_in(b"pages:\\n<<<<<<< HEAD\\n  /a: 1\\n=======\\n  /b: 2\\n>>>>>>> side\\n")
    (2, 'git could not merge two versions here, and both still stand in the file: of /a, /b')
    """
    line = conflict_line(content)
    if not line:
        return 0, ""
    lines = bytes(content).decode("utf-8", "replace").split("\n")
    end = next((at for at in range(line, len(lines)) if lines[at].startswith(MARKERS[1].decode())), len(lines))
    found = [match[1] for at in range(line, end) if (match := _NAMES_PAGE.match(lines[at]))]
    above = (match[1] for at in range(line - 1, -1, -1) if (match := _PAGE_KEY.match(lines[at])))
    pages = found or [*islice(above, 1)]
    return line, f"{CONFLICT}{f': of {some_of(list(dict.fromkeys(pages)), MOST_NAMED)}' if pages else ''}"


_NAMES_PAGE = re.compile(r"""[\s"'-]*(?:here |below )?(/[^\s:,;"']*)""")
_PAGE_KEY = re.compile(r"""\s+["']?(/[^\s:"']*)["']?:""")
MOST_NAMED = 4
"""The most pages that a conflict names."""
MOST_SEARCHED = 16 << 20
"""The longest file that is searched for conflict markers."""
CONFLICT = "git could not merge two versions here, and both still stand in the file"
KEEP_ONE = "keep what is right, and take out the lines <<<<<<<, ======= and >>>>>>>"


def too_large(name: str) -> OSError:
    """The error about a file that does not fit into memory."""
    return OSError(errno.ENOMEM, "there is not enough memory to read it", name)
