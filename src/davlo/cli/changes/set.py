"""`davlo set`: show what setting a value would change, and change it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from davlo.core.site.settings.scopes import Scope
from davlo.core.wording import count, some_of

from ..command_list import answers
from ..completion.offers import complete_condition, complete_preset, complete_rule, complete_value
from ..options import not_understood, open_named_site
from ..screen import note, say
from .change_options import HowToChange, change_options, show_or_write
from .scope_options import ScopeWords, check_words, is_addition, say_steps, scope_options

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change, Step
    from davlo.core.site.pages.conditions import Condition
    from davlo.site import Site


@answers(
    "set",
    "davlo set sidebar.right=main --below /visit",
    "davlo set blocks.content+=donate --type event",
    "davlo set title.limit=70 --everywhere --write",
    "davlo set band.footer --lock --everywhere --except in_branch=/campaigns/spring",
    'davlo set sidebar.right=whats-on --new-rule "Summer" --when tag=summer',
    'davlo set access.editors=view,edit --here-and-below /press --because "The press office asked"',
)
@click.argument("settings", nargs=-1, metavar="SETTING=VALUE…", shell_complete=complete_value)
@scope_options
@click.option(
    "--use", "presets", metavar="PRESET", multiple=True, shell_complete=complete_preset, help="Use this preset there."
)
@click.option(
    "--lock/--unlock",
    default=None,
    help="Lock the values: stronger scopes may not change them (default: as it is there already).",
)
@click.option("--first", "is_first", is_flag=True, help="Put the items of every += in front of the list.")
@click.option("--because", metavar="TEXT", default="", help="The reason, shown wherever the values are explained.")
@click.option(
    "--from",
    "source",
    type=click.Path(exists=True, dir_okay=False),
    metavar="FILE",
    help="Set what differs in a table of values, .csv or .xlsx, such as davlo export writes.",
)
@click.option(
    "--new-rule",
    metavar="NAME",
    help="In a new rule of this name, for the pages that --when chooses: the strongest, or --weaker-than another.",
)
@click.option(
    "--when",
    metavar="CONDITION",
    multiple=True,
    shell_complete=complete_condition,
    help="With --new-rule: the pages it is for, as type=event.",
)
@click.option(
    "--except",
    "excepts",
    metavar="CONDITION",
    multiple=True,
    shell_complete=complete_condition,
    help="With --new-rule: but not these pages. With --lock: a rule locks the values on all other pages of the scope.",
)
@click.option(
    "--weaker-than", metavar="RULE", shell_complete=complete_rule, help="With --new-rule: put it right after this one."
)
@change_options
def command(
    settings: tuple[str, ...],
    where: ScopeWords,
    new_rule: str | None,
    when: tuple[str, ...],
    excepts: tuple[str, ...],
    weaker_than: str | None,
    presets: tuple[str, ...],
    lock: bool | None,
    is_first: bool,
    because: str,
    source: str | None,
    how: HowToChange,
) -> int:
    """Say where with one of --everywhere, --type, --below, --here-and-below, --here, --rule or --new-rule. Of a list,
    += adds items at the end, or in front with --first, and -= takes items away. With --from, each page of the table is
    set here; a blank cell takes away what the page itself sets. With --lock or --unlock, a SETTING alone keeps its
    value.
    """
    from davlo.core.change.steps.change import Change, Use

    if source is not None:
        if settings or presets or any(where) or lock is not None or is_first:
            raise click.UsageError("--from takes settings, values and pages from the table: leave out the others")
        return _from_table(source, because, how)
    if is_first and not any(is_addition(word) for word in settings):
        raise click.UsageError("--first goes with SETTING+=ITEM: it puts the item in front of the list")
    if not settings and not presets:
        raise click.UsageError("say what to set, and where")
    check_words(settings, lock)
    site = open_named_site(how.site)
    if new_rule is None:
        if when or weaker_than:
            raise click.UsageError("--when and --weaker-than go with --new-rule NAME")
        if excepts and not lock:
            raise click.UsageError(
                "--except goes with --new-rule NAME, or with --lock: the lock is not for these pages"
            )
        rule, scopes = Change(), where.scopes(site)
    else:
        if any(where):
            raise click.UsageError("--new-rule says where: leave out the other scope")
        rule, scopes = _rule(site, new_rule, when, excepts, weaker_than), [Scope.rule(new_rule)]
    uses = [Use(scope, preset) for scope in scopes for preset in presets]
    steps = say_steps(site.apply(rule) if rule.steps else site, settings, scopes, lock, because, is_first)
    if excepts and new_rule is None:
        steps = [_locked_but(site, step, excepts) for step in steps]
    return show_or_write(site, rule.then(*uses, *steps), how)


def _locked_but(site: Site, step: Step, excepts: Sequence[str]) -> Step:
    """The step that locks a value, but not on some pages; what is no lock stays as it is."""
    from davlo.core.change.steps.change import LockExcept, Say

    if not isinstance(step, Say) or not step.lock:
        return step
    excluded = (_condition(site, "--except", excepts),)
    return LockExcept(step.scope, step.setting, step.value, excluded, step.because)


def _rule(site: Site, name: str, when: Sequence[str], excepts: Sequence[str], weaker_than: str | None) -> Change:
    """The change that adds a rule for some pages, which gives nothing yet."""
    from davlo.core.change.steps.change import AddRule, Change

    if not when:
        raise click.UsageError("say for which pages the rule is: --when type=event, or --when in_branch=/visit")
    excluded = (_condition(site, "--except", excepts),) if excepts else ()
    return Change((AddRule(name, _condition(site, "--when", when), (), excluded, weaker_than or ""),))


def _condition(site: Site, option: str, words: Sequence[str]) -> Condition:
    """The condition that an option gives."""
    from davlo.core.faults import SiteError
    from davlo.files.read.sections.when import asked_condition

    try:
        return asked_condition(words, site)
    except SiteError as error:
        raise not_understood(option, error.faults) from None


def _from_table(source: str, because: str, how: HowToChange) -> int:
    """Show what the cells of a table would change; with --write, change it."""
    from davlo.core.change.cell_changes import cell_changes
    from davlo.files.read.rows.pasted_rows import read_pasted

    site = open_named_site(how.site)
    table = read_pasted(Path(source).read_bytes(), source)
    found = cell_changes(site.resolve(), table.columns, table.rows, source, because)
    tell = say if how.form == "text" else note
    told = f"{count(found.rows, 'row')}: {count(len(found.change.steps), 'cell')} to set, {found.same:,} as they are"
    tell(told + (f"; ignored, as neither settings nor details: {', '.join(found.ignored)}" if found.ignored else ""))
    if found.blank:
        places = some_of([f"{path} {setting}" for path, setting in found.blank], 3)
        verb = "cell is blank where the page sets nothing itself, so it stays as it is"
        more = "cells are blank where the pages set nothing themselves, so they stay as they are"
        tell(f"{count(len(found.blank), verb, more)} (for nothing write none): {places}")
    if not found.change.steps:
        return 0
    return show_or_write(site, found.change, how)
