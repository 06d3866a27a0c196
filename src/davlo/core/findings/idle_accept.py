"""The finding about entries of `accept`: it needs all other findings, so `check` makes it last."""

from __future__ import annotations

from ..change.steps import CHANGED, AddAccept, Change
from ..site.model import Accept
from .finding_kind import Kind

IDLE_ACCEPT = Kind(
    "idle-accept",
    "note",
    "decisions",
    meaning="an entry of accept that matches nothing",
    why="What it silenced is gone, or has changed. It would silence the next one like it unseen.",
    mend="Take the entry away, or mend its kind, setting, when or name.",
    example=Change((AddAccept(Accept(CHANGED, "Drawn by hand", kind="empty-title")),)),
)
