"""A slow, plain reading of the outcomes, a page at a time.

It works on the description of a site that `tests.sites` makes and on values as `tests.plain.resolution` tells them (path and
setting to a text), and shares no code with `davlo`.
"""

from __future__ import annotations

from .resolution import AREAS, Tree, catalogue, type_of

DETAILS = ("title", "language", "tags", "status", "made_with", "order", "translates", "leads_to")
HELD = {"main": ["search"], "slim": ["clock"], "foot": ["map"]}
"""The blocks of the sidebars and the band."""
LAYOUTS = {"plain": ["masthead", "content", "footer"], "wide": ["masthead", "left", "content", "right", "footer"]}


def words_of(site, path):
    """What each placeholder stands for."""
    tree = Tree(site)
    row, above = tree.rows[path], tree.ancestors(path)
    outer = [p for p in [*above, path] if p != site["home"]] or [path]
    return {
        **{name: row.get(name, "") for name in DETAILS},
        "tags": ", ".join(tag.strip() for tag in row.get("tags", "").split(";") if tag.strip()),
        "site": "Made up",
        "branch": tree.rows[outer[0]]["title"],
        "parent": tree.rows[above[-1]]["title"] if above else "",
        "type": type_of(row),
        "path": path,
        "parent.title": None,
    }


def fill(pattern, words):
    """A pattern filled, a character at a time."""
    found, at = "", 0
    while at < len(pattern):
        if pattern[at : at + 2] in ("{{", "}}"):
            found, at = found + pattern[at], at + 2
            continue
        end = pattern.find("}", at)
        name = pattern[at + 1 : end] if pattern[at] == "{" and end > 0 else None
        if name is not None and "{" not in name:
            filled = words.get(name)
            found, at = found + (pattern[at : end + 1] if filled is None else filled), end + 1
        else:
            found, at = found + pattern[at], at + 1
    return found


def rank(site, path):
    """What siblings are sorted by in the menu: the home page first, unless it has an order."""
    order = Tree(site).rows[path].get("order", "")
    return (path != site["home"] or bool(order), not order, float(order or 0), path)


def walk(site, top, key):
    """The pages under one, as they are listed: each before its own branch."""
    tree = Tree(site)
    found = []
    for path in sorted((p for p in tree.rows if tree.parent(p) == top), key=key):
        found += [path, *walk(site, path, key)]
    return found


def of_language(site, path, language):
    """Whether readers of a language meet a page: it is in it, or in none that the site lists."""
    listed = site.get("languages", ["en", "fr"])
    word = Tree(site).rows[path].get("language", "")
    return word not in listed or word == (language if language in listed else listed[0])


def menu(site, values, language=""):
    """The paths in the menu of a language, in order, each with how many entries are above it."""
    tree, home = Tree(site), site["home"]

    def stands(path):
        return tree.rows[path].get("status") != "draft" and values.get((path, "menu.show"), "yes") == "yes"

    def above(path):
        return [p for p in tree.ancestors(path) if p != home]

    def is_entry(path):
        itself = stands(path) and not tree.rows[path].get("leads_to") and of_language(site, path, language)
        return itself and all(map(stands, above(path)))

    order = [path for path in walk(site, None, lambda p: rank(site, p)) if is_entry(path)]
    found = [(path, len([p for p in above(path) if is_entry(p)])) for path in order]
    if (home, 0) in found and tree.rows[home].get("order", "") and not tree.ancestors(home):
        rest = [entry for entry in found if entry[0] != home]
        outer = [[*above(p), p][0] for p, _ in rest]  # where it stands if no entry is above it
        after = [i for i, (_, level) in enumerate(rest) if level == 0 and rank(site, outer[i]) > rank(site, home)]
        rest.insert(after[0] if after else len(rest), (home, 0))
        return rest
    return found


def branch_links(site, under, levels, sort, leave_out, language):
    """The paths that a list of a branch's pages shows, in order; all languages where `language` is None."""
    tree = Tree(site)

    def key(path):
        row = tree.rows[path]
        if sort == "order":
            return rank(site, path)
        return (row["title"].casefold(), path) if sort == "title" else (path,)

    def is_draft(path):
        return tree.rows[path].get("status") == "draft"

    def is_out(path):
        return path in leave_out or is_draft(path)

    found = []
    for path in walk(site, under, key):
        above = tree.ancestors(path)
        between = above[above.index(under) + 1 :]
        alone = not tree.rows[path].get("leads_to") and (language is None or of_language(site, path, language))
        if len(between) < levels and alone and not any(map(is_out, [path, *between])) and not is_draft(under):
            found.append(path)
    return found


def areas(values, path, filled=()):
    """What stands in each area of the page's layout, and the areas from top to bottom on a phone.

    `filled`: areas that the layout `wide` leaves to the site's program.
    """

    def value(name):
        return values.get((path, name), "none")

    def items(name):
        return [item for item in values.get((path, name), "").split("; ") if item]

    layout = decided(value("layout.name"), filled)
    found = {}
    for area in layout:
        stands = [(kind, value(f"{kind}.{area}")) for kind in ("band", "sidebar") if value(f"{kind}.{area}") != "none"]
        stands += [("own content", "")] if area == "content" else []
        found[area] = stands + [("block", block) for block in items(f"blocks.{area}")]
    first = [area for area in items("layout.phone-order") if area in layout]
    return found, first + [area for area in layout if area not in first]


def decided(layout, filled):
    """The areas of a layout that settings fill."""
    return [area for area in LAYOUTS.get(layout, []) if layout != "wide" or area not in filled]


def showing(values, path, filled=()):
    """The layout of a page, and the bands, sidebars and blocks that show on it."""
    theme = {"day": AREAS, "dim": ["content", "right"]}.get(values.get((path, "layout.theme")), AREAS)
    held, _ = areas(values, path, filled)
    found = {values.get((path, "layout.name"))} | ({"map"} if held and "footer" not in theme else set())
    for area in theme:
        for kind, name in held.get(area, []):
            if kind == "block" or (values.get((path, f"look.{area}")) != "hidden" and name != "spare"):
                found |= {name, *HELD.get(name, [])}
    return found


def says_nothing(setting, value):
    """Whether a value is none, the empty list or the built-in one."""
    built_in = "; ".join(setting["built_in"]) if setting["kind"] == "list" else setting["built_in"]
    return value == built_in or (setting["kind"] != "text" and value in ("none", ""))


def is_shown(site, values, path, name, listed, in_menu):
    """Whether the value of a page is shown."""
    family, _, area = name.partition(".")
    value = values[path, name]
    if says_nothing(catalogue(site)[name], value):
        return True
    if family in ("sidebar", "band", "look", "blocks"):
        theme = {"day": AREAS, "dim": ["content", "right"]}.get(values[path, "layout.theme"], AREAS)
        stands = area in decided(values[path, "layout.name"], site.get("filled_elsewhere", ())) and area in theme
        if family == "look":
            stands = stands and {values.get((path, f"{holder}.{area}"), "none") for holder in ("sidebar", "band")} != {
                "none"
            }
        on_screen = family not in ("sidebar", "band") or values.get((path, f"look.{area}")) != "hidden"
        return value in ("none", "") or (stands and on_screen and value != "spare")
    if name == "heading.text":
        return values[path, "heading.show"] == "yes"
    if name == "menu.label":
        return path in in_menu
    if name in ("sitemap.changefreq", "sitemap.priority"):
        return path in listed
    if name in site["settings"] and "kind" in site["settings"][name]:
        users = site["settings"][name].get("used_by", [])
        return bool(showing(values, path, site.get("filled_elsewhere", ())) & set(users))
    return True
