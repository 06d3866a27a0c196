"""`davlo access`: who may do what, and what a person sees."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.access import VISITOR, Access
from davlo.core.outcomes.reading import menu_order
from davlo.core.progress import each, work
from davlo.core.source import source_of
from davlo.core.values import format_value
from davlo.core.wording import count

from .options import complete_person, format_option, open_named_site, page_argument, site_option
from .screen import as_csv, as_json, heading, listing, say, table

if TYPE_CHECKING:
    from davlo.site import Site


@click.command("access", epilog="Example: davlo access /staff/noticeboard --as visitor")
@page_argument(required=False)
@click.option(
    "--as", "who", metavar="WHO", shell_complete=complete_person, help="A person, or visitor: what they may do."
)
@format_option("text", "csv", "json")
@site_option
def command(page: str | None, who: str | None, form: str, site: str | None) -> None:
    """Who may do what, and what a person sees.

    With PAGE: what is said there, and what each person may do. With --as: the pages that person sees, and what they
    may do on each. With both: each action on that page, and why. With neither: on how many pages each person may act.
    """
    opened = open_named_site(site)
    access = opened.access()
    if who is not None:
        access.covering(who)
    if page is None:
        if who is None:
            _overview(access, form)
        else:
            _seen_by(opened, access, who, form)
        return
    number = opened.find_page(page)
    if who is None:
        _on_page(opened, access, number, form)
    else:
        _decisions(opened, access, number, who, form)


def _people(access: Access) -> list[str]:
    return [VISITOR, *access.persons()]


def _overview(access: Access, form: str) -> None:
    actions = access.site.actions
    rows = []
    people = _people(access)
    for who in each("working out who may do what", people):
        counts = [str(int(np.count_nonzero(access.may(who, action)))) for action in actions]
        if form == "text":
            counts = [number.rjust(len(action)) for number, action in zip(counts, actions, strict=True)]
        rows.append([who, *counts, _how(access, who)])
    if form == "text":
        say(f"On how many of {count(len(access.site.tree), 'page')} each may act:\n")
    listing(form, ["who", *actions, "groups"], rows)


def _seen_by(site: Site, access: Access, who: str, form: str) -> None:
    may = {action: access.may(who, action) for action in each("working out what they may do", site.actions)}
    with work("ordering the pages", 1):
        pages = menu_order(site).tolist()
    seen = [p for p in pages if may["view"][p]]
    rows = [[site.tree.paths[p], site.facts.title[p], ", ".join(a for a in site.actions if may[a][p])] for p in seen]
    if form == "text":
        rows = [["  " * int(site.tree.depth[p]) + row[0], *row[1:]] for p, row in zip(seen, rows, strict=True)]
    listing(form, ["page", "title", "may"], rows)
    if form == "text":
        hidden = len(pages) - len(seen)
        say(f"\n{who} sees {count(len(seen), 'page')}" + (f"; {hidden} are closed to them" if hidden else ""))


def _on_page(site: Site, access: Access, page: int, form: str) -> None:
    said = []
    for number in each(
        "working out who may do what", site.catalogue.access_numbers(), lambda n: site.catalogue[n].name
    ):
        value = format_value(access.effective.value(page, number))
        source = source_of(site, int(access.effective.resolved(number).source[page]))
        if source.file or value:
            said.append([site.catalogue[number].name, value or "(nothing)", source.scope, source.where])
    people = each("working out what each may do", _people(access))
    may = [[who, ", ".join(access.actions(who, page)) or "(nothing)", _how(access, who)] for who in people]
    if form == "csv":
        as_csv(["who", "may", "groups"], may)
    elif form == "json":
        as_json(
            {
                "path": site.tree.paths[page],
                "said": [dict(zip(("setting", "actions", "source", "where"), row, strict=True)) for row in said],
                "may": {who: list(access.actions(who, page)) for who in _people(access)},
            }
        )
    else:
        say(click.style(site.tree.paths[page], bold=True) + "  " + site.facts.title[page])
        heading("What is said here")
        table(["setting", "actions", "source", "where"], said, indent="  ")
        heading("What each may do")
        table(["who", "may", "groups"], may, indent="  ")
        if not site.facts.live[page]:
            say("\nThe page is a draft: it is seen only by those who may also edit it.")


def _how(access: Access, who: str) -> str:
    return "an admin" if access.is_admin(who) else ", ".join(access.site.people.groups_of(who))


def _decisions(site: Site, access: Access, page: int, who: str, form: str) -> None:
    rows = []
    for action in site.actions:
        decision = access.why(who, action, page)
        rows.append([action, "yes" if decision.may else "no", decision.reason])
    if form == "text":
        say(f"{who} on {click.style(site.tree.paths[page], bold=True)}:\n")
    listing(form, ["action", "may", "because"], rows)
