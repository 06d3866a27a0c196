"""Why: every candidate for one page and one setting, and what became of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..faults import Place, UnknownName
from ..site.model import SiteModel
from ..site.source import Source, source_of
from ..site.statements import Form, Scope
from ..site.values import ByDepth, Change, Plain, Reference, Value, format_value


@dataclass(frozen=True, slots=True)
class Candidate:
    """One candidate: what it says, where it stands, and what became of it.

    `gives` is the value after it was folded in (or would have been); `because` the reason its author wrote;
    `verdict` is `wins`, `counts` (a part of a list), `beaten`, `overruled` (by a lock) or `left out` (of a stamped
    setting); `reason` says so in a sentence.
    """

    scope: str
    says: Value
    gives: Plain
    place: Place | None
    locked: bool
    preset: str
    preset_place: Place | None
    fresh: bool
    because: str
    verdict: str
    reason: str


@dataclass(frozen=True, slots=True)
class Trace:
    """The answer to "why": the value a page ends up with, and its candidates, weakest first."""

    path: str
    setting: str
    value: Plain
    stamped: bool
    candidates: tuple[Candidate, ...]

    @property
    def winner(self) -> Candidate:
        """The candidate that is the source."""
        return next(candidate for candidate in self.candidates if candidate.verdict == "wins")


def candidates_for(site: SiteModel, page: int, setting: int) -> list[int]:
    """The statements that meet a page, weakest first."""
    statements, tree = site.statements, site.tree
    chain = set(site.types.chain(int(site.facts.type_of[page])))
    above = set(tree.ancestors(page))
    met = {r for r, pages in enumerate(site.scope_pages.rule_pages) if page in pages}
    stamped = site.catalogue[setting].flow == "stamped"
    wanted: dict[Scope, set[int]] = {
        Scope.EVERYWHERE: {0},
        Scope.TYPE: chain,
        Scope.BELOW: above,
        Scope.RULE: met,
        Scope.STAMP: {page} if stamped else set(),
        Scope.HERE: {page},
    }
    return [
        s
        for s in statements.of_setting(setting)
        if int(statements.target[s]) in wanted[Scope(int(statements.scope[s]))]
    ]


@dataclass(slots=True)
class _Step:
    statement: int
    before: Plain
    gives: Plain
    fate: str


class _Ladder:
    """The fold of one page, step by step."""

    def __init__(self, site: SiteModel, page: int, setting: int) -> None:
        self.site = site
        self.setting = site.catalogue[setting]
        self.depth = int(site.tree.depth[page])
        self.stamped = self.setting.flow == "stamped"
        self.value: Plain = self.setting.built_in
        self.source = -1
        self.lock = -1
        self.steps: list[_Step] = []
        statements = site.statements
        kept: dict[str, Plain] = {}
        found = candidates_for(site, page, setting)
        live = [s for s in found if statements.scope[s] < Scope.STAMP]
        for scope in (Scope.EVERYWHERE, Scope.TYPE, Scope.BELOW, Scope.RULE):
            for statement in (s for s in live if statements.scope[s] == scope):
                self._fold(statement, kept)
            kept[("", "everywhere", "type", "below", "rule")[scope]] = self.value
        if self.stamped and self.lock < 0:
            for step in self.steps:
                step.fate = "left out"
            self.value, self.source = self.setting.built_in, -1
        for statement in found[len(live) :]:
            self._fold(statement, kept)

    def _fold(self, statement: int, kept: dict[str, Plain]) -> None:
        gives = self._gives(self.site.statements.said(statement), kept)
        if self.lock >= 0:
            self.steps.append(_Step(statement, self.value, gives, "overruled"))
            return
        self.steps.append(_Step(statement, self.value, gives, "counts"))
        self.value, self.source = gives, statement
        if self.site.statements.locked[statement]:
            self.lock = statement

    def _gives(self, says: Value, kept: dict[str, Plain]) -> Plain:
        if isinstance(says, Reference):
            return kept[says.scope]
        if isinstance(says, ByDepth):
            return says.at(self.depth)
        if isinstance(says, Change):
            assert isinstance(self.value, tuple)
            return says.apply(self.value)
        return says


def trace(site: SiteModel, page: int, setting: int) -> Trace:
    """Every candidate for one page and one setting. `Effective.why` is the call to use."""
    declared = site.catalogue[setting]
    path = site.tree.paths[page]
    if not site.has_by_type[setting, int(site.facts.type_of[page])]:
        kind = site.types.names[int(site.facts.type_of[page])]
        has = [
            s.name for n, s in enumerate(site.catalogue.settings) if site.has_by_type[n, int(site.facts.type_of[page])]
        ]
        raise UnknownName(f"setting for a page of type {kind}, as {path} is,", declared.name, has)
    ladder = _Ladder(site, page, setting)
    told = [_told(site, ladder, step) for step in ladder.steps]
    return Trace(path, declared.name, ladder.value, ladder.stamped, (_built_in(site, ladder), *told))


def _built_in(site: SiteModel, ladder: _Ladder) -> Candidate:
    built_in = ladder.setting.built_in
    folded = [step for step in ladder.steps if step.fate == "counts"]
    if ladder.source < 0:
        verdict, reason = "wins", "nobody says otherwise, so it stays as it is built in"
    elif any(_replaces(site, step.statement) for step in folded):
        verdict, reason = "beaten", f"beaten by {_who(site, _first_replacing(site, folded))}"
    else:
        verdict, reason = "counts", "the list starts from it"
    return Candidate("built-in", built_in, built_in, None, False, "", None, False, "", verdict, reason)


def _told(site: SiteModel, ladder: _Ladder, step: _Step) -> Candidate:
    statements = site.statements
    statement = step.statement
    source = source_of(site, statement)
    preset, preset_place = statements.presets[int(statements.preset[statement])]
    verdict, reason = _verdict(site, ladder, step)
    return Candidate(
        source.scope,
        statements.said(statement),
        step.gives,
        statements.place(statement),
        source.locked,
        preset,
        preset_place,
        int(statements.form[statement]) == Form.FRESH,
        statements.reasons[int(statements.because[statement])],
        verdict,
        reason,
    )


def _verdict(site: SiteModel, ladder: _Ladder, step: _Step) -> tuple[str, str]:
    name = ladder.setting.name
    if step.fate == "left out":
        return "left out", f"{name} is stamped: a page keeps what it was given when it was made"
    if step.fate == "overruled":
        lock = source_of(site, ladder.lock)
        would = "" if step.gives == ladder.value else f"; it would have given {_shown(step.gives)}"
        return "overruled", f"overruled: {_who(site, ladder.lock)} locks {name} ({lock.file}:{lock.line}){would}"
    if step.statement == ladder.source:
        if step.statement == ladder.lock:
            return "wins", "wins, and is locked: nothing stronger may change it"
        return "wins", "wins: nothing stronger speaks"
    later = [s for s in ladder.steps if s.fate == "counts"]
    later = later[later.index(step) + 1 :]
    if any(_replaces(site, s.statement) for s in later):
        return "beaten", f"beaten by {_who(site, _first_replacing(site, later))}"
    return "counts", f"counts: the list is {_shown(step.gives)} after it"


def _replaces(site: SiteModel, statement: int) -> bool:
    return not isinstance(site.statements.said(statement), Change)


def _first_replacing(site: SiteModel, steps: list[_Step]) -> int:
    return next(step.statement for step in steps if _replaces(site, step.statement))


def _who(site: SiteModel, statement: int) -> str:
    statements = site.statements
    source: Source = source_of(site, statement)
    kind, _, name = source.scope.partition(" ")
    scope = f'the rule "{name}"' if kind == "rule" else source.scope
    form = Form(int(statements.form[statement]))
    if form == Form.PRESET:
        return f"the preset {statements.presets[int(statements.preset[statement])][0]} used in {scope}"
    if form == Form.FRESH:
        return f"fresh_access in {scope}"
    return scope


def _shown(value: Plain) -> str:
    return format_value(value) or "empty"
