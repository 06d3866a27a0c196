"""Renaming in the files of a site: every place that names a declaration, in YAML and in sheets."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
import yaml

from davlo.core.change.steps.change import Rename
from davlo.core.change.steps.renaming import SUBJECTS, Renaming
from davlo.core.site.mentions import SHOWING
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES, Setting

from .cannot_rewrite import CannotRewrite
from .csv_text import is_csv
from .site_files import SiteFiles
from .spelling import BECAUSE, BOTH, KIND_KEYS, LOCK, USE
from .yaml_entries import Found
from .yaml_text import Splice, YamlText

KINDS_OF_VALUES = {"layout.name": "layout", "layout.theme": "theme", "page.owner": "person", "page.group": "group"}
"""The settings whose values are names of declarations, families aside."""
FAMILIES = {"sidebar": "sidebar", "look": "look", "band": "band", "blocks": "block"}
_BODIES = ("give", "here", "below", BOTH)
_CONDITIONS = ("when", "except")


def _kind_of_value(setting: str) -> str:
    """The kind of declaration that the values of a setting name; empty if none."""
    return KINDS_OF_VALUES.get(setting) or FAMILIES.get(setting.partition(".")[0], "") if "." in setting else ""


class RenameWriter:
    """Writes a new name wherever the files of a site name a declaration."""

    def __init__(self, files: SiteFiles) -> None:
        self.files, self.site = files, files.site

    def rename(self, step: Rename) -> None:
        """Write what a step does."""
        names = Renaming(self.site, step.kind, step.old, step.new)
        for file in self.files.decisions():
            text = self.files.text(file)
            if isinstance(text.root, yaml.MappingNode):
                splices = [
                    one for found, old in _Named(names).of(text.root) for one in self._splices(text, found, old, names)
                ]
                self.files.splice_all(file, splices)
        if names.goes_into:
            self._drop_declaration(names)
        self._sheets(names)

    def _splices(self, text: YamlText, found: Found, is_key: bool, names: Renaming) -> Iterator[Splice]:
        """What a name of the declaration becomes: another word, or nothing if the new name stands beside it already."""
        node = found.key if is_key else found.node
        assert isinstance(node, yaml.ScalarNode)
        word = str(node.value)
        new = names.new if word == names.old else names.setting(word)
        beside = [str(one[0].value) if found.is_entry else str(one.value) for one in found.holder.value]
        if (is_key or not found.is_entry) and new in beside:
            yield text.without_found(found)
        else:
            yield text.renamed(node, new)

    def _drop_declaration(self, names: Renaming) -> None:
        """Take away the declaration that goes into another."""
        if names.kind in KIND_KEYS:
            keys = (*KIND_KEYS[names.kind], names.old)
            if any(self.files.text(file).find(keys) for file in self.files.decisions()):
                self.files.remove(keys)

    def _sheets(self, names: Renaming) -> None:
        """The rows of sheets, and the cells of the page list, that name it."""
        said, site = self.site.statements, self.site
        csv = [code for code, one in enumerate(said.files.items) if is_csv(one)]
        settings = [
            number
            for number, one in enumerate(site.catalogue.settings)
            if _names_values(one, names) or names.setting(one.name) != one.name
        ]
        mine = np.isin(said.setting, settings) & (said.scope != ScopeKind.TYPE if names.kind == "type" else True)
        if names.kind == "type":
            mine |= (said.scope == ScopeKind.TYPE) & (said.target == site.types.find(names.old))
        for row in np.flatnonzero(mine & np.isin(said.file, csv)).tolist():
            self._row(row, names)
        columns = [*(["type"] if names.kind == "type" else []), *site.setting_columns]
        columns = [one for one in columns if one == "type" or _names_values(site.catalogue.setting(one), names)]
        if columns and is_csv(site.page_list):
            self._cells(columns, names)
        for column in site.setting_columns:
            if names.setting(column) != column:
                if names.setting(column) in site.setting_columns:
                    raise CannotRewrite(f"{site.page_list} has columns {column} and {names.setting(column)}")
                self.files.change_cell(site.page_list, 1, column, names.setting(column), by_name=True)

    def _cells(self, columns: Sequence[str], names: Renaming) -> None:
        """The cells of the page list that name it; also those of rows that another row of the page stands for."""
        sheet = self.files.sheet(self.site.page_list)
        for number in sheet.lines_with(names.old):
            for column in columns if number > 1 else ():
                self._value(self.site.page_list, number, column, names, sheet.cell(sheet.line(number), column))

    def _row(self, row: int, names: Renaming) -> None:
        """The row, or the cell, of one statement."""
        said, site = self.site.statements, self.site
        place, setting = said.place(row), site.catalogue[int(said.setting[row])]
        if place.file == site.page_list:
            return
        is_of_type = names.kind == "type" and said.scope[row] == ScopeKind.TYPE
        if is_of_type and names.goes_into:
            self.files.drop_row(place.file, place.line, setting.name)
            return
        new_setting = names.setting(setting.name)
        if new_setting != setting.name:
            number = site.catalogue.find(new_setting)
            scope, target = ScopeKind(int(said.scope[row])), int(said.target[row])
            if number is not None and said.find(number, scope, target) >= 0:
                self.files.drop_row(place.file, place.line, setting.name)
                return
            self.files.change_cell(place.file, place.line, "setting", new_setting, by_name=True)
        if _names_values(setting, names):
            sheet = self.files.sheet(place.file)
            self._value(place.file, place.line, "value", names, sheet.cell(sheet.line(place.line), "value"))
        if is_of_type:
            self.files.change_cell(place.file, place.line, "where", f"type {names.new}", by_name=True)

    def _value(self, file: str, line: int, column: str, names: Renaming, text: str) -> None:
        """A cell that may name it: alone, or in a list."""
        items = [item.strip() for item in text.removeprefix("+ ").removeprefix("- ").split(";")]
        if names.old in items:
            sign = text[:2] if text[:2] in ("+ ", "- ") else ""
            self.files.change_cell(file, line, column, sign + "; ".join(names.listed(items)), by_name=True)


def _names_values(setting: Setting, names: Renaming) -> bool:
    """Whether the cells of a setting may hold the name."""
    return names.is_about(setting) or (names.kind == "role" and setting.family in ACCESS_FAMILIES)


class _Named:
    """Finds the entries and items of a YAML file that name a declaration, and whether it is their key."""

    def __init__(self, names: Renaming) -> None:
        self._names, self._kind, self._old = names, names.kind, names.old

    def of(self, root: yaml.MappingNode) -> Iterator[tuple[Found, bool]]:
        """All of a file."""
        for entry in _entries(root):
            section, node = str(entry.key.value) if entry.key else "", entry.node
            yield from self._section(section, node)

    def _section(self, section: str, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        kinds = {keys[-1]: kind for kind, keys in KIND_KEYS.items() if len(keys) == 1}
        if section in kinds and not self._names.goes_into and kinds[section] == self._kind:
            yield from self._keys(node)
        if section == "everywhere":
            yield from self._body(node)
        elif section == "presets":
            for one in _entries(node):
                yield from self._body(one.node)
        elif section in ("types", "pages", "layouts", "looks", "sidebars", "bands", "themes", "blocks", "settings"):
            for one in _entries(node):
                yield from self._declaration(section, one)
        elif section in ("rules", "guarantees", "viewpoints", "accept"):
            for one in _items(node):
                yield from self._item(section, one.node)
        elif section == "people":
            yield from self._people(node)

    def _declaration(self, section: str, entry: Found) -> Iterator[tuple[Found, bool]]:
        name = str(entry.key.value) if entry.key else ""
        if section == "settings" and self._names.setting(name) != name and self._kind in SUBJECTS:
            yield entry, True
        for inner in _entries(entry.node):
            key = str(inner.key.value) if inner.key else ""
            if key in _BODIES:
                yield from self._body(inner.node)
            elif key == "based_on":
                yield from self._word(inner, {"types": "type", "layouts": "layout", "looks": "look"}.get(section, ""))
            elif key == "blocks":
                yield from self._blocks(inner)
            elif key == "if_missing":
                for one in _entries(inner.node):
                    yield from self._word(one, "block")
            elif key == "without":
                yield from self._words(inner, lambda word: self._names.setting(word) != word)
            elif key == "for_types":
                yield from self._words(inner, self._is("type"))
            elif key == "used_by":
                yield from self._words(inner, self._is(self._kind if self._kind in SHOWING else ""))
            elif key == "default":
                yield from self._value(name, inner)

    def _item(self, section: str, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for inner in _entries(node):
            key = str(inner.key.value) if inner.key else ""
            if key in _CONDITIONS:
                for one in [*(item.node for item in _items(inner.node)), inner.node]:
                    yield from self._condition(one)
            elif key == "give" or key == "has":
                yield from self._body(inner.node)
            elif key in ("may", "may_not"):
                yield from self._subjects(inner.node)
            elif key == "as":
                yield from self._word(inner, self._kind if self._kind in SUBJECTS else "")
            elif key == "declaration" and section == "accept":
                yield from self._word(inner, self._kind)
            elif key == "name" and section in ("rules", "guarantees"):
                yield from self._word(inner, section[:-1])
            elif key == "setting" and section == "accept":
                yield from self._words(inner, lambda word: self._names.setting(word) != word)

    def _condition(self, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for inner in _entries(node):
            if inner.key and str(inner.key.value) in ("type", "only_type"):
                yield from self._words(inner, self._is("type"))

    def _body(self, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for entry in _entries(node):
            key = str(entry.key.value) if entry.key else ""
            if key in ACCESS_FAMILIES:
                yield from self._subjects(entry.node)
            elif key == LOCK:
                yield from self._body(entry.node)
            elif key == USE:
                yield from self._words(entry, self._is("preset"))
            elif key != BECAUSE:
                if self._names.setting(key) != key:
                    yield entry, True
                yield from self._value(key, entry)

    def _subjects(self, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for entry in _entries(node):
            if entry.key and self._kind in SUBJECTS and str(entry.key.value) == self._old:
                yield entry, True
            yield from self._lists(entry, self._is("role"))

    def _value(self, setting: str, entry: Found) -> Iterator[tuple[Found, bool]]:
        if setting.partition(".")[0] in ACCESS_FAMILIES:
            yield from self._lists(entry, self._is("role"))
        elif _kind_of_value(setting) == self._kind:
            yield from self._lists(entry, self._is(self._kind))

    def _blocks(self, entry: Found) -> Iterator[tuple[Found, bool]]:
        """A list of blocks, or for each area a list or a change of one."""
        yield from self._lists(entry, self._is("block"))
        for one in _entries(entry.node):
            yield from self._lists(one, self._is("block"))

    def _lists(self, entry: Found, is_it: Callable[[str], bool]) -> Iterator[tuple[Found, bool]]:
        """A word, a list, or the lists of a change."""
        yield from self._words(entry, is_it)
        for one in _entries(entry.node):
            if one.key and str(one.key.value) in ("add", "first", "remove"):
                yield from self._words(one, is_it)

    def _words(self, entry: Found, is_it: Callable[[str], bool]) -> Iterator[tuple[Found, bool]]:
        if isinstance(entry.node, yaml.ScalarNode):
            if is_it(str(entry.node.value)):
                yield entry, False
            return
        for item in _items(entry.node):
            if isinstance(item.node, yaml.ScalarNode) and is_it(str(item.node.value)):
                yield item, False

    def _word(self, entry: Found, kind: str) -> Iterator[tuple[Found, bool]]:
        if isinstance(entry.node, yaml.ScalarNode) and self._is(kind)(str(entry.node.value)):
            yield entry, False

    def _is(self, kind: str) -> Callable[[str], bool]:
        return lambda word: bool(kind) and kind == self._kind and word == self._old

    def _keys(self, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for entry in _entries(node):
            if entry.key and str(entry.key.value) == self._old:
                yield entry, True

    def _people(self, node: yaml.Node) -> Iterator[tuple[Found, bool]]:
        for entry in _entries(node):
            key = str(entry.key.value) if entry.key else ""
            if key in ("names", "admins"):
                yield from self._words(entry, self._is("person"))
            elif key == "groups":
                if self._kind == "group" and not self._names.goes_into:
                    yield from self._keys(entry.node)
                for group in _entries(entry.node):
                    yield from self._words(group, self._is(self._kind if self._kind in SUBJECTS else ""))


def _entries(node: yaml.Node | None) -> Iterator[Found]:
    if isinstance(node, yaml.MappingNode):
        yield from (Found(node, place) for place in range(len(node.value)))


def _items(node: yaml.Node | None) -> Iterator[Found]:
    if isinstance(node, yaml.SequenceNode):
        yield from (Found(node, place) for place in range(len(node.value)))
