"""`davlo rename`: a declaration gets another name, or goes into another, everywhere it is named."""

from __future__ import annotations

import click

from davlo.core.faults import UnknownName

from ..command_list import answers
from ..completion.offers import complete_declared, complete_kind
from ..options import open_named_site, typed
from .change_options import HowToChange, change_options, show_or_write


@answers(
    "rename",
    "davlo rename sidebar main usual",
    "davlo rename person ida.marsh noor.haddad",
    "davlo rename sidebar main usual --write",
)
@click.argument("kind", shell_complete=complete_kind)
@click.argument("old", shell_complete=complete_declared)
@click.argument("new", required=False)
@change_options
def command(kind: str, old: str, new: str | None, how: HowToChange) -> int:
    """KIND is sidebar, layout, block, type, person, group, setting, rule, …. If there is a declaration of the new name
    already, the old one goes into it: somebody leaves, and a colleague takes over.
    """
    from davlo.core.change.steps.change import Change
    from davlo.core.site.declared_names import DECLARED_KINDS, declared_names, plural_of

    site = open_named_site(how.site)
    if new is None:
        what = next((one for one in DECLARED_KINDS if kind in declared_names(site, one)), "")
        if what:
            raise click.UsageError(f"{kind} is a {what}: {typed('rename', what, kind, old)}")
        raise click.UsageError(f"say the new name too: {typed('rename', kind, old, 'NEW')}")
    kinds = {plural_of(one): one for one in DECLARED_KINDS}
    kind = kinds.get(kind, kind)
    if kind not in DECLARED_KINDS:
        raise UnknownName("kind of declaration", kind, DECLARED_KINDS)
    return show_or_write(site, Change().rename(kind, old, new), how)
