"""Statements as the files of a site hold them: said, taken away, locked, in YAML bodies, rows and cells."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager

import yaml

from davlo.core.cached import cached_property
from davlo.core.change.steps.apply import apply
from davlo.core.change.steps.change import FRESH_ACCESS, Change, Lock, Restamp, Say, StopUsing, TakeAway, Unlock, Use
from davlo.core.faults import ValueFault
from davlo.core.resolve.fold import fold_stages
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.parse_values import read_value
from davlo.core.site.settings.scopes import Scope, ScopeKind
from davlo.core.site.settings.setting import FLAGS
from davlo.core.site.settings.values import Raw, raw_of
from davlo.core.site.source import source_of

from .cannot_rewrite import CannotRewrite
from .csv_text import SheetText, cell, value_cell
from .site_files import Before, ByStep, SiteFiles
from .spelling import USE, body_of, goes_when_empty, setting_keys, spellings
from .where_said import OF_SHEETS, Standing, WhereSaid
from .yaml_entries import BECAUSE, Found, Item, Keys, raw_of_node
from .yaml_text import Splice

MANY_PAGES = 4
"""If a change sets something on this many pages or more, each becomes a row of a sheet."""
LOCKS = ("lock", "access", "deny")


class OtherReason(CannotRewrite):
    """Raised if a body gives another reason for what it says."""


class StatementWriter:
    """Writes what steps about statements do into the files of a site.

    `change`: the whole change: a step of it may bring the setting that another says.
    """

    def __init__(self, files: SiteFiles, change: Change, before: Before) -> None:
        self.files, self.site, self._change, self._before = files, files.site, change, before
        self._said = WhereSaid(files, change)

    @property
    def by_step(self) -> ByStep:
        """What writes each kind of step."""
        return {
            Say: self.say,
            TakeAway: lambda step: self.take_away([step]),
            Lock: self._relock,
            Unlock: self._relock,
            Use: self._use,
            StopUsing: self._stop_using,
            Restamp: self._restamp,
        }

    def says(self, scope: Scope, setting: str) -> bool:
        """Whether a scope says a setting in the files."""
        return any(self._said.says(part, setting) for part in scope.parts)

    def take_away(self, steps: Sequence[TakeAway]) -> None:
        """Take statements away; independent ones in one file at once."""
        self.files.make_waiting()
        left: list[tuple[str, Keys]] = []
        for step in steps:
            whole = self._said.standing(step.setting, body_of(step.scope, self.site.page_names))
            takes_all = step.setting == FRESH_ACCESS  # a page can have two: in a body of its own, and in a shared one
            found = whole is not None
            if whole:
                left.append((whole.file, whole.keys))
            for part in step.scope.parts if takes_all or not whole else ():
                own, shared = self._said.of_scope(part, step.setting)
                row = self._said.row(part, step.setting)
                if own and (step.scope.both or not whole):
                    left.append((own.file, own.keys))
                if shared and not (whole and step.scope.both) and (takes_all or not own):
                    self._halve(part, step.setting, shared)
                elif not own and row and not self.files.is_gone(*row, step.setting):
                    self.files.drop_row(*row, step.setting)
                elif not own:
                    continue
                found = True
            if not found:
                raise CannotRewrite(f"{step.scope.sentence} does not set {step.setting} in a file that can be edited")
        while left:
            left = self._without_some(left)

    def _without_some(self, wanted: list[tuple[str, Keys]]) -> list[tuple[str, Keys]]:
        """Take away as many independent statements as possible; return the others."""
        left: list[tuple[str, Keys]] = []
        for file in dict.fromkeys(file for file, _ in wanted):
            text = self.files.text(file)
            splices: list[Splice] = []  # from the top of the file
            may_go: dict[int, int] = {}  # how many more parts of a node
            for keys in [keys for one, keys in wanted if one == file]:
                splice = text.without(keys, goes_when_empty)
                place = bisect_left(splices, splice.begin, key=lambda one: one.begin)
                beside = splices[max(place - 1, 0) : place + 1]
                meets = any(splice.begin < one.end and one.begin < splice.end for one in beside)
                node = id(splice.within)
                if node not in may_go:
                    may_go[node] = splice.spare
                if meets or not may_go[node]:
                    left.append((file, keys))
                else:
                    splices.insert(place, splice)
                    may_go[node] -= 1
            self.files.splice_all(file, splices)
        return left

    def _halve(self, part: Scope, setting: str, shared: Standing) -> None:
        """Let a `here_and_below` say a setting for the other half alone: in a body of that half."""
        text = self.files.text(shared.file)
        value, reason = raw_of_node(text.at(shared.keys).node), self._said.reason(shared.file, shared.body)
        other = Scope.here(part.name) if part.kind == ScopeKind.BELOW else Scope.below(part.name)
        lock = shared.locked and other.kind == ScopeKind.BELOW
        self.files.splice(shared.file, lambda text: text.without(shared.keys, goes_when_empty))
        self._say_in_yaml(other, setting, value, lock, reason)

    def say_all(self, steps: Iterable[Say]) -> None:
        """Say one thing after the other; neighbours are written into a file at once, as far as they can be."""
        together: dict[tuple[str, str], Say] = {}
        for step in steps:
            target = step.scope.name, step.setting
            if target in together:  # it is said twice: one after the other
                self._say_together([*together.values()])
                together = {}
            together[target] = step
        self._say_together([*together.values()])

    def _say_together(self, steps: Sequence[Say]) -> None:
        """Say things in different scopes, or about different settings."""
        left = []
        for step in steps:
            with self._beside_others(step):
                if not self._say_in_place(step):
                    left.append(step)
        old = [step for step in left if self.says(step.scope, step.setting)]
        self.take_away([TakeAway(step.scope, step.setting) for step in old])
        for step in left:
            with self._beside_others(step):
                self._say_anew(step)

    def _beside_others(self, step: Say) -> AbstractContextManager[None]:
        body = body_of(step.scope, self.site.page_names)
        return self.files.beside_others(body[:2] if step.lock else (*body, *setting_keys(step.setting))[:2])

    def say(self, step: Say) -> None:
        """Say one thing."""
        self._say_together([step])

    def _say_in_place(self, step: Say) -> bool:
        """Say it where the scope says the setting already; False if it must be said anew."""
        if step.setting == FRESH_ACCESS:
            self._begin_anew(step)
            return True
        value = self.spelled(step.setting, step.value)
        if step.scope.kind == ScopeKind.STAMP:
            self._stamp(step, value)
            return True
        own = self._said.standing(step.setting, body_of(step.scope, self.site.page_names))
        if own and own.locked and not step.lock and self._said.suits(own, step.because):
            self._relock(Unlock(step.scope, step.setting))  # so that a comment beside it stays
            own = self._said.standing(step.setting, own.body)
        if own and own.locked == step.lock and self._said.suits(own, step.because):
            self.files.splice(own.file, lambda text: text.change(text.at(own.keys), value))
            return True
        rows = [row for part in step.scope.parts if (row := self._said.row(part, step.setting))]
        rows = [row for row in rows if not self.files.is_gone(*row, step.setting)]
        return len(rows) == 1 and not step.scope.both and self._say_in_row(rows[0], step, value)

    def _say_anew(self, step: Say) -> None:
        """Say what the scope does not say yet, as a row or in a body."""
        value = self.spelled(step.setting, step.value)
        if self._say_as_row(step, value, self._said.sheet_of(step.scope)):
            return
        if self._is_one_of_many(step) and self._say_as_row(step, value, self.files.values_sheet()):
            return
        try:
            self._say_in_yaml(step.scope, step.setting, value, step.lock, step.because)
        except OtherReason:
            if step.scope.both or not self._say_as_row(step, value, self.files.values_sheet()):
                raise

    def _begin_anew(self, step: Say) -> None:
        """Let a scope drop the access that weaker scopes give, unless a body of it says so."""
        own, shared = self._said.of_scope(step.scope, FRESH_ACCESS)
        places = [one for one in (own, shared) if one]
        said = [str(raw_of_node(self.files.text(one.file).at(one.keys).node)).lower() for one in places]
        if any(FLAGS.get(word) for word in said):
            return
        if own:
            self.files.splice(own.file, lambda text: text.change(text.at(own.keys), "yes"))
        else:
            self._say_in_yaml(step.scope, FRESH_ACCESS, "yes", False, step.because)

    def _is_one_of_many(self, step: Say) -> bool:
        """Whether a step says something of one of many pages, of which no YAML body says anything yet."""
        is_many = step.scope.kind == ScopeKind.HERE and self._pages_said[step.setting] >= MANY_PAGES
        return is_many and not self._said.speaks_in_yaml(step.scope)

    @cached_property
    def _pages_said(self) -> Counter[str]:
        """Of how many pages the change says each setting, on the pages themselves."""
        says = [step for step in self._change.steps if isinstance(step, Say) and step.scope.kind == ScopeKind.HERE]
        return Counter(setting for _, setting in {(step.scope, step.setting) for step in says})

    def spelled(self, setting: str, value: object) -> Raw:
        """A value as a file holds it: lists as they are given, with their roles; all else as Davlo writes it."""
        raw, is_there = raw_of(value), self.site.catalogue.find(setting) is not None
        declared = (self.site if is_there else self._after).catalogue.setting(setting)
        try:
            plain = raw_of(read_value(declared, raw))
        except ValueFault:  # it may name what the change declares
            declared = self._after.catalogue.setting(setting)
            plain = raw_of(read_value(declared, raw))
        return raw if declared.kind == "list" and not isinstance(raw, str) else plain

    @cached_property
    def _after(self) -> SiteModel:
        """The site after the whole change."""
        return apply(self.site, self._change)

    def _say_in_yaml(self, scope: Scope, setting: str, value: Raw, lock: bool, because: str) -> None:
        body = body_of(scope, self.site.page_names)
        file = max(self.files.decisions(), key=lambda one: self.files.text(one).holds(body))
        found = self.files.text(file).find(body)
        keys = setting_keys(setting, lock)
        if found is None or not found.node.value:
            inner: Raw = value
            for key in reversed(keys):
                inner = {str(key): inner}
            assert isinstance(inner, dict)
            self.files.splice(file, lambda text: text.put(body, {**inner, **({BECAUSE: because} if because else {})}))
            return
        if because and self._said.reason(file, body) != because:
            raise OtherReason(f"{scope.sentence} sets other things for another reason, or for none ({file})")
        for spelled, locked in spellings(setting):  # beside what the body says of the family already
            if (
                locked == lock
                and len(spelled) == len(keys)
                and self.files.text(file).holds((*body, *spelled)) > len(body)
            ):
                keys = spelled
        self.files.splice(file, lambda text: text.put((*body, *keys), value))

    def _relock(self, step: Lock) -> None:
        """Lock what a scope says, or unlock it."""
        is_lock = step.locks
        own, shared = self._said.of_scope(step.scope, step.setting)
        row = self._said.row(step.scope, step.setting)
        if own is None and shared is None and row and not self.files.is_gone(*row, step.setting):
            self.files.change_cell(*row, SheetText.LOCK, "yes" if is_lock else "")
            return
        standing = own or shared
        if standing is None:
            raise CannotRewrite(f"{step.scope.sentence} does not set {step.setting} in a file that can be edited")
        text = self.files.text(standing.file)
        value = raw_of_node(text.at(standing.keys).node)
        if own is None:
            reason = self._said.reason(standing.file, standing.body)
            self.say(Say(step.scope, step.setting, value, is_lock, reason))  # type: ignore[arg-type]
        elif not is_lock and own.keys[len(own.body) :] == ("lock", step.setting):
            self.files.splice(own.file, lambda text: text.lift(text.at(own.keys)))
        else:
            keys = setting_keys(step.setting, is_lock)
            self.files.splice(own.file, lambda text: text.put((*own.body, *keys), value))
            self.files.splice(own.file, lambda text: text.without(own.keys, lambda path: path[-1] in LOCKS))

    def _uses(self, step: Use | StopUsing) -> tuple[str, Keys, Found | None]:
        """The file and the keys of the presets that a scope uses, and their entry."""
        body = (*body_of(step.scope, self.site.page_names), USE)
        file = max(self.files.decisions(), key=lambda one: self.files.text(one).holds(body))
        return file, body, self.files.text(file).find(body)

    def _use(self, step: Use) -> None:
        file, body, found = self._uses(step)
        if found is None or step.preset not in _names(found.node):
            self.files.splice(file, lambda text: text.put(body, step.preset, more=found is not None))

    def _stop_using(self, step: StopUsing) -> None:
        file, body, found = self._uses(step)
        if found is None:
            raise CannotRewrite(f"{step.scope.sentence} does not use {step.preset} in a file that can be edited")
        one_of_several = isinstance(found.node, yaml.SequenceNode) and len(found.node.value) > 1
        keys = (*body, Item(lambda raw: raw == step.preset, step.preset)) if one_of_several else body
        self.files.splice(file, lambda text: text.without(keys, goes_when_empty))

    def _say_in_row(self, row: tuple[str, int], step: Say, value: Raw) -> bool:
        """Say another value in the row, or the cell, that says one; False where that cannot be."""
        file, line = row
        sheet = self.files.sheet(file)
        try:
            cell(value)
            if sheet.is_statements:
                self.files.change_cell(file, line, step.setting, value_cell(value))
                for column, text in ((SheetText.LOCK, "yes" if step.lock else ""), (BECAUSE, step.because)):
                    if column in sheet.columns:
                        self.files.change_cell(file, line, column, text)
                    elif text:
                        raise CannotRewrite(f"{file} has no column {column}")
            elif step.lock or step.because:
                return False
            else:
                self.files.change_cell(file, line, step.setting, value_cell(value))
        except CannotRewrite:
            return False
        return True

    def _say_as_row(self, step: Say, value: Raw, file: str | None) -> bool:
        """Say it as a row more of a sheet; False where there is none, or it cannot be said there."""
        scope = step.scope
        if file is None or scope.both or scope.kind not in OF_SHEETS:
            return False
        sheet = self.files.sheet(file)
        where = f"{scope.kind.word} {scope.name}".strip()
        cells: dict[str, Raw] = {"where": where, "setting": step.setting, "value": value_cell(value)}
        cells |= {SheetText.LOCK: "yes"} if step.lock else {}
        cells |= {BECAUSE: step.because} if step.because else {}
        try:
            self.files.rows.setdefault(file, []).append(sheet.row(cells))
        except CannotRewrite:
            return False
        return True

    def _restamp(self, step: Restamp) -> None:
        """Write the stamps of pages: what they get by default after the earlier steps of the change."""
        before = self._before(step)
        after = step.done(before)
        number = after.setting_number(step.setting)
        stages = fold_stages(before.statements, number, before.scope_pages, True)
        for path in step.pages:
            page = after.page_number(path)
            stamp = after.statements.said(after.statements.find(number, ScopeKind.STAMP, page))
            is_default = stamp == stages.words[int(stages.live_value[page])]
            source = str(source_of(before, int(stages.live_source[page])).scope) if is_default else ""
            row = self._said.row(Scope.stamp(path), step.setting)
            if row and not self.files.is_gone(*row, step.setting):
                self.files.change_stamp(row[1], step.setting, raw_of(stamp), source)
            else:
                self.files.stamp_row(path, step.setting, raw_of(stamp), source)

    def _stamp(self, step: Say, value: Raw) -> None:
        row, source = self._said.row(step.scope, step.setting), self._source(step)
        if row and not self.files.is_gone(*row, step.setting):
            self.files.change_stamp(row[1], step.setting, value, source)
        else:
            self.files.stamp_row(step.scope.name, step.setting, value, source)

    def _source(self, step: Say) -> str:
        """The source of a stamp's value: the page's default, if the stamp repeats it; else nothing."""
        site, number = self.site, self.site.catalogue.find(step.setting)
        page = site.tree.find(site.page_names.path(step.scope.name))
        if number is None or page < 0:
            return ""
        found = fold_stages(site.statements, number, site.scope_pages.part(page, page + 1), True)
        is_default = raw_of(found.words[int(found.live_value[0])]) == raw_of(step.value)
        source = int(found.live_source[0])
        return str(source_of(site, source).scope) if is_default and source >= 0 else ""


def _names(node: yaml.Node) -> list[str]:
    """The names in a list, or the one that stands there alone."""
    raw = raw_of_node(node)
    return [raw] if isinstance(raw, str) else [str(one) for one in raw]
