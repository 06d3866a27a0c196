"""`davlo start`: a site folder to grow from."""

from __future__ import annotations

import shlex
from pathlib import Path

import click

from .screen import heading, say


@click.command("start", epilog="Example: davlo start my-site")
@click.argument("folder", metavar="DIR", type=click.Path(file_okay=False))
def command(folder: str) -> None:
    """Begin a site: write a folder with a few pages and decisions to grow from.

    DIR is a new folder, or an empty one. davlo.yaml holds what pages get, with notes on what to change; pages.csv holds
    a row for each page.
    """
    from davlo.start import start_site

    try:
        start_site(Path(folder))
    except FileExistsError:
        raise click.UsageError(
            f"{folder} is there already and holds other things; name another folder: davlo start DIR"
        ) from None
    say(f"Wrote a site of 7 pages to {folder}:")
    say("  davlo.yaml         what your site is made of, and what each page gets; notes say what to change")
    say("  pages.csv          one row for each page: replace them with yours")
    say("  davlo.schema.json  what editors complete davlo.yaml from")
    heading("What to type next:")
    say(f"  cd {shlex.quote(folder)}")
    say("  davlo tree                                     which pages are there")
    say("  davlo show /about/team                         what one page gets, and from where")
    say("  davlo page add /about/history --title History  add a page; with --write, it is written")
    say("  davlo set menu.show=no --below /about          see what a change would do; with --write, make it")
    say("  davlo check                                    what contradicts what")
