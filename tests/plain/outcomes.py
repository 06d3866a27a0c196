"""A slow, plain reading of the outcomes, a page at a time.

It works on the description of a site that `tests.sites` makes and on values as `tests.plain.resolution` tells them (path and
setting to a text), and shares no code with `davlo`.
"""

from __future__ import annotations

from .resolution import Tree, type_of

FACTS = ("title", "language", "tags", "status", "made_with", "order", "translates")
LAYOUTS = {"plain": ["masthead", "content", "footer"], "wide": ["masthead", "left", "content", "right", "footer"]}


def words_of(site, path):
    """What each placeholder stands for."""
    tree = Tree(site)
    row, above = tree.rows[path], tree.ancestors(path)
    outer = [p for p in [*above, path] if p != site["home"]] or [path]
    return {
        **{name: row.get(name, "") for name in FACTS},
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
    """What siblings are sorted by in the menu."""
    order = Tree(site).rows[path].get("order", "")
    return (not order, float(order or 0), path)


def walk(site, top, key):
    """The pages under one, as they are listed: each before its own branch."""
    tree = Tree(site)
    found = []
    for path in sorted((p for p in tree.rows if tree.parent(p) == top), key=key):
        found += [path, *walk(site, path, key)]
    return found


def menu(site, values):
    """The paths in the menu, in order, each with how deep it is."""
    tree = Tree(site)

    def stands(path):
        return tree.rows[path].get("status") != "draft" and values[path, "menu.show"] == "yes"

    found = []
    for path in walk(site, None, lambda p: rank(site, p)):
        above = [p for p in tree.ancestors(path) if p != site["home"]]
        if stands(path) and all(map(stands, above)):
            found.append((path, len(above)))
    return found


def branch_links(site, under, levels, sort, leave_out):
    """The paths that a list of a branch's pages shows, in order."""
    tree = Tree(site)

    def key(path):
        row = tree.rows[path]
        if sort == "order":
            return rank(site, path)
        return (row["title"].casefold(), path) if sort == "title" else (path,)

    def is_out(path):
        return path in leave_out or tree.rows[path].get("status") == "draft"

    found = []
    for path in walk(site, under, key):
        above = tree.ancestors(path)
        between = above[above.index(under) + 1 :]
        if len(between) < levels and not any(map(is_out, [path, *between])):
            found.append(path)
    return found


def areas(values, path):
    """What stands in each area of the page's layout, and the areas from top to bottom on a phone."""

    def value(name):
        return values.get((path, name), "none")

    def items(name):
        return [item for item in values.get((path, name), "").split("; ") if item]

    layout = LAYOUTS.get(value("layout.name"), [])
    found = {}
    for area in layout:
        stands = [(kind, value(f"{kind}.{area}")) for kind in ("band", "sidebar") if value(f"{kind}.{area}") != "none"]
        stands += [("own content", "")] if area == "content" else []
        found[area] = stands + [("block", block) for block in items(f"blocks.{area}")]
    first = [area for area in items("layout.phone-order") if area in layout]
    return found, first + [area for area in layout if area not in first]
