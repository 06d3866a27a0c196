"""robots.txt as RFC 9309 has it: the site's own lines, and where the sitemap is (sitemaps.org/protocol.html)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from protego import Protego

from davlo.core.site.publication import RobotsLine

KNOWN = ("user-agent", "allow", "disallow", "sitemap", "crawl-delay")
"""The words that RFC 9309 and the sitemap protocol know, and one that many crawlers do."""


class ClosedPage(NamedTuple):
    """A page that a line of robots.txt keeps crawlers from reading."""

    page: int
    line: RobotsLine


def robots_text(lines: Sequence[RobotsLine], sitemap: str) -> str:
    """The text of robots.txt.

    `lines`: the site's own. `sitemap`: the address of the sitemap; empty if there is none.
    """
    own = [line.text for line in lines]
    if sitemap and not any(line.key == "sitemap" and line.value == sitemap for line in lines):
        own += [*([""] if own and own[-1] else []), f"Sitemap: {sitemap}"]
    return "".join(f"{line}\n" for line in own)


def closed_pages(lines: Sequence[RobotsLine], addresses: Iterable[tuple[int, str]]) -> list[ClosedPage]:
    """The pages that some crawler may not read, each with the line that closes it.

    `addresses`: pages and their addresses.
    """
    closing = [line for line in lines if line.key == "disallow" and line.value]
    if not closing:
        return []
    whole = Protego.parse(robots_text(lines, ""))
    agents = dict.fromkeys(line.value for line in lines if line.key == "user-agent")
    found = dict[int, ClosedPage]()
    for page, address in addresses:
        if page not in found and any(not whole.can_fetch(address, agent) for agent in agents):
            found[page] = ClosedPage(page, _closing(closing, address))
    return [*found.values()]


def _closing(lines: Sequence[RobotsLine], address: str) -> RobotsLine:
    """The line that closes an address: of those that match it the longest."""
    matching = [
        line for line in lines if not Protego.parse(f"User-agent: *\n{line.text}\n").can_fetch(address, "davlo")
    ]
    return max(matching, key=lambda line: len(line.value))
