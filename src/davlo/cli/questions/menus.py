"""`davlo menus`: the menu or a list of links in order, and the pages that it leaves out, with the reasons."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click
import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.grouping import groups
from davlo.core.faults import UnknownName
from davlo.core.outcomes.areas import blocks_in, composition
from davlo.core.outcomes.link_lists import LISTING, MENU, LinkList, link_list, lists_of
from davlo.core.site.people import VISITOR
from davlo.core.wording import count, some_of

from ..command_list import answers
from ..completion.offers import complete_language, complete_list, complete_page
from ..options import find_viewer, format_option, open_named_site, site_option, two_viewers, typed, viewer_option
from ..screen import Columns, Styled, as_json, listing, paragraph, say, table

if TYPE_CHECKING:
    from davlo.core.resolve.effective import EffectiveModel
    from davlo.site import Site

    Places = NDArray[np.int64]

MOST, MOST_REASONS, EXAMPLES = 22, 6, 3
"""The most links and the most reasons on a screen without --all, and how many pages are named for each reason."""
COLUMNS = ("list", "language", "level", "label", "page", "address", "heading", "closed", "does not fit", "left out")


@answers("menus", "davlo menus", "davlo menus next-events", "davlo menus --on /fr", "davlo menus --as ida.marsh")
@click.argument("block", required=False, shell_complete=complete_list)
@click.option(
    "--on", metavar="PAGE", shell_complete=complete_page, help="Show the list as on this page, in its language."
)
@click.option(
    "--language",
    metavar="LANGUAGE",
    shell_complete=complete_language,
    help="Show this language (default: every language of the site).",
)
@viewer_option(
    f"Show what this viewer sees (default: {VISITOR}): a person, visitor, signed-in, or a group. Say it twice to see "
    "what one of two viewers gets and the other does not.",
    is_repeatable=True,
)
@click.option("--all", "everything", is_flag=True, help=f"List every link, even more than {MOST}.")
@format_option("text", "csv", "json")
@site_option
def command(
    block: str | None,
    on: str | None,
    language: str | None,
    who: tuple[str, ...],
    everything: bool,
    form: str,
    site: str | None,
) -> None:
    """Without BLOCK: the site's menu, and the last entry that fits. With BLOCK: the links of that block.
    Both end with the pages that are left out, and the reasons.
    """
    opened = open_named_site(site)
    page = None if on is None else opened.find_page(on)
    if language and language not in opened.languages:
        raise UnknownName("language", language, opened.languages)
    if page is not None and not language:
        language = opened.details.language[page]
    languages = [language or ""] if language or page is not None else list(opened.languages) or [""]
    outcomes = opened.resolve().outcomes
    blocks = (MENU,) if block is None else lists_of(outcomes.effective, block)
    who = tuple(find_viewer(opened, one) for one in who)
    viewers = two_viewers(who) if len(who) > 1 else who or (VISITOR,)
    found = [link_list(outcomes, one, each, viewers[0]) for one in blocks for each in languages]
    if len(viewers) > 1:
        others = [link_list(outcomes, one, each, viewers[1]) for one in blocks for each in languages]
        _print_alone(list(zip(found, others, strict=True)), form, None if everything else MOST)
    elif form == "json":
        as_json([_record(one) for one in found])
    elif form == "csv":
        listing(form, COLUMNS, [row for one in found for row in _rows(one)])
    else:
        shown = [one for one in found if len(one.pages)] or found[:1]
        most = None if everything else max(MOST // len(shown), 4)
        for number, one in enumerate(shown):
            if number:
                say()
            _print_list(one, most, page)
        for one in [] if len(found) == 1 else [one for one in found if not len(one.pages) and one is not shown[0]]:
            words = [*([one.block] if one.block else []), "--language", one.language]
            say(f"in {one.language} it lists nothing: {typed('menus', *words)}")
        if page is not None and block is None:
            _print_other_lists(opened, page)


def _print_alone(pairs: list[tuple[LinkList, LinkList]], form: str, most: int | None) -> None:
    """The links that one of two viewers gets and the other does not, or may follow and the other may not."""
    rows: list[list[str]] = []
    for one, other in pairs:
        for mine, theirs in ((one, other), (other, one)):
            open_to_other = {link.page or link.address for link in theirs.links() if not link.is_closed}
            rows += [
                [mine.viewer, mine.block, mine.language, link.label, link.page or link.address]
                for link in mine.links()
                if not link.is_closed and (link.page or link.address) not in open_to_other
            ]
    if form != "text":
        listing(form, ["viewer", "list", "language", "label", "leads to"], rows)
        return
    people = pairs[0][0].effective.site.people
    named = [[people.in_words(who), block or "the menu", *rest] for who, block, *rest in rows[:most]]
    if rows:
        table(["only for", "list", "language", "label", "leads to"], named, columns=Columns(paths=(4,), cut=(3,)))
        say()
    who = " and ".join(people.in_words(one.viewer) for one in pairs[0])
    told = f"{count(len(rows), 'link')} that one gets and the other does not" if rows else "the same links for both"
    say(f"{who}: {told}")
    if most is not None and len(rows) > most:
        say(f"{most} shown; to see them all say --all")


def _print_list(found: LinkList, most: int | None, page: int | None) -> None:
    """One list for a person."""
    site = found.effective.site
    if found.block:
        place = site.declarations.blocks[found.block].place
        say(f"{found.kind} ", Styled(found.block), f", {place}", _language(found))
    else:
        say(Styled("menu"), _language(found))
    if page is not None and found.block:
        _print_where(found, page)
    say()
    shown = _chosen(found, most)
    rows = []
    for link, hidden in zip(found.links(shown), _hidden(found, shown), strict=True):
        notes = [f"(+{hidden:,})" if hidden else "", "a heading without a link" * link.is_heading]
        notes += [f"{found.effective.site.people.in_words(found.viewer)} may not view it" * link.is_closed]
        notes += ["does not fit" * link.does_not_fit]
        target = link.page or link.address
        notes += ["there is no such page" * (not link.page and target.startswith("/"))]
        rows.append(["  " * (link.level - 1) + link.label, target, ", ".join(note for note in notes if note)])
    if rows:
        table(["label", "leads to", ""], rows, columns=Columns(paths=(1,), cut=(0,)))
        say()
    _print_counts(found, len(shown))
    _print_left_out(found)


def _language(found: LinkList) -> str:
    told = f" in {found.language}" if found.effective.site.languages else ""
    return f"{told}, as {found.effective.site.people.in_words(found.viewer)} sees it"


def _chosen(found: LinkList, most: int | None) -> Places:
    """The places of the links to show; if there are many, only the outer levels."""
    places = np.arange(len(found.pages))
    if most is None or len(places) <= most:
        return places
    counts = np.cumsum(np.bincount(found.level))
    deepest = max(1, int(np.searchsorted(counts, most, "right")) - 1)
    return places[found.level <= deepest][:most]


def _hidden(found: LinkList, shown: Places) -> list[int]:
    """For each link that is shown, how many links below it are hidden."""
    if len(shown) == len(found.pages):
        return [0] * len(shown)
    hidden = []
    for place in shown.tolist():  # few: the others are hidden
        after = found.level[place + 1 :] <= found.level[place]
        end = place + 1 + int(after.argmax()) if after.any() else len(found.pages)
        hidden.append(end - place - 1 - int(((shown > place) & (shown < end)).sum()))
    return hidden


def _print_counts(found: LinkList, shown: int) -> None:
    links, top = len(found.pages), int(np.count_nonzero(found.level == 1))
    if not links:
        say("nothing is listed")
        return
    told = count(links, "entry", "entries") if found.kind == "menu" else count(links, "link")
    more = "" if shown == links else f", {shown:,} shown; to see them all say --all"
    say(told + more)
    if found.max_entries and top > found.max_entries:
        last = next(found.links(np.flatnonzero(found.level == 1)[found.max_entries - 1 : found.max_entries]))
        past = top - found.max_entries
        say(
            f"{found.max_entries} top entries fit: the last is {last.label}, and {count(past, 'entry', 'entries')} "
            f"{'does' if past == 1 else 'do'} not fit"
        )
    if found.closed.any():
        closed = int(np.count_nonzero(found.closed))
        whose = found.effective.site.people.in_words(found.viewer)
        say(f"{count(closed, 'link')} {'leads' if closed == 1 else 'lead'} where {whose} may not view")


def _print_left_out(found: LinkList) -> None:
    """What is left out, by reason, the most pages first."""
    if not len(found.left_out):
        return
    say(f"It leaves out {count(len(found.left_out), 'page')}:")
    paths = found.effective.site.tree.paths
    lines = sorted(
        ((found.why.words[code], found.left_out[at]) for (code,), at in groups(found.why.codes)),
        key=lambda one: -len(one[1]),
    )
    for why, pages in lines[:MOST_REASONS]:
        rest = " …" if len(pages) > EXAMPLES else ""
        examples = ", ".join(paths.take(pages[:EXAMPLES]).tolist())
        paragraph(f"{count(len(pages), 'page')}: {why} ({examples}{rest})", "  ", "    ")
    if len(lines) > MOST_REASONS:
        say(f"  {len(lines) - MOST_REASONS} more reasons: --format csv lists every page")


def _print_where(found: LinkList, page: int) -> None:
    """Where the list stands on a page."""
    path = found.effective.site.tree.paths[page]
    areas = _areas(found.effective, page).get(found.block, [])
    say(f"stands on {path}, in {' and '.join(areas)}" if areas else f"does not stand on {path}")


def _areas(effective: EffectiveModel, page: int) -> dict[str, list[str]]:
    """The lists of links that stand on a page, each with its areas."""
    site, found = effective.site, dict[str, list[str]]()
    for area in composition(effective, page).areas:
        for block in (one for kind, name in area.stands for one in blocks_in(site, kind, name)):
            if site.declarations.blocks[block].kind in (*LISTING, "one-of"):
                found.setdefault(block, []).append(area.area)
    return found


def _print_other_lists(site: Site, page: int) -> None:
    """The lists of links on a page besides the site's menu."""
    path, areas = site.tree.paths[page], _areas(site.resolve(), page)
    if areas:
        first = next(iter(areas))
        say()
        lists = some_of([f"{name} in {' and '.join(where)}" for name, where in areas.items()], 8)
        paragraph(f"lists of links on {path}: {lists}", "", "  ")
        say(f"One of them: {typed('menus', first, '--on', path)}")


def _rows(found: LinkList) -> list[list[object]]:
    rows: list[list[object]] = []
    for link in found.links():
        flags = ["yes" if flag else "no" for flag in (link.is_heading, link.is_closed, link.does_not_fit)]
        rows.append([found.block, found.language, link.level, link.label, link.page, link.address, *flags, ""])
    rows += [[found.block, found.language, "", "", path, "", "", "", "", why] for path, why in found.omitted()]
    return rows


def _record(found: LinkList) -> dict[str, object]:
    return {
        "list": found.block or None,
        "kind": found.kind,
        "language": found.language or None,
        "viewer": found.viewer,
        "max_entries": found.max_entries or None,
        "links": [
            {
                "level": link.level,
                "label": link.label,
                "page": link.page or None,
                "address": link.address or None,
                "heading": link.is_heading,
                "closed": link.is_closed,
                "does not fit": link.does_not_fit,
            }
            for link in found.links()
        ],
        "left out": [{"page": path, "why": why} for path, why in found.omitted()],
    }
