"""Declarations, rules, guarantees and accepts as the files of a site hold them."""

from __future__ import annotations

from davlo.core.change.steps import change as steps
from davlo.core.site.declarations import Declared, Group, kind_of
from davlo.core.site.settings.values import Raw, raw_of

from .site_files import ByStep, SiteFiles
from .spelling import (
    KIND_KEYS,
    SITE_KEYS,
    accept_as,
    adjusted_as,
    condition_as,
    declared_as,
    listed_as,
    named,
    setting_keys,
)
from .statement_writer import StatementWriter
from .yaml_entries import Item, Keys


class DeclarationWriter:
    """Writes what steps about declarations, rules, guarantees and accepts do into the files of a site."""

    def __init__(self, files: SiteFiles, statements: StatementWriter) -> None:
        self.files, self.site, self._statements = files, files.site, statements
        self._declared: dict[tuple[str, str], Declared] = {}

    @property
    def by_step(self) -> ByStep:
        """What writes each kind of step."""
        return {
            steps.Declare: self._declare,
            steps.Undeclare: lambda step: self.files.remove((*KIND_KEYS[step.kind], step.name)),
            steps.Adjust: self._adjust,
            steps.SetSite: self._set_site,
            steps.AddRule: self._add_rule,
            steps.DropRule: lambda step: self.files.remove(named("rules", step.name)),
            steps.ExceptFromGuarantee: self._except_from_guarantee,
            steps.AddAccept: lambda step: self.files.put(("accept",), accept_as(step.accept), more=True),
            steps.DropAccept: self._drop_accept,
        }

    def _adjust(self, step: steps.Adjust) -> None:
        for key, value in adjusted_as(step.adjustment).items():
            self.files.put(("settings", step.setting, key), value)

    def _except_from_guarantee(self, step: steps.ExceptFromGuarantee) -> None:
        self.files.put((*named("guarantees", step.name), "except"), {"path": [*step.pages]})

    def _drop_accept(self, step: steps.DropAccept) -> None:
        entry = accept_as(step.accept)
        self.files.remove(("accept", Item(lambda raw: _same_accept(raw, entry), "such accept")))

    def _declare(self, step: steps.Declare) -> None:
        record, kind = step.record, kind_of(step.record)
        keys = (*KIND_KEYS[kind], record.name)
        before = self._declared.get((kind, record.name)) or self._declared_before(kind, record.name)
        self._declared[kind, record.name] = record
        listed, said = listed_as(record), declared_as(record)
        if before is None:
            self.files.put(keys, said if listed is None else listed)
            return
        if listed is not None:
            self._put_list(keys, listed_as(before), listed)
            return
        was = declared_as(before)
        for key in was.keys() - said.keys():
            self.files.remove((*keys, key))
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
                self.files.put(keys, item, more=True)
        else:
            self.files.put(keys, value)

    def _set_site(self, step: steps.SetSite) -> None:
        before = getattr(self.site, step.name)
        value = raw_of(step.value)
        self._put_list(SITE_KEYS[step.name], raw_of(before), value)

    def _add_rule(self, step: steps.AddRule) -> None:
        give: dict[str, Raw] = {}
        for setting, value in step.says:
            keys = setting_keys(setting)
            raw = self._statements.spelled(setting, value)
            if len(keys) == 1:
                give[setting] = raw
            else:
                inner = give.setdefault(str(keys[0]), {})
                assert isinstance(inner, dict)
                inner[str(keys[1])] = raw
        excepts: list[Raw] = [condition_as(one) for one in step.excepts]
        rule: dict[str, Raw] = {"name": step.name, "when": condition_as(step.when)}
        rule |= {"except": excepts} if excepts else {}
        self.files.put(("rules",), {**rule, "give": give}, more=True)


def _same_accept(raw: Raw, told: dict[str, Raw]) -> bool:
    if not isinstance(raw, dict) or raw.keys() != told.keys():
        return False
    return all(raw[key] == told[key] for key in raw if key != "when")
