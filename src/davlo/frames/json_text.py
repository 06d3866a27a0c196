"""JSON as Davlo writes it. No other module writes it."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import cache

_OBEYED_IN_JSON = re.compile("[\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


@cache
def _encoder(indent: int | None) -> Callable[[object], str]:
    import json  # not every answer needs it

    return json.JSONEncoder(ensure_ascii=False, indent=indent).encode


def json_text(value: object, indent: int | None = None) -> str:
    """A value as JSON (RFC 8259), in which every character that a terminal would obey is written as an escape.

    Example
    -------
    >>> json_text({"title": "\\x9b2J · ü"})
    '{"title": "\\\\u009b2J · ü"}'
    """
    text = _encoder(indent)(value)
    return _OBEYED_IN_JSON.sub(lambda found: f"\\u{ord(found[0]):04x}", text)
