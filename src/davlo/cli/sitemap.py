"""`davlo sitemap`: what search engines get."""

from __future__ import annotations

import datetime
import sys
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.outcomes.sitemap_reasons import SITEMAP_REASONS, sitemap_codes
from davlo.core.progress import work
from davlo.core.wording import count

from .options import format_option, open_named_site, site_folder, site_option, today_option
from .screen import listing, note, say, table

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from davlo.core.resolve.effective import EffectiveModel


@click.command("sitemap", epilog="Example: davlo sitemap --to sitemap.xml")
@click.option("--to", type=click.Path(dir_okay=False, allow_dash=True), metavar="FILE", help="Write it; - prints it.")
@click.option("--left-out", is_flag=True, help="List the pages that are not in it, each with the reason.")
@today_option
@format_option("text", "csv", "json")
@site_option
def command(to: str | None, left_out: bool, today: datetime.date, form: str, site: str | None) -> None:
    """What search engines get.

    Tells how many pages are in the sitemap and why the others are out. --to writes it by the open sitemap protocol:
    past 50,000 addresses or 50 MB an index, with the parts beside it. A page changed after today is told no date.
    What was written is noted in .davlo/ in the site folder, so that check can tell when it is stale.
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
    reasons = [[str(n), SITEMAP_REASONS[code]] for code, n in enumerate(counts) if code and n]
    if form != "text":
        listing(form, ["pages", "reason"], [[str(counts[0]), ""], *reasons])
        return
    say(f"{counts[0]} of {count(len(opened.tree), 'page')} are in the sitemap.")
    if reasons:
        say("Why the others are out (the first reason of each):")
        table(["", ""], [[n.rjust(6), reason] for n, reason in reasons])
        say("\nWhich they are: davlo sitemap --left-out")
    say("Write it:       davlo sitemap --to sitemap.xml")


def _remember(
    effective: EffectiveModel,
    folder: Path,
    path: Path,
    files: Mapping[str, bytes],
    listed: NDArray[np.int64],
    today: datetime.date,
) -> None:
    """Note in `.davlo/` what was written, so that check can tell when it is stale."""
    from davlo.core.outcomes.sitemap_marks import told
    from davlo.files.store.last_sitemap import remember

    try:
        remember(folder, path, files, effective.site.sitemap.join, told(effective, listed, today), today.isoformat())
    except OSError as error:
        note(f"note: check cannot tell when it is stale, as {folder / '.davlo'} cannot be written: {error.strerror}")


def _write(effective: EffectiveModel, folder: Path, to: str, today: datetime.date) -> None:
    from davlo.files.publish.sitemap_xml import joined_addresses, sitemap_addresses, sitemap_files
    from davlo.files.store.whole_files import write_whole

    path = Path("sitemap.xml" if to == "-" else to)
    if path.suffix != ".xml":
        raise click.UsageError(f"a sitemap is a file that ends in .xml, not {path.name!r}")
    with work("working the sitemap out", 2) as step:
        step("addresses")
        found = sitemap_addresses(effective, today)
        joined = joined_addresses(folder, effective.site.sitemap.join)
        step("files")
        files = sitemap_files([*found.found, *joined], path.name, effective.site.url)
    if to == "-":
        if len(files) > 1:
            raise click.UsageError(f"this sitemap takes {len(files)} files; write them with --to sitemap.xml")
        sys.stdout.buffer.write(files[path.name])
    else:
        for name in sorted(files, key=lambda name: name == path.name):  # the index last, when its parts are there
            write_whole(path.parent / name, files[name])
        beside = f" and {count(len(files) - 1, 'part')} beside it" if len(files) > 1 else ""
        note(f"wrote {path}{beside}: {count(len(found.found) + len(joined), 'address', 'addresses')}")
        _remember(effective, folder, path, files, found.pages, today)
    if found.ahead:
        note(f"{count(found.ahead, 'page')} changed after {today}: told no date")
