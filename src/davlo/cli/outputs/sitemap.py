"""`davlo sitemap`: what search engines get."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np
from numpy.typing import NDArray

from davlo.core.outcomes.sitemap.addresses import MOST_LETTERS
from davlo.core.outcomes.sitemap.sitemap_reasons import SITEMAP_REASONS, left_out, sitemap_codes
from davlo.core.progress import work
from davlo.core.wording import count, shortened_in_the_middle

from ..command_list import answers
from ..options import format_option, open_named_site, site_option, tell_version_control, today_option
from ..screen import listing, note, print_bytes, say, table
from ..site_folder import site_folder

if TYPE_CHECKING:
    from davlo.core.resolve.effective import EffectiveModel


@answers("sitemap", "davlo sitemap", "davlo sitemap --left-out", "davlo sitemap --to sitemap.xml")
@click.option(
    "--to",
    type=click.Path(dir_okay=False, allow_dash=True),
    metavar="FILE",
    help="Write the sitemap to this file, as sitemap.xml, or packed as sitemap.xml.gz; - prints it.",
)
@click.option(
    "--left-out",
    "lists_left_out",
    is_flag=True,
    help="List the pages that are not in the sitemap, each with what keeps it out, and where that is said.",
)
@today_option
@format_option("text", "csv", "json")
@site_option
def command(to: str | None, lists_left_out: bool, today: datetime.date, form: str, site: str | None) -> None:
    """Counts the pages in the sitemap, the addresses that sitemap.add_addresses_from adds, and the reasons why other
    pages are left out. --to writes the sitemap by the open protocol: past 50,000 addresses or 50 MB as an index with
    its parts beside it. Pages modified in the future are listed without a date. Davlo notes in .davlo/ in the site
    folder what it wrote, so that check can report when it is out of date.
    """
    folder = site_folder(site)
    opened = open_named_site(site)
    effective = opened.resolve()
    if to is not None:
        _write(effective, folder, to, today)
        return
    with work("working the sitemap out", 2) as step:
        step(count(len(opened.tree), "page"))
        codes = sitemap_codes(effective)
        step("the addresses of other programs")
        added = _added(effective, folder, np.flatnonzero(codes == 0), today)
    if lists_left_out:
        _print_left_out(effective, form)
        return
    counts = np.bincount(codes, minlength=len(SITEMAP_REASONS)).tolist()
    reasons = [(n, SITEMAP_REASONS[code]) for code, n in enumerate(counts) if code and n]
    if form != "text":
        more = [(added, "addresses of other programs")] if opened.sitemap.add_addresses_from else []
        listing(form, ["count", "what"], [(counts[0], "pages in the sitemap"), *more, *reasons])
        return
    say(f"{counts[0]} of {count(len(opened.tree), 'page')} are in the sitemap.")
    if opened.sitemap.add_addresses_from:
        of = " and ".join(opened.sitemap.add_addresses_from)
        listed = f"{count(added, 'address', 'addresses')} of other programs {'is' if added == 1 else 'are'}"
        say(f"{listed} in it, from {of}.")
    if reasons:
        say("Why the others are out (the first reason of each):")
        table(["", ""], [[f"{n:6,}", reason] for n, reason in reasons])
        say()
        say("Which they are: davlo sitemap --left-out")
    say("Write it:       davlo sitemap --to sitemap.xml")


def _print_left_out(effective: EffectiveModel, form: str) -> None:
    """The pages that are not in the sitemap, each with the statement that keeps it out, its line and its reason."""
    rows: list[list[object]] = []
    for one in left_out(effective):
        words = one.source.words if one.source else "the page list"
        if form == "text":
            rows.append([one.path, one.reason, f"{words}, {one.place}" if one.place.file else words, one.because])
        else:
            rows.append([one.path, one.reason, words, one.place.file, one.place.line or "", one.because])
    header = ["page", "reason", "said by", "because"]
    listing(form, header if form == "text" else ["page", "reason", "source", "file", "line", "because"], rows)


def _added(effective: EffectiveModel, folder: Path, listed: NDArray[np.int64], today: datetime.date) -> int:
    """How many addresses of other programs are in the sitemap."""
    if not effective.site.sitemap.add_addresses_from:
        return 0
    from davlo.core.outcomes.sitemap.sitemap_entries import sitemap_entries
    from davlo.files.output.added_addresses import added_addresses

    own = sitemap_entries(effective, listed, today).published
    return len(added_addresses(folder, effective.site.sitemap.add_addresses_from, own.url_blocks()).found)


def _write(effective: EffectiveModel, folder: Path, to: str, today: datetime.date) -> None:
    from davlo.files.output.write_sitemap import make_sitemap, write_sitemap

    path = Path("sitemap.xml" if to == "-" else to)
    try:
        if to == "-":
            made = make_sitemap(effective, folder, path.name, today)
        else:
            made = write_sitemap(effective, folder, path, today)
    except ValueError as error:
        raise click.UsageError(str(error)) from None
    if to == "-":
        if len(made.files) > 1:
            raise click.UsageError(f"this sitemap takes {len(made.files)} files; write them with --to sitemap.xml")
        print_bytes(b"".join(made.files[path.name]()))
    else:
        beside = f" and {count(len(made.files) - 1, 'part')} beside it" if len(made.files) > 1 else ""
        note(f"wrote {path}{beside}: {count(made.addresses, 'address', 'addresses')}")
        tell_version_control(folder)
    if made.unnoted:
        note(f"note: check cannot tell when it is stale, as {made.unnoted}")
    if made.ambiguous:
        listed = count(made.ambiguous, "address", "addresses")
        is_are = "is" if made.ambiguous == 1 else "are"
        note(
            f"{listed} {is_are} not listed as alternates: another translation of the same page has the same language "
            "(davlo check --kind bad-alternate)"
        )
    if made.added.again:
        place, address = made.added.again[0]
        added = count(len(made.added.again), "address", "addresses")
        note(f"{added} of other programs, there already and so listed once; the first: {address} ({place})")
    if made.added.one_sided:
        first = made.added.one_sided[0]
        listed = count(len(made.added.one_sided), "address of other programs", "addresses of other programs")
        note(f"alternates of {listed} are left out: they do not name each other both ways; the first: {first}")
    others = made.added.hosts_besides(effective.site.url)
    if others:
        note(
            f"addresses of other programs are on {' and '.join(others)}: search engines take them only if the "
            "robots.txt there names this sitemap too"
        )
    if len(made.entries.too_long):
        page = effective.site.tree.paths[int(made.entries.too_long[0])]
        note(
            f"{count(len(made.entries.too_long), 'page')} left out: a sitemap takes no address of more than "
            f"{MOST_LETTERS:,} letters; the first: {shortened_in_the_middle(page, 80)}"
        )
    if made.undated:
        note(f"{count(made.undated, 'page')} modified after {today}: listed without a date")
