"""What would mend a finding by taking statements away: for each kind the ways there are, of its statements in order."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..effective import EffectiveModel
from ..model import SiteModel
from ..reach import Edit, reach
from ..statements import Form, Scope
from .record import Finding, Statements

ALL, FIRST, REST, LAST = slice(None), slice(0, 1), slice(1, None), slice(-1, None)
WAYS: dict[str, tuple[tuple[str, slice], ...]] = {
    "lock-clash": (("the other locks", REST), ("the lock and its value", FIRST)),
    "lock-overrules": (("what is overruled", REST), ("the lock and its value", FIRST)),
    "type-below-clash": (("what the branch says", LAST), ("what the type says", FIRST)),
    "rules-overlap": (("what the weaker rule gives", LAST), ("what the stronger rule gives", FIRST)),
    "no-effect": (("what the pages say", ALL),),
    "no-such-page": (("what is said of it", ALL),),
    "idle-stamp": (("the stamps", ALL),),
    "not-applicable": (("the statements", ALL),),
    "childless-below": (("the statements", ALL),),
    "idle-default": (("the statements", ALL),),
    "unknown-placeholder": (("the pattern", ALL),),
    "no-heading": (("what hides the heading", ALL),),
    "no-such-area": (("what is set for the area", FIRST),),
    "band-does-not-fit": (("the band", ALL),),
    "sidebar-on-no-device": (("the look", ALL),),
    "phone-order-incomplete": (("the order", ALL),),
    "same-sidebar-twice": (("the second", LAST), ("the first", FIRST)),
    "idle-look": (("the look", ALL),),
    "drops-actions": (("the list", ALL),),
    "owner-gone": (("the owner", ALL),),
    "group-empty": (("the statements", ALL),),
    "person-beside-group": (("the person's", FIRST), ("the group's", LAST)),
    "unreachable-grant": (("the grant", ALL),),
    "unlinked-page": (("what hides the pages", ALL),),
    "listed-but-unlinked": (("what hides the pages", ALL),),
    "private-with-priority": (("the priority", ALL),),
    "noindex-with-priority": (("the priority", FIRST), ("what forbids indexing", REST)),
    "left-out-by-cutoff": (("the priority", ALL),),
    "child-above-parent": (("the priority", ALL),),
}
"""Kinds that are not here need a decision that is more than taking something away."""


class Dropped(NamedTuple):
    """A statement to take away: where it stands, and of which setting."""

    file: str
    line: int
    setting: str


class Remedy(NamedTuple):
    """One way to mend a finding: what to take away, in words and statement by statement.

    `statements` are their numbers.
    """

    words: str
    drops: tuple[Dropped, ...]
    statements: tuple[int, ...] = ()

    def changes(self, effective: EffectiveModel) -> int:
        """How many pages get another value when one of the statements is taken away, all of them counted."""
        site, found = effective.site, np.zeros(len(effective.site.tree), dtype=bool)
        for number in self.statements:
            said = site.statements
            scope, target = Scope(int(said.scope[number])), int(said.target[number])
            found[reach(effective, Edit(int(said.setting[number]), scope, target, gone=True)).pages] = True
        return int(np.count_nonzero(found))


def remedies(site: SiteModel, finding: Finding) -> list[Remedy]:
    """The ways to mend a finding by taking something away; none where that would not do.

    What a preset says is left to whoever knows where else the preset is used.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> [(way.words, way.drops[0].line) for way in remedies(site, site.check().findings[0])]
    [('take away what is overruled', 91), ('take away the lock and its value', 46)]
    """
    told = finding.statements
    if not isinstance(told, Statements):
        return []
    found, statements = [], site.statements
    for words, some in WAYS.get(finding.kind, ()):
        numbers = told.numbers[some]
        if not numbers or any(int(statements.form[number]) != Form.SAID for number in numbers):
            continue
        drops = []
        for number in numbers:
            place, name = statements.place(number), site.catalogue[int(statements.setting[number])].name
            drops.append(Dropped(place.file, place.line, name))
        found.append(Remedy(f"take away {words}", tuple(dict.fromkeys(drops)), numbers))
    return found
