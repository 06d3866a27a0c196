"""`davlo compare`: what differs from another folder or a git revision, and why."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from contextlib import nullcontext
from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.arrays.in_background import MANY, in_background
from davlo.core.change.differences.comparison import PARTS
from davlo.core.progress import work
from davlo.core.site.people import VISITOR
from davlo.site import open_state

from ..command_list import answers
from ..completion.offers import complete_revision
from ..options import (
    check_openpyxl,
    find_viewer,
    format_option,
    open_named_site,
    site_option,
    today_option,
    viewer_option,
    when_option,
    write_sheets,
)
from ..screen import Out, as_csv, as_json, paragraph, say
from ..site_folder import NoSite, site_folder
from .built import compare_built, is_built
from .sections import MOST_IN_MARKDOWN, print_parts

if TYPE_CHECKING:
    from davlo.core.change.differences.comparison import Comparison
    from davlo.site import Site

HERE = "the files here"


@answers(
    "compare",
    "davlo compare HEAD~1",
    "davlo compare main --only access",
    "davlo compare ../garden-last-year",
    "davlo compare public",
    "davlo compare --as editors --as visitor",
    "davlo compare HEAD~1 --to changes.xlsx",
)
@click.argument("other", required=False, shell_complete=complete_revision)
@click.argument("later", required=False, shell_complete=complete_revision)
@click.option(
    "--only", type=click.Choice(PARTS), multiple=True, help="Only this part of what differs; repeat it for several."
)
@viewer_option(
    f"Compare what this viewer meets (default: {VISITOR}): a person, visitor, signed-in, or a group. Two viewers and "
    "no OTHER: what one meets and the other does not.",
    is_repeatable=True,
)
@when_option
@click.option("--all", "everything", is_flag=True, help="List every line.")
@click.option(
    "--fail-on",
    type=click.Choice(["difference", "access", "error", "never"]),
    default="never",
    show_default=True,
    help="Exit with status 1 if anything differs, if somebody gains or loses access, or if there is a new error.",
)
@click.option(
    "--areas",
    type=click.Path(dir_okay=False),
    metavar="FILE",
    help="For built pages: a YAML file that names areas by CSS selectors.",
)
@click.option(
    "--to",
    type=click.Path(dir_okay=False),
    metavar="FILE.xlsx",
    callback=lambda ctx, param, named: _workbook(named),
    help="Write a workbook for a spreadsheet program: a sheet for each part that differs.",
)
@today_option
@format_option("text", "csv", "json", "markdown")
@site_option
def command(
    other: str | None,
    later: str | None,
    only: tuple[str, ...],
    who: tuple[str, ...],
    when: tuple[str, ...],
    everything: bool,
    fail_on: str,
    areas: str | None,
    to: Path | None,
    today: datetime.date,
    form: str,
    site: str | None,
) -> int:
    """OTHER is the earlier state: a site folder, or a revision of git as HEAD~1 or main. LATER is the later one
    (default: the files here). What differs is gathered by cause: which statement came, went or says something else. A
    page that moved is one page if it alone has its title, type and date of creation in both states. --format markdown
    is for a review of the change on a code host; --format csv has a row for each page and setting; with --only PART, a
    row for each difference of that part.

    If OTHER is a folder of HTML pages, as a program built them, it is compared with what was decided: titles, headings,
    robots, languages, areas, menus, and its sitemap and robots.txt.

    With --as twice and no OTHER: what one viewer meets and the other does not, on all pages.
    """
    if to is not None and form != "text":
        raise click.UsageError(f"--to writes a workbook: leave out --format {form}, or --to")
    if len(who) > 1:
        if other is not None:
            raise click.UsageError("states are compared as one viewer meets them: say --as once, or leave OTHER out")
        from .compare_viewers import compare_viewers

        return compare_viewers(open_named_site(site), who, only, when, everything, fail_on, form, to)
    if other is None:
        raise click.UsageError("name the earlier state, as HEAD~1; or two viewers: davlo compare --as A --as B")
    if is_built(other):
        if who:
            raise click.UsageError("built pages are compared as a visitor meets them: leave --as out")
        if later is not None:
            raise click.UsageError("built pages are compared with the files here: leave LATER out")
        return compare_built(other, only, when, areas, today, everything, fail_on, form, site, to)
    if areas is not None:
        raise click.UsageError(f"--areas is for a folder of built pages, and {other} is none")
    parts = only or PARTS
    if form == "csv" and len(only) > 1:
        raise click.UsageError("--format csv has the rows of one part: say --only once")
    folder = _around(site, later)
    with work("comparing", 3) if form == "text" else nullcontext(lambda now: None) as step:
        step(f"reading {other}")
        begun = in_background(lambda: open_state(other, folder), True)
        opened = open_named_site(site) if later is None else None  # between two others, the files here do not matter
        before = _state(begun)
        step(f"reading {later or HERE}")
        after = opened or _state(lambda: open_state(str(later), folder))
        step("what differs")
        found = before.difference(after, when, *(find_viewer(after, one) for one in who))
        _work_out(found, parts)
    if to is not None:
        from davlo.frames.difference_tables import comparison_sheets
        from davlo.words.comparison import comparison_title
        from davlo.words.outcomes import value_words

        sheets = comparison_sheets(found, parts, value_words)
        write_sheets(after, to, comparison_title(other, later or HERE, found), sheets)
    elif form == "json":
        from davlo.frames.difference_tables import comparison_record

        as_json({"before": other, "after": later or HERE, **comparison_record(found, parts)})
    elif form == "csv":
        _print_csv(found, only[0] if only else "values")
    elif form == "markdown":
        from davlo.words.comparison import as_markdown, comparison_sections, comparison_title

        title = comparison_title(other, later or HERE, found)
        most = None if everything else MOST_IN_MARKDOWN
        Out().write(as_markdown(title, comparison_sections(found, parts, other), most))
    else:
        _print(found, parts, other, later or HERE, everything)
    return int(_fails(found, fail_on, parts))


def _workbook(named: str | None) -> Path | None:
    """The workbook that `--to` names."""
    if named is None:
        return None
    if not named.lower().endswith(".xlsx"):
        raise click.BadParameter(f"it writes a workbook, whose name ends in .xlsx, not {named!r}")
    check_openpyxl()
    return Path(named)


def _around(site: str | None, later: str | None) -> Path:
    """The site folder, whose repository has the revisions; two other folders can be compared without one."""
    try:
        return site_folder(site)
    except NoSite:
        if later is None:
            raise
        return Path.cwd()


def _state(read: Callable[[], Site]) -> Site:
    try:
        return read()
    except ValueError as error:
        raise click.UsageError(str(error)) from None


def _work_out(found: Comparison, parts: Sequence[str]) -> None:
    """Work out the parts that are asked for, while the progress is shown."""
    rest = in_background(lambda: (found.settings, found.outcome_changes, found.details), len(found.after) >= MANY)
    if "findings" in parts:
        _ = found.findings
    rest()
    _ = found.numbers


def _print(found: Comparison, parts: Sequence[str], other: str, later: str, everything: bool) -> None:
    from davlo.words.comparison import comparison_sections, comparison_title

    title, numbers = comparison_title(other, later, found)
    say(title)
    paragraph(numbers, "", "  ")
    sections = comparison_sections(found, parts, other)
    print_parts(sections, everything)
    if not sections:
        say("Nothing differs." if parts == PARTS else f"Nothing differs in: {', '.join(parts)}.")


def _print_csv(found: Comparison, part: str) -> None:
    from davlo.frames.difference_tables import part_rows

    header, rows = part_rows(found, part)
    as_csv(header, rows)


def _fails(found: Comparison, fail_on: str, parts: Sequence[str]) -> bool:
    """Whether the difference asks for exit status 1."""
    if fail_on == "access":
        return bool(found.access)
    if fail_on == "error":
        return bool(found.new_errors)
    return fail_on == "difference" and any(map(found.differs_in, parts))
