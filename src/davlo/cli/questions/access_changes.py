"""`davlo access --changes`: where in the tree somebody may do more or less than on the page above."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from davlo.core.outcomes.access.access_changes import OWNER, AccessChange, ViewerChange, access_changes
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.wording import count

from ..screen import Styled, as_json, listing, paragraph, say

MOST, EXAMPLES = 12, 3
"""The most changes on a screen without --all; how many pages of each are named."""
COLUMNS = ("page", "above", "who", "gains", "loses", "source", "file", "line", "reason")


def print_changes(access: AccessModel, pages: NDArray[np.int64], form: str, everything: bool) -> None:
    """Where somebody gains or loses an action, among some pages."""
    found = access_changes(access, pages)
    if form == "json":
        as_json([_record(access, one) for one in found])
    elif form == "csv":
        listing(form, COLUMNS, [row for one in found for row in _rows(access, one)])
    else:
        changed = sum(len(one.pages) for one in found)
        most = sorted(range(len(found)), key=lambda at: -len(found[at].pages))[: None if everything else MOST]
        shown = [found[at] for at in sorted(most)]
        for one in shown:
            _print_change(access, one, everything)
        if found:
            say()
        say(f"on {count(changed, 'page')} somebody may do more or less than on the page above")
        if len(shown) < len(found):
            say(f"{len(shown)} of {len(found)} causes shown, those of the most pages; to see them all say --all")
        if any(change.who in access.site.people.groups for one in shown for change in one.changes):
            say("A group means somebody who is in it alone; a person who changes as a group of theirs is not named.")


def _print_change(access: AccessModel, change: AccessChange, everything: bool) -> None:
    paths = access.site.tree.paths
    shown = paths.take(change.pages if everything else change.pages[:EXAMPLES]).tolist()
    rest = len(change.pages) - len(shown)
    named = ", ".join(shown) + (f" and {rest:,} more" if rest else "")
    why = f"{change.source.scope} ({change.source.where})" if change.source and change.source.file else change.reason
    say(Styled(named), f": {why or 'nobody opens it'}")
    for words, viewers in _by_change(change.changes).items():
        is_one = len(viewers) == 1 and viewers[0] not in access.site.people.groups
        told = words if is_one else words.replace("gains", "gain").replace("loses", "lose")
        paragraph(f"{', '.join(viewers)} {told}", "  ", "    ")


def _by_change(changes: tuple[ViewerChange, ...]) -> dict[str, list[str]]:
    """The viewers gathered by what they gain and lose."""
    found: dict[str, list[str]] = {}
    for one in changes:
        parts = [f"{verb} {', '.join(some)}" for verb, some in (("gains", one.gains), ("loses", one.loses)) if some]
        found.setdefault(" and ".join(parts), []).append("its owner" if one.who == OWNER else one.who)
    return found


def _rows(access: AccessModel, change: AccessChange) -> list[list[object]]:
    tree, source = access.site.tree, change.source
    told = [str(source.scope), source.file, source.line or ""] if source else ["", "", ""]
    return [
        [path, above, one.who, "; ".join(one.gains), "; ".join(one.loses), *told, change.reason]
        for path, above in zip(
            tree.paths.take(change.pages).tolist(), tree.paths.take(tree.parent[change.pages]).tolist(), strict=True
        )
        for one in change.changes
    ]


def _record(access: AccessModel, change: AccessChange) -> dict[str, object]:
    source = change.source
    return {
        "pages": access.site.tree.paths.take(change.pages).tolist(),
        "source": str(source.scope) if source else None,
        "file": (source.file or None) if source else None,
        "line": (source.line or None) if source else None,
        "reason": change.reason or None,
        "changes": [{"who": one.who, "gains": list(one.gains), "loses": list(one.loses)} for one in change.changes],
    }
