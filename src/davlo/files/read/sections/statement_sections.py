"""The sections that hold statements: everywhere, types, pages, rules."""

from __future__ import annotations

from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place
from davlo.core.site.model import Rule
from davlo.core.site.settings.scopes import ScopeKind

from ...form.davlo_yaml import PAGE, RULE
from ..yaml.includes import ESTATE
from ..yaml.yaml_nodes import Mapping, Node
from .scope_bodies import BodyReader, StatementCollector, Target
from .when import read_condition, read_excepts


def read_statements(joined: Mapping, presets: Mapping, collector: StatementCollector) -> tuple[Rule, ...]:
    """What the files say everywhere, of types, of pages and by rules, into the collector; the rules."""
    bodies = BodyReader(collector)
    bodies.presets(presets)
    if ESTATE in joined.entries:
        bodies.body(joined.entries[ESTATE], (Target(ScopeKind.ESTATE, 0, ""),), "everywhere")
    if "everywhere" in joined.entries:
        bodies.body(joined.entries["everywhere"], (Target(ScopeKind.EVERYWHERE, 0, ""),), "everywhere")
    types = joined.entries.get("types")
    for name, _, value in types if isinstance(types, Mapping) else ():
        if isinstance(value, Mapping) and "give" in value.entries:
            target = Target(ScopeKind.TYPE, collector.types.find(name), name)
            bodies.body(value.entries["give"], (target,), f"give of the type {name}")
    pages = joined.entries.get("pages")
    if pages is not None:
        bodies_of = collector.reader.mapping(pages, "pages")
        paths = [collector.reader.page_path(name) for name in bodies_of.entries]
        numbers = collector.pages(Texts.of(paths)).tolist()
        for number, path, (_, place, value) in zip(numbers, paths, bodies_of, strict=True):
            _read_page(path, number, place, value, bodies)
    return _read_rules(joined.entries.get("rules"), bodies)


def _read_page(path: str, number: int, place: Place, node: Node, bodies: BodyReader) -> None:
    if not path.startswith("/"):
        bodies.reader.page_fault(place, f"a page is named by its path, which starts with /, not {path!r}", path)
        return
    body = bodies.reader.mapping(node, f"the page {path}", PAGE.keys)
    for scope, _, value in body:
        both = scope == "here_and_below"
        targets = []
        if scope in ("below", "here_and_below"):
            targets.append(Target(ScopeKind.BELOW, number, path, both))
        if scope in ("here", "here_and_below"):
            targets.append(Target(ScopeKind.HERE, number, path, both))
        bodies.body(value, tuple(targets), f"{scope} of {path}")


def _read_rules(node: Node | None, bodies: BodyReader) -> tuple[Rule, ...]:
    reader = bodies.reader
    if node is None:
        return ()
    types = bodies.collector.types.declared
    rules: list[Rule] = []
    first: dict[str, Place] = {}
    for number, item in enumerate(reader.items(node, "rules")):
        body = reader.mapping(item, "a rule", RULE.keys)
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
        when = read_condition(body.entries.get("when", Mapping(item.place)), reader, "when", types)
        excepts = read_excepts(body.entries.get("except"), reader, types)
        rules.append(Rule(name, item.place, when, excepts, reader.text(body.entries.get("note"), "note")))
        if "give" in body.entries:
            target, what = Target(ScopeKind.RULE, number, name), f"give of the rule {name!r}"
            bodies.body(body.entries["give"], (target,), what, body.entries.get("because"))
    return tuple(rules)
