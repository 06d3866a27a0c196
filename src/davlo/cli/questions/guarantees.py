"""`davlo check --guarantees`: every guarantee, and whether it holds."""

from __future__ import annotations

from typing import TYPE_CHECKING

from davlo.core.letters import visible
from davlo.core.wording import count

from ..findings import MOST_PAGES
from ..screen import Styled, listing, paragraph, say

if TYPE_CHECKING:
    from davlo.site import Site


def print_guarantees(site: Site, form: str) -> int:
    """Every guarantee; 1 if one does not hold."""
    from davlo.core.findings.kinds.guarantee_kinds import guarantee_results

    found = guarantee_results(site.resolve())
    rows = [
        {
            "guarantee": one.guarantee.name,
            "where": str(one.guarantee.place),
            "pages": one.pages,
            "does not hold on": one.broken_pages(),
            "because": "; ".join(broken.finding.message for broken in one.broken),
        }
        for one in found
    ]
    if form != "text":
        header = ("guarantee", "where", "pages", "does not hold on", "because")
        listing(form, header, [[row[name] for name in header] for row in rows])
    else:
        for one in found:
            broken = one.broken_pages()
            held = f"holds on {count(one.pages, 'page')}" if one.pages else "is about no page, so it guarantees nothing"
            told = f"does not hold on {broken:,} of {count(one.pages, 'page')}" if broken else held
            say(Styled(one.guarantee.name), f" ({one.guarantee.place}) {told}")
            for finding, why in one.broken:
                paragraph(visible(why), "  ", "    ")
                shown = ", ".join(finding.pages[:MOST_PAGES])
                more = f" and {len(finding.pages) - MOST_PAGES:,} more" if len(finding.pages) > MOST_PAGES else ""
                paragraph(visible(shown) + more, "    ", "    ")
        holding = sum(one.holds for one in found)
        hold = "holds" if len(found) == 1 else "hold"
        if found:
            say()
        say(
            f"{holding} of {count(len(found), 'guarantee')} {hold}"
            if found
            else "there are no guarantees; write them under guarantees in davlo.yaml"
        )
    return int(not all(one.holds for one in found))
