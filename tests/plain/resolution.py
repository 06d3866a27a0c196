"""A slow, plain reading of the contract: dictionaries, one page and one setting at a time.

It works on the description of a site that `tests.sites` makes, before that is written to files, and shares no code
with `davlo`. Values are texts, lists and mappings as a file holds them.
"""

from __future__ import annotations

import re
from urllib.parse import quote

AREAS = ["masthead", "left", "content", "right", "footer"]
ACTIONS = ["view", "edit", "move", "create", "delete", "grant"]
FRESH: list[
    str
] = []  # what a fresh_access says of each access setting: told apart from other empty lists by what it is
ORDER = ["everywhere", "type", "below"]


def catalogue(site):
    """For each setting: kind, built-in value, whom its default is for, and the types it is for (None: all)."""
    found = {
        "heading.show": ("flag", "yes"),
        "heading.text": ("text", "{title}"),
        "title.pattern": ("text", "{title}"),
        "title.limit": ("integer", "60"),
        "menu.show": ("flag", "yes"),
        "menu.label": ("text", "{title}"),
        "layout.name": ("word", "none"),
        "layout.theme": ("word", "none"),
        "layout.width": ("word", "as-layout"),
        "layout.phone-order": ("list", []),
        "page.owner": ("word", "none"),
        "page.group": ("word", "none"),
        "robots.index": ("flag", "yes"),
        "sitemap.include": ("flag", "yes"),
        "sitemap.priority": ("number", "0.5"),
        "sitemap.changefreq": ("word", "none"),
    }
    for area in AREAS:
        for family in ("sidebar", "look", "band"):
            found[f"{family}.{area}"] = ("word", "none")
        found[f"blocks.{area}"] = ("list", [])
    for subject in subjects(site):
        found[subject] = ("list", ["view"] if subject == "access.everyone" else [])
    default_for = {"page.owner": "new-pages", "page.group": "new-pages"}
    for_types = {}
    for name, body in site["settings"].items():
        if "kind" in body:
            plain = {"flag": "no", "list": [], "text": ""}.get(body["kind"], "none")
            kind = "word" if body["kind"] in ("choice", "date", "color") else body["kind"]
            found[name] = (kind, body.get("default", plain))
            for_types[name] = body.get("for_types")
        default_for[name] = body.get("default_for", default_for.get(name, "all-pages"))
    of_family = {n[:-2]: b["default_for"] for n, b in site["settings"].items() if n.endswith(".*")}
    return {
        name: {
            "kind": kind,
            "built_in": built_in,
            "default_for": default_for.get(name, of_family.get(name.split(".")[0], "all-pages")),
            "for_types": for_types.get(name),
        }
        for name, (kind, built_in) in found.items()
    }


def subjects(site):
    """The access settings that come to be because something names them."""
    named = {"access.everyone"}
    for body in all_bodies(site):
        for part in (body, body.get("lock", {})):
            for family in ("access", "deny"):
                named |= {f"{family}.{who}" for who in part.get(family, {})}
    named |= {row["setting"] for row in site["values"] if row["setting"].split(".")[0] in ("access", "deny")}
    named |= {row["setting"] for row in site["stamps"] if row["setting"].split(".")[0] in ("access", "deny")}
    named |= {column for column in site["columns"] if column.split(".")[0] in ("access", "deny")}
    return sorted(named)


def all_bodies(site):
    """Every scope body and preset."""
    yield site.get("estate", {})
    yield site["everywhere"]
    yield from site["presets"].values()
    yield from (type_.get("give", {}) for type_ in site["types"].values())
    yield from (body for scopes in site["pages"].values() for body in scopes.values())
    yield from (rule["give"] for rule in site["rules"])


class Tree:
    """Parents, ancestors and depth, from the rows."""

    def __init__(self, site):
        self.rows = {row["path"]: row for row in site["rows"]}

    def parent(self, path):
        said = self.rows[path].get("parent", "")
        if said:
            return said
        while path != "/":
            path = path.rsplit("/", 1)[0] or "/"
            if path in self.rows:
                return path
        return None

    def ancestors(self, path):
        found = []
        while (path := self.parent(path)) is not None:
            found.insert(0, path)
        return found


def type_of(row):
    return row.get("type") or "page"


def chain(site, name):
    """A type and its bases, the root first."""
    found = [name]
    while site["types"].get(found[0], {}).get("based_on"):
        found.insert(0, site["types"][found[0]]["based_on"])
    return found


def matches_glob(glob, path):
    """A glob by trying every way to spend it."""
    if not glob:
        return not path
    if glob.startswith("/**/") and path.startswith("/"):
        rest = glob[4:]
        if any(path[i] == "/" and matches_glob(rest, path[i + 1 :]) for i in range(len(path))):
            return True
    if glob.startswith("**"):
        return any(matches_glob(glob[2:], path[i:]) for i in range(len(path) + 1))
    if glob.startswith("*"):
        run = re.match("[^/]*", path)[0]
        return any(matches_glob(glob[1:], path[i:]) for i in range(len(run) + 1))
    return bool(path) and path[0] == glob[0] and matches_glob(glob[1:], path[1:])


