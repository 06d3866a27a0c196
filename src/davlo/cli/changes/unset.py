"""`davlo unset`: show what taking a statement away would change, and take it away."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from davlo.core.site.settings.scopes import ScopeKind

from ..command_list import answers
from ..completion.offers import complete_preset, complete_setting
from ..options import open_named_site, typed
from .change_options import HowToChange, change_options, show_or_write
from .scope_options import ScopeWords, scope_options

if TYPE_CHECKING:
    from davlo.core.site.settings.scopes import Scope
    from davlo.site import Site


@answers(
    "unset",
    "davlo unset sidebar.right --below /visit",
    "davlo unset sidebar.right --below /visit --write",
    "davlo unset access.editors --here /press",
)
@click.argument("settings", nargs=-1, metavar="SETTING…", shell_complete=complete_setting)
@scope_options
@click.option(
    "--use",
    "presets",
    metavar="PRESET",
    multiple=True,
    shell_complete=complete_preset,
    help="Stop using this preset there.",
)
@change_options
def command(settings: tuple[str, ...], where: ScopeWords, presets: tuple[str, ...], how: HowToChange) -> int:
    """Say where with one of --everywhere, --type, --below, --here-and-below, --here or --rule. `fresh_access` in
    place of a setting: the scope no longer drops the access that weaker scopes give.
    """
    from davlo.core.change.steps.change import Change, StopUsing, TakeAway

    if not settings and not presets:
        raise click.UsageError("say what to take away, and where")
    site = open_named_site(how.site)
    scopes = where.scopes(site)
    steps = [TakeAway(scope, name) for name in settings for scope in _saying(site, scopes, name)]
    stops = [StopUsing(scope, preset) for scope in scopes for preset in presets]
    return show_or_write(site, Change((*steps, *stops)), how)


def _saying(site: Site, scopes: list[Scope], name: str) -> list[Scope]:
    """The scopes that set a setting: among many pages only those that do.

    Raises click.UsageError if none sets it.
    """
    from davlo.core.change.steps.change import FRESH_ACCESS
    from davlo.core.change.steps.statement_steps import said_by

    if name == FRESH_ACCESS:
        return scopes
    site.catalogue.setting(name)
    found = [scope for scope in scopes if any(said_by(site, part, name) >= 0 for part in scope.parts)]
    if not found:
        where = scopes[0].sentence if len(scopes) == 1 else f"none of these {len(scopes)} pages"
        if scopes[0].kind == ScopeKind.HERE and len(scopes) == 1:
            where = f"{scopes[0].name} itself"
        verb = "sets" if len(scopes) > 1 else "does not set"
        raise click.UsageError(f"{where} {verb} {name}\n  what sets it: {typed('list', name)}")
    return found
