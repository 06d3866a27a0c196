"""`davlo mend`: the ways to mend a finding, each with its reach; mend it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.findings.finding import Finding
from davlo.core.wording import count
from davlo.words.reach import access_sentences, reach_sentence

from ..command_list import answers
from ..completion.offers import complete_finding
from ..edits import print_edits
from ..findings import print_statement_of, ways_record
from ..options import open_named_site, typed
from ..screen import Styled, as_json, listing, paragraph, say
from .change_options import HowToChange, change_options, show_or_write

if TYPE_CHECKING:
    from davlo.files.rewrite.ways import Way
    from davlo.site import Site

COLUMNS = ("way", "words", "changes", "elsewhere", "edits")
MOST_EDITED, MOST_PEOPLE = 6, 3


@answers(
    "mend",
    "davlo mend baliwehi",
    "davlo mend baliwehi --way 2 --write",
    'davlo mend nehihozi --accept --because "The picture carries the name"',
)
@click.argument("name", required=False, shell_complete=complete_finding)
@click.option("--way", "number", type=click.IntRange(min=1), metavar="N", help="Show this way alone; write this one.")
@click.option("--accept", "is_accepted", is_flag=True, help="It is known and meant: check no longer lists it.")
@click.option("--because", metavar="TEXT", default="", help="With --accept: why it is meant.")
@change_options
def command(name: str | None, number: int | None, is_accepted: bool, because: str, how: HowToChange) -> int:
    """NAME is the short name that `davlo check` shows beside a finding. Where there are several ways, choose one
    with --way. With --accept, davlo.yaml says that the finding is meant: on its pages, or of its declaration.
    """
    if is_accepted and (not because.strip() or number is not None):
        told = "leave out --way" if number is not None else 'say why it is meant: --because "…"'
        raise click.UsageError(f"--accept: {told}")
    if because and not is_accepted:
        raise click.UsageError("--because goes with --accept")
    if name is None:
        raise click.UsageError(f"name a finding by the short name that stands beside it in: {typed('check')}")
    site = open_named_site(how.site)
    report = site.check(how.today)
    named = report.named(name)  # open, or accepted
    finding, *others = [one for one in named if one in report.findings] or named
    if others:
        raise click.UsageError(
            f"several findings are called {name}: accept or mend them in the files; {typed('check', name)}"
        )
    if is_accepted:
        from davlo.core.findings.acceptance import acceptance

        if finding not in report.findings:
            raise click.UsageError(f"{name} is accepted already: {typed('check', name)}")
        change = acceptance(site, finding, because)
        if change is None:
            raise click.UsageError(f"{name} cannot be accepted: {finding.fix}")
        if how.form == "text" and not how.is_brief:
            print_statement_of(finding)
            say()
        return show_or_write(site, change, how)
    ways = site.ways(finding, how.today)
    if number is not None and number > len(ways):
        told = f"has {count(len(ways), 'way')}" if ways else "has no way that a command can take"
        raise click.UsageError(f"the finding {name} {told}, not {number}")
    if how.write and number is None and len(ways) != 1:
        if not ways:
            raise click.UsageError(f"no command can mend {name}: {finding.fix}")
        raise click.UsageError(
            f"there are {len(ways)} ways: choose one, as in {typed('mend', name, '--way', '1', '--write')}"
        )
    if how.write or number is not None:
        return show_or_write(site, ways[(number or 1) - 1].change, how)
    if how.picture is not None or how.by is not None or how.is_brief or how.everything:
        raise click.UsageError(f"these options show one way: choose it, as in {typed('mend', name, '--way', '1')}")
    if how.form == "json":
        as_json({**finding.as_json(), **ways_record(ways)})
    elif how.form == "csv":
        edits = ("; ".join(f"{edit.file}:{edit.line}" for edit in way.edits) for way in ways)
        numbered = zip(range(1, len(ways) + 1), ways, edits, strict=True)
        listing("csv", COLUMNS, [[at, way.words, way.changes, way.elsewhere, told] for at, way, told in numbered])
    else:
        _print_ways(site, finding, ways)
    return 0


def _print_ways(site: Site, finding: Finding, ways: Sequence[Way]) -> None:
    """The finding, and each way with what it would do and what to type."""
    print_statement_of(finding)
    if not ways:
        paragraph(f"no command can mend it: {finding.fix}", "", "  ")
    for number, way in enumerate(ways, 1):
        say()
        say(Styled(f"{number}. {way.words}"))
        reach = site.reach(way.change)
        paragraph(reach_sentence(reach.numbers), "   ", "   ")
        for line in list(access_sentences(reach.access))[:MOST_PEOPLE]:
            paragraph(line, "   ", "     ")
        new = [one for one in reach.findings.new if one.kind != finding.kind]
        if new:
            kinds = ", ".join(dict.fromkeys(f"{one.level} {one.kind}" for one in new))
            paragraph(f"brings about {count(len(new), 'other finding')}: {kinds}", "   ", "     ")
        after = (*reach.findings.new, *(one.after for one in reach.findings.changed))
        staying = [one for one in after if (one.kind, one.setting) == (finding.kind, finding.setting)]
        if staying:
            paragraph(f"the pages have another finding of this kind then: {staying[0].message}", "   ", "     ")
        command = ("mend", finding.name, "--way", str(number))
        print_edits(way.edits, "   ", MOST_EDITED, typed(*command, "--all"))
        say(f"   {typed(*command, '--write')}")
