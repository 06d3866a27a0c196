"""What a site publishes besides its pages: lines for robots.txt, and proofs of who owns it."""

from __future__ import annotations

from html import escape
from typing import NamedTuple

from ..faults import Place


class RobotsLine(NamedTuple):
    """A line of the site's own for robots.txt, and where it stands."""

    text: str
    place: Place

    @property
    def key(self) -> str:
        """What the line is about, in lower case: user-agent, allow, disallow, …; empty for a comment."""
        return self._said.partition(":")[0].strip().lower()

    @property
    def value(self) -> str:
        """What it says of that."""
        return self._said.partition(":")[2].strip()

    @property
    def _said(self) -> str:
        return self.text.partition("#")[0]


class OwnershipProof(NamedTuple):
    """What proves to a search engine who owns the site: a file, or a tag in the head of the home page."""

    text: str  # what the file holds, or the content of the tag
    place: Place
    file: str = ""  # `file`, `tag`: the name of the one or of the other; the other is empty
    tag: str = ""

    @property
    def html(self) -> str:
        """The tag as the head of a page holds it.

        Example
        -------
        >>> OwnershipProof('5d"1', Place("davlo.yaml"), tag="proof").html
        '<meta name="proof" content="5d&quot;1">'
        """
        return f'<meta name="{escape(self.tag)}" content="{escape(self.text)}">'
