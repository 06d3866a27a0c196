"""Which bytes a file held when it was read, so that an edit of another file is refused."""

from __future__ import annotations

import zlib
from collections.abc import Iterable


def digest(content: bytes | memoryview) -> str:
    """The length and the CRC-32 (ISO 3309) of a file's bytes: they show an accident, not a forgery.

    Example
    -------
    >>> digest(b"davlo: 1")
    '8:1318e162'
    """
    return digest_of([content])


def digest_of(parts: Iterable[bytes | memoryview]) -> str:
    """The digest of a file that comes in parts."""
    size, crc = 0, 0
    for part in parts:
        size, crc = size + len(part), zlib.crc32(part, crc)
    return f"{size}:{crc:08x}"
