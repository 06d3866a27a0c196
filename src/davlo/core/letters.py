"""Makes letters visible that a terminal would obey."""

from __future__ import annotations

import re

_OBEYED = re.compile("[\x00-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


def visible(text: str) -> str:
    """Text from a file, with the characters shown that a terminal would obey.

    These are controls (ends of lines too), overrides of the direction of writing, and halves of surrogate pairs. Spaces
    of every width, joiners and marks of direction are letters like others.

    Example
    -------
    >>> visible("Tickets\\x1b[2J"), visible("Chapitre\\xa012")
    ('Tickets\\\\x1b[2J', 'Chapitre\\xa012')
    """
    return _OBEYED.sub(lambda found: repr(found[0])[1:-1], text)
