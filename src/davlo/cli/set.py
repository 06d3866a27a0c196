"""`davlo set`: what a setting would change where it is set; change it."""

from __future__ import annotations

import click

from .change_options import HowToChange, change_options, show_or_write
from .options import complete_preset, complete_setting, open_named_site
from .scope_options import ScopeWords, check_words, say_steps, scope_options


@click.command(
    "set",
    epilog="Example: davlo set sidebar.right=main --below /visit.  Also: davlo set blocks.content+=offer --type event; "
    "davlo set access.editors=view,edit --here-and-below /press --write",
)
@click.argument("settings", nargs=-1, metavar="SETTING=VALUE…", shell_complete=complete_setting)
@scope_options
@click.option(
    "--use", "presets", metavar="PRESET", multiple=True, shell_complete=complete_preset, help="Use this preset there."
)
@click.option(
    "--lock/--unlock",
    default=None,
    help="Lock the values: stronger scopes may not change them (default: as it is there already).",
)
@click.option("--because", metavar="TEXT", default="", help="The reason, shown wherever the values are explained.")
@change_options
def command(
    settings: tuple[str, ...],
    where: ScopeWords,
    presets: tuple[str, ...],
    lock: bool | None,
    because: str,
    how: HowToChange,
) -> int:
    """Show what setting a value would change; with --write, change it.

    Say where with one of --everywhere, --type, --below, --here-and-below, --here or --rule. Of a list, += adds items at
    the end, :first+= in front, and -= takes items away.
    """
    from davlo.core.change.steps import Change, Use

    if not settings and not presets:
        raise click.UsageError("say what to set, as in sidebar.right=main, or name a preset with --use")
    check_words(settings)
    site = open_named_site(how.site)
    scopes = where.scopes(site)
    uses = [Use(scope, preset) for scope in scopes for preset in presets]
    return show_or_write(site, Change((*uses, *say_steps(site, settings, scopes, lock, because))), how)
