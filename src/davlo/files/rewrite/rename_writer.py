"""Renaming in the files of a site: every place that names a declaration, in YAML and in sheets."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from davlo.core.change.steps.change import Rename
from davlo.core.change.steps.renaming import SUBJECTS, Renaming
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES, Setting

from .cannot_rewrite import CannotRewrite
from .csv_text import is_csv
from .named_nodes import NamedNode, named_nodes
from .site_files import SiteFiles
from .spelling import KIND_KEYS
from .yaml_text import Splice, YamlText


class RenameWriter:
    """Writes a new name wherever the files of a site name a declaration."""

    def __init__(self, files: SiteFiles) -> None:
        self.files, self.site = files, files.site

    def rename(self, step: Rename) -> None:
        """Write what a step does."""
        names = Renaming(self.site, step.kind, step.old, step.new)
        for file in self.files.decisions():
            text = self.files.text(file)
            named = [one for one in named_nodes(text.root) if _is_renamed(one, names)]
            self.files.splice_all(file, [self._splice(text, one, names) for one in named])
        if names.goes_into:
            self._drop_declaration(names)
        self._sheets(names)

    def _splice(self, text: YamlText, one: NamedNode, names: Renaming) -> Splice:
        """What a name of the declaration becomes: another word, or nothing if the new name stands beside it already."""
        new = names.new if one.word == names.old else names.setting(one.word)
        found = one.found
        beside = [str(other[0].value) if found.is_entry else str(other.value) for other in found.holder.value]
        gone = (one.is_key or not found.is_entry) and new in beside
        return text.without_found(found) if gone else text.renamed(one.node, new)

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
        columns = [*(["type"] if names.kind == "type" else []), *site.file_notes.setting_columns]
        columns = [one for one in columns if one == "type" or _names_values(site.catalogue.setting(one), names)]
        if columns and is_csv(site.page_list):
            self._cells(columns, names)
        for column in site.file_notes.setting_columns:
            if names.setting(column) != column:
                if names.setting(column) in site.file_notes.setting_columns:
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


def _is_renamed(one: NamedNode, names: Renaming) -> bool:
    """Whether a node names what is renamed; not the entry of a declaration that goes into another, which is dropped."""
    if "setting" in one.kinds:
        return names.setting(one.word) != one.word
    if one.word != names.old or (one.is_key and one.kinds == (names.kind,) and names.goes_into):
        return False
    is_subject = "subject" in one.kinds and names.kind in SUBJECTS
    return is_subject or names.kind in one.kinds or "declaration" in one.kinds
