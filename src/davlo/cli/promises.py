"""`davlo check --promises`: every promise, and whether it holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from davlo.core.wording import count
from davlo.words.letters import visible

from .findings import MOST_PAGES
from .screen import Styled, listing, paragraph, say

if TYPE_CHECKING:
    from davlo.site import Site


def print_promises(site: Site, form: str) -> int:
    """Every promise; 1 if one does not hold."""
    from davlo.core.findings.promise_kinds import promises_kept

    found = promises_kept(site.resolve())
    rows = [
        {
            "promise": one.promise.name,
            "where": str(one.promise.place),
            "pages": one.pages,
            "broken on": one.broken_pages(),
            "because": "; ".join(broken.finding.message for broken in one.broken),
        }
        for one in found
    ]
    if form != "text":
        header = ("promise", "where", "pages", "broken on", "because")
        listing(form, header, [[row[name] for name in header] for row in rows])
    else:
        for one in found:
            broken = one.broken_pages()
            held = f"holds on {count(one.pages, 'page')}" if one.pages else "is about no page, and proves nothing"
            told = f"is broken on {broken:,} of {count(one.pages, 'page')}" if broken else held
            say(Styled(one.promise.name), f" ({one.promise.place}) {told}")
            for finding, why in one.broken:
                paragraph(visible(why), "  ", "    ")
                shown = ", ".join(finding.pages[:MOST_PAGES])
                more = f" and {len(finding.pages) - MOST_PAGES:,} more" if len(finding.pages) > MOST_PAGES else ""
                paragraph(visible(shown) + more, "    ", "    ")
        kept = sum(one.holds for one in found)
        hold = "holds" if len(found) == 1 else "hold"
        if found:
            say()
        say(
            f"{kept} of {count(len(found), 'promise')} {hold}"
            if found
            else "no promise is made: promises in davlo.yaml"
        )
    return int(not all(one.holds for one in found))
