"""The finding about entries of `accept`: it needs all other findings, so `check` makes it last."""

from __future__ import annotations

from ...change.steps.change import CHANGED, AddAccept, Change, DropAccept
from ...site.model import Accept
from ..bound_kind import NO_PAGES
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import Kind
from ..mending import Remedy

STRAY_ACCEPT = Kind(
    "stray-accept",
    "note",
    "decisions",
    meaning="an entry of accept that matches nothing",
    why="What it silenced is gone, or has changed. It would silence the next one like it unseen.",
    mend="Take the entry away, or mend its kind, setting, when or name.",
    example=Change((AddAccept(Accept(CHANGED, "Drawn by hand", kind="empty-title")),)),
)


def stray_accept(context: FindingContext, accept: Accept) -> Finding:
    """The finding about an entry of `accept` that matches nothing."""
    told = ", ".join(word for word in (accept.kind, accept.setting, accept.declaration) if word) or "every kind"
    return (
        STRAY_ACCEPT.bound(context)
        .of(accept.setting or None)
        .finding(
            NO_PAGES,
            [Said("accept", accept.place.file, accept.place.line, accept.because)],
            f"the accept at {accept.place} ({told}) matches no finding",
            "take it away, or mend its kind, setting, when or name",
            Remedy("take away the accept", Change((DropAccept(accept),))),
        )
    )
