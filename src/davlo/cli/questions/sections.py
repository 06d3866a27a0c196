"""Parts of a comparison on a screen: a heading, and the first lines of each."""

from __future__ import annotations

from davlo.core.wording import count
from davlo.words.comparison import Section

from ..changes.reach import MOST_LINES, print_findings
from ..screen import heading, paragraph, say

MOST_IN_MARKDOWN = 20
"""The most lines of a part in Markdown without --all."""


def print_section(section: Section, everything: bool) -> None:
    """Print one part: its first lines, or all."""
    heading(f"{section.title} ({len(section.findings):,})" if section.findings else section.title)
    if section.findings:
        print_findings(section.findings, everything)
    for line in section.lines if everything else section.lines[:MOST_LINES]:
        paragraph(line, "  ", "    ")
    if len(section.lines) > MOST_LINES and not everything:
        say(f"  and {count(len(section.lines) - MOST_LINES, 'more line')}: add --all")