def meets(site, tree, path, condition):
    """Whether a page meets a condition."""
    row = tree.rows[path]
    above = tree.ancestors(path)
    listed = {
        key: value if isinstance(value, list) else [value] for key, value in condition.items() if key != "details"
    }
    tests = {
        "path": lambda want: any(matches_glob(glob, path) for glob in want),
        "in_branch": lambda want: any(page == path or page in above for page in want),
        "below": lambda want: any(page in above for page in want),
        "type": lambda want: any(name in chain(site, type_of(row)) for name in want),
        "only_type": lambda want: type_of(row) in want,
        "tag": lambda want: any(tag in [t.strip() for t in row.get("tags", "").split(";")] for tag in want),
        "language": lambda want: row.get("language", "") in want,
        "status": lambda want: (row.get("status") or "live") in want,
        "depth": lambda want: any(int(d.split("-")[0]) <= len(above) <= int(d.split("-")[-1]) for d in want),
        "home": lambda want: (path == site.get("home", "/")) == (want[0] == "yes"),
    }
    for key, want in listed.items():
        if not tests[key](want):
            return False
    for column, want in condition.get("details", {}).items():
        if row.get(column, "") not in (want if isinstance(want, list) else [want]):
            return False
    return True


def meets_rule(site, tree, path, rule):
    """Whether a rule meets a page."""
    excepts = rule.get("except", [])
    excepts = excepts if isinstance(excepts, list) else [excepts]
    return meets(site, tree, path, rule["when"]) and not any(meets(site, tree, path, e) for e in excepts)


def body_candidates(site, name, body, source, halves_locked=True):
    """(fresh candidates, preset candidates, what the body itself says), each (value, source, locked)."""
    family, _, who = name.partition(".")
    is_access = family in ("access", "deny")

    def said(part):
        if is_access:
            return part.get(family, {}).get(who, part.get(name))
        return part.get(name)

    fresh = [(FRESH, source, False)] if is_access and body.get("fresh_access") == "yes" else []
    uses = body.get("use", [])
    presets = []
    for preset in uses if isinstance(uses, list) else [uses]:
        value = said(site["presets"][preset])
        if value is not None:
            presets.append((value, source, False))
    own = []
    if said(body) is not None:
        own.append((said(body), source, False))
    if said(body.get("lock", {})) is not None:
        own.append((said(body["lock"]), source, halves_locked))
    return fresh, presets, own


def merged(parts):
    """First the fresh of any body, then presets body by body, then what they say."""
    return [c for i in range(3) for fresh_presets_own in parts for c in fresh_presets_own[i]]


def csv_value(setting, text):
    """What a CSV cell says."""
    if setting["kind"] != "list" or text in ("none", "<everywhere>", "<type>", "<below>"):
        return text
    items = [item.strip() for item in text.lstrip("+-").split(";") if item.strip()]
    if text[0] in "+-":
        return {"add" if text[0] == "+" else "remove": items}
    return items


def rows_saying(site, setting, where, name, source):
    return [
        (csv_value(setting, row["value"]), source, row.get("lock") == "yes")
        for row in site["values"]
        if row["where"] == where and row["setting"] == name
    ]


def candidates(site, tree, settings, path, name):
    """The candidates of a page for a setting, by scope, weakest first."""
    setting, row = settings[name], tree.rows[path]
    found = {"everywhere": [], "type": [], "below": [], "rule": [], "stamp": [], "here": []}
    found["everywhere"] = merged([body_candidates(site, name, site.get("estate", {}), "estate")])
    found["everywhere"] += merged([body_candidates(site, name, site["everywhere"], "everywhere")])
    found["everywhere"] += rows_saying(site, setting, "everywhere", name, "everywhere")
    for type_ in chain(site, type_of(row)):
        give = site["types"].get(type_, {}).get("give", {})
        found["type"] += merged([body_candidates(site, name, give, f"type {type_}")])
        found["type"] += rows_saying(site, setting, f"type {type_}", name, f"type {type_}")
    for page in tree.ancestors(path):
        scopes = site["pages"].get(page, {})
        bodies = [scopes.get("here_and_below", {}), scopes.get("below", {})]
        found["below"] += merged([body_candidates(site, name, body, f"below {page}") for body in bodies])
        found["below"] += rows_saying(site, setting, f"below {page}", name, f"below {page}")
    for rule in reversed(site["rules"]):
        if meets_rule(site, tree, path, rule):
            found["rule"] += merged([body_candidates(site, name, rule["give"], f"rule {rule['name']}")])
    for stamp in site["stamps"]:
        if stamp["path"] == path and stamp["setting"] == name and setting["default_for"] == "new-pages":
            found["stamp"].append((csv_value(setting, stamp["value"]), "stamp", False))
    scopes = site["pages"].get(path, {})
    bodies = [scopes.get("here_and_below", {}), scopes.get("here", {})]
    found["here"] = merged([body_candidates(site, name, body, "here", halves_locked=False) for body in bodies])
    if row.get(name):
        found["here"].append((csv_value(setting, row[name]), "here", False))
    found["here"] += [(v, s, False) for v, s, _ in rows_saying(site, setting, f"here {path}", name, "here")]
    return found


