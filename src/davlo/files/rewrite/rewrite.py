"""A change as edits of a site's files: which lines become what. Nothing is written.

What is said goes where the same scope speaks already; else at the end of what its section holds, in that file's own
manner. Lines that no edit names stay as they are, byte for byte. Reading the rewritten files gives the site that
`apply` gives.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import yaml

from davlo.core.change.apply import apply
from davlo.core.change.steps import (
    FRESH_ACCESS,
    AddAccept,
    AddRule,
    Adjust,
    Change,
    Declare,
    DropAccept,
    DropRule,
    ExceptFromPromise,
    Lock,
    RenameFact,
    Say,
    SetFact,
    SetSite,
    Step,
    TakeAway,
    Undeclare,
    Unlock,
)
from davlo.core.site.declarations import Declared, Group, kind_of
from davlo.core.site.model import SiteModel
from davlo.core.site.new_statements import Form
from davlo.core.site.parse_values import read_value
from davlo.core.site.scopes import OF_PAGES, Scope, ScopeKind
from davlo.core.site.settings import Setting
from davlo.core.site.values import Raw, raw_of

from .csv_text import SheetText, cell
from .line_edits import Edit
from .site_files import STAMPS, SiteFiles
from .spelling import (
    BECAUSE,
    KIND_KEYS,
    SITE_KEYS,
    accept_as,
    adjusted_as,
    body_of,
    both_body_of,
    condition_as,
    declared_as,
    goes_when_empty,
    listed_as,
    named,
    setting_keys,
    spellings,
)
from .yaml_text import CannotRewrite, Found, Item, Keys, Splice, YamlText, raw_of_node

LOCKS = ("lock", "access", "deny")


class Standing(NamedTuple):
    """Where a statement stands in a YAML file: the body that holds it, the keys to it, whether it is locked there."""

    file: str
    body: Keys
    keys: Keys
    locked: bool


def rewrite(site: SiteModel, folder: Path, change: Change) -> list[Edit]:
    """What a change makes of a site's files.

    Parameters
    ----------
    site : SiteModel
        The site before the change, as it was read from the folder.
    folder : Path
    change : Change
        It can be done: `apply` does it.

    Returns
    -------
    list of Edit
        File by file, from the top of each.

    Raises
    ------
    CannotRewrite
        If a step cannot be said in the files, or a file is no longer the one that was read.

    Example
    -------
    >>> import davlo, tempfile
    >>> with tempfile.TemporaryDirectory() as name:
    ...     folder = Path(name) / "garden"
    ...     _ = davlo.write_demo(folder)
    ...     edits = rewrite(davlo.open_site(folder), folder, Change().say("sidebar.right", "main", below="/visit"))
    >>> [(edit.file, edit.line, edit.new.strip()) for edit in edits]
    [('davlo.yaml', 79, 'below: {sidebar.right: main}')]
    """
    writer = Rewriter(site, folder)
    return writer.edits(change)


class Rewriter(SiteFiles):
    """Rewrites the files of one site; each is read once.

    Parameters
    ----------
    site : SiteModel
    folder : Path
    """

    def __init__(self, site: SiteModel, folder: Path) -> None:
        super().__init__(site, folder)
        self._declared: dict[tuple[str, str], Declared] = {}
        self._change = Change()

    def edits(self, change: Change) -> list[Edit]:
        """What a change makes of the files; see `rewrite`."""
        self.forget()
        self._declared, self._change = {}, change
        try:
            for step, run in _runs(change.steps):
                if isinstance(step, TakeAway):
                    self._take_away(run)
                else:
                    self._do(step)
        except (OSError, UnicodeDecodeError, yaml.YAMLError, RecursionError) as error:
            raise CannotRewrite(f"a file cannot be read: {error}") from None
        return self.made()

    def _standing(self, scope: Scope, setting: str, body: Keys) -> Standing | None:
        """Where a body says a setting in YAML."""
        for file in self.decisions():
            text = self.text(file)
            if text.find(body):
                for keys, locked in spellings(setting):
                    if text.find((*body, *keys)):
                        return Standing(file, body, (*body, *keys), locked)
        return None

    def _of_scope(self, scope: Scope, setting: str) -> tuple[Standing | None, Standing | None]:
        """Where a scope says a setting in YAML: in a body of its own, and in one that says it for two scopes."""
        names = self.site.page_names
        own, both = body_of(scope, names), both_body_of(scope, names)
        return self._standing(scope, setting, own), self._standing(scope, setting, both) if both else None

    def _row(self, scope: Scope, setting: str) -> tuple[str, int] | None:
        """The sheet and the line in which a scope says a setting."""
        site = self.site
        number = site.catalogue.find(setting)
        target = _target(site, scope)
        if number is None or target is None:
            return None
        row = site.statements.find(number, scope.kind, target)
        place = site.statements.place(row) if row >= 0 else None
        return (place.file, place.line) if place and place.file.endswith(".csv") else None

    def _take_away(self, steps: Sequence[TakeAway]) -> None:
        """Take statements away; those of one file that have nothing to do with one another at once."""
        left: list[tuple[str, Keys]] = []
        for step in steps:
            whole = self._standing(step.scope, step.setting, body_of(step.scope, self.site.page_names))
            takes_all = step.setting == FRESH_ACCESS  # a page can have two: in a body of its own, and in a shared one
            found = whole is not None
            if whole:
                left.append((whole.file, whole.keys))
            for part in step.scope.parts if takes_all or not whole else ():
                own, shared = self._of_scope(part, step.setting)
                row = self._row(part, step.setting)
                if own and (step.scope.both or not whole):
                    left.append((own.file, own.keys))
                if shared and not (whole and step.scope.both) and (takes_all or not own):
                    self._halve(part, step.setting, shared)
                elif not own and row and not self.is_gone(*row, step.setting):
                    self.drop_row(*row, step.setting)
                elif not own:
                    continue
                found = True
            if not found:
                raise CannotRewrite(f"{step.scope.sentence} does not say {step.setting} in a file that can be edited")
        while left:
            left = self._without_some(left)

    def _without_some(self, wanted: list[tuple[str, Keys]]) -> list[tuple[str, Keys]]:
        """Take away as many as have nothing to do with one another; gives the others."""
        left: list[tuple[str, Keys]] = []
        for file in dict.fromkeys(file for file, _ in wanted):
            text = self.text(file)
            splices: list[Splice] = []
            within: set[int] = set()
            for keys in [keys for one, keys in wanted if one == file]:
                splice = text.without(text.find(keys), goes_when_empty)
                meets = any(splice.begin <= one.end and one.begin <= splice.end for one in splices)
                if meets or id(splice.within) in within:
                    left.append((file, keys))
                else:
                    splices.append(splice)
                    within.add(id(splice.within))
            content = text.content
            for splice in sorted(splices, key=lambda one: -one.begin):
                content = splice.apply(content)
            self._now[file] = YamlText(content)
        return left

    def _halve(self, part: Scope, setting: str, shared: Standing) -> None:
        """Let a `here_and_below` say a setting for the other half alone: in a body of that half."""
        text = self.text(shared.file)
        found, because = text.find(shared.keys), text.find((*shared.body, BECAUSE))
        assert found
        value, reason = raw_of_node(found.node), raw_of_node(because.node) if because else ""
        other = Scope.here(part.name) if part.kind == ScopeKind.BELOW else Scope.below(part.name)
        lock = shared.locked and other.kind == ScopeKind.BELOW
        self.splice(shared.file, lambda text: text.without(text.find(shared.keys), goes_when_empty))
        self._say_in_yaml(other, setting, value, lock, str(reason))

    def _do(self, step: Step) -> None:
        if isinstance(step, Say):
            self._say(step)
        elif isinstance(step, Lock | Unlock):
            self._relock(step)
        elif isinstance(step, Declare):
            self._declare(step)
        elif isinstance(step, Undeclare):
            self.remove((*KIND_KEYS[step.kind], step.name))
        elif isinstance(step, Adjust):
            for key, value in adjusted_as(step.adjustment).items():
                self.put(("settings", step.setting, key), value)
        elif isinstance(step, SetSite):
            self._set_site(step)
        elif isinstance(step, AddRule):
            self._add_rule(step)
        elif isinstance(step, DropRule):
            self.remove(named("rules", step.name))
        elif isinstance(step, ExceptFromPromise):
            self.put((*named("promises", step.name), "except"), {"path": [*step.pages]})
        elif isinstance(step, AddAccept):
            self.put(("accept",), accept_as(step.accept), more=True)
        elif isinstance(step, DropAccept):
            told = accept_as(step.accept)
            self.remove(("accept", Item(lambda raw: _same_accept(raw, told), "such accept")))
        elif isinstance(step, SetFact):
            self._set_fact(step)
        else:
            assert isinstance(step, RenameFact)
            self.change_cell(self.site.inventory, 1, step.old, step.new)

    def _say(self, step: Say) -> None:
        value = self._spelled(step.setting, step.value)
        if step.scope.kind == ScopeKind.STAMP:
            self._stamp(step, value)
            return
        own = self._standing(step.scope, step.setting, body_of(step.scope, self.site.page_names))
        if own and own.locked == step.lock and self._suits(own, step.because):
            self.splice(own.file, lambda text: text.change(_there(text.find(own.keys)), value))
            return
        rows = [row for part in step.scope.parts if (row := self._row(part, step.setting))]
        rows = [row for row in rows if not self.is_gone(*row, step.setting)]
        if len(rows) == 1 and not step.scope.both and self._say_in_row(rows[0], step, value):
            return
        if any(self._says(part, step.setting) for part in step.scope.parts):
            self._take_away([TakeAway(step.scope, step.setting)])
        if not self._say_as_row(step, value):
            self._say_in_yaml(step.scope, step.setting, value, step.lock, step.because)

    def _spelled(self, setting: str, value: object) -> Raw:
        """A value as a file holds it: lists as they are given, with their roles; all else as Davlo writes it."""
        declared, raw = self._setting(setting), raw_of(value)
        plain = raw_of(read_value(declared, raw))
        return raw if declared.kind == "list" and not isinstance(raw, str) else plain

    def _setting(self, name: str) -> Setting:
        """A setting that there is, or that the change brings."""
        number = self.site.catalogue.find(name)
        if number is not None:
            return self.site.catalogue[number]
        after = apply(self.site, self._change).catalogue
        number = after.find(name)
        return self.site.catalogue.access_setting(name) if number is None else after[number]

    def _says(self, part: Scope, setting: str) -> bool:
        row = self._row(part, setting)
        return any(self._of_scope(part, setting)) or bool(row and not self.is_gone(*row, setting))

    def _suits(self, standing: Standing, because: str) -> bool:
        """Whether a body gives this reason, or none is asked for."""
        found = self.text(standing.file).find((*standing.body, BECAUSE))
        return not because or (found is not None and raw_of_node(found.node) == because)

    def _say_in_yaml(self, scope: Scope, setting: str, value: Raw, lock: bool, because: str) -> None:
        body = body_of(scope, self.site.page_names)
        file = max(self.decisions(), key=lambda one: self.text(one).holds(body))
        found = self.text(file).find(body)
        keys = setting_keys(setting, lock)
        if found is None or not found.node.value:
            inner: Raw = value
            for key in reversed(keys):
                inner = {str(key): inner}
            assert isinstance(inner, dict)
            self.splice(file, lambda text: text.put(body, {**inner, **({BECAUSE: because} if because else {})}))
            return
        if because:
            reason = self.text(file).find((*body, BECAUSE))
            if reason is None or raw_of_node(reason.node) != because:
                raise CannotRewrite(f"{scope.sentence} says something else for another reason, or for none ({file})")
        for spelled, locked in spellings(setting):  # beside what the body says of the family already
            if locked == lock and len(spelled) == len(keys) and self.text(file).holds((*body, *spelled)) > len(body):
                keys = spelled
        self.splice(file, lambda text: text.put((*body, *keys), value))

    def _relock(self, step: Lock | Unlock) -> None:
        is_lock = isinstance(step, Lock)
        own, shared = self._of_scope(step.scope, step.setting)
        row = self._row(step.scope, step.setting)
        if own is None and shared is None and row and not self.is_gone(*row, step.setting):
            self.change_cell(*row, SheetText.LOCK, "yes" if is_lock else "")
            return
        standing = own or shared
        if standing is None:
            raise CannotRewrite(f"{step.scope.sentence} does not say {step.setting} in a file that can be edited")
        text = self.text(standing.file)
        value = raw_of_node(_there(text.find(standing.keys)).node)
        if own is None:
            because = text.find((*standing.body, BECAUSE))
            reason = str(raw_of_node(because.node)) if because else ""
            self._say(Say(step.scope, step.setting, value, is_lock, reason))  # type: ignore[arg-type]
        elif not is_lock and own.keys[len(own.body) :] == ("lock", step.setting):
            self.splice(own.file, lambda text: text.lift(_there(text.find(own.keys))))
        else:
            keys = setting_keys(step.setting, is_lock)
            self.splice(own.file, lambda text: text.put((*own.body, *keys), value))
            self.splice(own.file, lambda text: text.without(text.find(own.keys), lambda path: path[-1] in LOCKS))

    def _say_in_row(self, row: tuple[str, int], step: Say, value: Raw) -> bool:
        """Say another value in the row, or the cell, that says one; False where that cannot be."""
        file, line = row
        sheet = self.sheet(file)
        try:
            cell(value)
            if sheet.is_statements:
                self.change_cell(file, line, step.setting, value)
                for column, text in ((SheetText.LOCK, "yes" if step.lock else ""), (BECAUSE, step.because)):
                    if column in sheet.columns:
                        self.change_cell(file, line, column, text)
                    elif text:
                        raise CannotRewrite(f"{file} has no column {column}")
            elif step.lock or step.because:
                return False
            else:
                self.change_cell(file, line, step.setting, value)
        except CannotRewrite:
            return False
        return True

    def _say_as_row(self, step: Say, value: Raw) -> bool:
        """Say it where the scope speaks in a sheet and in no YAML body; False where it does not, or cannot there."""
        scope = step.scope
        if scope.both or any(
            self.text(file).find(body_of(scope, self.site.page_names)[:2]) for file in self.decisions()
        ):
            return False
        file = self._sheet_of(scope)
        if file is None:
            return False
        sheet = self.sheet(file)
        where = f"{scope.kind.word} {scope.name}".strip()
        cells: dict[str, Raw] = {"where": where, "setting": step.setting, "value": value}
        cells |= {SheetText.LOCK: "yes"} if step.lock else {}
        cells |= {BECAUSE: step.because} if step.because else {}
        try:
            self.rows.setdefault(file, []).append(sheet.row(cells))
        except CannotRewrite:
            return False
        return True

    def _sheet_of(self, scope: Scope) -> str | None:
        """The sheet of statements in which a scope speaks."""
        statements, target = self.site.statements, _target(self.site, scope)
        if target is None:
            return None
        mine = (statements.scope == scope.kind) & (statements.target == target) & (statements.form == Form.SAID)
        for code in dict.fromkeys(statements.file[mine].tolist()):
            file = statements.files[code]
            if file.endswith(".csv") and file != STAMPS and self.sheet(file).is_statements:
                return file
        return None

    def _stamp(self, step: Say, value: Raw) -> None:
        row = self._row(step.scope, step.setting)
        if row and not self.is_gone(*row, step.setting):
            self.change_cell(*row, step.setting, value)
        else:
            cells: dict[str, Raw] = {"path": step.scope.name, "setting": step.setting, "value": value}
            self.rows.setdefault(STAMPS, []).append(self.sheet(STAMPS).row(cells))

    def _set_fact(self, step: SetFact) -> None:
        page = self.site.tree.number(step.path)
        self.change_cell(self.site.inventory, int(self.site.tree.line[page]), step.fact, step.text)

    def _declare(self, step: Declare) -> None:
        record, kind = step.record, kind_of(step.record)
        keys = (*KIND_KEYS[kind], record.name)
        before = self._declared.get((kind, record.name)) or self._declared_before(kind, record.name)
        self._declared[kind, record.name] = record
        listed, said = listed_as(record), declared_as(record)
        if before is None:
            self.put(keys, said if listed is None else listed)
            return
        if listed is not None:
            self._put_list(keys, listed_as(before), listed)
            return
        was = declared_as(before)
        for key in was.keys() - said.keys():
            self.remove((*keys, key))
        for key, value in said.items():
            if was.get(key) != value:
                self._put_list((*keys, key), was.get(key), value)

    def _declared_before(self, kind: str, name: str) -> Declared | None:
        site = self.site
        if kind == "setting":
            return next((one for one in site.catalogue.own if one.name == name), None)
        if kind == "type":
            found = site.types.declared.get(name)
            return found if found and found.place.line else None
        if kind == "group":
            members = site.people.groups.get(name)
            return None if members is None else Group(name, site.people.places[name], members)
        return site.declarations.of(kind).get(name)

    def _put_list(self, keys: Keys, before: Raw | None, value: Raw) -> None:
        """Put a value; of a list that only grows, the items that are new."""
        if isinstance(value, list) and isinstance(before, list) and before and value[: len(before)] == before:
            for item in value[len(before) :]:
                self.put(keys, item, more=True)
        else:
            self.put(keys, value)

    def _set_site(self, step: SetSite) -> None:
        before = getattr(self.site, step.name)
        value = raw_of(step.value)
        self._put_list(SITE_KEYS[step.name], raw_of(before), value)

    def _add_rule(self, step: AddRule) -> None:
        give: dict[str, Raw] = {}
        for setting, value in step.says:
            keys = setting_keys(setting)
            raw = self._spelled(setting, value)
            if len(keys) == 1:
                give[setting] = raw
            else:
                inner = give.setdefault(str(keys[0]), {})
                assert isinstance(inner, dict)
                inner[str(keys[1])] = raw
        excepts: list[Raw] = [condition_as(one) for one in step.excepts]
        rule: dict[str, Raw] = {"name": step.name, "when": condition_as(step.when)}
        rule |= {"except": excepts} if excepts else {}
        self.put(("rules",), {**rule, "give": give}, more=True)


def _runs(steps: Sequence[Step]) -> Iterator[tuple[Step, list[TakeAway]]]:
    """Steps one by one, but those that take statements away one after the other together."""
    run: list[TakeAway] = []
    for step in steps:
        if isinstance(step, TakeAway):
            run.append(step)
            continue
        if run:
            yield run[0], run
            run = []
        yield step, []
    if run:
        yield run[0], run


def _target(site: SiteModel, scope: Scope) -> int | None:
    """The number a site's statements hold for a scope that a sheet can name; None for others."""
    if scope.kind == ScopeKind.EVERYWHERE:
        return 0
    if scope.kind == ScopeKind.TYPE:
        return site.types.find(scope.name) if site.types.find(scope.name) >= 0 else None
    if scope.kind in OF_PAGES:
        path, gone = site.page_names.path(scope.name), site.statements.gone
        page = site.tree.find(path)
        if page < 0:
            return -1 - gone.index(path) if path in gone else None
        return page
    return None


def _there(found: Found | None) -> Found:
    if found is None:
        raise CannotRewrite("it is not there")
    return found


def _same_accept(raw: Raw, told: dict[str, Raw]) -> bool:
    if not isinstance(raw, dict) or raw.keys() != told.keys():
        return False
    return all(raw[key] == told[key] for key in raw if key != "when")
