"""`davlo show`: what one page gets, and from where."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from davlo.core.outcomes.areas import OWN_CONTENT, composition
from davlo.core.outcomes.menu import is_yes, menu_of
from davlo.core.outcomes.sitemap import SITEMAP_REASONS, sitemap_codes
from davlo.core.outcomes.words import filled_on
from davlo.core.source import source_of
from davlo.core.values import format_value, json_value

from .options import format_option, open_named_site, page_argument, site_option
from .screen import as_csv, as_json, heading, say, table, visible

if TYPE_CHECKING:
    from davlo.core.effective import EffectiveModel

SETTING_COLUMNS = ("setting", "value", "source", "where")


@click.command("show", epilog="Example: davlo show /visit/tickets")
@page_argument(required=True)
@click.option("--all", "everything", is_flag=True, help="Also the settings nobody speaks of, as they are built in.")
@format_option("text", "csv", "json")
@site_option
def command(page: str, everything: bool, form: str, site: str | None) -> None:
    """What one page gets, and from where.

    First what a reader meets; then each setting with its value, its source, and the line it stands on.
    """
    opened = open_named_site(site)
    number = opened.find_page(page)
    effective = opened.resolve()
    rows = setting_rows(effective, number, everything)
    if form == "csv":
        as_csv(SETTING_COLUMNS, rows)
    elif form == "json":
        as_json(_record(effective, number, everything))
    else:
        say(click.style(opened.tree.paths[number], bold=True) + "  " + visible(opened.facts.title[number]))
        say(_facts_line(effective, number))
        heading("What a reader meets")
        table(["", ""], outcome_rows(effective, number), indent="  ")
        heading("Settings")
        table(SETTING_COLUMNS, rows, indent="  ")
        if not everything:
            say("\nWhat nobody speaks of is left out: davlo show " + opened.tree.paths[number] + " --all")


def _facts_line(effective: EffectiveModel, page: int) -> str:
    site = effective.site
    facts, parent = site.facts, int(site.tree.parent[page])
    told = [site.types.label(int(facts.type_of[page])), facts.status[page]]
    told += [f"under {site.tree.paths[parent]}"] if parent >= 0 else ["at the top"]
    told += [facts.language[page]] if facts.language[page] else []
    told += [f"tags: {facts.tags[page]}"] if facts.tags[page] else []
    told += [f"translates {facts.column('translates')[page]}"] if facts.column("translates")[page] else []
    return ", ".join(told)


def outcome_rows(effective: EffectiveModel, page: int) -> list[list[str]]:
    """What a reader and a search engine meet on a page, as (what, how)."""
    reason = int(sitemap_codes(effective)[page])
    rows = [
        ["document title", filled_on(effective, "title.pattern", page)],
        ["menu", _menu(effective, page)],
        ["sitemap", "listed" if reason == 0 else f"left out: {SITEMAP_REASONS[reason]}"],
    ]
    areas = composition(effective, page).areas
    if not areas:
        rows.append(["areas", "none: the page has no layout"])
    for area in areas:
        parts = ["the page's own content" if kind == OWN_CONTENT else f"{kind} {name}" for kind, name in area.stands]
        stands = ", ".join(parts) or "nothing"
        if not area.theme_name:
            stands += " (the theme has no place for this area)"
        elif area.theme_name != area.area:
            stands += f" (the theme calls it {area.theme_name})"
        rows.append([f"area {area.area}", stands])
    return rows


def _menu(effective: EffectiveModel, page: int) -> str:
    site = effective.site
    menu = menu_of(effective)
    if menu.shown[page]:
        return f'shown as "{filled_on(effective, "menu.label", page)}"'
    if not site.facts.live[page]:
        return "not shown: it is a draft"
    if not is_yes(effective, "menu.show")[page]:
        return "not shown: menu.show is no"
    return f"not shown: cut off by {site.tree.paths[int(menu.cutter[page])]}, which is not shown itself"


def setting_rows(effective: EffectiveModel, page: int, everything: bool) -> list[list[str]]:
    """The settings of a page: name, value, source, place; those nobody speaks of only with `everything`."""
    site = effective.site
    rows = []
    for number in site.catalogue.ordered():
        if not site.has_by_type[number, int(site.facts.type_of[page])]:
            continue
        source = source_of(site, int(effective.resolved(number).source[page]))
        if source.file or everything:
            value = format_value(effective.value(page, number)) or "(empty)"
            rows.append([site.catalogue[number].name, value, source.scope, source.where])
    return rows


def _record(effective: EffectiveModel, page: int, everything: bool) -> dict[str, object]:
    from davlo.frames.table import outcome_record

    site = effective.site
    kind = int(site.facts.type_of[page])
    settings = {}
    for number in site.catalogue.ordered():
        source = source_of(site, int(effective.resolved(number).source[page]))
        if site.has_by_type[number, kind] and (source.file or everything):
            settings[site.catalogue[number].name] = {
                "value": json_value(effective.value(page, number)),
                "source": source.scope,
                "file": source.file or None,
                "line": source.line or None,
                "locked": source.locked,
            }
    return {
        "path": site.tree.paths[page],
        "title": site.facts.title[page],
        "type": site.types.names[kind],
        "outcomes": outcome_record(
            effective,
            page,
            filled_on(effective, "title.pattern", page),
            filled_on(effective, "menu.label", page),
            bool(menu_of(effective).shown[page]),
            int(sitemap_codes(effective)[page]),
        ),
        "settings": settings,
    }
