"""The reach of a change on a screen: one sentence first, then what is worst, then what changes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from davlo.core.change.differences.value_changes import ValueChange, value_changes
from davlo.core.change.no_effect import LOCKED
from davlo.core.findings.finding import LEVELS, Finding
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.records.page_record import page_record
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import format_value, marked
from davlo.core.wording import NOT_THERE, count, shortened, some_of
from davlo.words.outcomes import detail_sentences, outcome_sentences
from davlo.words.reach import (
    access_sentences,
    declaration_sentences,
    finding_change_sentences,
    lock_sentences,
    no_effect_sentences,
    reach_sentence,
    rule_sentences,
)

from ..edits import print_edits
from ..findings import brief_lines
from ..options import typed
from ..questions.show import details_in_words
from ..questions.viewpoints import print_viewpoint_differences
from ..screen import Columns, Row, Section, paragraph, print_sections, say, table
from .scope_options import MOST_TYPED, exception_words, scope_words

if TYPE_CHECKING:
    from davlo.core.change.change_reach import ChangeReach
    from davlo.core.resolve.effective import EffectiveModel
    from davlo.files.rewrite.line_edits import Edit

MOST_PEOPLE = 6
MOST_ROWS, MOST_LINES, MOST_EDITED, MOST_FINDINGS = 10, 6, 12, 4
MOST_LETTERS, MOST_OF_NEW = 40, 16
NOTHING = (None, (), "")
"""Values that nobody misses where a setting comes or goes: those of a new area, say."""
MOST_PRINTED = 34
"""How many lines are printed without --all, besides the first and the last ones."""
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
    """Print what a change would do, on one screen unless everything is asked for.

    `keeps_values`: leave out where it has no effect. `is_refused`: it is not written if it brings about an error.
    """
    paragraph(sentence, "", "  ")
    paragraph(reach_sentence(reach.numbers), "", "  ")
    if reach.numbers.addresses:
        paragraph(NOT_SENT_ON, "", "  ")
    if is_brief:
        return
    sections = list(_sections(reach, edits, everything, keeps_values, is_refused))
    print_sections(sections, None if everything else MOST_PRINTED)
    say()


def _sections(
    reach: ChangeReach, edits: Sequence[Edit], everything: bool, keeps_values: bool, is_refused: bool
) -> Iterator[Section]:
    """What a change would do, what is worst first."""
    new, gone, changed = reach.findings
    errors = reach.new_errors
    if errors:
        refused = ", so it is not written without --even-so" if is_refused else ""
        yield f"It brings about {count(len(errors), 'error')}{refused}", partial(print_findings, errors)
    before, after = (state.site.tree.paths for state in (reach.before, reach.after))
    yield from _lines("Who gains and who loses", access_sentences(reach.access))
    yield from _lines("What readers and search engines meet", outcome_sentences(reach.outcome_changes, before))
    yield from _values(reach, everything)
    yield from _new_pages(reach, everything)
    dropped = reach.gone_pages.tolist()
    if dropped:
        yield from _lines(f"What goes ({count(len(dropped), 'page')})", [before[page] for page in dropped])
    yield from _lines("Details in the page list", detail_sentences(reach.detail_changes, before, reach.moved))
    yield from _lines("Locks", lock_sentences(reach.lock_changes, before))
    if not keeps_values:
        yield from _lines("No effect", no_effect_sentences(reach.no_effect, after))
        yield from _exceptions_to_locks(reach)
    declared = (*declaration_sentences(reach.declarations, reach.is_met), *rule_sentences(reach))
    yield from _lines("What is declared", declared)
    others = [one for one in new if one.level != "error"]
    for title, some in (("New findings", others), ("Findings that go", gone)):
        if some:
            yield f"{title} ({count(len(some), 'finding')})", partial(print_findings, some)
    yield from _lines("Findings on more or fewer pages", finding_change_sentences(changed))
    yield from _viewpoints(reach)
    if edits:
        yield "In the files", partial(_print_edited, edits, everything)


def _lines(title: str, lines: Iterable[str]) -> Iterator[Section]:
    told = list(lines)
    if told:
        yield title, partial(print_lines, told)


def print_lines(lines: Sequence[str], limit: int | None) -> None:
    """Print the first sentences. `limit`: the most to print; None prints all."""
    most = len(lines) if limit is None else min(MOST_LINES, limit)
    for line in lines[:most]:
        paragraph(line, "  ", "    ")
    if len(lines) > most:
        say(f"  and {count(len(lines) - most, 'more line')}: add --all")


def _exceptions_to_locks(reach: ChangeReach) -> Iterator[Section]:
    """What to type so that a lock lets the change through, for each lock that binds pages."""
    site, told = reach.after.site, list[str]()
    for one in reach.no_effect:
        if one.reason == LOCKED and one.by.scope.kind != ScopeKind.STAMP:
            paths = [site.tree.paths[page] for page in one.pages[: MOST_TYPED + 1].tolist()]
            excepts = [word for some in exception_words(site, one.scope, paths) for word in ("--except", some)]
            may = excepts and one.by.scope.kind != ScopeKind.ESTATE  # the estate's lock is for all sites
            told += [typed("set", one.setting, "--lock", *scope_words(one.by.scope), *excepts)] if may else []
    if told:
        yield (
            "To let it through, make an exception to the lock first",
            partial(_print_commands, list(dict.fromkeys(told))),
        )


def _print_commands(commands: Sequence[str], limit: int | None) -> None:
    for command in commands if limit is None else commands[:limit]:
        say(f"  {command}")


def _print_edited(edits: Sequence[Edit], everything: bool, limit: int | None) -> None:
    telling = [edit for edit in edits if everything or not _only_a_blank_cell(edit)]
    most = None if limit is None else min(MOST_EDITED, 2 * limit)
    print_edits(telling, "  ", most, "add --all")
    if len(edits) > len(telling):
        say(f"  and {count(len(edits) - len(telling), 'row')} with a blank cell more")


def _only_a_blank_cell(edit: Edit) -> bool:
    """Whether a row only gets a blank cell, since its sheet gets a column."""
    return edit.file.endswith(".csv") and edit.old.rstrip(", \r\n") == edit.new.rstrip(", \r\n") != ""


def _values(reach: ChangeReach, everything: bool) -> Iterator[Section]:
    if everything:
        settings = [set(state.site.catalogue.names()) for state in (reach.before, reach.after)]
        every = [
            [one.path, one.setting, format_value(one.before), format_value(one.after)]
            for one in reach.values()
            if one.before != one.after or all(one.setting in names for names in settings)
        ]
        if every:
            columns = Columns(paths=(0,), cut=(2, 3), names=(1,))
            yield "Values", partial(_print_rows, ("page", "setting", "before", "after"), every, columns, len(every))
        return
    paths = reach.before.site.tree.paths
    rows = [
        [
            one.setting,
            *_sides(one),
            f"{len(one.pages):,}",
            some_of([paths[int(page)] for page in one.pages[:2]], 2) + _more(one),
        ]
        for one in value_changes(reach)
        if one.has_before == one.has_after or any(value not in NOTHING for value in (one.before, one.after))
    ]
    if rows:
        columns = Columns(paths=(4,), cut=(1, 2), names=(0, 3))
        yield "Values", partial(_print_rows, ("setting", "before", "after", "pages", ""), rows, columns, MOST_ROWS)


def _print_rows(header: Sequence[str], rows: Sequence[Row], columns: Columns, most: int, limit: int | None) -> None:
    shown = rows if limit is None else rows[: min(most, limit)]
    if shown:
        table(header, shown, "  ", columns)
    if len(shown) < len(rows):
        say(f"  and {count(len(rows) - len(shown), 'more row')}: add --all")


def _new_pages(reach: ChangeReach, everything: bool) -> Iterator[Section]:
    """What the one page that is new will be; of several, each value that somebody says, with how many get it."""
    pages, after = reach.new_pages, reach.after
    if len(pages) == 1:
        record = page_record(after, int(pages[0]))
        told = [("details", details_in_words(record)), *record.lines(), *_rights(after, int(pages[0]))]
        columns = Columns(cut=(1,), names=(0,))
        yield f"What {record.path} will be", lambda limit: table(("", ""), told, "  ", columns)  # all of it
        if not everything:
            return
    rows = []
    for number, setting in enumerate(after.site.catalogue.settings) if len(pages) else ():
        found = after.resolved(number)
        said = pages[(found.source[pages] >= 0) & after.site.has(number)[pages]]
        for code in np.unique(found.value[said]).tolist():
            some = said[found.value[said] == code]
            value = shortened(marked(after.value(int(some[0]), number)), MOST_LETTERS)
            rows.append([setting.name, value, f"{len(some):,}", after.site.tree.paths[int(some[0])]])
    if rows:
        title = f"What {count(len(pages), 'new page')} {'gets' if len(pages) == 1 else 'get'}"
        columns = Columns(paths=(3,), cut=(1,), names=(0, 2))
        yield title, partial(_print_rows, ("setting", "value", "pages", "the first"), rows, columns, MOST_OF_NEW)


def _rights(effective: EffectiveModel, page: int) -> Iterator[tuple[str, str]]:
    """Who may do what on a page: those who may do the same together."""
    access, people = effective.shared(AccessModel), effective.site.people
    alike: dict[tuple[str, ...], list[str]] = {}
    for who in (VISITOR, *people.names):
        alike.setdefault(access.actions(who, page), []).append("a visitor" if who == VISITOR else who)
    for actions, some in alike.items():
        yield "may", f"{some_of(some, MOST_PEOPLE)}: {', '.join(actions) or 'nothing'}"


def _more(one: ValueChange) -> str:
    return f" and {len(one.pages) - 2:,} more" if len(one.pages) > 2 else ""


def _sides(one: ValueChange) -> list[str]:
    """The value before and after, with marks if it is not there or not shown."""
    before = shortened(marked(one.before), MOST_LETTERS) if one.has_before else NOT_THERE
    after = shortened(marked(one.after), MOST_LETTERS) if one.has_after else NOT_THERE
    if one.not_shown:
        after += ", not shown" if one.not_shown == len(one.pages) else f", not shown on {one.not_shown:,}"
    return [before, after]


def print_findings(findings: Sequence[Finding], limit: int | None) -> None:
    """Print findings, the worst first; if there are many, the first ones and how many more of each level."""
    worst = sorted(findings, key=lambda one: LEVELS.index(one.level))
    shown = worst if limit is None else worst[: min(MOST_FINDINGS, limit)]
    for finding in shown:
        for line in brief_lines(finding):
            say("  ", *line)
    left = worst[len(shown) :]
    if left:
        told = [count(sum(one.level == level for one in left), f"more {level}") for level in LEVELS]
        say(f"  and {', '.join(one for one in told if not one.startswith('0 '))}: add --all")


def _viewpoints(reach: ChangeReach) -> Iterator[Section]:
    """The viewpoints before and after, those that differ first."""
    viewpoints = reach.after.site.viewpoints
    if not viewpoints:
        return
    differing = reach.viewpoint_differences
    if not differing:
        who = "none" if len(viewpoints) > 1 else "not the one"
        yield f"Viewpoints: {who} of {len(viewpoints)} sees anything else", lambda limit: None
        return
    see = "sees" if len(differing) == 1 else "see"
    changed = {(one.page, one.viewer) for one in differing}
    same = [f"{one.page} as {one.viewer}" for one in viewpoints if (one.page, one.viewer) not in changed]

    def print_most(limit: int | None) -> None:
        shown = differing if limit is None else differing[:limit]
        if shown:
            print_viewpoint_differences(shown, "  ")
        if len(shown) < len(differing):
            say(f"  and {count(len(differing) - len(shown), 'more viewpoint')}: add --all")
        if same and limit != 0:
            paragraph(f"as before: {', '.join(same)}", "  ", "    ")

    yield f"Viewpoints: {len(differing)} of {len(viewpoints)} {see} something else", print_most
