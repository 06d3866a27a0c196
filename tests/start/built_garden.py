"""HTML pages of the garden, built by a template of the tests' own, as its website would be."""

from __future__ import annotations

from html import escape
from pathlib import Path

import davlo
from davlo.core.outcomes.areas import AreaContent, blocks_in, composition
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.shown_things import ShownBlock, ShownThings
from davlo.core.site.people import VISITOR

TAGS = {"masthead": "header", "menu": "nav", "right": "aside", "left": "aside", "footer": "footer"}
SELECTORS = """\
areas: {right: aside.right, left: aside.left}
details: {type: {select: body, attribute: data-type}}
"""


def build_garden(site: davlo.Site, folder: Path) -> list[str]:
    """Build the pages that a visitor may view; gives their paths."""
    built = []
    for path in site.tree.paths.tolist():
        record = site.page(path)
        number = site.tree.number(path)
        if not record["visitor may view"] or site.details.status[number] != "live":
            continue
        built.append(path)
        file = folder / path.strip("/") / "index.html"
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(page_of(site, path, record), encoding="utf-8")
    return built


def page_of(site: davlo.Site, path: str, record: davlo.PageRecord) -> str:
    """One page."""
    number = site.tree.number(path)
    language = site.details.language[number]
    head = [f"<title>{escape(record['title'])}</title>", f'<link rel="canonical" href="{site.url}{path}">']
    first = site.details.columns["translates"][number] or path
    versions = [page for page in site.tree.paths.tolist() if page == first or translates(site, page) == first]
    for page in versions if len(versions) > 1 else ():
        code = site.details.language[site.tree.number(page)]
        head.append(f'<link rel="alternate" hreflang="{code}" href="{site.url}{page}">')
    if not site.resolve()[path]["robots.index"]:
        head.append('<meta name="robots" content="noindex">')
    modified = site.details.columns["modified"][number]
    head.append(f'<meta name="last-modified" content="{modified}">')
    body = "".join(area_of(site, area, path, language) for area in composition(site.resolve(), number).areas)
    kind = site.details.columns["type"][number]
    return f'<!doctype html><html lang="{language}"><head>{"".join(head)}</head><body data-type="{kind}">{body}</body></html>'


def translates(site: davlo.Site, path: str) -> str:
    """The page that a page translates."""
    return site.details.columns["translates"][site.tree.number(path)]


def area_of(site: davlo.Site, area: AreaContent, path: str, language: str) -> str:
    """An area of a page, by its landmark."""
    if area.area == "content":
        shown = site.resolve()[path]["heading.show"]
        title = site.details.title[site.tree.number(path)]
        return f"<main>{f'<h1>{escape(title)}</h1>' if shown else ''}<p>Words of {escape(path)}</p></main>"
    blocks = [block for kind, name in area.stands for block in blocks_in(site, kind, name)]
    inner = "".join(block_of(site, block, language) for block in blocks)
    return f'<{TAGS[area.area]} class="{area.area}">{inner}</{TAGS[area.area]}>'


def block_of(site: davlo.Site, name: str, language: str) -> str:
    """A block: the menu as a list of links, any other as its words."""
    if site.declarations.blocks[name].kind == "menu":
        links = [link for link in site.links(language=language).links() if link.level == 1]
        items = "".join(f'<li><a href="{link.page.rstrip("/")}/">{escape(link.label)}</a></li>' for link in links)
        return f"<ul>{items}</ul>"
    return f"<section><h2>{name}</h2>{words_of(ShownThings(site.resolve().shared(Outcomes), VISITOR).block(name, language))}</section>"


def words_of(block: ShownBlock) -> str:
    """What a block shows a visitor: its text, its links, or the first of several blocks."""
    if block.one_of:
        return words_of(block.one_of[0])
    if block.links:
        items = "".join(f'<li><a href="{escape(link.to)}">{escape(link.label)}</a></li>' for link in block.links)
        return f"<ul>{items}</ul>"
    return f"<p>{escape(block.text)}</p>"
