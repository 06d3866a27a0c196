"""`davlo tree`: which pages there are, and what each gets."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from davlo.core.outcomes.reading import menu_order
from davlo.core.progress import work
from davlo.core.values import format_value
from davlo.core.wording import count

from .options import complete_setting, format_option, open_named_site, page_argument, site_option
from .screen import listing, say, table

if TYPE_CHECKING:
    from davlo.site import Site


@click.command("tree", epilog="Example: davlo tree /visit --columns sidebar.right,layout.name")
@page_argument(required=False)
@click.option(
    "--columns",
    metavar="SETTINGS",
    shell_complete=complete_setting,
    help="Settings to show for each page, with commas between.",
)
@format_option("text", "csv", "json")
@site_option
def command(page: str | None, columns: str | None, form: str, site: str | None) -> None:
    """Which pages there are, and what each gets.

    The tree in the order of the menu; with PAGE, only its branch.
    """
    opened = open_named_site(site)
    names = [name.strip() for name in (columns or "").split(",") if name.strip()]
    numbers = [opened.setting_number(name) for name in names]
    with work("gathering the pages", 1) as step:
        step(page or "all of them")
        pages = _branch(opened, page)
        values = _values(opened, numbers, pages)
    if form == "text":
        top = min((int(opened.tree.depth[p]) for p in pages), default=0)
        rows = [[_tail(opened, p, top), *_told(opened, p), *values[p]] for p in pages]
        table(["page", "title", "type", *names], rows)
        drafts = int((~opened.facts.live)[pages].sum())
        say(f"\n{count(len(pages), 'page')}" + (f", {count(drafts, 'draft')} among them" if drafts else ""))
        return
    facts = opened.facts
    header = ["path", "title", "type", "parent", "language", "status", "depth", *names]
    listing(
        form,
        header,
        [
            [
                opened.tree.paths[p],
                facts.title[p],
                opened.types.names[int(facts.type_of[p])],
                opened.tree.paths[int(opened.tree.parent[p])] if opened.tree.parent[p] >= 0 else "",
                facts.language[p],
                facts.status[p],
                str(int(opened.tree.depth[p])),
                *values[p],
            ]
            for p in pages
        ],
    )


def _branch(site: Site, words: str | None) -> list[int]:
    pages: list[int] = menu_order(site, -1 if words is None else site.find_page(words)).tolist()
    return pages


def _values(site: Site, numbers: list[int], pages: list[int]) -> dict[int, list[str]]:
    effective = site.resolve()
    has = {n: site.has(n) for n in numbers}
    return {p: [format_value(effective.value(p, n)) if has[n][p] else "" for n in numbers] for p in pages}


def _tail(site: Site, page: int, top: int) -> str:
    """The end of a path, indented from the depth `top` on: before it comes the path of the page it is under."""
    path, parent, depth = site.tree.paths[page], int(site.tree.parent[page]), int(site.tree.depth[page])
    if depth == top:
        return path
    above = site.tree.paths[parent].rstrip("/") + "/" if parent >= 0 else ""
    tail = path[len(above) - 1 :] if above and path.startswith(above) else path
    return "  " * (depth - top) + tail


def _told(site: Site, page: int) -> tuple[str, str]:
    kind = site.types.names[int(site.facts.type_of[page])]
    return site.facts.title[page], kind if site.facts.live[page] else f"{kind}, draft"
