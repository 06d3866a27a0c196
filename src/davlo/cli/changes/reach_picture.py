"""`--picture` of a change: pages that it changes, before beside after."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.change.differences.value_changes import value_changes

from ..machine import import_drawing
from ..questions.picture import ENDINGS
from ..questions.picture import write_figure as write_picture

if TYPE_CHECKING:
    from davlo.core.change.change_reach import ChangeReach
    from davlo.site import Site

MOST_PAGES = 3


def draw_reach(site: Site, reach: ChangeReach, path: Path) -> None:
    """Draw pages before and after: one page for each of the value changes that most pages share.

    Raises click.UsageError if the file's ending is none that can be drawn, or no page changes.
    """
    if path.suffix.lower() not in ENDINGS:
        raise click.UsageError(f"--picture writes a file that ends in {', '.join(ENDINGS)}, not {path.name!r}")
    paths = reach.before.site.tree.paths
    changes = sorted(value_changes(reach), key=lambda one: -len(one.pages))
    pages = list(dict.fromkeys(paths[int(one.pages[0])] for one in changes if one.has_before and one.has_after))
    if not pages:
        raise click.UsageError("no page changes, so there is nothing to draw")
    import_drawing()
    from davlo import draw

    write_picture(site, draw.change(reach, pages[:MOST_PAGES]), path, "--picture")
