"""`davlo compare` with a folder of built pages: whether they show what was decided."""

from __future__ import annotations

import datetime
import os
from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from davlo.core.wording import count

from ..options import open_named_site, write_sheets
from ..screen import Out, as_csv, as_json, heading, paragraph, say
from .sections import MOST_IN_MARKDOWN

if TYPE_CHECKING:
    from pathlib import Path

    from davlo.as_built.built_comparison import BuiltComparison

MOST_UNSEEN = 6
MOST_CAUSES = 12
"""The most causes of a part that are printed without --all."""
COLUMNS = ("page", "what", "should", "shows", "source", "file", "line")


def is_built(folder: str) -> bool:
    """Whether a word names a folder that is no site folder: one of built pages."""
    return "\0" not in folder and os.path.isdir(folder) and not os.path.isfile(os.path.join(folder, "davlo.yaml"))


def compare_built(
    folder: str,
    only: Sequence[str],
    when: Sequence[str],
    areas: str | None,
    today: datetime.date,
    everything: bool,
    fail_on: str,
    form: str,
    site: str | None,
    to: Path | None,
) -> int:
    """Show how the pages of a folder differ from what was decided; gives the exit status."""
    from davlo.as_built.mistakes import PARTS, in_parts

    strange = [part for part in only if part not in PARTS]
    if strange:
        raise click.UsageError(f"built pages do not show {strange[0]}: --only takes {', '.join(PARTS)} for them")
    if fail_on in ("access", "error"):
        raise click.UsageError("for built pages --fail-on takes difference or never")
    opened = open_named_site(site)
    found = opened.compare_built(folder, areas=areas, when=when, today=today)
    found = found._replace(mistakes=tuple(in_parts(found.mistakes, only or PARTS)))
    if to is not None:
        from davlo.as_built.sentences import built_title

        write_sheets(opened, to, built_title(folder, found.pages, found.causes), {"mistakes": (COLUMNS, _rows(found))})
    elif form == "json":
        as_json({"pages": found.pages, "mistakes": _records(found), "unseen": [*found.unseen]})
    elif form == "csv":
        as_csv(COLUMNS, _rows(found))
    else:
        _print(found, folder, everything, form)
    return int(fail_on == "difference" and bool(found.mistakes))


def _print(found: BuiltComparison, folder: str, everything: bool, form: str) -> None:
    from davlo.as_built.sentences import MOST_PAGES, built_sections, built_title
    from davlo.words.comparison import Section, as_markdown

    causes, most = found.causes, None if everything else MOST_PAGES
    title, sections = built_title(folder, found.pages, causes), built_sections(causes, most)
    unseen = Section("unseen", "Not compared", found.unseen)
    if form == "markdown":
        lines = [one.as_lines(most) for one in sections]
        Out().write(as_markdown(title, [*lines, unseen], None if everything else MOST_IN_MARKDOWN))
        return
    say(title[0])
    say(title[1])
    for section in sections:
        heading(section.title)
        for cause in section.causes if everything else section.causes[:MOST_CAUSES]:
            paragraph(cause.sentence, "  ", "    ")
            for example in cause.examples[:most]:
                paragraph(example, "    ", "      ")
            if most is not None and len(cause.examples) > most:
                say(f"    and {len(cause.examples) - most:,} more: add --all")
        if len(section.causes) > MOST_CAUSES and not everything:
            say(f"  and {count(len(section.causes) - MOST_CAUSES, 'more cause')}: add --all")
    heading(unseen.title)
    for line in unseen.lines if everything else unseen.lines[:MOST_UNSEEN]:
        paragraph(line, "  ", "    ")
    if len(unseen.lines) > MOST_UNSEEN and not everything:
        say(f"  and {len(unseen.lines) - MOST_UNSEEN:,} more: add --all")


def _records(found: BuiltComparison) -> list[dict[str, object]]:
    return [
        {
            "page": one.page,
            "what": one.what,
            "should": one.should or None,
            "shows": one.shows or None,
            "source": one.source.words if one.source else None,
            "file": one.source.file or None if one.source else None,
            "line": one.source.line or None if one.source else None,
        }
        for one in found.mistakes
    ]


def _rows(found: BuiltComparison) -> list[list[str]]:
    return [[str(row[name] or "") for name in COLUMNS] for row in _records(found)]
