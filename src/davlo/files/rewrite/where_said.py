"""Where the files of a site say something: the body of a YAML file, or the row of a sheet."""

from __future__ import annotations

from typing import NamedTuple

from davlo.core.cached import cached_property
from davlo.core.change.steps.change import Change
from davlo.core.site.settings.scopes import OF_PAGES, Scope, ScopeKind
from davlo.core.site.statements.new_statements import Form

from .csv_text import is_csv
from .site_files import STAMPS, SiteFiles
from .spelling import body_of, both_body_of, spellings
from .yaml_entries import BECAUSE, Keys, raw_of_node

OF_SHEETS = (ScopeKind.EVERYWHERE, ScopeKind.TYPE, ScopeKind.BELOW, ScopeKind.HERE)
"""The scopes that a row of a sheet can name."""


class Standing(NamedTuple):
    """Where a statement stands in a YAML file: the body that holds it, the keys to it, whether it is locked there."""

    file: str
    body: Keys
    keys: Keys
    locked: bool


class WhereSaid:
    """Finds what the files of a site say, as they are so far. `change`: the change whose scopes it is asked about."""

    def __init__(self, files: SiteFiles, change: Change) -> None:
        self.files, self.site, self._change = files, files.site, change

    def standing(self, setting: str, body: Keys) -> Standing | None:
        """Where a body says a setting in YAML."""
        for file in self.files.decisions():
            text = self.files.text(file)
            if text.find(body):
                for keys, locked in spellings(setting):
                    if text.find((*body, *keys)):
                        return Standing(file, body, (*body, *keys), locked)
        return None

    def of_scope(self, scope: Scope, setting: str) -> tuple[Standing | None, Standing | None]:
        """Where a scope says a setting in YAML: in a body of its own, and in one that says it for two scopes."""
        names = self.site.page_names
        own, both = body_of(scope, names), both_body_of(scope, names)
        return self.standing(setting, own), self.standing(setting, both) if both else None

    def row(self, scope: Scope, setting: str) -> tuple[str, int] | None:
        """The sheet and the line in which a scope says a setting."""
        site = self.site
        number = site.catalogue.find(setting)
        target = self._target(scope)
        if number is None or target is None:
            return None
        row = site.statements.find(number, scope.kind, target)
        place = site.statements.place(row) if row >= 0 else None
        return (place.file, place.line) if place and is_csv(place.file) else None

    def says(self, part: Scope, setting: str) -> bool:
        """Whether a scope says a setting anywhere."""
        row = self.row(part, setting)
        return any(self.of_scope(part, setting)) or bool(row and not self.files.is_gone(*row, setting))

    def suits(self, standing: Standing, because: str) -> bool:
        """Whether a body gives this reason, or none is asked for."""
        return not because or self.reason(standing.file, standing.body) == because

    def reason(self, file: str, body: Keys) -> str:
        """The reason that a body gives; that of a rule may stand beside it. Empty where there is none."""
        text = self.files.text(file)
        found = text.find((*body, BECAUSE))
        if found is None and body[-1] == "give":
            found = text.find((*body[:-1], BECAUSE))
        return str(raw_of_node(found.node)) if found else ""

    def speaks_in_yaml(self, scope: Scope) -> bool:
        """Whether a YAML body says something for a scope, or for the page that it is about."""
        body = body_of(scope, self.site.page_names)[:2]
        return any(self.files.text(file).find(body) for file in self.files.decisions())

    def sheet_of(self, scope: Scope) -> str | None:
        """The sheet of statements in which a scope speaks, if it speaks in no YAML body."""
        if scope.both or self.speaks_in_yaml(scope):
            return None
        statements, target = self.site.statements, self._target(scope)
        if target is None:
            return None
        mine = (statements.scope == scope.kind) & (statements.target == target) & (statements.form == Form.SAID)
        for code in dict.fromkeys(statements.file[mine].tolist()):
            file = statements.files[code]
            if is_csv(file) and file != STAMPS and self.files.sheet(file).is_statements:
                return file
        return None

    def _target(self, scope: Scope) -> int | None:
        """The number a site's statements hold for a scope that a sheet can name; None for others."""
        site = self.site
        if scope.kind == ScopeKind.EVERYWHERE:
            return 0
        if scope.kind == ScopeKind.TYPE:
            return site.types.find(scope.name) if site.types.find(scope.name) >= 0 else None
        if scope.kind not in OF_PAGES:
            return None
        if scope.name not in self._pages:
            self._pages[scope.name] = self.site.page_numbers([scope.name])[0]
        page, gone = self._pages[scope.name], site.statements.gone
        path = site.page_names.path(scope.name) if page < 0 else ""
        return page if page >= 0 else -1 - gone.index(path) if path in gone else None

    @cached_property
    def _pages(self) -> dict[str, int]:
        """The numbers of the pages that the change names, looked up at once; -1 if a page is not there."""
        scopes = (getattr(step, "scope", None) for step in self._change.steps)
        names = [*dict.fromkeys(one.name for one in scopes if isinstance(one, Scope) and one.kind in OF_PAGES)]
        return dict(zip(names, self.site.page_numbers(names), strict=True))