def expand(site, items):
    """Actions for roles, nothing twice."""
    found = []
    for item in items:
        for one in site["roles"].get(item, [item]):
            if one not in found:
                found.append(one)
    return found


def folded(site, setting, depth, state, said, kept):
    """The state after one candidate."""
    if isinstance(said, str) and said.startswith("<") and said.endswith(">") and said != "<empty>":
        return kept[said[1:-1]]
    if isinstance(said, dict) and "by_depth" in said:
        spec = {key: float(value) for key, value in said["by_depth"].items()}
        return str(round(max(spec["floor"], spec["top"] - spec["step"] * depth), 4))
    if setting["kind"] == "list":
        if said == "none":
            return []
        if isinstance(said, dict):
            items = [item for item in state if item not in expand(site, said.get("remove", []))]
            items = [i for i in expand(site, said.get("first", [])) if i not in items] + items
            return items + [i for i in expand(site, said.get("add", [])) if i not in items]
        return expand(site, said)
    return "" if said == "<empty>" else said


def resolve(site, tree, settings, path, name):
    """(value, source, locked) of a page and a setting, as texts."""
    setting = settings[name]
    depth = len(tree.ancestors(path))
    found = candidates(site, tree, settings, path, name)
    state, source, lock = setting["built_in"], "built-in", False
    kept = {}
    for scope in ("everywhere", "type", "below", "rule"):
        for said, where, locked in found[scope]:
            if not lock:
                state, source, lock = folded(site, setting, depth, state, said, kept), where, locked
        kept[scope] = state
    if setting["default_for"] == "new-pages" and not lock:
        state, source = setting["built_in"], "built-in"
    for scope in ("stamp", "here"):
        for said, where, _ in found[scope]:
            if not lock:
                state, source = folded(site, setting, depth, state, said, kept), where
    return shown(setting, state), source, "yes" if lock else ""


def shown(setting, state):
    """A value as the long table has it."""
    if setting["kind"] == "list":
        return "; ".join(state)
    if setting["kind"] == "flag":
        return {"true": "yes", "false": "no"}.get(state, state)
    if setting["kind"] in ("number", "integer") and state != "none":
        return f"{float(state):.10f}".rstrip("0").rstrip(".")
    return state


def page_has(site, settings, path_type, name):
    """Whether the pages of a type have a setting."""
    types = chain(site, path_type)
    for_types = settings[name]["for_types"]
    if for_types and not any(t in for_types for t in types):
        return False
    return not any(name in site["types"].get(t, {}).get("without", []) for t in types)


def long_table(site):
    """Every row: (path, setting) to (value, source, locked)."""
    tree, settings = Tree(site), catalogue(site)
    return {
        (path, name): resolve(site, tree, settings, path, name)
        for path, row in tree.rows.items()
        for name in settings
        if page_has(site, settings, type_of(row), name)
    }


def may_by_access(site, tree, settings, person, action, path):
    """Whether access lets a person (or `visitor`) do an action on a page, draft or not."""
    families = ("access", "deny", "page")
    table = {n: resolve(site, tree, settings, path, n)[0] for n in settings if n.split(".")[0] in families}
    people = site["people"]
    if person in people["admins"]:
        return True
    groups = set()
    for _ in people["groups"]:
        groups |= {g for g, members in people["groups"].items() if person in members or groups & set(members)}
    covers = {"everyone"}
    if person != "visitor":
        covers |= {"signed-in", person, *groups}
        covers |= {"owner"} if table["page.owner"] == person else set()
        covers |= {"owner-group"} if table["page.group"] in groups else set()
    gives = any(action in table.get(f"access.{who}", "").split("; ") for who in covers)
    takes = any(action in table.get(f"deny.{who}", "").split("; ") for who in covers)
    return gives and not takes


def may(site, person, action, path):
    """The same; a draft is seen only by those who may edit it."""
    tree, settings = Tree(site), catalogue(site)
    draft = tree.rows[path].get("status") == "draft" and person not in site["people"]["admins"]
    return may_by_access(site, tree, settings, person, action, path) and (
        action != "view" or not draft or may_by_access(site, tree, settings, person, "edit", path)
    )


def addresses(site):
    """The URLs that are published of each page."""
    found = {}
    for row in site["rows"]:
        url = row.get("address") or site.get("written", {}).get(row["path"], row["path"])
        pattern, languages = site["language_paths"] or "{path}", [row["language"]]
        if not url.startswith("/"):
            found[row["path"]] = [quote(url, safe=":/?=")]
            continue
        if site["language_paths"] and not row["language"]:
            languages = site.get("languages", ["en", "fr"])
        path, mark, query = url.partition("?")
        urls = [
            pattern.replace("{language}", language).replace("{path}", path) + mark + query for language in languages
        ]
        found[row["path"]] = ["https://made-up.example" + quote(url, safe="/?=") for url in urls]
    return found
