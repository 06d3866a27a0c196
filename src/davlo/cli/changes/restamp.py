"""`davlo page restamp`: bring existing pages up to date with defaults for new pages."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.wording import count

from ..command_list import answers
from ..completion.offers import complete_page, complete_setting, complete_type
from ..options import asked_pages, open_named_site, when_option
from ..screen import note, paragraph, say
from .change_options import HowToChange, change_options, show_or_write

if TYPE_CHECKING:
    from davlo.core.arrays.codebooks import Mask
    from davlo.core.change.steps.restamp import RestampCount
    from davlo.site import Site


@answers(
    "page restamp",
    "davlo page restamp",
    "davlo page restamp blocks.content --type event",
    "davlo page restamp --add --new --write",
)
@click.argument("settings", nargs=-1, metavar="[SETTING]…", shell_complete=complete_setting)
@click.option(
    "--in-branch",
    metavar="PAGE",
    multiple=True,
    shell_complete=complete_page,
    help="Only this page and the pages below it.",
)
@click.option("--type", "kinds", metavar="NAME", multiple=True, shell_complete=complete_type, help="Only this type.")
@click.option("--page", "pages", metavar="PAGE", multiple=True, shell_complete=complete_page, help="Only this page.")
@when_option
@click.option(
    "--add",
    is_flag=True,
    help="Keep what a list holds, and add the items that only the default has (default: replace the list).",
)
@click.option("--over-own", is_flag=True, help="Also pages that set a value of their own.")
@click.option("--new", is_flag=True, help="Also pages that have no stamp yet, such as pages new in the page list.")
@change_options
def command(
    settings: tuple[str, ...],
    in_branch: tuple[str, ...],
    kinds: tuple[str, ...],
    pages: tuple[str, ...],
    when: tuple[str, ...],
    add: bool,
    over_own: bool,
    new: bool,
    how: HowToChange,
) -> int:
    """A page keeps the default for new pages that it was made with: its stamp. Davlo writes what a new page would get
    today.

    Name settings, or none for all whose default is for new pages.
    """
    from davlo.core.change.steps.restamp import restamp_change

    site = open_named_site(how.site)
    mask = _chosen(site, in_branch, kinds, pages, when)
    restamping = restamp_change(site, settings, mask, add=add, over_own=over_own, new=new)
    if restamping.change.steps:
        status = show_or_write(site, restamping.change, how)
        _print_left(restamping.counts, how.form)
        return status
    if how.form == "text":
        say("no page would change")
        _print_left(restamping.counts, how.form)
        return 0
    return show_or_write(site, restamping.change, how)


def _chosen(
    site: Site, branches: Sequence[str], kinds: Sequence[str], pages: Sequence[str], when: Sequence[str]
) -> Mask | None:
    """The pages that the options choose; None for all. bool[pages]"""
    words = [f"in_branch={site.tree.paths[site.find_page(name)]}" for name in branches]
    words += [f"type={name}" for name in kinds]
    mask = asked_pages(site, [*words, *when])
    if not pages:
        return mask
    named = np.zeros(len(site.tree), dtype=bool)
    named[[site.find_page(name) for name in pages]] = True
    return named if mask is None else named & mask


def _print_left(counts: Sequence[RestampCount], form: str) -> None:
    """How many pages stay as they are, and which option takes them too."""
    for one in counts:
        own = count(one.own, "page keeps its own value", "pages keep their own values")
        bare = count(one.without_stamp, "page has no stamp yet", "pages have no stamp yet")
        told = [
            f"{words} ({option})"
            for words, number, option in ((own, one.own, "--over-own"), (bare, one.without_stamp, "--new"))
            if number
        ]
        if told:
            line = f"{one.setting}: {', '.join(told)}"
            paragraph(line, "", "  ") if form == "text" else note(line)
