"""A slow, plain reading of the findings that are about statements, declarations and names more than about pages.

Works on the descriptions of `tests.sites` and `tests.amiss`, on top of `tests.plain.resolution`.
"""

from __future__ import annotations

from tests.sites import BLOCKS

from . import outcomes as plain
from . import resolution as ref
from .findings import LAYOUTS, Fold, members_of

STRANGERS = ("access.everyone", "access.signed-in")


def statements(site):
    """Every statement as (scope, setting, value, whether a preset says it)."""

    def of_body(where, body):
        uses = body.get("use", [])
        for preset in uses if isinstance(uses, list) else [uses]:
            yield from ((w, n, v, True) for w, n, v, _ in of_body(where, site["presets"][preset]))
        for part in (body, body.get("lock", {})):
            for name, value in part.items():
                if name in ("access", "deny"):
                    yield from ((where, f"{name}.{who}", said, False) for who, said in value.items())
                elif name not in ("use", "lock", "fresh_access", "because"):
                    yield where, name, value, False

    yield from of_body("everywhere", site["everywhere"])
    for name, type_ in site["types"].items():
        yield from of_body(f"type {name}", type_.get("give", {}))
    for path, scopes in site["pages"].items():
        for scope, body in scopes.items():
            for where in ("below", "here") if scope == "here_and_below" else (scope,):
                yield from of_body(f"{where} {path}", body)
    for rule in site["rules"]:
        yield from of_body(f"rule {rule['name']}", rule["give"])
    settings = ref.catalogue(site)
    for row in site["values"]:
        yield row["where"], row["setting"], ref.csv_value(settings[row["setting"]], row["value"]), False
    for row in site["rows"]:
        for name in site["columns"]:
            if name in settings and row.get(name):
                yield f"here {row['path']}", name, ref.csv_value(settings[name], row[name]), False
    for row in site["stamps"]:
        yield f"stamp {row['path']}", row["setting"], ref.csv_value(settings[row["setting"]], row["value"]), False


def cells(site, tree, where):
    """The pages that a scope is for."""
    kind, _, name = where.partition(" ")
    if kind == "everywhere":
        return set(tree.rows)
    if kind == "type":
        return {path for path, row in tree.rows.items() if name in ref.chain(site, ref.type_of(row))}
    if kind == "below":
        return {path for path in tree.rows if name in tree.ancestors(path)}
    if kind == "rule":
        rule = next(rule for rule in site["rules"] if rule["name"] == name)
        return {path for path in tree.rows if ref.meets_rule(site, tree, path, rule)}
    return {name} & set(tree.rows)


def words(value):
    """The words that a value names."""
    if isinstance(value, dict):
        return {word for some in value.values() if isinstance(some, list) for word in some}
    return set(value) if isinstance(value, list) else {value}


def of_pages(site):
    """The kinds that are about statements, by the pages and settings they are told of."""
    tree, settings, found = ref.Tree(site), ref.catalogue(site), {}

    def add(kind, path, name):
        found.setdefault(kind, set()).add((path, name))

    folds = {
        (path, name): Fold(site, tree, settings, path, name)
        for path, row in tree.rows.items()
        for name in settings
        if ref.page_has(site, settings, ref.type_of(row), name)
    }
    values = {key: fold.value for key, fold in folds.items()}
    stands = {path: plain.areas(values, path, site.get("filled_elsewhere", ()))[0] for path in tree.rows}
    for (path, name), fold in folds.items():
        if name.startswith("access."):
            for step in fold.steps:
                dropped = set(step["before"].split("; ")) - set(step["after"].split("; ")) - {""}
                if dropped and not step["blocked"] and fold.replaces(step) and step["said"] is not ref.FRESH:
                    add("drops-actions", path, name)
        if name.split(".")[0] in ("access", "deny") and name not in STRANGERS:
            for i, step in enumerate(fold.steps):
                if step["said"] is ref.FRESH and not step["blocked"]:
                    same = [s for s in fold.steps[i:] if (s["scope"], s["where"]) == (step["scope"], step["where"])]
                    after = [s for s in same if not s["blocked"]][-1]["after"]
                    if set(step["before"].split("; ")) - set(after.split("; ")) - {""}:
                        add("access-dropped", path, None)
        users = site["settings"].get(name, {}).get("used_by", []) if "kind" in site["settings"].get(name, {}) else None
        if users is not None and fold.source:
            add("set", path, name)
            if plain.showing(values, path, site.get("filled_elsewhere", ())) & set(users):
                add("shown", path, name)
    shown = {name for _, name in found.pop("shown", set())}
    found["unread-setting"] = {(path, name) for path, name in found.pop("set", set()) if name not in shown}
    said = list(statements(site))
    for where, name, value, _ in said:
        family, _, area = name.partition(".")
        pages = cells(site, tree, where)
        reaches = family == "look" and value != "none" and any((path, name) in folds for path in pages)
        if reaches and not any("sidebar" in dict(stands[path].get(area, [])) for path in pages):
            found.setdefault("stray-look", set()).update((path, name) for path in pages)
    in_background(site, tree, [one for one in said if not one[3] and not one[0].startswith("stamp")], add)
    return found


