"""`davlo show --viewpoints`: what the viewers see that are declared as viewpoints."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..options import open_named_site, typed
from ..screen import Columns, as_json, listing, say, table

if TYPE_CHECKING:
    from davlo.core.records.viewpoint_results import ViewpointDifference, ViewpointResult

COLUMNS = ("page", "as", "what", "value")
DIFFERENCE_COLUMNS = ("page", "as", "what", "before", "now")


def show_viewpoints(pages: Sequence[str], against: str | None, form: str, site: str | None) -> None:
    """Show what each viewpoint sees, of all pages or of some; or only what differs from another state."""
    opened = open_named_site(site)
    among = {opened.tree.paths[opened.find_page(page)] for page in pages}
    if against is None:
        _print_results([one for one in opened.viewpoint_results() if not among or one.page in among], form)
        return
    try:
        before = opened.open_state(against)
    except ValueError as error:
        raise click.UsageError(f"--against: {error}") from None
    found = [one for one in opened.viewpoint_differences(before) if not among or one.page in among]
    number = sum(not among or one.page in among for one in opened.viewpoints)
    _print_differences(found, number, against, form)


def _print_results(results: list[ViewpointResult], form: str) -> None:
    if form == "json":
        as_json([{"page": one.page, "as": one.viewer, **one.fields()} for one in results])
    elif form == "csv":
        listing(form, COLUMNS, [row for one in results for row in _rows(one)])
    elif not results:
        say("no viewpoints are declared for this; in davlo.yaml: viewpoints: [{page: /, as: visitor}]")
    else:
        rows: list[Sequence[str]] = []
        for one in results:
            first, *rest = _rows(one)
            rows += [first, *(["", "", *row[2:]] for row in rest)]
        table(COLUMNS, rows, columns=Columns(names=(0,)))
        say()
        command = typed("show", "--viewpoints", "--against", "HEAD")
        say(f"{count(len(results), 'viewpoint')}. What differs from the last commit: {command}")


def _rows(one: ViewpointResult) -> Iterator[list[str]]:
    """What one viewpoint sees, a row each: what the viewer may do, the title, each area, the menu, the sitemap."""
    yield from ([one.page, one.viewer, what, value] for what, value in one.fields().items() if value)


def print_viewpoint_differences(found: list[ViewpointDifference], indent: str = "") -> None:
    """What each of these viewpoints sees, and what it saw."""
    rows: list[Sequence[str]] = []
    for one in found:
        named = [(one.page, one.viewer), *[("", "")] * len(one.fields)]
        rows += [
            (*who, what, before or "none", after or "none")
            for who, (what, before, after) in zip(named, one.fields, strict=False)
        ]
    table(DIFFERENCE_COLUMNS, rows, indent, Columns(names=(0,)))


def _print_differences(found: list[ViewpointDifference], viewpoints: int, against: str, form: str) -> None:
    if form != "text":
        rows = [[one.page, one.viewer, *detail] for one in found for detail in one.fields]
        listing(form, DIFFERENCE_COLUMNS, rows)
        return
    if found:
        print_viewpoint_differences(found)
        say()
    say(f"{len(found)} of {count(viewpoints, 'viewpoint')} {'differs' if len(found) == 1 else 'differ'} from {against}")
