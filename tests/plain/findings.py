"""A slow, plain reading of what the findings mean: for each kind the pages and settings it is about.

Works on the descriptions of `tests.sites`, a page and a setting at a time, on top of `tests.plain.resolution`.
"""

from __future__ import annotations

import copy
import re

from . import outcomes as plain
from . import resolution as ref

LAYOUTS = {"plain": ["masthead", "content", "footer"], "wide": ref.AREAS}
SCOPES = ["everywhere", "type", "below", "rule", "stamp", "here"]


class Fold:
    """Every candidate of a page and a setting, with the state before and after it and whether a lock had ended it."""

    def __init__(self, site, tree, settings, path, name):
        self.setting = settings[name]
        depth = len(tree.ancestors(path))
        found = ref.candidates(site, tree, settings, path, name)
        self.steps = []
        self.kept = {"built-in": self.setting["built_in"]}
        state, source, lock = self.setting["built_in"], None, False
        for scope in SCOPES:
            if scope == "stamp":
                self.live, self.live_source, self.closed = state, source, lock
                if self.setting["default_for"] == "new-pages" and not lock:
                    state, source = self.setting["built_in"], None
            for i, (said, where, locked) in enumerate(found[scope]):
                after = ref.folded(site, self.setting, depth, state, said, self.kept)
                step = {
                    "scope": scope, "where": where, "said": said, "locked": locked, "before": self.show(state),
                    "after": self.show(after), "blocked": lock, "last": i == len(found[scope]) - 1,
                }  # fmt: skip
                self.steps.append(step)
                if not lock:
                    state, source, lock = after, step, locked
            self.kept[scope] = state
            if scope == "stamp":
                self.base, self.base_source = self.show(state), source
        self.live = self.show(self.live)
        self.value, self.source = self.show(state), source

    def show(self, state):
        return ref.shown(self.setting, state)

    def is_exception(self):
        """Whether the page has another value than what comes down to it, or its own word leads back to that."""
        if self.value != self.show(self.kept["below"]):
            return True
        said = self.source and self.source["scope"] == "here"
        return bool(
            said and self.base_source and self.base_source["scope"] in ("rule", "stamp") and self.value != self.base
        )

    def replaces(self, step):
        change = isinstance(step["said"], dict) and "by_depth" not in step["said"]
        return not (self.setting["kind"] == "list" and change)


def says_itself(site, tree, path, name):
    """Whether the page's own plain word (no preset, no here_and_below of a page with pages below) is there."""
    family, _, who = name.partition(".")
    scopes = site["pages"].get(path, {})
    leaf = not any(path in tree.ancestors(other) for other in tree.rows)
    bodies = [scopes.get("here", {})] + ([scopes.get("here_and_below", {})] if leaf else [])
    said = any(name in part or who in part.get(family, {}) for body in bodies for part in (body, body.get("lock", {})))
    rows = any(row["where"] == f"here {path}" and row["setting"] == name for row in site["values"])
    return bool(said or rows or tree.rows[path].get(name))


def decisions(site, path, name, fold, tree):
    """The kinds of finding about decisions that a page and a setting give."""
    found = set()
    source = fold.source
    lost = [s for s in fold.steps if s["blocked"] and s["before"] != s["after"]]
    found |= {"lock-clash" if step["locked"] else "lock-overrules" for step in lost}
    by_type = [s for s in fold.steps if s["scope"] in ("everywhere", "type")]
    type_source = by_type[-1] if by_type else None
    if source and source["scope"] == "below" and type_source and type_source["scope"] == "type":
        differ = fold.show(fold.kept["type"]) != fold.value
        if not type_source["locked"] and not source["locked"] and fold.replaces(source) and differ:
            found.add("type-below-clash")
    if source and source["scope"] == "rule" and fold.replaces(source):
        others = [s for s in fold.steps if s["scope"] == "rule" and s["where"] != source["where"] and not s["blocked"]]
        if any(s["after"] != fold.value for s in others):
            found.add("rules-overlap")
    here = [s for s in fold.steps if s["scope"] == "here"]
    if here and says_itself(site, tree, path, name) and here[-1]["before"] == here[-1]["after"]:
        found.add("repeats-inherited")
    outdated = (
        fold.setting["default_for"] == "new-pages" and not fold.closed and fold.live_source and fold.base != fold.live
    )
    if outdated and not any(fold.replaces(s) for s in here):
        found.add("outdated-stamp")
    return found


