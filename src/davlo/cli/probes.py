"""`davlo probes`: the pages and viewers to look at after every change."""

from __future__ import annotations

import click

from davlo.core.outcomes.probe_views import ProbeDifference, ProbeView
from davlo.core.wording import count

from .options import format_option, open_named_site, site_option, typed
from .screen import Styled, as_json, listing, paragraph, say


@click.command("probes", epilog="Example: davlo probes.  Also: davlo probes --against HEAD~1")
@click.option(
    "--against",
    metavar="FOLDER-OR-REVISION",
    help="Only what differs from another state: another site folder, or a revision of git.",
)
@format_option("text", "csv", "json")
@site_option
def command(against: str | None, form: str, site: str | None) -> None:
    """Show the pages and viewers to look at after every change.

    For each: what the viewer may do, and what they meet on the page. Probes are declared in davlo.yaml, as in
    probes: [{page: /, as: visitor}].
    """
    opened = open_named_site(site)
    if against is None:
        _print_views(opened.probe_views(), form)
        return
    try:
        before = opened.open_state(against)
    except ValueError as error:
        raise click.UsageError(f"--against: {error}") from None
    _print_differences(opened.probe_differences(before), len(opened.probes), against, form)


def _print_views(views: list[ProbeView], form: str) -> None:
    if form == "json":
        as_json([{"page": one.page, "as": one.viewer, **one.facts()} for one in views])
    elif form == "csv":
        rows = [[one.page, one.viewer, name, told] for one in views for name, told in one.facts().items()]
        listing(form, ("page", "as", "what", "value"), [row for row in rows if row[3]])
    elif not views:
        say("no probes are declared; in davlo.yaml: probes: [{page: /, as: visitor}]")
    else:
        for one in views:
            _print_view(one)
        say()
        say(f"{count(len(views), 'probe')}. What differs from before: {typed('probes', '--against', 'HEAD')}")


def _print_view(one: ProbeView) -> None:
    """What a viewer meets, in two lines."""
    if one.missing:
        say(Styled(one.page), f" as {one.viewer}: {one.missing}")
        return
    may = f"may {', '.join(one.may)}" if one.is_met else "may not view it"
    may = f"{may}, but {', '.join(one.may)}" if one.may and not one.is_met else may
    say(Styled(one.page), f" as {one.viewer}: {may}" + (f'; "{one.title}"' if one.is_met else ""))
    if one.is_met:
        areas = [f"{area}: {things}" for area, things in one.areas]
        paragraph("; ".join([one.layout, *areas, one.menu, one.sitemap]), "  ", "  ")


def print_probe_differences(found: list[ProbeDifference], indent: str = "") -> None:
    """What each of these probes sees, and what it saw."""
    for one in found:
        say(indent, Styled(one.page), f" as {one.viewer}:")
        for name, before, after in one.facts:
            paragraph(f"{name}: {after or 'none'} (before: {before or 'none'})", f"{indent}  ", f"{indent}    ")


def _print_differences(found: list[ProbeDifference], probes: int, against: str, form: str) -> None:
    if form != "text":
        rows = [[one.page, one.viewer, *fact] for one in found for fact in one.facts]
        listing(form, ("page", "as", "what", "before", "after"), rows)
        return
    print_probe_differences(found)
    if found:
        say()
    say(f"{len(found)} of {count(probes, 'probe')} {'differs' if len(found) == 1 else 'differ'} from {against}")
