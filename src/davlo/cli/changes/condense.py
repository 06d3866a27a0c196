"""`davlo condense`: say the same with fewer statements."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..command_list import answers
from ..completion.offers import complete_page, complete_setting
from ..options import open_named_site, typed
from ..screen import AS_THEY_ARE, heading, note, paragraph, say, table
from .change_options import HowToChange, change_options, show_or_write

if TYPE_CHECKING:
    from davlo.core.condense.condensing import Condensing

MOST_REASONS = 6


@answers("condense", "davlo condense", "davlo condense --setting sidebar.right", "davlo condense --write")
@click.option(
    "--setting",
    "settings",
    metavar="NAME",
    multiple=True,
    shell_complete=complete_setting,
    help="Only this setting (default: all).",
)
@click.option(
    "--in-branch", metavar="PAGE", shell_complete=complete_page, help="Only what this page and the pages below it say."
)
@click.option("--keep-here", is_flag=True, help="Keep what single pages say of themselves.")
@click.option("--drop-reasons", is_flag=True, help="Also drop or move statements that give a reason (because).")
@change_options
def command(
    settings: tuple[str, ...], in_branch: str | None, keep_here: bool, drop_reasons: bool, how: HowToChange
) -> int:
    """Every page keeps every value. Davlo takes away what has no effect, and finds the fewest statements of types,
    branches and single pages. Locks, rules, presets and stamps stay as they are, and so do statements that give a
    reason, or whose finding is accepted.
    """
    if how.picture is not None:
        raise click.UsageError("condensing changes no page, so there is nothing to draw: leave out --picture")
    site = open_named_site(how.site)
    found = site.condense(settings, in_branch=in_branch, keep_here=keep_here, drop_reasons=drop_reasons)
    if how.form == "text":
        _print(found, how.everything)
        if not found.settings:
            return 0
    elif not found.settings:
        note("nothing to condense: no fewer statements would say the same")
    return show_or_write(site, found.change, how, keeps_values=True)


def _print(found: Condensing, everything: bool) -> None:
    """Print how many statements each setting has now and then, and the reasons that would be lost."""
    if not found.settings:
        say("nothing to condense: no fewer statements would say the same")
        return
    before, after = (sum(getattr(one, name) for one in found.settings) for name in ("before", "after"))
    told = f"{count(before, 'statement')} of {count(len(found.settings), 'setting')} would become {after:,}; "
    paragraph(told + "every page keeps every value", "", "  ")
    say()
    rows = [[one.setting, f"{one.before:,}", f"{one.after:,}"] for one in found.settings]
    table(["setting", "statements now", "then"], rows, "  ", AS_THEY_ARE)
    reasons = [(one.setting, reason) for one in found.settings for reason in one.reasons]
    if reasons:
        heading(f"Reasons that would be lost ({len(reasons)})")
        for setting, reason in reasons if everything else reasons[:MOST_REASONS]:
            paragraph(f"{setting}: {reason}", "  ", "    ")
        if len(reasons) > MOST_REASONS and not everything:
            say(f"  and {count(len(reasons) - MOST_REASONS, 'more')}: {typed('condense', '--drop-reasons', '--all')}")
    heading("The change")