def strength(site, tree, path, step):
    """How strong a scope is, to compare: its kind, then how near."""
    if step is None:
        return (0, 0)
    near = 0
    if step["scope"] == "type":
        near = ref.chain(site, ref.type_of(tree.rows[path])).index(step["where"][5:])
    if step["scope"] == "below":
        near = tree.ancestors(path).index(step["where"][6:])
    if step["scope"] == "rule":
        near = -[rule["name"] for rule in site["rules"]].index(step["where"][5:])
    return (SCOPES.index(step["scope"]) + 1, near)


def as_close(site, tree, path, step, other):
    """Whether a scope is at least as close to a page as another."""
    return strength(site, tree, path, step) >= strength(site, tree, path, other)


def all_findings(site):
    """For each kind, the (page, setting) pairs it is about; setting None where it is about the page."""
    tree, settings = ref.Tree(site), ref.catalogue(site)
    found, values, sources = {}, {}, {}

    def add(kind, path, name):
        found.setdefault(kind, set()).add((path, name))

    view = {path: ref.may_by_access(site, tree, settings, "visitor", "view", path) for path in tree.rows}
    live = {path: row.get("status") != "draft" for path, row in tree.rows.items()}
    leads = {path: bool(row.get("leads_to")) for path, row in tree.rows.items()}
    home = site["home"]
    menu = {path: ref.resolve(site, tree, settings, path, "menu.show")[0] == "yes" for path in tree.rows}
    for path, row in tree.rows.items():
        has = [name for name in settings if ref.page_has(site, settings, ref.type_of(row), name)]
        folds = {name: Fold(site, tree, settings, path, name) for name in has}
        for name, fold in folds.items():
            for kind in decisions(site, path, name, fold, tree):
                add(kind, path, name)
        layout = folds["layout.name"]
        for name, fold in folds.items():
            family, _, area = name.partition(".")
            if family in ("sidebar", "band", "blocks") and layout.value != "none" and fold.source:
                at_least = strength(site, tree, path, fold.source) >= strength(site, tree, path, layout.source)
                if fold.value not in ("none", "") and area not in LAYOUTS[layout.value] and at_least:
                    add("no-such-area", path, name)
        above = tree.ancestors(path)
        page = live[path] and row.get("status") != "folder" and not leads[path]
        if menu[path] and page and any(not (menu[p] and live[p]) for p in above if p != home):
            add("cut-off-in-menu", path, "menu.show")
        if view[path] and not all(view[p] for p in above):
            add("open-below-closed", path, "access.everyone")
        editors = [p for p in site["people"]["names"] if p not in site["people"]["admins"]]
        nobody = not any(ref.may_by_access(site, tree, settings, person, "edit", path) for person in editors)
        if editors and nobody and not told_elsewhere(site, folds, editors):
            add("nobody-may-edit", path, None)
        priority = folds["sitemap.priority"].source
        denied = "deny.everyone" in folds and "view" in folds["deny.everyone"].value.split("; ")
        closes = folds["deny.everyone" if denied else "access.everyone"].source
        if not view[path] and priority and as_close(site, tree, path, priority, closes):
            add("private-with-priority", path, "sitemap.priority")
        values[path] = {name: fold.value for name, fold in folds.items()}
        sources[path] = {name: fold.source for name, fold in folds.items()}
    titles_and_menus(site, tree, values, sources, view, add)
    standing(site, tree, values, add)
    people(site, tree, settings, values, view, add)
    page_list(site, tree, values, sources, add)
    guarantees(site, tree, settings, values, add)
    return found


