"""The links in the menu of built pages, against the menu as a visitor sees it."""

from __future__ import annotations

from collections.abc import Iterator

from davlo.core.outcomes.areas import CONTENT, blocks_in
from davlo.core.outcomes.link_lists import link_list
from davlo.files.built.built_page import BuiltPage

from .built_site import BuiltSite
from .mistakes import Mistake

Entry = tuple[str, str]
"""What an entry reads, and the path of its page."""


def menu_mistakes(site: BuiltSite) -> Iterator[Mistake]:
    """Entries that are missing, that should not be there, that have another label, or that are in another order."""
    known: dict[tuple[str, str], list[Entry]] = {}
    for number, page in site.drawn:
        if not any(area.name != CONTENT for area in page.areas):
            continue
        language = site.site.details.language[number]
        for block in _menus(site, number):
            key = (block, language if language in site.site.languages else "")
            if key not in known:
                known[key] = _wanted(site, *key)
            yield from _of_page(site, number, page, known[key])


def _menus(site: BuiltSite, number: int) -> Iterator[str]:
    """The menus that stand on a page, in areas that its theme shows."""
    for area in site.areas(number):
        for kind, name in area.stands if area.theme_name else ():
            blocks = blocks_in(site.site, kind, name)
            yield from (block for block in blocks if site.site.declarations.blocks[block].kind == "menu")


def _wanted(site: BuiltSite, block: str, language: str) -> list[Entry]:
    """The entries that a visitor sees; headings without a link aside."""
    links = link_list(site.outcomes, block, language).links()
    return [
        (" ".join(one.label.split()), one.page)
        for one in links
        if one.page and not one.is_heading and not one.is_closed
    ]


def _of_page(site: BuiltSite, number: int, page: BuiltPage, wanted: list[Entry]) -> Iterator[Mistake]:
    """What differs in the menu of one page: the piece with the most links of the menu is taken for it.

    What lies below an entry may show too where the section is open: on that page, and on those below it.
    """
    tree, pages = site.site.tree, {target for _, target in wanted}
    path = tree.paths[number]
    blocks = [block.links for area in page.areas for block in area.blocks]
    links = [[(text, site.path_of(target)) for text, target in some] for some in blocks]
    best = max(links, key=lambda some: len(pages & {target for _, target in some}), default=[])
    labels = {target: text for text, target in best}
    if not pages & labels.keys():
        if wanted:
            yield Mistake("menu", path, "a menu", "none of its links")
        return
    for label, target in wanted:
        if target not in labels:
            yield Mistake("menu", path, f"{label} ({target})", "nothing")
        elif labels[target] != label:
            yield Mistake("menu", path, f"{label} ({target})", labels[target])
    opened = {number, *tree.ancestors(number)}
    for text, target in best:
        entry = -1 if target in pages else site.number_of(target)
        above = int(tree.parent[entry]) if entry >= 0 else -1
        if entry >= 0 and not (above in opened and tree.paths[above] in pages):
            yield Mistake("menu", path, "nothing", f"{text} ({target})")
    order = [target for _, target in wanted if target in labels]
    shown = [target for target in labels if target in pages]
    if shown != order:
        yield Mistake("menu", path, f"the order {', '.join(order)}", f"the order {', '.join(shown)}")