def in_background(site, tree, said, add):
    """One scope names a person and a group they are in, with different actions."""
    settings = ref.catalogue(site)
    for where, name, value, _ in said:
        family, _, person = name.partition(".")
        groups = [g for g in site["people"]["groups"] if person in members_of(site, g)]
        if family in ("access", "deny") and groups:
            own = plain_value(site, settings[name], value)
            of_groups = [v for w, n, v, _ in said if w == where and n in {f"{family}.{g}" for g in groups}]
            if any(plain_value(site, settings[name], other) != own for other in of_groups):
                for path in cells(site, tree, where):
                    add("person-beside-group", path, name)


def plain_value(site, setting, value):
    """What tells whether two values are the same: of a list the set of its actions."""
    if isinstance(value, dict):
        return tuple(tuple(ref.expand(site, value.get(key, []))) for key in ("first", "add", "remove"))
    if isinstance(value, list) or value == "none":
        return frozenset(ref.expand(site, value if isinstance(value, list) else []))
    return value


def names(site):
    """The kinds that are about no page, by what they name."""
    tree, said, presets = ref.Tree(site), list(statements(site)), site["presets"].values()
    held = [(f"preset {i}", name, value, True) for i, body in enumerate(presets) for name, value in flat(body)]
    by_kind = {"layout.name": "layout", "layout.theme": "theme", "page.group": "group", "blocks": "block"}
    named = {(kind, word) for kind in ("block",) for some in plain.HELD.values() for word in some}
    for _, name, value, _ in [*said, *held]:
        family, _, member = name.partition(".")
        kind = by_kind.get(name, by_kind.get(family, family))
        if family in ("access", "deny"):
            named |= {("role", word) for word in words(value)} | {("group", member)}
        else:
            named |= {(kind, word) for word in words(value)}
    for body in ref.all_bodies(site):
        uses = body.get("use", [])
        named |= {("preset", preset) for preset in (uses if isinstance(uses, list) else [uses])}
    named |= {("group", member) for members in site["people"]["groups"].values() for member in members}
    for guarantee in site.get("more", {}).get("guarantees", []):
        named |= {("group", who) for key in ("may", "may_not") for who in guarantee.get(key, {})}
        for name, value in guarantee.get("has", {}).items():
            named |= {(by_kind.get(name, name.split(".")[0]), word) for word in words(value)}
    for body in site["settings"].values():
        named |= {(kind, user) for user in body.get("used_by", []) for kind in ("layout", "band", "block")}
    declarations = [("layout", name) for name in LAYOUTS] + [("theme", name) for name in ("day", "dim")]
    declarations += [("sidebar", name) for name in ("main", "slim", "spare")] + [("band", "foot")]
    declarations += [("look", name) for name in ("calm", "broad", "hidden")] + [("block", name) for name in BLOCKS]
    declarations += [("preset", name) for name in site["presets"]] + [("role", name) for name in site["roles"]]
    declarations += [("group", name) for name in site["people"]["groups"]]
    with_pages = {name for row in site["rows"] for name in ref.chain(site, ref.type_of(row))}
    gone = {where.split(" ", 1)[1] for where, *_ in said if where.split(" ")[0] in ("below", "here", "stamp")}
    gone |= {path for path, scopes in site["pages"].items() if fresh_of_something(site, scopes)}
    gone |= {row["leads_to"].removeprefix("https://made-up.example") for row in site["rows"] if row.get("leads_to")}
    for one in [*site["rules"], *site.get("more", {}).get("guarantees", []), *site.get("more", {}).get("accept", [])]:
        excepts = one.get("except", [])
        for condition in [one.get("when", {}), *(excepts if isinstance(excepts, list) else [excepts])]:
            for key in ("in_branch", "below"):
                branches = condition.get(key, [])
                gone |= set(branches if isinstance(branches, list) else [branches])
    own = {name for name, body in site["settings"].items() if "kind" in body}
    return {
        "unused-declaration": set(declarations) - named,
        "type-without-pages": set(site["types"]) - with_pages,
        "unused-setting": own - {name for _, name, *_ in said},
        "no-such-page": gone - set(tree.rows),
        "group-empty": {name for _, name, *_ in said if name in ("access.nobody", "deny.nobody")},
    }


def flat(body):
    """What a preset says, a setting at a time."""
    for name, value in body.items():
        if name in ("access", "deny"):
            yield from ((f"{name}.{who}", said) for who, said in value.items())
        else:
            yield name, value


def fresh_of_something(site, scopes):
    """Whether a page's scopes say `fresh_access`, which is said of every access setting there is."""
    return any(body.get("fresh_access") == "yes" for body in scopes.values()) and bool(ref.subjects(site))