def told_elsewhere(site, folds, editors):
    """Whether nobody may edit a page because its owner is gone or a group is empty, and no deny takes edit away."""
    people = site["people"]
    value = {name: fold.value for name, fold in folds.items()}
    owner, group = value["page.owner"], value["page.group"]
    covered = {"owner": [owner] if owner in people["names"] else [], "owner-group": members_of(site, group)}
    gone = {"owner": owner not in ("none", *people["names"]), "owner-group": group not in ("none", *people["groups"])}
    found = denied = False
    for name in (n for n in value if n.startswith("access.") and "edit" in value[n].split("; ")):
        who = name.removeprefix("access.")
        members = covered.get(who, members_of(site, who) if who in people["groups"] else [who])
        members = people["names"] if who in ("signed-in", "everyone") else members
        denied = denied or any(person in editors for person in members)
        found = found or (not members and gone.get(who, True))
    return found and not denied


def titles_and_menus(site, tree, values, sources, view, add):
    """The findings about titles, the menu, the sitemap and the page list, page by page."""
    live = {p: row.get("status") not in ("draft", "folder") and not row.get("leads_to") for p, row in tree.rows.items()}
    languages = site.get("languages", ["en", "fr"])
    titles = {p: plain.fill(v.get("title.pattern", ""), plain.words_of(site, p)) for p, v in values.items()}
    pairs = {(p, n): v for p, some in values.items() for n, v in some.items()}
    in_menu = {path for language in languages for path, _ in plain.menu(site, pairs, language)}
    rules = site.get("more", {}).get("sitemap", {}).get("leave_out", {})
    listed = {
        p
        for p, v in values.items()
        if live[p] and view[p] and v["sitemap.include"] == "yes" and v["robots.index"] == "yes"
        if v["menu.show"] == "yes" or rules.get("menu_hidden") != "yes"
    }
    low = {p for p in listed if number(values[p]["sitemap.priority"]) < float(rules.get("priority_under", 0))}
    for path in low:
        add("left-out-by-priority", path, "sitemap.priority")
    listed -= low
    room = site.get("more", {}).get("menu", {}).get("max_entries", 0)
    for language in languages if room else []:
        top = [path for path, level in plain.menu(site, pairs, language) if level == 0 and view[path]]
        for path in top[room:]:
            add("menu-too-long", path, "menu.show")
    words = {"title", "site", "branch", "parent", "type", "path", "language", "tags", "status", "made_with", "order"}
    words |= {"translates", "created", "modified", "leads_to", "address"}
    for path, row in tree.rows.items():
        value = values[path]
        limit, title = value["title.limit"], titles[path]
        titled = row.get("status") != "folder" and not row.get("leads_to")
        if titled and limit != "none" and len(title) > int(limit):
            add("long-title", path, "title.limit")
        names = re.findall(r"\{\{|\}\}|\{([^{}]*)\}", value["title.pattern"])
        if titled and (not title.strip() or ("title" in names and not row["title"].strip())):
            add("empty-title", path, "title.pattern")
        heading = plain.fill(value.get("heading.text", "{title}"), plain.words_of(site, path))
        if titled and value["heading.show"] == "yes" and not heading.strip():
            add("empty-heading", path, "heading.text")
        twins = [p for p in values if p != path and titles[p].casefold().strip() == title.casefold().strip()]
        alike = any(live[p] and tree.rows[p]["language"] == row["language"] for p in twins)
        if live[path] and title.strip() and alike:
            add("duplicate-title", path, "title.pattern")
        for name in ("heading.text", "title.pattern", "menu.label"):
            names = re.findall(r"\{\{|\}\}|\{([^{}]*)\}", value.get(name, ""))
            if titled and {n for n in names if n} - words:
                add("unknown-placeholder", path, name)
        provided = plain.showing(pairs, path, site.get("filled_elsewhere", ())) & {"clock", "map"}
        if titled and value["heading.show"] == "no" and not provided:
            add("no-heading", path, "heading.show")
        if titled and value["heading.show"] == "yes" and heading.strip() and provided:
            add("heading-twice", path, "heading.show")
        if ref.type_of(row) not in {"page", *site["types"]}:
            add("undeclared-type", path, None)
        if live[path] and value["menu.show"] == "no" and path not in in_menu:
            add("listed-but-unlinked" if path in listed else "unlinked-page", path, "menu.show")
        priority, source = value["sitemap.priority"], sources[path]["sitemap.priority"]
        off = view[path] and value["robots.index"] == "no"
        if off and source and as_close(site, tree, path, source, sources[path]["robots.index"]):
            add("noindex-with-priority", path, "sitemap.priority")
        above = tree.parent(path)
        upper = values[above].get("sitemap.priority", "none") if above else "none"
        if path in listed and "none" not in (priority, upper) and float(priority) > float(upper):
            add("child-above-parent", path, "sitemap.priority")
        said = any(sources[p]["sitemap.priority"] for p in listed)
        if said and len(listed) > 1 and path in listed and len({values[p]["sitemap.priority"] for p in listed}) == 1:
            add("one-priority", path, "sitemap.priority")
    for stamp in site["stamps"]:
        settings = ref.catalogue(site)
        if settings[stamp["setting"]]["default_for"] != "new-pages" and stamp["path"] in tree.rows:
            add("stray-stamp", stamp["path"], stamp["setting"])


