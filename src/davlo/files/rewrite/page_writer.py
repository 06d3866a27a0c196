"""Pages in the files of a site: their rows, and everything that names them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from davlo.core.change.steps.change import (
    AddDetail,
    AddPage,
    DropPage,
    MovePage,
    NameInstead,
    RefreshPages,
    RenameDetail,
    SetDetail,
)
from davlo.core.change.steps.new_page import with_page
from davlo.core.change.steps.page_steps import NAMING, Renames, pages_moved, pages_numbered
from davlo.core.resolve.fold import fold_stages
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.scopes import OF_PAGES, ScopeKind
from davlo.core.site.settings.values import raw_of
from davlo.core.site.source import source_of

from .cannot_rewrite import CannotRewrite
from .csv_text import is_csv
from .named_nodes import named_nodes
from .site_files import STAMPS, Before, ByStep, SiteFiles
from .spelling import goes_when_empty, page_key


class PageWriter:
    """Writes what steps about pages do into the files of a site: rows of the page list, and what names a page."""

    def __init__(self, files: SiteFiles, before: Before) -> None:
        self.files, self.site, self._before = files, files.site, before

    @property
    def by_step(self) -> ByStep:
        """What writes each kind of step."""
        return {
            AddPage: self._add,
            MovePage: self._move,
            DropPage: self._drop,
            SetDetail: lambda step: self._cell(self.site.page_number(step.path), step.detail, step.text),
            NameInstead: self._name_instead,
            RefreshPages: self._refresh,
            AddDetail: lambda step: self.files.add_column(step.name),
            RenameDetail: self._rename_detail,
        }

    def _name_instead(self, step: NameInstead) -> None:
        """Make everything that names one page name another one."""
        old, new = self.site.page_names.path(step.old), self.site.page_names.path(step.new)
        self._rename({old: new})
        for page in np.flatnonzero(self.site.details.column("leads_to").mask([old])).tolist():
            self._cell(page, "leads_to", new)

    def _move(self, step: MovePage) -> None:
        """Give a page, and those below it, other paths."""
        site, renames = self.site, pages_moved(self.site, step)
        self._rename(renames)
        top = site.page_number(step.path)
        for old, new in renames.items():
            self.files.move_line(site.page_list, int(site.tree.line[site.tree.number(old)]), old, new)
        for detail in NAMING:
            column = site.details.column(detail)
            for page in np.flatnonzero(column.mask(renames)).tolist():
                if detail != "parent" or page != top:
                    self._cell(page, detail, renames[column[page]])
        parent = site.tree.paths[site.page_number(step.parent)] if step.parent else ""
        if site.details.column("parent")[top] != parent:
            self._cell(top, "parent", renames.get(parent, parent))

    def _drop(self, step: DropPage) -> None:
        """Drop a page, or a branch, with what is set for it."""
        page = self.site.page_number(step.path)
        self._drop_pages(range(page, int(self.site.tree.end[page]) if step.branch else page + 1))

    def _drop_pages(self, pages: Sequence[int]) -> None:
        """Drop pages, with what is set for them."""
        site, gone = self.site, set(self.site.tree.paths.take(np.array(pages, dtype=np.int64)).tolist())
        for file in self.files.decisions():
            keys = [("pages", page_key(path, site.page_names)) for path in gone]
            for entry in [one for one in keys if self.files.text(file).find(one)]:
                self.files.splice_all(file, [self.files.text(file).without(entry, goes_when_empty)])
        said = site.statements
        of_pages = np.isin(said.scope, OF_PAGES) & np.isin(said.target, np.array(pages, dtype=np.int64))
        for row in np.flatnonzero(of_pages).tolist():
            place = said.place(row)
            if is_csv(place.file) and place.file != site.page_list:
                self.files.drop_row(place.file, place.line, site.catalogue[int(said.setting[row])].name)
        self.files.drop_new_rows(gone)
        for number in pages:
            self.files.drop_line(site.page_list, int(site.tree.line[number]))

    def _add(self, step: AddPage) -> None:
        """Write the row of a new page, and its stamps: what it inherits after the earlier steps of the change."""
        path = self.site.page_names.path(step.path)
        details = {name: text for name, text in step.details if text}
        self.files.new_row(self.site.page_list, {"path": step.path, **details})
        self._stamps(*with_page(self._before(step), path, details, by=step.by))

    def _refresh(self, step: RefreshPages) -> None:
        """Write rows more, other cells, and rows less; the new pages get their stamps."""
        site = self.site
        numbers = pages_numbered(site, [*(path for path, _, _ in step.cells), *step.gone])
        for path, detail, text in step.cells:
            self._cell(numbers[path], detail, text)
        if step.gone:
            self._drop_pages([numbers[path] for path in step.gone])
        for path, details in step.new:
            self.files.new_row(site.page_list, {"path": path, **{name: text for name, text in details if text}})
        if step.new:
            after = step.done(self._before(step))
            self._stamps(after, *pages_numbered(after, [path for path, _ in step.new]).values())

    def _stamps(self, after: SiteModel, *pages: int) -> None:
        """Write the stamps of new pages that are in no file yet, a page after the other."""
        said = after.statements
        rows = np.flatnonzero((said.scope == ScopeKind.STAMP) & np.isin(said.target, pages))
        for row in rows[np.argsort(said.target[rows], kind="stable")].tolist():
            page = int(said.target[row])
            setting, place = after.catalogue[int(said.setting[row])].name, said.place(row)
            if place.file != STAMPS:
                number = int(said.setting[row])
                stages = fold_stages(said, number, after.scope_pages.part(page, page + 1), True)
                source = str(source_of(after, int(stages.live_source[0])).scope) if stages.live_source[0] >= 0 else ""
                self.files.stamp_row(after.tree.paths[page], setting, raw_of(said.said(row)), source)

    def _rename_detail(self, step: RenameDetail) -> None:
        if step.new in self.files.sheet(self.site.page_list).columns:
            raise CannotRewrite(f"{self.site.page_list} has a column {step.new} already")
        self.files.change_cell(self.site.page_list, 1, step.old, step.new)

    def _cell(self, page: int, detail: str, text: str) -> None:
        self.files.change_cell(self.site.page_list, int(self.site.tree.line[page]), detail, text)

    def _rename(self, renames: Renames) -> None:
        """Write other names of pages into the decisions and the sheets; the page list stays."""
        names = self.site.page_names
        named = {
            file: [one for one in named_nodes(self.files.text(file).root) if "page" in one.kinds]
            for file in self.files.decisions()
        }
        every = {names.path(one.word) for some in named.values() for one in some if one.is_key}
        for old, new in renames.items():
            if old in every and new in every:
                raise CannotRewrite(f"{new} has an entry among the pages already")
        for file, some in named.items():
            text, paths = self.files.text(file), [names.path(one.word) for one in some]
            pairs = zip(some, paths, strict=True)
            self.files.splice_all(
                file, [text.renamed(one.node, renames[path]) for one, path in pairs if path in renames]
            )
        self._rows(renames)

    def _rows(self, renames: Renames) -> None:
        """The rows of sheets that set something for one of the pages."""
        said, site = self.site.statements, self.site
        numbers = {site.tree.find(path): new for path, new in renames.items() if site.tree.find(path) >= 0}
        numbers |= {-1 - said.gone.index(path): new for path, new in renames.items() if path in said.gone}
        of_pages = np.isin(said.scope, OF_PAGES) & np.isin(said.target, [*numbers])
        for row in np.flatnonzero(of_pages).tolist():
            place, scope = said.place(row), ScopeKind(int(said.scope[row]))
            new = numbers[int(said.target[row])]
            if place.file == STAMPS:
                self.files.change_cell(place.file, place.line, "path", new)
            elif is_csv(place.file) and place.file != site.page_list:
                self.files.change_cell(place.file, place.line, "where", f"{scope.word} {new}")
