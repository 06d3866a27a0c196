"""`davlo crawler-files`: the files that search engines read, ready to be copied to the site."""

from __future__ import annotations

import datetime
import shlex
from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count, some_of

from ..changes.change_options import write_then_show
from ..command_list import answers
from ..options import format_option, open_named_site, site_option, tell_version_control, today_option, typed
from ..screen import as_csv, as_json, heading, note, paragraph, say, table

if TYPE_CHECKING:
    from davlo.core.arrays.codebooks import Mask
    from davlo.files.output.publication import Publication
    from davlo.files.output.robots_txt import ClosedPage

MOST_PAGES = 10
COLUMNS = ("file", "what", "details")


@answers(
    "crawler-files",
    "davlo crawler-files --to public",
    "davlo crawler-files --to public --write",
    "davlo crawler-files --to public --gz --write",
)
@click.option("--to", type=click.Path(file_okay=False), metavar="DIR", required=True, help="The folder for the files.")
@click.option("--gz", "packed", is_flag=True, help="Pack the sitemaps: sitemap.xml.gz.")
@click.option("--write", is_flag=True, help="Write the files. Without it nothing is written.")
@click.option("--replace", is_flag=True, help="With --write: write over files in DIR that Davlo did not write.")
@click.option("--all", "everything", is_flag=True, help="List every page that the sitemap lists differently.")
@today_option
@format_option("text", "csv", "json")
@site_option
def command(
    to: str,
    packed: bool,
    write: bool,
    replace: bool,
    everything: bool,
    today: datetime.date,
    form: str,
    site: str | None,
) -> int:
    """They are the sitemap, robots.txt, files that prove who owns the site (site.ownership_proofs), and redirects.csv
    for pages that `davlo page move` moved. Shows what is new, changed and gone since they were published last. --write
    writes all of them, or none. robots.txt has the lines of `robots` in davlo.yaml, and says where the sitemap is.
    """
    from davlo.core.faults import ValueFault

    opened = open_named_site(site)
    try:
        plan = opened.publication(to, today, packed=packed)
    except ValueFault as error:
        raise click.UsageError(error.what) from None
    if plan.finished is not None:
        note(f"note: writing to {to} was cut off, and is {'finished' if plan.finished else 'taken back'} now")
    rows = [(name, what, _contents(plan, name)) for name, what in plan.files.items()]
    record = _record(plan, rows)  # worked out before it is written, as it tells what differs from the last time

    def show() -> None:
        if form == "json":
            as_json(record)
        elif form == "csv":
            as_csv(COLUMNS, rows)
        else:
            _print(plan, rows, everything)

    if not write:
        show()
        return _not_written(plan, form)
    return _written(plan, replace, show)


def _print(plan: Publication, rows: Sequence[tuple[str, str, str]], everything: bool) -> None:
    """The files for a person, and the pages that the sitemap lists differently."""
    when = f"last published on {plan.last.on}" if plan.last else "not published by Davlo before"
    say(f"{count(len(plan.contents), 'file')} for {plan.to}, {when}:")
    say()
    table(COLUMNS, rows, indent="  ")
    if plan.sitemap is None:
        say("No page is in the sitemap, so there is none: davlo sitemap --left-out tells why.")
    since = plan.drift
    if since is not None:
        for what, mask in (("new in it", since.new), ("changed", since.changed), ("no longer in it", since.gone)):
            _print_pages(plan, what, mask, everything)
    for text in _warnings(plan):
        paragraph(text, "", "  ")


def _warnings(plan: Publication) -> Iterator[str]:
    """What whoever copies the files should know."""
    if plan.closed:
        line = plan.closed[0].line
        listed = count(len(plan.closed), "page is", "pages are")
        page = plan.effective.site.tree.paths[plan.closed[0].page]
        yield (
            f"warning: {listed} in the sitemap, and robots.txt keeps crawlers away; the first: {page}, by "
            f"{line.text!r} ({line.place})"
        )
    if plan.closed_sitemap:
        line = plan.closed_sitemap
        yield f"warning: robots.txt keeps crawlers from the sitemap itself, by {line.text!r} ({line.place})"
    for line in plan.unknown_lines:
        word = line.text.partition(":")[0].strip()
        yield f"note: crawlers may not know {word!r} ({line.place}); it is published as it is"
    if plan.is_below_root:
        yield f"note: crawlers look for robots.txt at the root of the host alone: copy it to {plan.robots_address}"
    for name in plan.altered:
        yield f"note: something else has changed {name} since"
    if plan.lost:
        gone = count(plan.lost, "page that was published is", "pages that were published are")
        yield f"note: {gone} gone, without a redirect: davlo page move notes one for each page that it moves"
    for one in plan.lost_pages[:MOST_PAGES]:
        what = "a draft now" if one.is_draft else "gone"
        led = f"; {some_of(list(one.led_from), 3)} {'leads' if len(one.led_from) == 1 else 'lead'} there still"
        yield f"note: {one.path} was published and is {what}, without a redirect{led if one.led_from else ''}"
    if len(plan.lost_pages) > MOST_PAGES:
        yield f"note: and {len(plan.lost_pages) - MOST_PAGES:,} more: --format json names them"
    if plan.lost_writes:
        lost = "1 write since then is" if plan.lost_writes == 1 else f"{plan.lost_writes:,} writes since then are"
        yield f"note: {lost} no longer kept: pages that moved there have no redirect"


