"""A site folder, read whole."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from davlo.core.catalogue import Catalogue, Vocabulary
from davlo.core.facts import Facts, Type
from davlo.core.faults import Fault, Place, SiteError
from davlo.core.model import Rule, SitemapRules
from davlo.core.pieces import People
from davlo.core.site import Site
from davlo.core.statements import Scope, Statements
from davlo.core.tree import Tree

from .cells import Sheet, read_sheet
from .conditions import read_condition, read_excepts
from .inventory import Inventory, read_facts, read_inventory
from .layering import read_decisions
from .pieces import PieceReader, read_actions, read_people, read_roles
from .promises import read_accepts, read_promises
from .reading import Reader
from .scopes import BodyReader, Book, Target
from .settings import read_settings
from .statement_sheets import STAMPS_COLUMNS, VALUES_COLUMNS, read_cells, read_stamps, read_values, setting_columns
from .yaml_nodes import Mapping, Node, Scalar

TYPE_KEYS = ("label", "note", "based_on", "give", "without")
PAGE_SCOPES = ("below", "here", "here_and_below")


@contextmanager
def _no_garbage() -> Iterator[None]:
    """Reading makes many small objects and drops none: the collector would only look at them again and again."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def open_site(folder: str | Path) -> Site:
    """Read a site folder.

    Parameters
    ----------
    folder : str or Path
        The folder that holds `davlo.yaml`. Nothing in it is written, run or fetched.

    Returns
    -------
    Site

    Raises
    ------
    SiteError
        If a file cannot be understood; it tells every fault with its place.

    Example
    -------
    >>> import davlo
    >>> try:
    ...     davlo.open_site("no-such-folder")
    ... except davlo.SiteError as error:
    ...     print(error.faults[0].what)
    there is no davlo.yaml in no-such-folder
    """
    with _no_garbage():
        return _FolderReader(Path(folder)).site()