def number(text):
    return 0.5 if text == "none" else float(text)


def standing(site, tree, values, add):
    """What is told of areas, a page at a time."""
    widths = {"calm": 30, "broad": 40, "hidden": 20}
    for path in tree.rows:
        value = values[path]
        filled = site.get("filled_elsewhere", ())
        areas, _ = plain.areas({(path, name): v for name, v in value.items()}, path, filled)
        theme = {"day": ref.AREAS, "dim": ["content", "right"]}.get(value["layout.theme"])
        if not site.get("own_content", True) and value["layout.name"] == "wide":
            areas["content"].remove(("own content", ""))
            if not areas["content"]:
                add("blank-page", path, "layout.name")
        sidebars = {area: dict(stands).get("sidebar") for area, stands in areas.items()}
        if theme and any(stands and area not in theme for area, stands in areas.items()):
            add("area-missing-in-theme", path, "layout.theme")
        for area, stands in areas.items():
            if ("band", "foot") in stands and area != "footer":
                add("band-does-not-fit", path, f"band.{area}")
            if sidebars[area] == "spare":
                add("empty-sidebar", path, f"sidebar.{area}")
            if sidebars[area] and value.get(f"look.{area}") == "hidden":
                add("sidebar-on-no-screen", path, f"look.{area}")
            for other in list(areas)[list(areas).index(area) + 1 :]:
                if sidebars[area] and sidebars[area] == sidebars[other]:
                    add("same-sidebar-twice", path, f"sidebar.{other}")
        if sum(widths.get(value.get(f"look.{a}"), 0) for a in areas if sidebars[a]) > 60:
            add("sidebars-too-wide", path, None)
        order = [area for area in value.get("layout.phone-order", "").split("; ") if area]
        if order and areas:
            left_out = any(stands and area not in order for area, stands in areas.items())
            if left_out or any(area not in plain.LAYOUTS[value["layout.name"]] for area in order):
                add("phone-order-incomplete", path, "layout.phone-order")


def people(site, tree, settings, values, view, add):
    """What is told of people, a page at a time."""
    admins, names, groups = (site["people"][key] for key in ("admins", "names", "groups"))
    members = {g: members_of(site, g) for g in groups}
    may = {
        (who, action, path): ref.may_by_access(site, tree, settings, who, action, path)
        for who in names
        for action in ("view", "edit")
        for path in tree.rows
    }
    for path in tree.rows:
        above, value = tree.ancestors(path), values[path]
        told = view[path] and not all(view[p] for p in above)
        for who in names:
            lost = not all(may[who, "view", p] for p in above)
            if lost and who not in admins and (may[who, "view", path] or may[who, "edit", path]) and not told:
                add("unreachable-grant", path, None)
        for name, text in value.items():
            subject = name.partition(".")[2]
            if name.startswith("access.") and "edit" in text.split("; "):
                covered = {
                    "everyone": ["visitor"],
                    "signed-in": names,
                    "owner": [value.get("page.owner")],
                    "owner-group": members.get(value.get("page.group"), []),
                }.get(subject, members.get(subject, [subject]))
                for who in covered:
                    sees = view[path] if who == "visitor" else may.get((who, "view", path), True)
                    if not sees and who not in admins:
                        add("edit-without-view", path, name)


