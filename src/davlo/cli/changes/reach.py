"""The reach of a change on a screen: one sentence first, then what is worst, then what changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from davlo.core.change.differences.value_changes import ValueChange, value_changes
from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.site.settings.values import format_value, marked
from davlo.core.wording import NOT_THERE, count, shortened, some_of
from davlo.words.outcomes import outcome_sentences
from davlo.words.reach import (
    access_sentences,
    declaration_sentences,
    finding_change_sentences,
    lock_sentences,
    no_effect_sentences,
    reach_sentence,
)

from ..edits import print_edits
from ..findings import brief_lines
from ..questions.viewpoints import print_viewpoint_differences
from ..screen import Columns, heading, paragraph, say, table

if TYPE_CHECKING:
    from davlo.core.change.change_reach import ChangeReach
    from davlo.files.rewrite.line_edits import Edit

MOST_ROWS, MOST_LINES, MOST_EDITED, MOST_FINDINGS = 10, 6, 12, 4
MOST_LETTERS, MOST_OF_NEW = 40, 16
NOT_SENT_ON = (
    "nothing sends readers on yet: once this is written, davlo crawler-files --to DIR writes the redirects "
    "(davlo page move: also --addresses FILE)"
)
"""What follows the sentence of a change that publishes pages at other addresses."""


def print_reach(
    reach: ChangeReach,
    sentence: str,
    edits: Sequence[Edit],
    everything: bool,
    is_brief: bool,
    keeps_values: bool = False,
    is_refused: bool = True,
) -> None:
    """Print what a change would do.

    `keeps_values`: leave out where it has no effect. `is_refused`: it is not written if it brings about an error.
    """
    paragraph(sentence, "", "  ")
    paragraph(reach_sentence(reach.numbers), "", "  ")
    if reach.numbers.addresses:
        paragraph(NOT_SENT_ON, "", "  ")
    if is_brief:
        return
    new, gone, changed = reach.findings
    errors = reach.new_errors
    if errors:
        refused = ", so it is not written without --even-so" if is_refused else ""
        heading(f"It brings about {count(len(errors), 'error')}{refused}")
        print_findings(errors, everything)
    _print_lines("Who gains and who loses", access_sentences(reach.access), everything)
    _print_lines("What readers and search engines meet", _outcomes(reach), everything)
    _print_values(reach, everything)
    _print_new_pages(reach, everything)
    _print_lines("Locks", lock_sentences(reach.lock_changes, reach.before.site.tree.paths), everything)
    if not keeps_values:
        _print_lines("No effect", no_effect_sentences(reach.no_effect, reach.after.site.tree.paths), everything)
    _print_lines("What is declared", _declared(reach), everything)
    others = [one for one in new if one.level != "error"]
    if others:
        heading(f"New findings ({count(len(others), 'finding')})")
        print_findings(others, everything)
    if gone:
        heading(f"Findings that go ({count(len(gone), 'finding')})")
        print_findings(gone, everything)
    _print_lines("Findings on more or fewer pages", finding_change_sentences(changed), everything)
    _print_viewpoints(reach)
    if edits:
        heading("In the files")
        telling = [edit for edit in edits if everything or not _only_a_blank_cell(edit)]
        print_edits(telling, "  ", None if everything else MOST_EDITED, "add --all")
        if len(edits) > len(telling):
            say(f"  and {count(len(edits) - len(telling), 'row')} with a blank cell more")
    say()


def _only_a_blank_cell(edit: Edit) -> bool:
    """Whether a row only gets a blank cell, since its sheet gets a column."""
    return edit.file.endswith(".csv") and edit.old.rstrip(", \r\n") == edit.new.rstrip(", \r\n") != ""


def _print_values(reach: ChangeReach, everything: bool) -> None:
    if everything:
        rows = [[one.path, one.setting, format_value(one.before), format_value(one.after)] for one in reach.values()]
        if rows:
            heading("Values")
            table(("page", "setting", "before", "after"), rows, "  ", Columns(paths=(0,), cut=(2, 3), names=(1,)))
        return
    changes = value_changes(reach)
    if not changes:
        return
    heading("Values")
    paths = reach.before.site.tree.paths
    rows = [
        [
            one.setting,
            *_sides(one),
            f"{len(one.pages):,}",
            some_of([paths[int(page)] for page in one.pages[:2]], 2) + _more(one),
        ]
        for one in changes[:MOST_ROWS]
    ]
    table(("setting", "before", "after", "pages", ""), rows, "  ", Columns(paths=(4,), cut=(1, 2), names=(0, 3)))
    if len(changes) > MOST_ROWS:
        say(f"  and {count(len(changes) - MOST_ROWS, 'more row')}: add --all")


def _print_new_pages(reach: ChangeReach, everything: bool) -> None:
    """What the pages that are new get: each value that somebody says, with how many of them get it."""
    pages, after = reach.new_pages, reach.after
    rows = []
    for number, setting in enumerate(after.site.catalogue.settings) if len(pages) else ():
        found = after.resolved(number)
        said = pages[(found.source[pages] >= 0) & after.site.has(number)[pages]]
        for code in np.unique(found.value[said]).tolist():
            some = said[found.value[said] == code]
            value = shortened(marked(after.value(int(some[0]), number)), MOST_LETTERS)
            rows.append([setting.name, value, f"{len(some):,}", after.site.tree.paths[int(some[0])]])
    if rows:
        heading(f"What {count(len(pages), 'new page')} {'gets' if len(pages) == 1 else 'get'}")
        shown = rows if everything else rows[:MOST_OF_NEW]
        table(("setting", "value", "pages", "the first"), shown, "  ", Columns(paths=(3,), cut=(1,), names=(0, 2)))
        if len(shown) < len(rows):
            say(f"  and {count(len(rows) - len(shown), 'more row')}: add --all")


def _more(one: ValueChange) -> str:
    return f" and {len(one.pages) - 2:,} more" if len(one.pages) > 2 else ""


def _sides(one: ValueChange) -> list[str]:
    """The value before and after, with marks if it is not there or not shown."""
    before = shortened(marked(one.before), MOST_LETTERS) if one.has_before else NOT_THERE
    after = shortened(marked(one.after), MOST_LETTERS) if one.has_after else NOT_THERE
    if one.not_shown:
        after += ", not shown" if one.not_shown == len(one.pages) else f", not shown on {one.not_shown:,}"
    return [before, after]


def _print_lines(title: str, lines: Iterable[str], everything: bool) -> None:
    told = list(lines)
    if not told:
        return
    heading(title)
    for line in told if everything else told[:MOST_LINES]:
        paragraph(line, "  ", "    ")
    if len(told) > MOST_LINES and not everything:
        say(f"  and {count(len(told) - MOST_LINES, 'more line')}: add --all")


def print_findings(findings: Sequence[Finding], everything: bool) -> None:
    """Print findings, the worst first; if there are many, the first ones and how many more of each level."""
    worst = sorted(findings, key=lambda one: LEVELS.index(one.level))
    shown = worst if everything else worst[:MOST_FINDINGS]
    for finding in shown:
        for line in brief_lines(finding):
            say("  ", *line)
    left = worst[len(shown) :]
    if left:
        told = [count(sum(one.level == level for one in left), f"more {level}") for level in LEVELS]
        say(f"  and {', '.join(one for one in told if not one.startswith('0 '))}: add --all")


def _outcomes(reach: ChangeReach) -> Iterable[str]:
    return outcome_sentences(reach.outcome_changes, reach.before.site.tree.paths)


def _declared(reach: ChangeReach) -> Iterable[str]:
    return declaration_sentences(reach.declarations, bool(len(reach.looking_different) or reach.settings))


def _print_viewpoints(reach: ChangeReach) -> None:
    """The viewpoints before and after, those that differ first."""
    viewpoints = reach.after.site.viewpoints
    if not viewpoints:
        return
    differing = reach.viewpoint_differences
    if not differing:
        heading(
            f"Viewpoints: {'none' if len(viewpoints) > 1 else 'not the one'} of {len(viewpoints)} sees anything else"
        )
        return
    heading(
        f"Viewpoints: {len(differing)} of {len(viewpoints)} {'sees' if len(differing) == 1 else 'see'} something else"
    )
    print_viewpoint_differences(differing, "  ")
    changed = {(one.page, one.viewer) for one in differing}
    same = [f"{one.page} as {one.viewer}" for one in viewpoints if (one.page, one.viewer) not in changed]
    if same:
        paragraph(f"as before: {', '.join(same)}", "  ", "    ")
