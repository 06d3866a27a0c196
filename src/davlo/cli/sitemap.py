"""`davlo sitemap`: what search engines get."""

from __future__ import annotations

import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.outcomes.sitemap_reasons import SITEMAP_REASONS, sitemap_codes
from davlo.core.progress import work
from davlo.core.wording import count

from .options import format_option, open_named_site, site_folder, site_option, today_option
from .screen import listing, note, print_bytes, say, table

if TYPE_CHECKING:
    from davlo.core.resolve.effective import EffectiveModel


@click.command("sitemap", epilog="Example: davlo sitemap --to sitemap.xml")
@click.option(
    "--to",
    type=click.Path(dir_okay=False, allow_dash=True),
    metavar="FILE",
    help="Write the sitemap to this file; - prints it.",
)
@click.option("--left-out", is_flag=True, help="List the pages that are not in the sitemap, each with its reason.")
@today_option
@format_option("text", "csv", "json")
@site_option
def command(to: str | None, left_out: bool, today: datetime.date, form: str, site: str | None) -> None:
    """Show or write the sitemap that search engines get.

    Counts the pages in the sitemap, and the reasons why others are not. --to writes the sitemap by the open protocol:
    past 50,000 addresses or 50 MB as an index with its parts beside it. Pages modified in the future are listed without
    a date. Davlo notes in .davlo/ in the site folder what it wrote, so that check can report when it is out of date.
    """
    folder = site_folder(site)
    opened = open_named_site(site)
    effective = opened.resolve()
    if to is not None:
        _write(effective, folder, to, today)
        return
    with work("working the sitemap out", 1) as step:
        step(count(len(opened.tree), "page"))
        codes = sitemap_codes(effective)
    if left_out:
        out = np.flatnonzero(codes).tolist()
        rows = [[opened.tree.paths[p], SITEMAP_REASONS[int(codes[p])]] for p in out]
        listing(form, ["page", "reason"], rows)
        return
    counts = np.bincount(codes, minlength=len(SITEMAP_REASONS)).tolist()
    reasons = [(n, SITEMAP_REASONS[code]) for code, n in enumerate(counts) if code and n]
    if form != "text":
        listing(form, ["pages", "reason"], [(counts[0], ""), *reasons])
        return
    say(f"{counts[0]} of {count(len(opened.tree), 'page')} are in the sitemap.")
    if reasons:
        say("Why the others are out (the first reason of each):")
        table(["", ""], [[f"{n:6,}", reason] for n, reason in reasons])
        say()
        say("Which they are: davlo sitemap --left-out")
    say("Write it:       davlo sitemap --to sitemap.xml")


def _write(effective: EffectiveModel, folder: Path, to: str, today: datetime.date) -> None:
    from davlo.files.publish.write_sitemap import make_sitemap, write_sitemap

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
    if made.unnoted:
        note(f"note: check cannot tell when it is stale, as {made.unnoted}")
    if made.ambiguous:
        listed = count(made.ambiguous, "address", "addresses")
        is_are = "is" if made.ambiguous == 1 else "are"
        note(
            f"{listed} {is_are} not listed as alternates: another translation of the same page has the same language "
            "(davlo check --kind bad-alternate)"
        )
    if made.again:
        place, address = made.again[0]
        joined = count(len(made.again), "joined address", "joined addresses")
        note(f"{joined} already there, listed once; the first: {address} ({place})")
    if made.undated:
        note(f"{count(made.undated, 'page')} modified after {today}: listed without a date")
