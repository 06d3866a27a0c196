"""`davlo tree`: which pages there are, and what each gets."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import click
import numpy as np
from numpy.typing import NDArray

from davlo.core.faults import UnknownName
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.menus.menu_order import menu_order
from davlo.core.outcomes.menus.outline import outline
from davlo.core.progress import work
from davlo.core.resolve.exception_causes import exception_causes
from davlo.core.resolve.exceptions import PageException
from davlo.core.site.settings.parse_values import typed_items
from davlo.core.site.settings.values import format_value
from davlo.core.site.source import source_of
from davlo.core.wording import NOT_SHOWN, OTHER, count, shortened
from davlo.words.exceptions import cause_in_words, cause_rows, grouped, reason_of, setting_in_words, values_of
from davlo.words.layout import indented

from ..command_list import answers
from ..completion.offers import complete_setting
from ..options import (
    asked_pages,
    find_viewer,
    format_option,
    open_named_site,
    page_argument,
    search_options,
    searched_pages,
    site_option,
    two_viewers,
    viewer_option,
    when_option,
)
from ..screen import Columns, Styled, listing, paragraph, say, table

if TYPE_CHECKING:
    from davlo.core.site.model import SiteModel
    from davlo.effective import Effective

MOST = 34
"""The most pages on a screen without --all or --depth."""
TITLE_WIDTH = 32
MOST_REASONS, MOST_CAUSES = 4, 16
LACKS = "-"
DETAILS = ("path", "title", "type", "parent", "language", "status", "depth")
EVERY = "every setting"
"""Stands for `--exceptions` without a setting; no setting has a space in its name."""
CAUSE_COLUMNS = ("setting", "page", "value", "instead of", "source", "because", "where")
EXCEPTION_COLUMNS = ("page", "value", "instead of", "source", "because", "where", "shown")
Pages = NDArray[np.int64]


@answers(
    "tree",
    "davlo tree",
    "davlo tree /visit --columns sidebar.right,layout.name",
    "davlo tree --when type=event",
    "davlo tree --exceptions sidebar.right",
)
@page_argument(required=False)
@click.option(
    "--columns",
    metavar="SETTINGS",
    shell_complete=complete_setting,
    help="Settings to show for each page, separated by commas.",
)
@click.option("--sources", is_flag=True, help="Also show where each value came from.")
@click.option(
    "--exceptions",
    metavar="[SETTING]",
    is_flag=False,
    flag_value=EVERY,
    shell_complete=complete_setting,
    help="Only exceptions on this setting, with the reason; without SETTING: "
    "what makes pages exceptions, for all settings.",
)
@viewer_option(
    "Only pages that this viewer may view: a person, visitor, signed-in, or a group. Say it twice to list the pages "
    "that one of two viewers sees and the other does not.",
    is_repeatable=True,
)
@when_option
@search_options
@click.option("--depth", type=click.IntRange(0), metavar="N", help="Show only this many levels below the top.")
@click.option("--all", "everything", is_flag=True, help=f"Show every page, even more than {MOST}.")
@format_option("text", "csv", "json")
@site_option
def command(
    page: str | None,
    columns: str | None,
    sources: bool,
    exceptions: str | None,
    who: tuple[str, ...],
    when: tuple[str, ...],
    having: tuple[str, ...],
    shown: tuple[str, ...],
    not_shown: tuple[str, ...],
    depth: int | None,
    everything: bool,
    form: str,
    site: str | None,
) -> None:
    """Lists the tree in the order of the menu; with PAGE, only its branch."""
    if exceptions is not None and exceptions.startswith("/") and page is None:
        page, exceptions = exceptions, EVERY  # davlo tree --exceptions /visit
    opened = open_named_site(site)
    who = tuple(find_viewer(opened, one) for one in who)
    if len(who) > 1:
        two_viewers(who)
    effective = opened.resolve()
    names = typed_items(columns or "")
    numbers = [opened.setting_number(name) for name in names]
    if exceptions is not None and (names or depth is not None):
        raise click.UsageError("--exceptions takes no --columns and no --depth")
    if sources and not names:
        raise click.UsageError("--sources goes with --columns: name the settings there whose sources to show")
    if page is not None and page not in opened.tree.paths and opened.catalogue.find(page) is not None:
        raise UnknownName("page", page, (), f"to see that setting of every page: davlo tree --columns {page}")
    with work("gathering the pages", 1) as step:
        step(page or "all of them")
        order = menu_order(opened, -1 if page is None else opened.find_page(page))
        asked = asked_pages(opened, when)
        chosen = order if asked is None else order[asked[order]]
        if having or shown or not_shown:
            chosen = chosen[searched_pages(effective, having, shown, not_shown)[chosen]]
        seen = [effective.shared(AccessModel).may(viewer, "view") for viewer in who]
        if seen:
            chosen = chosen[(seen[0] if len(seen) == 1 else seen[0] != seen[1])[chosen]]
    seers = [who[0] if mine else who[1] for mine in seen[0].tolist()] if len(seen) > 1 else []
    if exceptions == EVERY:
        _causes(effective, chosen, form, None if everything else MOST_CAUSES)
    elif exceptions is not None:
        _exceptions(effective, exceptions, chosen, form, None if everything else MOST)
    elif form == "text":
        most = None if everything or depth is not None else MOST
        _outline(effective, chosen, numbers, sources, depth, most, seers)
    else:
        _list(effective, outline(opened.tree, chosen, depth).pages, numbers, sources, form, seers)


class _Cells(NamedTuple):
    """One setting of chosen pages: values, sources, whether the page above has another, and whether it is shown."""

    values: list[str]
    sources: list[str]
    differs: list[bool]
    shown: list[bool]


def _cells(effective: Effective, number: int, pages: Pages) -> _Cells:
    site, found = effective.site, effective.resolved(number)
    told = [format_value(word) for word in effective.resolved(number).words]
    has = site.has(number)
    value = np.where(has, found.value, -1)
    above = site.tree.parent[pages]
    differs = (above >= 0) & (value[pages] != value[np.maximum(above, 0)])
    scopes = {source: str(source_of(site, source).scope) for source in set(found.source[pages].tolist())}
    here = has[pages].tolist()
    return _Cells(
        [told[code] if code >= 0 else LACKS for code in value[pages].tolist()],
        [scopes[source] if there else "" for source, there in zip(found.source[pages].tolist(), here, strict=True)],
        differs.tolist(),
        effective.shown.pages(number)[pages].tolist(),
    )


def _outline(
    effective: Effective,
    chosen: Pages,
    numbers: list[int],
    sources: bool,
    depth: int | None,
    most: int | None,
    seers: Sequence[str],
) -> None:
    """The pages as a person reads them: indented, with how many more there are below.

    `seers`: which of two viewers sees each page of the site; empty if nobody asks.
    """
    site = effective.site
    shown = outline(site.tree, chosen, depth, most)
    cells = [_cells(effective, number, shown.pages) for number in numbers]
    titles = site.details.title.take(shown.pages).texts()
    kinds = [site.types.names[kind] for kind in site.details.type_of[shown.pages].tolist()]
    marks = _marks(site, shown.pages)
    rows = []
    for i, tail in enumerate(indented(site.tree, shown)):
        row = [tail, shortened(titles[i], TITLE_WIDTH), kinds[i] + marks[i]]
        for cell in cells:
            from_where = f" ({cell.sources[i]})" if sources and cell.sources[i] else ""
            row.append(shortened(cell.values[i], TITLE_WIDTH) + from_where + _signs(cell, i))
        row += [seers[int(shown.pages[i])]] if seers else []
        rows.append(row)
    if rows:
        header = ["page", "title", "type", *(site.catalogue[number].name for number in numbers)]
        header += ["only seen by"] if seers else []
        table(header, rows, columns=Columns(paths=(0,), cut=(1, 2)))
    hidden = len(chosen) - len(shown.pages)
    say()
    if any(any(cell.differs) for cell in cells):
        say("*: another value than the page above")
    if any(LACKS in cell.values for cell in cells):
        say("-: pages of this type do not have the setting")
    if hidden:
        rest = f"; so are {count(shown.rest, 'page')} at the end" if shown.rest else ""
        more = f"N pages below are hidden{rest}. Name a branch to see them, or use --depth or --all"
        paragraph(more, "(+N): ", "      ")
    for number in numbers:
        _say_not_shown(effective, site.catalogue[number].name, chosen)
    say(_summary(site, chosen, len(shown.pages)))


def _signs(cell: _Cells, page: int) -> str:
    """The marks after a value: that the page above has another one, and that it is not shown."""
    return (f" {OTHER}" if cell.differs[page] else "") + ("" if cell.shown[page] else f" {NOT_SHOWN}")


def _marks(site: SiteModel, pages: Pages) -> list[str]:
    """What to add to the type of each page: that it is a draft, a folder, or only leads elsewhere."""
    status = site.details.status.take(pages).texts()
    leads = site.details.column("leads_to").take(pages).texts()
    return [
        (f", {word}" if word != "live" else "") + (f", leads to {to}" if to else "")
        for word, to in zip(status, leads, strict=True)
    ]


def _summary(site: SiteModel, chosen: Pages, shown: int) -> str:
    told = count(len(chosen), "page") if len(chosen) else "no page matches that"
    among = {"draft": site.details.draft, "folder": site.details.folder}
    counts = [count(int(mask[chosen].sum()), name) for name, mask in among.items() if mask[chosen].any()]
    told += f", {' and '.join(counts)} among them" if counts else ""
    return told if shown == len(chosen) else f"{told}; {shown:,} shown"


def _list(
    effective: Effective, pages: Pages, numbers: list[int], sources: bool, form: str, seers: Sequence[str]
) -> None:
    """The list for programs: a row for each page."""
    site, details = effective.site, effective.site.details
    header: list[str] = list(DETAILS)
    columns: list[Sequence[object]] = [site.tree.paths.take(pages).tolist(), details.title.take(pages).texts()]
    columns.append([site.types.names[kind] for kind in details.type_of[pages].tolist()])
    above = site.tree.parent[pages]
    parents = site.tree.paths.take(np.maximum(above, 0)).tolist()
    columns.append([path if there else "" for path, there in zip(parents, (above >= 0).tolist(), strict=True)])
    columns += [details.language.take(pages).texts(), details.status.take(pages).texts()]
    columns.append(site.tree.depth[pages].tolist())
    for number in numbers:
        cells, name = _cells(effective, number, pages), site.catalogue[number].name
        has = site.has(number)[pages].tolist()
        header.append(name)
        columns.append([value if there else "" for value, there in zip(cells.values, has, strict=True)])
        header.append(f"{name} shown")
        columns.append(
            [("yes" if shown else "no") if there else "" for shown, there in zip(cells.shown, has, strict=True)]
        )
        if sources:
            header.append(f"source of {name}")
            columns.append(cells.sources)
    if seers:
        header.append("only seen by")
        columns.append([seers[page] for page in pages.tolist()])
    listing(form, header, zip(*columns, strict=True))


def _exceptions(effective: Effective, setting: str, chosen: Pages, form: str, most: int | None) -> None:
    """The exceptions on one setting."""
    found = effective.exceptions(setting).among(chosen)
    records = (found if form != "text" or most is None else found.among(found.pages[:most])).records()
    if form != "text":
        shown = effective.shown
        rows = [
            [
                one.path,
                *values_of(one),
                str(one.source.scope),
                one.because,
                one.source.where,
                "no" if shown.reason(one.path, setting) else "yes",
            ]
            for one in records
        ]
        listing(form, EXCEPTION_COLUMNS, rows)
        return
    for alike in grouped(records, values_of):
        value, inherited = values_of(alike[0])
        say(Styled(value), f" instead of {inherited} on {count(len(alike), 'page')}")
        for cause in grouped(alike, lambda one: one.source):
            if len(cause) == 1:
                paragraph(reason_of(cause[0]), f"  {cause[0].path}{_not_shown(effective, cause[0], setting)}: ", "    ")
                continue
            paragraph(f"{reason_of(cause[0])}:", "  ", "    ")
            for one in cause:
                say(f"    {one.path}{_not_shown(effective, one, setting)}")
        say()
    are = "is an exception" if len(found) == 1 else "are exceptions"
    _say_not_shown(effective, setting, found.pages)
    say(f"{len(found) or 'none'} of {count(len(chosen), 'page')} {are} on {setting}")
    if len(records) < len(found):
        say(f"{len(records):,} shown; to see them all say --all")


def _causes(effective: Effective, chosen: Pages, form: str, most: int | None) -> None:
    """What makes pages exceptions, for all settings."""
    site, among = effective.site, np.zeros(len(effective.site.tree), dtype=bool)
    among[chosen] = True
    with work("looking for exceptions", 1) as step:
        step("all settings")
        causes = exception_causes(effective, among)
    if form != "text":
        rows = [row for cause in causes for one in cause.settings for row in cause_rows(site, cause, one)]
        listing(form, CAUSE_COLUMNS, rows)
        return
    for cause in causes[:most]:
        paragraph(cause_in_words(cause), "", "  ")
        paths = site.tree.paths.take(cause.pages[:1]).tolist()
        on = f"{paths[0]}{f' and {len(cause.pages) - 1:,} more' if len(cause.pages) > 1 else ''}"
        paragraph(f"{', '.join(map(setting_in_words, cause.settings))} [{on}]", "  ", "  ")
    if causes:
        say()
    exceptions = len(np.unique(np.concatenate([np.zeros(0, np.int64), *(cause.pages for cause in causes)])))
    are = "is an exception" if exceptions == 1 else "are exceptions"
    say(f"{exceptions or 'none'} of {count(len(chosen), 'page')} {are}")
    if most is not None and len(causes) > most:
        say(f"{count(len(causes) - most, 'more cause')}; to see them all say --all")
    if causes:
        say(f"The pages of one setting, each with its reason: davlo tree --exceptions {causes[0].settings[0].setting}")


def _say_not_shown(effective: Effective, setting: str, pages: Pages) -> None:
    """Why values of a setting are not shown, and on how many pages."""
    reasons = effective.shown.prevented(setting, pages)
    for reason, pages_of in reasons[:MOST_REASONS]:
        paragraph(f"{setting} on {count(pages_of, 'page')}: {reason}", f"{NOT_SHOWN} ", "  ")
    if len(reasons) > MOST_REASONS:
        say(f"  … and {len(reasons) - MOST_REASONS} more reasons: davlo why PAGE {setting}")


def _not_shown(effective: Effective, one: PageException, setting: str) -> str:
    return f" {NOT_SHOWN}" if effective.shown.reason(one.path, setting) else ""
