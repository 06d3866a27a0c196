"""The effect of each default: whether it reaches a page, and whether any page depends on it.

Filled setting by setting while findings are looked for; rules set several settings, so it is read afterwards.
"""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ..arrays.codebooks import Codes, Mask
from ..resolve.page_fold import fold_page
from ..site.settings.scopes import ScopeKind
from .folded_setting import FoldedSetting

DEFAULTS = (ScopeKind.EVERYWHERE, ScopeKind.TYPE, ScopeKind.BELOW, ScopeKind.RULE)
NOBODY, SEVERAL = -1, -2
"""Marks for what a statement overrides: nothing, or different statements on different pages."""


class StatementEffects:
    """The effects of all statements.

    `meets`: bool[statements]: whether there is a page that its scope is for. `reaches`: bool[statements]: whether one
    of those has the setting. `matters`: bool[statements]: for defaults: whether taking it away would change some page
    (in the live fold, if the setting's default is for new pages). `overruled`: bool[statements]: whether a lock keeps
    it from changing a page. `changes`: bool[statements]: whether some page has another value after it has spoken than
    before. `beats`: int32[statements]: for a statement that wins somewhere: which other would win there without it,
    `NOBODY` for built-in, or `SEVERAL`. `wins`: bool[statements]. `filled`: whether every setting has been noted.
    `rule_matters`: bool[rules]: whether taking a whole rule away would change some page. A rule that locks always
    counts.
    """

    def __init__(self, statements: int, rules: int) -> None:
        self.filled = False
        self.meets = np.zeros(statements, dtype=bool)
        self.reaches = np.zeros(statements, dtype=bool)
        self.matters = np.zeros(statements, dtype=bool)
        self.overruled = np.zeros(statements, dtype=bool)
        self.wins = np.zeros(statements, dtype=bool)
        self.changes = np.zeros(statements, dtype=bool)
        self.beats = np.full(statements, SEVERAL, dtype=np.int32)
        self.rule_matters = np.zeros(rules, dtype=bool)

    def note(self, folded: FoldedSetting) -> None:
        """Note what the fold of a setting shows."""
        steps, statements = folded.steps, folded.statements
        has = folded.has[steps.samples]
        self.meets[steps.statements] = True
        self.reaches[steps.statements[has]] = True
        self.overruled[steps.statements[has & steps.blocked & (steps.before != steps.after)]] = True
        value, source = folded.without_stamps
        alive = has & ~steps.blocked
        if folded.for_new_pages:
            alive &= folded.scope <= ScopeKind.RULE
        last = alive & (source[steps.samples] == steps.statements)
        self.wins[steps.statements[last]] = True
        self.matters[steps.statements[last & (steps.before != steps.after)]] = True
        self._note_beaten(folded, alive, last)
        _note_rules(self.rule_matters, folded, alive, value, source)
        if not folded.replaces_only:
            self._refold(folded, has, value)
        self.changes[steps.statements[alive & (steps.before != steps.after)]] = True
        span = statements.of_setting(folded.setting, ScopeKind.RULE)
        locked = np.flatnonzero(statements.locked[span.start : span.stop]) + span.start
        self.rule_matters[statements.target[locked]] = True

    def _note_beaten(self, folded: FoldedSetting, alive: Mask, last: Mask) -> None:
        """For each statement that wins, what would win without it, if that is the same everywhere."""
        steps = folded.steps
        order = np.flatnonzero(alive)
        order = order[np.argsort(steps.samples[order], kind="stable")]
        samples = steps.samples[order]
        before = np.full(len(order), NOBODY, dtype=np.int32)
        same = np.flatnonzero(samples[1:] == samples[:-1]) + 1
        before[same] = steps.statements[order[same - 1]]
        won = last[order]
        winners, beaten = steps.statements[order[won]], before[won]
        self.beats[winners] = beaten
        differs = self.beats[winners] != beaten
        self.beats[winners[differs]] = SEVERAL

    def _refold(self, folded: FoldedSetting, has: Mask, value: Codes) -> None:
        """For lists that change, and scopes that refer to others: leave out each statement in turn and fold again."""
        steps, statements = folded.steps, folded.statements
        sequences = _Sequences(folded)
        differs = has & (np.full(len(has), sequences.refers) | (steps.before != steps.after))
        order = np.flatnonzero(differs)
        order = order[np.argsort(steps.statements[order], kind="stable")]
        samples, ordered = steps.samples[order], steps.statements[order]

        def changes(left_out: list[int]) -> bool:
            spans = (slice(*ordered.searchsorted((one, one + 1)).tolist()) for one in left_out)
            seen = dict.fromkeys(sample for span in spans for sample in samples[span].tolist())
            return any(sequences.without(left_out, sample) != int(value[sample]) for sample in seen)

        of_rules: dict[int, list[int]] = {}
        for statement in statements.of_setting(folded.setting):
            scope = int(statements.scope[statement])
            if scope in DEFAULTS and self.reaches[statement] and not self.matters[statement]:
                self.matters[statement] = changes([statement])
            if scope == ScopeKind.RULE:
                of_rules.setdefault(int(statements.target[statement]), []).append(statement)
        for rule, own in of_rules.items():
            self.rule_matters[rule] |= not self.rule_matters[rule] and changes(own)


def _note_rules(matters: Mask, folded: FoldedSetting, alive: Mask, value: Codes, source: Codes) -> None:
    """Where a rule is the source: whether the value was another before the rule spoke."""
    steps, statements = folded.steps, folded.statements
    winner = source[steps.samples]
    mine = alive & (folded.scope == ScopeKind.RULE) & (folded.scope_of(winner) == ScopeKind.RULE)
    at = np.flatnonzero(mine & (statements.target[winner] == statements.target[steps.statements]))
    before = np.array(value)
    before[steps.samples[at[::-1]]] = steps.before[at[::-1]]  # of each page the first that the rule says
    changed = steps.samples[at][before[steps.samples[at]] != value[steps.samples[at]]]
    matters[statements.target[source[changed]]] = True


class _Sequences:
    """The statements that speak to each sample page, in the order of the fold.

    `refers`: whether some statement refers to another scope: then what one gives may count where another speaks.
    """

    def __init__(self, folded: FoldedSetting) -> None:
        self.folded = folded
        order = np.argsort(folded.steps.samples, kind="stable")
        self._statements = folded.steps.statements[order]
        self._samples = folded.steps.samples[order]
        self._depth = folded.site.tree.depth[folded.groups.sample]
        self.refers = bool(folded.setting_words.references)

    def without(self, left_out: Collection[int], sample: int) -> int:
        """A sample's value without some statements, in the live fold if the default is for new pages."""
        folded, statements = self.folded, self.folded.statements
        begin, end = self._samples.searchsorted((sample, sample + 1)).tolist()
        most = ScopeKind.RULE if folded.for_new_pages else ScopeKind.HERE
        left = [
            one
            for one in self._statements[begin:end].tolist()
            if one not in left_out and int(statements.scope[one]) <= most
        ]
        return fold_page(statements, folded.setting_words, left, int(self._depth[sample]), for_new_pages=False).value