def page_list(site, tree, values, sources, add):
    """What is told of languages, translations, owners, and what is required, a page at a time."""
    languages = site.get("languages", ["en", "fr"])
    known = {"page.owner": site["people"]["names"], "page.group": site["people"]["groups"]}
    translated = set()
    for path in sorted(tree.rows, key=in_order(tree)):
        row, value = tree.rows[path], values[path]
        if row["language"] and row["language"] not in languages:
            add("unknown-language", path, None)
        if languages and not row["language"] and any(tree.rows[above]["language"] for above in tree.ancestors(path)):
            add("language-breaks-off", path, None)
        original = row.get("translates", "")
        if original:
            there = original in tree.rows
            same = (original, row["language"])
            if not there or tree.rows[original]["language"] not in ("", languages[0]) or same in translated:
                add("bad-alternate", path, None)
            translated |= {same} if there else set()
        for name, names in known.items():
            if value[name] != "none" and value[name] not in names:
                add("owner-gone", path, name)
        for name, body in site["settings"].items():
            none = "" if body.get("kind") == "text" else "none"
            required = body.get("required") and name in value and row.get("status") not in ("draft", "folder")
            if required and (not sources[path][name] or value[name] in ("", none)):
                add("missing-value", path, name)


def in_order(tree):
    """What puts pages in the order of the tree: each before what is below it, siblings as the page list has them."""
    rows = list(tree.rows)

    def key(path):
        return [rows.index(one) for one in (*tree.ancestors(path), path)]

    return key


def guarantees(site, tree, settings, values, add):
    """What guarantees break, a page at a time."""
    people = site["people"]
    for guarantee in site.get("more", {}).get("guarantees", []):
        for path in (path for path in tree.rows if ref.meets_rule(site, tree, path, guarantee)):
            for name, wanted in guarantee.get("has", {}).items():
                if values[path].get(name) != wanted:
                    add("guarantee-broken", path, name)
            for word in ("may", "may_not"):
                for subject, actions in guarantee.get(word, {}).items():
                    covered = {
                        "everyone": ["visitor"],
                        "signed-in": people["names"],
                        "owner": [p for p in people["names"] if p == values[path]["page.owner"]],
                        "owner-group": members_of(site, values[path]["page.group"]),
                    }.get(subject, members_of(site, subject) if subject in people["groups"] else [subject])
                    if word == "may" and not covered:
                        add("guarantee-broken", path, f"access.{subject}")
                    for who in covered:
                        may = [ref.may(site, who, action, path) for action in actions]
                        if (word == "may" and not all(may)) or (
                            word == "may_not" and any(may) and who not in people["admins"]
                        ):
                            add("guarantee-broken", path, f"access.{subject}")


def members_of(site, group):
    """Everyone in a group, or in one that is in it."""
    return [p for p in site["people"]["names"] if group in _groups(site["people"]["groups"], p)]


def _groups(groups, person):
    found = set()
    for _ in groups:
        found |= {g for g, members in groups.items() if person in members or found & set(members)}
    return found


