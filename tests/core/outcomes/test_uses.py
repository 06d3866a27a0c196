"""What uses each declaration, against what each page is made of."""

from __future__ import annotations

import davlo
from davlo.core.outcomes.areas import composition
from davlo.core.outcomes.declaration_list import DeclarationList
from davlo.core.outcomes.uses import Uses
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites


def shown_on(site: davlo.Site, page: int, seen: bool = False) -> set[tuple[str, str, str]]:
    """What a page is made of, one by one: kind, name and area; with `seen` only what the theme and the look show."""
    made_of = composition(site.resolve(), page)
    found = {
        (kind, declaration.name, "")
        for kind, declaration in (("layout", made_of.layout), ("theme", made_of.theme))
        if declaration
    }
    for area in made_of.areas:
        blocks: list[str] = []
        is_shown = area.theme_name or made_of.theme is None
        for kind, name in area.stands if is_shown or not seen else ():
            if kind in ("band", "sidebar"):
                if seen and not area.screens and not (kind == "sidebar" and site.declarations.sidebars[name].blank):
                    continue
                holder = getattr(site.declarations, f"{kind}s")[name]
                if seen and not holder.blocks and not getattr(holder, "blank", False):
                    continue  # it has nothing to show
                found.add((kind, name, area.area))
                blocks += getattr(site.declarations, f"{kind}s")[name].blocks
            elif name:
                blocks.append(name)
        blocks += [area.instead.block] if area.instead.block else []
        while blocks:
            block = blocks.pop()
            found.add(("block", block, area.area))
            blocks += site.declarations.blocks[block].blocks
        if area.look and (is_shown or not seen):
            found.add(("look", area.look, area.area))
    return found


@of_made_up_sites(5)
def test_a_declaration_is_used_where_a_page_is_made_of_it(site: SiteDict) -> None:
    agree_with_what_pages_are_made_of(open_made_up(site))


def test_so_it_is_in_the_garden_with_blocks_of_layouts_and_one_of_several() -> None:
    agree_with_what_pages_are_made_of(davlo.open_demo())


def agree_with_what_pages_are_made_of(opened: davlo.Site) -> None:
    uses, pages = DeclarationList(opened.resolve()), [shown_on(opened, page) for page in range(len(opened.tree))]
    seen = [shown_on(opened, page, seen=True) for page in range(len(opened.tree))]
    for declaration in uses.declarations():
        if declaration.kind not in ("layout", "theme", "sidebar", "look", "band", "block"):
            continue
        for area in ("", *opened.declarations.areas()):
            expected = [page for page, shown in enumerate(pages) if (declaration.kind, declaration.name, area) in shown]
            mask = uses.uses.where(declaration.kind, declaration.name).get(area)
            assert ([] if mask is None else mask.nonzero()[0].tolist()) == expected
        shown = {page for page, found in enumerate(seen) for kind, name, _ in found if (kind, name) == declaration[:2]}
        assert declaration.pages == len(shown)


@of_made_up_sites(3)
def test_a_preset_is_used_where_it_gave_a_value(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective = opened.resolve()
    uses = Uses(effective)
    for name in opened.declarations.presets:
        expected = []
        for page, path in enumerate(opened.tree.paths):
            winners = [effective.why(path, setting).winner for setting in effective[path]]
            expected += [page] if any(winner.preset == name for winner in winners) else []
        assert uses.pages("preset", name).nonzero()[0].tolist() == expected


def test_people_and_groups_are_used_where_something_names_them() -> None:
    site = davlo.open_demo()
    used = {declaration.name: declaration for declaration in site.declared() if declaration.kind in ("person", "group")}
    assert (used["owen.tarrant"].pages, used["rowan.pike"].details["admin"], used["rowan.pike"].pages) == (1, "yes", 0)
    assert used["staff"].pages == 9
    assert [declaration.name for declaration in site.declared("role")] == ["reading", "tending"]
