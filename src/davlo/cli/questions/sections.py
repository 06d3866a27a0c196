"""Parts of a comparison on a screen: a heading, and the first lines of each."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from davlo.words.comparison import Section

from ..changes.reach import MOST_PRINTED, print_findings, print_lines
from ..screen import print_sections

MOST_IN_MARKDOWN = 20
"""The most lines of a part in Markdown without --all."""


def print_parts(sections: Sequence[Section], everything: bool) -> None:
    """Print the parts: as many lines of each as fit one screen, or all."""
    told = [
        (f"{one.title} ({len(one.findings):,})", partial(print_findings, one.findings))
        if one.findings
        else (one.title, partial(print_lines, one.lines))
        for one in sections
    ]
    print_sections(told, None if everything else MOST_PRINTED)