class _FolderReader:
    """Reads one folder; faults gather in `reader` until the end."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.reader = Reader()

    def site(self) -> Site:
        joined = read_decisions(self.folder, self.reader)
        if joined is None:
            raise self._error()
        if "davlo" in joined.entries:
            self.reader.one_of(joined.entries["davlo"], "davlo (the format's version)", ("1",), "1")
        else:
            self.reader.fault(Place("davlo.yaml", 1), "the format's version is missing", hint="begin with davlo: 1")
        about = self._about(joined)
        people = read_people(joined.entries.get("people"), self.reader)
        actions = read_actions(joined.entries.get("actions"), self.reader)
        roles = read_roles(joined.entries.get("roles"), actions, self.reader)
        pieces_read = PieceReader(joined, self.reader)
        pieces = pieces_read.pieces(roles)
        types = self._types(joined)
        names = {**pieces_read.names, "person": people.names, "group": tuple(people.groups)}
        words = Vocabulary(names, pieces.areas(), actions, roles)
        users = (*pieces.layouts, *pieces.bands, *pieces.blocks)
        catalogue = read_settings(joined.entries.get("settings"), words, tuple(types), users, self.reader)
        self._check_without(joined.entries.get("types"), catalogue)

        sheet = read_sheet(self.folder, about["inventory"], self.reader, ("path",), about["inventory_at"])
        if sheet is None:
            self._rest_of_faults(joined, people, catalogue, pieces_read)
            raise self._error()
        inventory = read_inventory(sheet, self.reader)
        book = Book(catalogue, self.reader)
        columns = setting_columns(sheet, catalogue, book)
        facts = read_facts(
            sheet, inventory, types, set(columns) | self._misnamed(sheet, catalogue), about["home"], self.reader
        )
        rules = self._statements(joined, book, facts, inventory.tree, pieces_read)
        self._sheets(about["values"], book, facts, inventory, sheet, columns)
        promises = read_promises(
            joined.entries.get("promises"), catalogue, words, self.reader, self._is_type(types), tuple(types)
        )
        accepts = read_accepts(joined.entries.get("accept"), catalogue, self.reader, self._is_type(types), tuple(types))
        room, sitemap = self._menu(joined), self._sitemap(joined)
        if self.reader.faults:
            raise self._error()
        return Site(
            name=about["name"],
            url=about["url"],
            languages=about["languages"],
            language_paths=about["language_paths"],
            inventory=about["inventory"],
            catalogue=catalogue,
            tree=inventory.tree,
            facts=facts,
            pieces=pieces,
            people=people,
            actions=actions,
            rules=rules,
            statements=Statements.of(catalogue, book.finish(), len(rules)),
            promises=promises,
            accepts=accepts,
            menu_room=room,
            sitemap=sitemap,
        )

    def _error(self) -> SiteError:
        def place(fault: Fault) -> tuple[bool, str, int]:
            return fault.place.file != "davlo.yaml", fault.place.file, fault.place.line

        return SiteError(sorted(dict.fromkeys(self.reader.faults), key=place))

    def _rest_of_faults(self, joined: Mapping, people: People, catalogue: Catalogue, pieces: PieceReader) -> None:
        """Without an inventory there is no site; the statements are still read, so that all faults are told."""
        empty = Sheet("pages.csv", ("path",), {"path": []}, [])
        inventory = read_inventory(empty, self.reader)
        facts = read_facts(empty, inventory, self._types(joined), set(), "/", self.reader)
        self._statements(joined, Book(catalogue, self.reader), facts, inventory.tree, pieces)

    def _about(self, joined: Mapping) -> dict[str, Any]:
        """The `site` section."""
        reader = self.reader
        node = joined.entries.get("site")
        keys = ("name", "url", "languages", "language_paths", "home", "inventory", "values")
        if node is None:
            hint = "site: {name: My site, url: https://www.example, inventory: pages.csv}"
            reader.fault(Place("davlo.yaml", 1), "the section site is missing", hint=hint)
            node = Mapping(Place("davlo.yaml", 1))
        body = reader.mapping(node, "site", keys)
        name, url = (reader.text(body.entries.get(key), key) for key in ("name", "url"))
        for key, value, example in (("name", name, "My site"), ("url", url, "https://www.example")):
            if not value:
                reader.fault(node.place, f"site says no {key}", hint=f"{key}: {example}")
        if url and (urlsplit(url).scheme not in ("http", "https") or not urlsplit(url).netloc):
            reader.fault(body.keys["url"], f"url takes an address that begins with https://, not {url!r}")
        paths = reader.text(body.entries.get("language_paths"), "language_paths")
        if paths and not ("{language}" in paths and "{path}" in paths):
            hint = 'language_paths: "/{language}{path}"'
            reader.fault(body.keys["language_paths"], "language_paths needs {language} and {path} in it", hint=hint)
        inventory = body.entries.get("inventory")
        if isinstance(inventory, Mapping):
            reader.fault(inventory.place, "an inventory from a database is not read yet", hint="inventory: pages.csv")
        elif isinstance(inventory, Scalar) and not inventory.text.lower().endswith(".csv"):
            reader.fault(
                inventory.place, f"an inventory is a .csv file, not {inventory.text!r}", hint="inventory: pages.csv"
            )
        return {
            "name": name,
            "url": url.rstrip("/"),
            "languages": tuple(word for word, _ in reader.words(body.entries.get("languages"), "languages")),
            "language_paths": paths,
            "home": reader.text(body.entries.get("home"), "home") or "/",
            "inventory": inventory.text if isinstance(inventory, Scalar) else "pages.csv",
            "inventory_at": inventory.place if inventory is not None else node.place,
            "values": reader.words(body.entries.get("values"), "values"),
        }

    def _types(self, joined: Mapping) -> dict[str, Type]:
        """The declared types; `page` always exists."""
        reader = self.reader
        node = joined.entries.get("types")
        section = reader.mapping(node, "types") if node is not None else Mapping(Place("davlo.yaml"))
        names = ("page", *(name for name in section.entries if name != "page"))
        found = {"page": Type("page", section.keys.get("page", Place("davlo.yaml")))}
        for name, place, value in section:
            reader.name(name, place, "type")
            body = reader.mapping(value, f"the type {name}", TYPE_KEYS)
            bases = reader.known(body.entries.get("based_on"), "based_on", names, "type")
            found[name] = Type(
                name,
                place,
                label=reader.text(body.entries.get("label"), "label"),
                note=reader.text(body.entries.get("note"), "note"),
                based_on=bases[0] if bases else "",
                without=tuple(word for word, _ in reader.words(body.entries.get("without"), "without")),
            )
        above: dict[str, tuple[str, ...]] = {name: (t.based_on,) if t.based_on else () for name, t in found.items()}
        for name in reader.circles(above, {**section.keys, "page": found["page"].place}, "types"):
            found[name] = Type(name, found[name].place)
        return found

    def _check_without(self, section: Node | None, catalogue: Catalogue) -> None:
        """Whether the settings that types are without are settings."""
        families = {f"{s.family}.*" for s in catalogue.settings if s.family}
        for _, _, body in section if isinstance(section, Mapping) else ():
            node = body.entries.get("without") if isinstance(body, Mapping) else None
            for word, place in self.reader.words(node, "without"):
                if catalogue.find(word) is None and word not in families and not catalogue.could_be(word):
                    self.reader.fault(place, f"there is no setting {word!r}", word, catalogue.names())

    def _statements(
        self, joined: Mapping, book: Book, facts: Facts, tree: Tree, pieces: PieceReader
    ) -> tuple[Rule, ...]:
        """Presets, everywhere, types, pages and rules."""
        bodies = BodyReader(book)
        bodies.presets(pieces.sections["presets"])
        if "everywhere" in joined.entries:
            bodies.body(joined.entries["everywhere"], (Target(Scope.EVERYWHERE, 0, ""),), "everywhere")
        types = joined.entries.get("types")
        for name, _, value in types if isinstance(types, Mapping) else ():
            if isinstance(value, Mapping) and "give" in value.entries:
                target = Target(Scope.TYPE, facts.types.find(name), name)
                bodies.body(value.entries["give"], (target,), f"give of the type {name}")
        pages = joined.entries.get("pages")
        if pages is not None:
            for path, place, value in self.reader.mapping(pages, "pages"):
                self._page(path, place, value, bodies, tree)
        return self._rules(joined, bodies, facts)

    def _page(self, path: str, place: Place, node: Node, bodies: BodyReader, tree: Tree) -> None:
        if not path.startswith("/"):
            self.reader.fault(place, f"a page is named by its path, which starts with /, not {path!r}", hint=f"/{path}")
            return
        body = self.reader.mapping(node, f"the page {path}", PAGE_SCOPES)
        page = tree.find(path)
        for scope, _, value in body:
            both = scope == "here_and_below"
            targets = []
            if scope in ("below", "here_and_below"):
                targets.append(Target(Scope.BELOW, page, path, both))
            if scope in ("here", "here_and_below"):
                targets.append(Target(Scope.HERE, page, path, both))
            bodies.body(value, tuple(targets), f"{scope} of {path}")

    def _rules(self, joined: Mapping, bodies: BodyReader, facts: Facts) -> tuple[Rule, ...]:
        reader = self.reader
        node = joined.entries.get("rules")
        if node is None:
            return ()
        is_type, types = self._is_type(facts.types.declared), tuple(facts.types.declared)
        rules: list[Rule] = []
        first: dict[str, Place] = {}
        for number, item in enumerate(reader.items(node, "rules")):
            body = reader.mapping(item, "a rule", ("name", "when", "except", "give", "note"))
            name = reader.text(body.entries.get("name"), "name")
            if not name:
                reader.fault(item.place, "the rule has no name", hint="name: what it is for")
            elif name in first:
                reader.fault(body.keys["name"], f"a second rule is called {name!r}; the first is at {first[name]}")
            first.setdefault(name, item.place)
            if "when" not in body.entries:
                reader.fault(item.place, f"the rule {name!r} has no when", hint="when: {type: event}")
            if "give" not in body.entries:
                reader.fault(item.place, f"the rule {name!r} gives nothing", hint="give: {sidebar.right: none}")
            when = read_condition(body.entries.get("when", Mapping(item.place)), reader, "when", is_type, types)
            excepts = read_excepts(body.entries.get("except"), reader, is_type, types)
            rules.append(Rule(name, item.place, when, excepts))
            if "give" in body.entries:
                bodies.body(body.entries["give"], (Target(Scope.RULE, number, name),), f"give of the rule {name!r}")
        return tuple(rules)

    @staticmethod
    def _is_type(types: dict[str, Type]) -> Any:
        return lambda word: word in types

    def _sheets(
        self,
        values: list[tuple[str, Place]],
        book: Book,
        facts: Facts,
        inventory: Inventory,
        sheet: Sheet,
        columns: dict[str, int],
    ) -> None:
        """The statements that CSV files hold."""
        for name, place in values:
            rows = read_sheet(self.folder, name, self.reader, VALUES_COLUMNS, place)
            if rows is not None:
                read_values(rows, inventory.tree, facts.types, book)
        read_cells(sheet, inventory.page_of_row, columns, book)
        stamps = read_sheet(self.folder, "stamps.csv", self.reader, STAMPS_COLUMNS, None)
        if stamps is not None:
            read_stamps(stamps, inventory.tree, book)

    @staticmethod
    def _misnamed(sheet: Sheet, catalogue: Catalogue) -> set[str]:
        """Columns of an access family whose subject is not known: a fault already, and no fact."""
        return {column for column in sheet.columns if catalogue.could_be(column)}

    def _menu(self, joined: Mapping) -> int:
        if "menu" not in joined.entries:
            return 0
        body = self.reader.mapping(joined.entries["menu"], "menu", ("room",))
        return int(self.reader.number(body.entries.get("room"), "room", 0, 1, 1000))

    def _sitemap(self, joined: Mapping) -> SitemapRules:
        reader = self.reader
        if "sitemap" not in joined.entries:
            return SitemapRules()
        body = reader.mapping(joined.entries["sitemap"], "sitemap", ("leave_out", "fresh_for", "join"))
        leave = body.entries.get("leave_out")
        out = reader.mapping(leave, "leave_out", ("menu_hidden", "priority_under")) if leave else Mapping(body.place)
        return SitemapRules(
            menu_hidden=reader.yes_no(out.entries.get("menu_hidden"), "menu_hidden"),
            priority_under=reader.number(out.entries.get("priority_under"), "priority_under", 0, 0, 1, whole=False),
            fresh_for=int(reader.number(body.entries.get("fresh_for"), "fresh_for", 0, 0, 100000)),
            join=tuple(word for word, _ in reader.words(body.entries.get("join"), "join")),
        )
