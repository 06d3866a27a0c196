"""The key with which this user, on this machine, marks Davlo's own records: it lies outside every site folder."""

from __future__ import annotations

import errno
import os
import secrets
import stat
from contextlib import suppress
from pathlib import Path

from davlo.core.faults import DavloError

from ..read.site_file import open_regular
from .durable_files import flush_folder, write_beside

STATE, KEY = "DAVLO_STATE", "key"
BYTES = 32
"""The length of the key (RFC 2104, section 3: not less than what the hash gives)."""


class NoKey(DavloError, OSError):
    """There is no place for the key, or what lies there cannot be used."""


def state_folder() -> Path:
    """The folder for the key: the environment's DAVLO_STATE, else the one that the system has for such files."""
    named = os.environ.get(STATE)
    if named:
        return Path(named)
    import platformdirs

    return platformdirs.user_state_path("davlo", appauthor=False)


def user_key(folder: Path, *, make: bool = False) -> bytes | None:
    """The key of this user.

    `folder`: the site folder, in which the key may not lie. `make`: whether to make one if there is none. Returns none
    if there is none and none is made. Raises NoKey if there is no place for it, or others could have read it.
    """
    state = state_folder()
    try:
        if not state.is_absolute() and not os.environ.get(STATE):
            raise OSError(errno.ENOENT, "you have no home folder")
        if state.resolve().is_relative_to(folder.resolve()):
            raise OSError(errno.EPERM, "it lies in the site folder, so whoever made that could have made it")
        with suppress(FileNotFoundError):
            return _read(state / KEY)
        if not make:
            return None
        state.mkdir(mode=0o700, parents=True, exist_ok=True)
        _make(state / KEY)
        return _read(state / KEY)
    except (OSError, RuntimeError) as error:
        why = getattr(error, "strerror", None) or str(error)
        raise NoKey(
            errno.EACCES,
            f"Davlo has no place for the key that marks its records ({why}), so it reads and does not write. Name a "
            f"folder of your own, outside the site: export {STATE}=DIR",
            str(state),
        ) from None


def _read(path: Path) -> bytes:
    with open_regular(path) as file:
        mode = os.fstat(file.fileno()).st_mode
        if os.name == "posix" and stat.S_IMODE(mode) & 0o077:
            raise OSError(errno.EPERM, f"others may read or change the key there: chmod 600 {path}")
        key = file.read(BYTES + 1)
    if len(key) != BYTES:
        raise OSError(errno.EINVAL, f"the key there is damaged; delete it to get a new one: {path}")
    return key


def _make(path: Path) -> None:
    """Make a key, unless another process does so first."""
    part = path.with_name(f".{KEY}.{secrets.token_hex(8)}")
    try:
        write_beside(path, part, secrets.token_bytes(BYTES), mode=0o600)
        try:
            os.link(part, path)
        except FileExistsError:
            return
        except OSError:  # a file system without links
            os.replace(part, path)
        flush_folder(path.parent)
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
