"""`davlo list`: what sidebars, bands, presets… there are, and which pages use each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import click
import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.outcomes.uses import KINDS, Declaration, Uses
from davlo.core.progress import each
from davlo.core.wording import count, shortened

from .options import complete_area, complete_declaration, format_option, open_named_site, site_option
from .screen import Columns, Styled, as_json, listing, say, table

if TYPE_CHECKING:
    from davlo.site import Site

MOST = 60
"""The most pages of a declaration on a screen without --all."""
NOTE_WIDTH = 48
UNMET = 3
"""The column of pages on which a declaration is set and not met."""
COLUMNS = ("kind", "name", "pages", "not met", "areas", "declared", "note")
HOLDS = {"layout": "areas", "theme": "areas", "person": "groups", "group": "members", "role": "actions"}


@click.command(
    "list", epilog="Example: davlo list visit-planning.  Also: davlo list --fits footer; davlo list --unused"
)
@click.argument("name", required=False, shell_complete=complete_declaration)
@click.option("--kind", type=click.Choice(KINDS), help="Only declarations of this kind.")
@click.option(
    "--fits",
    metavar="AREA",
    shell_complete=complete_area,
    help="Only declarations that may stand in this area: bands that fit it, sidebars, blocks.",
)
@click.option("--unused", is_flag=True, help="Only what no page uses.")
@click.option("--all", "everything", is_flag=True, help=f"With NAME: list every page, even more than {MOST}.")
@format_option("text", "csv", "json")
@site_option
def command(
    name: str | None, kind: str | None, fits: str | None, unused: bool, everything: bool, form: str, site: str | None
) -> None:
    """List sidebars, bands, presets and other declarations, and the pages that use them.

    With NAME: one declaration, what it is made of, and the pages that use it.
    """
    if name is not None and (fits is not None or unused):
        raise click.UsageError("--fits and --unused list declarations: leave out the name")
    opened = open_named_site(site)
    uses = Uses(opened.resolve())
    if name is None:
        asked = [(one, found) for one in KINDS for found in uses.names(one)] if fits is None else uses.fits(fits)
        declarations = [
            uses.declaration(*words) for words in each("counting pages", [a for a in asked if kind in (None, a[0])])
        ]
        _list(
            [declaration for declaration in declarations if not unused or uses.is_unused(declaration)],
            fits,
            unused,
            form,
        )
        return
    kinds = [one for one in uses.kinds_of(name) if kind in (None, one)]
    if not kinds:
        raise click.UsageError(f"there is no {kind} {name}; it is a {' and a '.join(uses.kinds_of(name))}")
    if form == "json":
        as_json(
            [
                {
                    **_record(uses.declaration(one, name)),
                    "used on": _paths(opened, uses.met(one, name)),
                    "not met on": _paths(opened, uses.unmet(one, name)),
                }
                for one in kinds
            ]
        )
    elif form == "csv":
        masks = [(one, met, mask) for one in kinds for met, mask in _masks(uses, one, name)]
        rows = [[one, name, path, met] for one, met, mask in masks for path in _paths(opened, mask)]
        listing(form, ("kind", "name", "page", "met"), rows)
    else:
        for number, one in enumerate(kinds):
            if number:
                say()
            _one(opened, uses, one, name, everything)


def _masks(uses: Uses, kind: str, name: str) -> tuple[tuple[str, Mask], tuple[str, Mask]]:
    return ("yes", uses.met(kind, name)), ("no", uses.unmet(kind, name))


def _list(declarations: list[Declaration], fits: str | None, unused: bool, form: str) -> None:
    """The declarations, those of a kind together."""
    if form == "json":
        as_json([_record(declaration) for declaration in declarations])
        return
    rows = [
        [
            declaration.kind,
            declaration.name,
            (str(declaration.pages) if form == "csv" else f"{declaration.pages:,}") if declaration.pages >= 0 else "-",
            str(declaration.unmet) if declaration.unmet or form == "csv" else "",
            _areas(declaration),
            str(declaration.place),
            _note(declaration, form),
        ]
        for declaration in declarations
    ]
    if form == "csv":
        listing(form, COLUMNS, rows)
        return
    if rows:
        width = max(len(row[2]) for row in rows)
        rows = [[*row[:2], row[2].rjust(width), *row[3:]] for row in rows]
        keeps = [at for at in range(len(COLUMNS)) if at != UNMET or any(row[at] for row in rows)]
        table(
            [COLUMNS[at] for at in keeps],
            [[row[at] for at in keeps] for row in rows],
            columns=Columns(cut=(len(keeps) - 1,)),
        )
        say()
    told = f" that may stand in {fits}" if fits else ""
    say(count(len(declarations), "declaration") + told + (" that nothing uses" if unused else ""))
    if any(declaration.unmet for declaration in declarations):
        say("not met: pages for which it is set, and on which no reader sees it")
    if any(declaration.pages < 0 for declaration in declarations):
        say("-: pages cannot be counted for a role, since statements store its actions")


def _note(declaration: Declaration, form: str) -> str:
    if form == "csv":
        return declaration.note
    return shortened(": ".join(words for words in (declaration.label, declaration.note) if words), NOTE_WIDTH)


def _areas(declaration: Declaration) -> str:
    """The areas in which a declaration is met; how often in each where there are several."""
    if len(declaration.areas) == 1:
        return next(iter(declaration.areas))
    return ", ".join(f"{area} {pages:,}" for area, pages in declaration.areas.items())


def _one(site: Site, uses: Uses, kind: str, name: str, everything: bool) -> None:
    """One declaration for a person."""
    declaration = uses.declaration(kind, name)
    about = ": ".join(words for words in (declaration.label, declaration.note) if words)
    say(f"{kind} ", Styled(name), f", {declaration.place}{f': {about}' if about else ''}")
    if declaration.holds:
        say(f"  {HOLDS.get(kind, 'blocks')}: {', '.join(declaration.holds)}")
    if declaration.pages < 0:
        say("  pages cannot be counted for a role: statements store its actions, not its name")
        return
    areas = (
        f": {', '.join(f'{area} on {pages:,}' for area, pages in declaration.areas.items())}"
        if declaration.areas
        else ""
    )
    say(f"  met on {count(declaration.pages, 'page') if declaration.pages else 'no page'}{areas}")
    most = None if everything else MOST
    shown = [_said(site.tree.paths, uses.met(kind, name), most)]
    if declaration.unmet:
        say(f"  set and not met on {count(declaration.unmet, 'page')}: no reader sees it there")
        shown.append(_said(site.tree.paths, uses.unmet(kind, name), most))
    if sum(shown) < declaration.pages + declaration.unmet:
        say(f"  {sum(shown)} shown; to see them all say --all, or --format csv")


def _said(paths: Sequence[str], mask: Mask, most: int | None) -> int:
    """Say the first pages of some; how many."""
    chosen = np.flatnonzero(mask)[:most].tolist()
    for page in chosen:
        say(f"    {paths[page]}")
    return len(chosen)


def _paths(site: Site, mask: Mask) -> list[str]:
    return site.tree.paths.take(np.flatnonzero(mask)).tolist()


def _record(declaration: Declaration) -> dict[str, object]:
    return {
        "kind": declaration.kind,
        "name": declaration.name,
        "label": declaration.label or None,
        "note": declaration.note or None,
        "file": declaration.place.file,
        "line": declaration.place.line,
        "holds": list(declaration.holds),
        "pages": declaration.pages if declaration.pages >= 0 else None,
        "areas": dict(declaration.areas),
        "not met": declaration.unmet,
    }
