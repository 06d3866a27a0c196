"""Names of pages in the files of a site: what names one page names another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import yaml

from davlo.core.change.apply import apply
from davlo.core.change.new_page import with_page
from davlo.core.change.steps import AddPage, Change, NameInstead, Step
from davlo.core.resolve.fold import fold_stages
from davlo.core.site.model import SiteModel
from davlo.core.site.scopes import OF_PAGES, ScopeKind
from davlo.core.site.source import source_of
from davlo.core.site.values import Raw, raw_of

from .cannot_rewrite import CannotRewrite
from .csv_text import is_csv
from .site_files import STAMPS, SiteFiles
from .spelling import page_key
from .yaml_text import YamlText

_CONDITIONS = ("when", "except")
_OF_CONDITION = ("path", "in_branch", "below")


class PageWriter:
    """Writes another page's name wherever the files of a site name a page.

    Parameters
    ----------
    files : SiteFiles
    """

    def __init__(self, files: SiteFiles) -> None:
        self.files, self.site = files, files.site

    def name_instead(self, step: NameInstead) -> None:
        """Write what a step does."""
        old, new = self.site.page_names.path(step.old), self.site.page_names.path(step.new)
        decisions = self.files.decisions()
        keys = {path: ("pages", page_key(path, self.site.page_names)) for path in (old, new)}
        has = {path: any(self.files.text(file).find(keys[path]) for file in decisions) for path in (old, new)}
        if has[old] and has[new]:
            raise CannotRewrite(f"{new} has an entry among the pages already")
        for file in decisions:
            text = self.files.text(file)
            found = text.find(keys[old])
            nodes = [found.key] if found and found.key else []
            splices = [text.renamed(node, new) for node in (*nodes, *_nodes(text, old, self.site))]
            self.files.splice_all(file, splices)
        self._rows(old, new)
        leads = self.site.facts.column("leads_to")
        if old in leads.words:
            for page in np.flatnonzero(leads.mask([old])).tolist():
                self.files.change_cell(self.site.inventory, int(self.site.tree.line[page]), "leads_to", new)

    def add(self, step: AddPage, earlier: Sequence[Step]) -> None:
        """Write the row of a new page, and its stamps: what it inherits after the earlier steps of the change."""
        path = self.site.page_names.path(step.path)
        facts = {name: text for name, text in step.facts if text}
        self._row(self.site.inventory, {"path": step.path, **facts})
        after, page = with_page(apply(self.site, Change((*earlier,))), path, facts)
        said = after.statements
        for row in np.flatnonzero((said.scope == ScopeKind.STAMP) & (said.target == page)).tolist():
            setting, place = after.catalogue[int(said.setting[row])].name, said.place(row)
            if place.file != STAMPS:
                number = int(said.setting[row])
                stages = fold_stages(said, number, after.scope_pages.part(page, page + 1), True)
                source = str(source_of(after, int(stages.live_source[0])).scope)
                self.files.stamp_row(path, setting, raw_of(said.said(row)), source)

    def _row(self, file: str, cells: dict[str, Raw]) -> None:
        if not is_csv(file):
            raise CannotRewrite(f"{file} is no text that can be edited")
        self.files.rows.setdefault(file, []).append(self.files.sheet(file).row(cells))

    def _rows(self, old: str, new: str) -> None:
        """The rows of sheets that say something of the page."""
        statements = self.site.statements
        if old not in statements.gone:
            return
        of_page = np.isin(statements.scope, OF_PAGES) & (statements.target == -1 - statements.gone.index(old))
        for row in np.flatnonzero(of_page).tolist():
            place, scope = statements.place(row), ScopeKind(int(statements.scope[row]))
            if place.file == STAMPS:
                self.files.change_cell(place.file, place.line, "path", new)
            elif is_csv(place.file):
                self.files.change_cell(place.file, place.line, "where", f"{scope.word} {new}")


def _nodes(text: YamlText, path: str, site: SiteModel) -> Iterator[yaml.Node]:
    """The texts of a file that name a page in a condition, a probe or a block."""
    if not isinstance(text.root, yaml.MappingNode):
        return
    sections = {key.value: value for key, value in text.root.value}
    for section in ("rules", "promises", "accept"):
        for item in _items(sections.get(section)):
            for key, value in _entries(item):
                if key in _CONDITIONS:
                    for condition in _items(value) or [value]:
                        yield from _named(condition, _OF_CONDITION, path, site)
    for item in _items(sections.get("probes")):
        yield from _named(item, ("page",), path, site)
    for _, block in _entries(sections.get("blocks")):
        yield from _named(block, ("under", "leave_out"), path, site)
        for key, links in _entries(block):
            if key == "links":
                yield from (node for _, node in _entries(links) if _is(node, path, site))


def _named(mapping: yaml.Node, keys: tuple[str, ...], path: str, site: SiteModel) -> Iterator[yaml.Node]:
    for key, value in _entries(mapping):
        if key in keys:
            yield from (node for node in _items(value) or [value] if _is(node, path, site))


def _is(node: yaml.Node, path: str, site: SiteModel) -> bool:
    return isinstance(node, yaml.ScalarNode) and site.page_names.path(node.value) == path


def _items(node: yaml.Node | None) -> list[yaml.Node]:
    return list(node.value) if isinstance(node, yaml.SequenceNode) else []


def _entries(node: yaml.Node | None) -> Iterator[tuple[str, yaml.Node]]:
    for key, value in node.value if isinstance(node, yaml.MappingNode) else ():
        yield str(key.value), value
