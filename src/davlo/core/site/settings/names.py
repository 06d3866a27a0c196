"""Names of declarations: what may be one."""

from __future__ import annotations

import re

NAME = re.compile(r"[^\W_]+(?:[-.][^\W_]+)*")
PROGRAM = "program"
"""In `used_by` of a setting: the site's program reads it, where no reader looks."""
RESERVED_NAMES = ("everyone", "signed-in", "owner", "owner-group", "none", PROGRAM)
"""Words that have a meaning of their own."""


def what_is_wrong(name: str, what: str) -> tuple[str, str]:
    """Why a name is not allowed, and what to do; both empty if it is allowed.

    Example
    -------
    >>> what_is_wrong("My Sidebar", "sidebar")
    ("'My Sidebar' is no name: names are lower-case words with - or . between", 'write my-sidebar')
    >>> what_is_wrong("main", "sidebar"), what_is_wrong("none", "sidebar")[0]
    (('', ''), 'no sidebar may be called none: the word has a meaning of its own')
    """
    if name in RESERVED_NAMES:
        return f"no {what} may be called {name}: the word has a meaning of its own", ""
    if name != name.lower() or not NAME.fullmatch(name):
        better = "-".join(re.findall(r"[^\W_]+", name.lower())) or "a-name"
        return f"{name!r} is no name: names are lower-case words with - or . between", f"write {better}"
    return "", ""
