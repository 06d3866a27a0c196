"""Declarations, rules, guarantees and accepts as the files of a site hold them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from davlo.core.change.steps import change as steps
from davlo.core.change.steps.declaration_steps import said_of_site
from davlo.core.site.declarations import Declared, Group, Person, Preset, kind_of
from davlo.core.site.model import SitemapRules
from davlo.core.site.people import VISITOR
from davlo.core.site.publication import OwnershipProof
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACTIONS
from davlo.core.site.settings.values import Raw, Value, raw_of

from .csv_text import is_csv
from .site_files import ByStep, SiteFiles
from .spelling import (
    KIND_KEYS,
    SITE_KEYS,
    SITEMAP_KEYS,
    accept_as,
    adjusted_as,
    condition_as,
    declared_as,
    listed_as,
    named,
    proof_as,
    setting_keys,
)
from .statement_writer import StatementWriter
from .yaml_entries import Item, Keys, raw_of_node


class DeclarationWriter:
    """Writes what steps about declarations, rules, guarantees and accepts do into the files of a site."""

    def __init__(self, files: SiteFiles, statements: StatementWriter) -> None:
        self.files, self.site, self._statements = files, files.site, statements
        self._declared: dict[tuple[str, str], Declared] = {}
        self._of_site: dict[str, Any] = {}
        self._rules = [rule.name for rule in self.site.rules]

    @property
    def by_step(self) -> ByStep:
        """What writes each kind of step."""
        return {
            steps.Declare: self._declare,
            steps.Undeclare: self._undeclare,
            steps.Adjust: self._adjust,
            steps.SetSite: self._set_site,
            steps.AddRule: self._add_rule,
            steps.DropRule: self._drop_rule,
            steps.ChangeRule: self._change_rule,
            steps.MoveRule: self._move_rule,
            steps.SetGuarantee: self._set_guarantee,
            steps.AddViewpoint: lambda step: self.files.put(("viewpoints",), self._viewpoint_as(step), more=True),
            steps.DropViewpoint: self._drop_viewpoint,
            steps.ExceptFromGuarantee: self._except_from_guarantee,
            steps.AddAccept: lambda step: self.files.put(("accept",), accept_as(step.accept), more=True),
            steps.DropAccept: self._drop_accept,
        }

    def _adjust(self, step: steps.Adjust) -> None:
        for key, value in adjusted_as(step.adjustment).items():
            self.files.put(("settings", step.setting, key), value)

    def _undeclare(self, step: steps.Undeclare) -> None:
        if step.kind == "person":
            self._list_person("admins", step.name, False)
            self._list_person("names", step.name, False)
        elif step.kind == "guarantee":
            self.files.remove(named("guarantees", step.name))
        else:
            if step.kind == "type":
                self._drop_rows_of_type(step.name)
            self.files.remove((*KIND_KEYS[step.kind], step.name))

    def _drop_rows_of_type(self, name: str) -> None:
        """Drop what sheets of statements set for a type."""
        said, number = self.site.statements, self.site.types.find(name)
        for row in np.flatnonzero((said.scope == ScopeKind.TYPE) & (said.target == number)).tolist():
            place = said.place(row)
            if is_csv(place.file):
                setting = self.site.catalogue[int(said.setting[row])].name
                self.files.drop_row(place.file, place.line, setting)

    def _list_person(self, key: str, name: str, is_there: bool) -> None:
        """Put a name into a list of people, or take it out, where it is not so already."""
        item = ("people", key, Item(lambda raw: raw == name, f"{name} among the {key}"))
        found = any(self.files.text(file).find(item) for file in self.files.decisions())
        if is_there and not found:
            self.files.put(("people", key), name, more=True)
        elif found and not is_there:
            self.files.remove(item)

    def _set_guarantee(self, step: steps.SetGuarantee) -> None:
        says: dict[str, Raw] = {"when": condition_as(step.when)}
        excepts: list[Raw] = [condition_as(one) for one in step.excepts]
        says |= {"except": excepts[0] if len(excepts) == 1 else excepts} if excepts else {}
        has = {name: self._statements.spelled(name, value) for name, value in step.has}
        says |= {"has": has} if has else {}
        subjects = {"may": step.may, "may_not": step.may_not}
        says |= {key: {who: [*actions] for who, actions in some} for key, some in subjects.items() if some}
        keys = named("guarantees", step.name)
        if not any(self.files.text(file).find(keys) for file in self.files.decisions()):
            self.files.put(("guarantees",), {"name": step.name, **says}, more=True)
            return
        self._put_keys(keys, ("when", "except", "has", "may", "may_not"), says)

    def _viewpoint_as(self, step: steps.AddViewpoint | steps.DropViewpoint) -> dict[str, Raw]:
        return {"page": self.site.page_names.path(step.page), "as": step.viewer}

    def _drop_viewpoint(self, step: steps.DropViewpoint) -> None:
        page = self.site.page_names.path(step.page)

        def is_it(raw: Raw) -> bool:
            if not isinstance(raw, dict) or raw.get("as", VISITOR) != step.viewer:
                return False
            return self.site.page_names.path(str(raw.get("page", ""))) == page

        self.files.remove(("viewpoints", Item(is_it, "such viewpoint")))

    def _except_from_guarantee(self, step: steps.ExceptFromGuarantee) -> None:
        self.files.put((*named("guarantees", step.name), "except"), {"path": [*step.pages]})

    def _drop_accept(self, step: steps.DropAccept) -> None:
        entry = accept_as(step.accept)
        self.files.remove(("accept", Item(lambda raw: _same_accept(raw, entry), "such accept")))

    def _declare(self, step: steps.Declare) -> None:
        record, kind = step.record, kind_of(step.record)
        if isinstance(record, Person):
            self._list_person("names", record.name, True)
            self._list_person("admins", record.name, record.is_admin)
            return
        keys = (*KIND_KEYS[kind], record.name)
        before = self._declared.get((kind, record.name)) or self._declared_before(kind, record.name)
        self._declared[kind, record.name] = record
        listed = listed_as(record)
        if before is None:
            said: dict[str, Raw] = {**declared_as(record), **self._body(_says(record))}
            self.files.put(keys, said if listed is None else listed)
            return
        if listed is not None:
            self._put_list(keys, listed_as(before), listed)
            return
        was, now = self._by_keys(before), self._by_keys(record)
        for inner in was.keys() - now.keys():
            self.files.remove((*keys, *inner))
        for inner, value in now.items():
            if was.get(inner) != value:
                self._put_list((*keys, *inner), was.get(inner), value)

    def _by_keys(self, record: Declared) -> dict[tuple[str, ...], Raw]:
        """What a declaration says, by the keys that lead to it."""
        of_settings = {
            tuple(map(str, setting_keys(name))): self._statements.spelled(name, value) for name, value in _says(record)
        }
        return {(key,): value for key, value in declared_as(record).items()} | of_settings

    def _body(self, says: Iterable[tuple[str, Value]]) -> dict[str, Raw]:
        """Settings and values as a body holds them: those of access in a mapping of their own."""
        found: dict[str, Raw] = {}
        for setting, value in says:
            keys = setting_keys(setting)
            raw = self._statements.spelled(setting, value)
            if len(keys) == 1:
                found[setting] = raw
            else:
                inner = found.setdefault(str(keys[0]), {})
                assert isinstance(inner, dict)
                inner[str(keys[1])] = raw
        return found

    def _declared_before(self, kind: str, name: str) -> Declared | None:
        site = self.site
        if kind == "setting":
            return next((one for one in site.catalogue.own if one.name == name), None)
        if kind == "type":
            found = site.types.declared.get(name)
            return found if found and found.is_declared else None
        if kind == "group":
            members = site.people.groups.get(name)
            return None if members is None else Group(name, site.people.places[name], members)
        return site.declarations.of(kind).get(name)

    def _put_list(self, keys: Keys, before: Raw | None, value: Raw) -> None:
        """Put a value; of a list that only grows, the items that are new."""
        if isinstance(value, list) and isinstance(before, list) and before and value[: len(before)] == before:
            for item in value[len(before) :]:
                self.files.put(keys, item, more=True)
        else:
            self.files.put(keys, value)

    def _set_site(self, step: steps.SetSite) -> None:
        before = self._of_site.get(step.name, said_of_site(self.site, step.name))
        self._of_site[step.name] = step.value
        if step.name == "actions" and before == ACTIONS:
            before = ()  # the files need not say them
        if step.name == "ownership_proofs":
            self._set_proofs(before, step.value)
            return
        if isinstance(step.value, SitemapRules):
            for key, keys in SITEMAP_KEYS.items():
                self._put_or_remove(keys, *(getattr(rules, key) for rules in (before, step.value)))
            return
        keys, value = SITE_KEYS[step.name], step.value
        in_lines = step.name == "robots" and any(
            self.files.text(file).has_lines(keys) for file in self.files.decisions()
        )
        if in_lines and isinstance(value, tuple) and value:
            self.files.put(keys, "".join(f"{line}\n" for line in value))
        else:
            self._put_or_remove(keys, before, value)

    def _set_proofs(self, before: Sequence[OwnershipProof], after: Any) -> None:
        """Put what proves who owns the site: the items of a list, or one proof that stands alone."""
        keys = SITE_KEYS["ownership_proofs"]
        was, now = ({(one.file, one.tag): one.text for one in proofs} for proofs in (before, after))
        held = [
            raw_of_node(found.node) for file in self.files.decisions() if (found := self.files.text(file).find(keys))
        ]
        if not now:
            self.files.remove(keys)
        elif not held or not isinstance(held[0], list):
            self.files.put(keys, [proof_as(one) for one in after])
        else:
            for one in after:
                if (one.file, one.tag) not in was:
                    self.files.put(keys, proof_as(one), more=True)
                elif was[one.file, one.tag] != one.text:
                    self.files.put((*keys, _item_of(one), "text"), one.text)
            for one in before:
                if (one.file, one.tag) not in now:
                    self.files.remove((*keys, _item_of(one)))

    def _put_or_remove(self, keys: Keys, before: Any, value: Any) -> None:
        """Put a value where it differs; what is empty goes."""
        if value == before:
            return
        if value:
            self._put_list(keys, raw_of(before), raw_of(value))
        else:
            self.files.remove(keys)

    def _add_rule(self, step: steps.AddRule) -> None:
        excepts: list[Raw] = [condition_as(one) for one in step.excepts]
        rule: dict[str, Raw] = {"name": step.name, "when": condition_as(step.when)}
        rule |= {"except": excepts[0] if len(excepts) == 1 else excepts} if excepts else {}
        rule["give"] = self._body(step.says)
        rules = self._rules
        if step.weaker_than:
            self.files.put_beside(named("rules", step.weaker_than), rule, is_after=True)
        elif step.weaker_than is not None and rules:
            self.files.put_beside(named("rules", rules[0]), rule, is_after=False)
        else:
            self.files.put(("rules",), rule, more=True)
        rules.insert(step.place_among(rules), step.name)

    def _change_rule(self, step: steps.ChangeRule) -> None:
        keys = named("rules", step.name)
        excepts: list[Raw] = [condition_as(one) for one in step.excepts]
        says: dict[str, Raw] = {"when": condition_as(step.when)}
        says |= {"except": excepts[0] if len(excepts) == 1 else excepts} if excepts else {}
        self._put_keys(keys, ("when", "except", "note"), says | ({"note": step.note} if step.note else {}))

    def _move_rule(self, step: steps.MoveRule) -> None:
        if self._rules != (order := [self._rules[at] for at in step.order(self._rules)]):
            self.files.move_beside(named("rules", step.name), named("rules", step.other), step.is_after)
            self._rules = order

    def _put_keys(self, keys: Keys, names: Sequence[str], says: Mapping[str, Raw]) -> None:
        """Put values under these names of a declaration; a name without a value goes."""
        for name in names:
            if name in says:
                self.files.put((*keys, name), says[name])
            elif any(self.files.text(file).find((*keys, name)) for file in self.files.decisions()):
                self.files.remove((*keys, name))

    def _drop_rule(self, step: steps.DropRule) -> None:
        self.files.remove(named("rules", step.name))
        self._rules.remove(step.name)


def _says(record: Declared) -> Iterable[tuple[str, Value]]:
    """The settings that a preset sets, and their values."""
    return record.says.items() if isinstance(record, Preset) else ()


def _item_of(proof: OwnershipProof) -> Item:
    """The item of the list of proofs with this one's name."""
    names = (proof.file, proof.tag)
    return Item(lambda raw: isinstance(raw, dict) and (raw.get("file", ""), raw.get("tag", "")) == names, "such proof")


def _same_accept(raw: Raw, told: dict[str, Raw]) -> bool:
    if not isinstance(raw, dict) or raw.keys() != told.keys():
        return False
    return all(raw[key] == told[key] for key in raw if key != "when")