def default_statements(site):
    """What the defaults say plainly and unlocked: where, of which setting, and the same site without it."""

    def without(change):
        changed = copy.deepcopy(site)
        change(changed)
        return changed

    bodies = [("everywhere", lambda s: s["everywhere"])]
    bodies += [(f"type {name}", lambda s, n=name: s["types"][n].get("give", {})) for name in site["types"]]
    for path, scopes in site["pages"].items():
        bodies += [(f"below {path}", lambda s, p=path, k=key: s["pages"][p][k]) for key in ("below",) if key in scopes]
    bodies += [(f"rule {r['name']}", lambda s, i=i: s["rules"][i]["give"]) for i, r in enumerate(site["rules"])]
    for where, body in bodies:
        for key in body(site):
            if key in ("access", "deny"):
                for who in body(site)[key]:
                    yield where, f"{key}.{who}", without(lambda s, b=body, k=key, w=who: b(s)[k].pop(w))
            elif key not in ("use", "lock", "fresh_access", "because"):
                yield where, key, without(lambda s, b=body, k=key: b(s).pop(k))
    for i, row in enumerate(site["values"]):
        if row["lock"] != "yes" and not row["where"].startswith("here"):
            yield row["where"], row["setting"], without(lambda s, i=i: s["values"].pop(i))


def outcome(site):
    """The value of every page and setting; of settings whose default is for new pages the live fold."""
    tree, settings = ref.Tree(site), ref.catalogue(site)
    found = {}
    for path, row in tree.rows.items():
        for name in settings:
            if ref.page_has(site, settings, ref.type_of(row), name):
                if settings[name]["default_for"] == "new-pages":
                    found[path, name] = Fold(site, tree, settings, path, name).live
                else:
                    found[path, name] = ref.resolve(site, tree, settings, path, name)[0]
    return found


def same(one, other):
    """Whether two outcomes are the same; what one lacks is as good as empty."""
    return all(one.get(key, "") == other.get(key, "") for key in one.keys() | other.keys())


def redundant(site):
    """What is redundant: the statements of defaults, and the rules (hidden, and dead), each by its words."""
    tree, settings, whole = ref.Tree(site), ref.catalogue(site), outcome(site)
    hidden = set()
    for i, rule in enumerate(site["rules"]):
        changed = copy.deepcopy(site)
        changed["rules"].pop(i)
        if not rule["give"].get("lock") and same(whole, outcome(changed)):
            hidden.add(rule["name"])
    shown = {
        rule["name"] for rule in site["rules"] if any(ref.meets_rule(site, tree, path, rule) for path in tree.rows)
    }
    reached, overruled = set(), set()
    for path, name in whole:
        for step in Fold(site, tree, settings, path, name).steps:
            reached.add((step["where"], name))
            if step["blocked"] and step["before"] != step["after"]:
                overruled.add((step["where"], name))
    all_of_them = list(default_statements(site))
    redundant_ones = {
        (where, name)
        for where, name, other in all_of_them
        if (where, name) in reached - overruled and where[5:] not in hidden and same(whole, outcome(other))
    }
    # a preset's value of the same scope may be overruled where the scope's own word is not: those are left out
    enumerated = {(where, name) for where, name, _ in all_of_them} - overruled
    return enumerated, redundant_ones, hidden & shown, {r["name"] for r in site["rules"]} - shown


def useless(site):
    """What is said where it cannot do anything: of pages that lack the setting, and below pages that have none below.

    The first as (where, setting), and which of those there are to tell; the second as paths.
    """
    tree, settings = ref.Tree(site), ref.catalogue(site)
    shown, reached = set(), set()
    for path, row in tree.rows.items():
        for name in settings:
            for some in ref.candidates(site, tree, settings, path, name).values():
                shown |= {(where, name) for _, where, _ in some}
                if ref.page_has(site, settings, ref.type_of(row), name):
                    reached |= {(where, name) for _, where, _ in some}
    leaves = {path for path in tree.rows if not any(path in tree.ancestors(other) for other in tree.rows)}
    said = {path for path, scopes in site["pages"].items() if _says(scopes.get("below", {}))}
    said |= {row["where"][6:] for row in site["values"] if row["where"].startswith("below ")}
    enumerated = {(where, name) for where, name, _ in default_statements(site)}
    return enumerated, (shown - reached) & enumerated, leaves & said


def _says(body):
    """Whether a scope's body says anything."""
    empty = {"because": True, "fresh_access": body.get("fresh_access") != "yes"}
    return any(not empty.get(key, value in ({}, [])) for key, value in body.items())
