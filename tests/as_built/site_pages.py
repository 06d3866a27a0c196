"""Pages of any site in HTML as they were decided, by a plain template of the tests' own."""

from __future__ import annotations

from html import escape
from pathlib import Path
from urllib.parse import unquote, urlsplit

import numpy as np

import davlo
from davlo.core.outcomes.areas import AreaContent, blocks_in, composition
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.shown_things import ShownThings
from davlo.core.outcomes.sitemap.addresses import published
from davlo.core.site.people import VISITOR
from tests.start.built_garden import words_of

TAGS = {"masthead": "header", "menu": "nav", "left": "aside", "right": "aside", "footer": "footer"}


def build(site: davlo.Site, folder: Path) -> dict[Path, str]:
    """Write each page that a visitor may view at each of its addresses; gives the page of each file."""
    details, files = site.details, dict[Path, str]()
    found = published(site, np.arange(len(site.tree)))
    for number, url in zip(found.page.tolist(), found.urls(), strict=True):
        path = site.tree.paths[number]
        record = site.page(path)
        if not record["visitor may view"] or details.draft[number] or details.folder[number]:
            continue
        way = unquote(urlsplit(url).path).strip("/").removesuffix("index.html")
        file = folder / way / "index.html"
        file.parent.mkdir(parents=True, exist_ok=True)
        to = details.columns["leads_to"][number] if details.leads_away[number] else ""
        file.write_text(moved_page(to) if to else page(site, number, url, record), encoding="utf-8")
        files[file] = path
    return files


def moved_page(to: str) -> str:
    """A page that only sends its readers on."""
    return f'<!doctype html><html><head><meta http-equiv="refresh" content="0; url={escape(to)}"></head></html>'


def page(site: davlo.Site, number: int, url: str, record: davlo.PageRecord) -> str:
    """One page."""
    effective, path = site.resolve(), site.tree.paths[number]
    has = {setting.name for at, setting in enumerate(site.catalogue.settings) if site.has(at)[number]}
    heading = escape(site.details.title[number]) if record["headings"] else ""
    head = f'<title>{escape(record["title"])}</title><link rel="canonical" href="{escape(url)}">'
    if "robots.index" in has and not effective[path]["robots.index"]:
        head += '<meta name="robots" content="noindex">'
    main = f"<main>{f'<h1>{heading}</h1>' if heading else ''}<p>Words of {escape(path)}</p></main>"
    language = site.details.language[number] if site.languages else ""
    areas = [area for area in composition(effective, number).areas if area.theme_name and area.area != "content"]
    body = main + "".join(area_of(site, area, language) for area in areas)
    return f'<!doctype html><html lang="{site.details.language[number]}"><head>{head}</head><body>{body}</body></html>'


def area_of(site: davlo.Site, area: AreaContent, language: str) -> str:
    """An area of a page, by its landmark; empty where nothing stands in it."""
    blocks = [block for kind, name in area.stands for block in blocks_in(site, kind, name)]
    things = ShownThings(site.resolve().shared(Outcomes), VISITOR)
    inner = "".join(f"<section><h2>{name}</h2>{words_of(things.block(name, language))}</section>" for name in blocks)
    return f"<{TAGS[area.area]}>{inner}</{TAGS[area.area]}>"