def _print_pages(plan: Publication, what: str, mask: Mask, everything: bool) -> None:
    paths = plan.effective.site.tree.paths
    pages = mask.nonzero()[0]
    if len(pages):
        shown = pages if everything else pages[:MOST_PAGES]
        heading(f"Sitemap, {what}: {count(len(pages), 'page')}")
        for page in shown.tolist():
            say(f"  {paths[page]}")
        if len(shown) < len(pages):
            say(f"  and {count(len(pages) - len(shown), 'more page')}: add --all")


def _contents(plan: Publication, name: str) -> str:
    """What a file holds, and what differs in it."""
    if plan.sitemap and name == next(iter(plan.sitemap.files)):
        told = count(plan.sitemap.addresses, "address", "addresses")
        if plan.drift is None:
            return told
        numbers = (
            (int(plan.drift.new.sum()), "new"),
            (int(plan.drift.changed.sum()), "changed"),
            (int(plan.drift.gone.sum()) + plan.drift.lost, "no longer"),
        )
        parts = [f"{n:,} {what}" for n, what in numbers if n]
        return f"{told}: {', '.join(parts)}" if parts else told
    if name == plan.ROBOTS:
        return count(len(plan.effective.site.robots), "line") + " of your own"
    if name == plan.REDIRECTS:
        return count(len(plan.redirects), "redirect")
    return ""


def _record(plan: Publication, rows: Sequence[tuple[str, str, str]]) -> dict[str, object]:
    paths, since = plan.effective.site.tree.paths, plan.drift
    masks = {} if since is None else {"new": since.new, "changed": since.changed, "gone": since.gone}
    return {
        "to": str(plan.to),
        "files": [{"file": name, "what": what} for name, what, _ in rows],
        "sitemap": {what: [paths[page] for page in mask.nonzero()[0].tolist()] for what, mask in masks.items()},
        "redirects": dict(plan.redirects),
        "gone without a redirect": plan.lost,
        "lost pages": [
            {"address": one.address, "path": one.path, "draft": one.is_draft, "led_from": list(one.led_from)}
            for one in plan.lost_pages
        ],
        "hidden noindex": [_closed_record(plan, one) for one in plan.hidden],
        "closed in sitemap": [_closed_record(plan, one) for one in plan.closed],
        "closes the sitemap": str(plan.closed_sitemap.place) if plan.closed_sitemap else None,
    }


def _closed_record(plan: Publication, one: ClosedPage) -> dict[str, object]:
    return {"page": plan.effective.site.tree.paths[one.page], "line": one.line.text, "where": str(one.line.place)}


def _not_written(plan: Publication, form: str) -> int:
    """Say what to type to write the files, or what keeps them from being written."""
    if plan.hidden:
        _refuse_hidden(plan)
        return 1
    if form == "text":
        others = plan.foreign
        if others:
            _tell_foreign(others)
        say()
        if plan.is_same:
            say("There is nothing to write: the files are as they were published.")
            return 0
        replace = ["--replace"] if others else []
        say("Nothing is written. To write them: " + typed("crawler-files", "--to", str(plan.to), "--write", *replace))
    return 0


def _written(plan: Publication, replace: bool, show: Callable[[], None]) -> int:
    from davlo.files.output.publication import HidesNoindex, WritesOverOthers
    from davlo.files.store.outputs import WritesOverSite

    try:
        unnoted = write_then_show(lambda: plan.write(replace=replace), show)
    except HidesNoindex:
        _refuse_hidden(plan)
        return 1
    except WritesOverOthers as error:
        _tell_foreign(error.names)
        note("nothing was written; to write over it all the same, add --replace")
        return 1
    except WritesOverSite as error:
        raise click.UsageError(f"--to: {error}") from None
    note(f"wrote {count(len(plan.contents), 'file')} to {plan.to}")
    tell_version_control(plan.folder)
    if unnoted:
        note(f"note: the next time all files count as new, as {unnoted}")
    return 0


def _tell_foreign(names: Sequence[str]) -> None:
    verb = "is" if len(names) == 1 else "are"
    note(
        f"{some_of(list(names), 4)} {verb} there already, and Davlo did not write {'it' if len(names) == 1 else 'them'}"
    )
    if "robots.txt" in names:
        note("  to keep its lines, put them into davlo.yaml under robots")


def _refuse_hidden(plan: Publication) -> None:
    """Report the lines of robots.txt that hide a page's `noindex` from crawlers."""
    paths = plan.effective.site.tree.paths
    lines = dict.fromkeys(one.line for one in plan.hidden)
    for line in lines:
        pages = [paths[one.page] for one in plan.hidden if one.line == line]
        note(
            f"{line.place}: {line.text!r} keeps crawlers from reading {some_of(pages, 3)}, so they never learn that "
            f"robots.index is no there, and may list {'it' if len(pages) == 1 else 'them'} all the same"
        )
    page = shlex.quote(paths[plan.hidden[0].page])
    note(f"nothing was written: take the line away, or let the page be found (davlo why {page} robots.index)")
