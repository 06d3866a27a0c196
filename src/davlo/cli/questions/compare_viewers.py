"""`davlo compare --as A --as B`: what one viewer meets and another does not."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

import click

from davlo.words.viewers import VIEWER_PARTS, viewer_sections, viewer_title

from ..options import find_viewer, two_viewers, write_sheets
from ..screen import Out, as_csv, as_json, paragraph, say
from .sections import MOST_IN_MARKDOWN, print_parts

if TYPE_CHECKING:
    from pathlib import Path

    from davlo.core.change.differences.viewer_difference import ViewerDifference
    from davlo.site import Site


def compare_viewers(
    site: Site,
    who: Sequence[str],
    only: Sequence[str],
    when: Sequence[str],
    everything: bool,
    fail_on: str,
    form: str,
    to: Path | None,
) -> int:
    """Show what differs between two viewers; gives the exit status."""
    wrong = [part for part in only if part not in VIEWER_PARTS]
    if wrong:
        raise click.UsageError(f"between viewers there are the parts {', '.join(VIEWER_PARTS)}, not {wrong[0]}")
    parts = tuple(only) or VIEWER_PARTS
    found = site.viewer_difference(*two_viewers([find_viewer(site, one) for one in who]), when)
    header = ("path", "what", found.one, found.other)
    if to is not None:
        from davlo.words.outcomes import value_words

        write_sheets(site, to, viewer_title(found), {"differences": (header, viewer_rows(found, parts, value_words))})
    elif form == "json":
        as_json(viewer_record(found, parts))
    elif form == "csv":
        as_csv(header, viewer_rows(found, parts))
    else:
        title, numbers = viewer_title(found)
        sections = viewer_sections(found, parts)
        if form == "markdown":
            from davlo.words.comparison import as_markdown

            Out().write(as_markdown((title, numbers), sections, None if everything else MOST_IN_MARKDOWN))
        else:
            say(title)
            paragraph(numbers, "", "  ")
            print_parts(sections, everything)
            if not sections:
                say("They meet the same." if parts == VIEWER_PARTS else f"They meet the same in: {', '.join(parts)}.")
    return int(fail_on in ("difference", "access") and any(map(found.differs_in, parts)))


def viewer_record(found: ViewerDifference, parts: Sequence[str]) -> dict[str, object]:
    """What differs between two viewers as JSON holds it."""
    paths = found.site.tree.paths
    record: dict[str, object] = {"viewers": [found.one, found.other]}
    if "access" in parts:
        record["seen by one alone"] = {
            found.one: paths.take(found.seen_by_one).tolist(),
            found.other: paths.take(found.seen_by_other).tolist(),
        }
        record["may"] = [
            {found.one: [*one.one], found.other: [*one.other], "pages": paths.take(one.pages).tolist()}
            for one in found.rights
        ]
    record["outcomes"] = [
        {"path": row.path, "field": row.field, found.one: row.before, found.other: row.after}
        for row in found.outcomes_of(parts)
    ]
    return record


def viewer_rows(
    found: ViewerDifference, parts: Sequence[str], told: Callable[[Any], str] | None = None
) -> list[list[str]]:
    """What differs between two viewers, a row for each page and field.

    `told`: what makes a text of a field's value (default: JSON, where it is no text).
    """
    from davlo.frames.difference_tables import cell_text

    told = told or cell_text
    rows, paths = [], found.site.tree.paths
    for one in found.rights if "access" in parts else ():
        rows += [[path, "may", "; ".join(one.one), "; ".join(one.other)] for path in paths.take(one.pages)]
    for row in found.outcomes_of(parts):
        rows.append([row.path, row.field, told(row.before), told(row.after)])
    return rows
