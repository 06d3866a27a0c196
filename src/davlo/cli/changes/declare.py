"""`davlo declare`: declare a sidebar, a block, a group, …, change one, or take it away."""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ..command_list import COMMANDS, Question, write_examples
from ..completion.offers import complete_condition, complete_declared, complete_group, complete_key, complete_rule
from ..declared_kinds import KINDS
from ..options import not_understood, open_named_site, typed
from ..screen import say
from .change_options import HowToChange, change_options, show_or_write
from .scope_options import is_addition

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change, Step
    from davlo.core.site.pages.conditions import Condition
    from davlo.files.form.shapes import Fields
    from davlo.site import Site


class KindCommand(Question):
    """The command of one kind: its help lists the keys that it takes."""

    kind = ""

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        rows = [(key if dots else f"{key}=", told) for key, dots, told in _key_rows(_form(self.kind))]
        if self.kind == "preset":
            rows.insert(0, ("SETTING=", "any setting, with the value that the preset gives it"))
        with formatter.section("Keys"):
            formatter.write_dl(rows)
        super().format_options(ctx, formatter)


def _form(kind: str) -> Fields:
    from davlo.files.form.typed_forms import FORMS

    return FORMS[kind]


def _key_rows(form: Fields) -> list[tuple[str, bool, str]]:
    """A row for each key: how it is typed, whether a name stands in it, and what it is for."""
    from davlo.files.form.shapes import Entries
    from davlo.files.form.shapes import Fields as FieldsShape

    found = []
    for key, field in form.fields.items():
        by_name = isinstance(field.shape, Entries | FieldsShape) or key == "has"
        found.append((f"{key}.NAME=" if by_name else key, by_name, field.help))
    return found


class DeclareCommands(click.Group):
    """The group of the commands that declare, one for each kind."""

    examples = (
        *(KINDS[kind].examples[0] for kind in ("sidebar", "block", "group", "setting", "layout")),
        "davlo declare --from house-style.yaml",
    )

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        is_file = any(word == FROM or word.startswith(f"{FROM}=") for word in args) and args[0].startswith("-")
        of_file = ["--help"] if "--help" in args else args
        return super().parse_args(ctx, ["--", FROM, *of_file] if is_file else args)

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(KINDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        from davlo.core.site.declared_names import plural_of

        if name == FROM:
            return _from_file
        singular = {plural_of(kind): kind for kind in KINDS}
        kind = singular.get(name, name)
        return _command_of(kind) if kind in KINDS else None

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        from davlo.core.faults import UnknownName

        if args and not args[0].startswith("-") and args[0] != FROM and self.get_command(ctx, args[0]) is None:
            raise UnknownName("kind of declaration", args[0], tuple(KINDS))
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Kinds"):
            formatter.write_dl([(kind, _about(kind)) for kind in KINDS])
        with formatter.section("Or many at once"):
            told = "Join what a file declares, in the form of davlo.yaml, into the site; its comments stay behind."
            formatter.write_dl([(f"{FROM} FILE", told)])

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        write_examples(self.examples, formatter)


FROM = "--from"
"""The option that names a file of declarations, and the command that it stands for."""


@click.command(
    FROM, cls=Question, options_metavar="FILE [OPTIONS]", examples=("davlo declare --from house-style.yaml",)
)
@click.option(
    FROM, "source", metavar="FILE", required=True, type=click.Path(exists=True, dir_okay=False, allow_dash=True)
)
@change_options
def _from_file(source: str, how: HowToChange) -> int:
    """Join the declarations of a file, in the form of davlo.yaml, into the site. What the site declares alike is left
    as it is; a name that it declares otherwise is refused. Comments of the file stay behind.
    """
    from davlo.core.change.steps.change import Change
    from davlo.files.rewrite.declared_by_file import declared_by_file

    name = "standard input" if source == "-" else source
    content = sys.stdin.buffer.read() if source == "-" else Path(source).read_bytes()
    site = open_named_site(how.site)
    steps = declared_by_file(site, content, name)
    if not steps:
        say(f"The site declares all that {name} declares.")
        return 0
    return show_or_write(site, Change(steps), how)


def _about(kind: str) -> str:
    keys = ", ".join(_form(kind).keys)
    return f"SETTING=VALUE, {keys}" if kind == "preset" else keys


@click.group(
    "declare",
    cls=DeclareCommands,
    no_args_is_help=False,
    subcommand_metavar="KIND NAME KEY=VALUE…",
    help=(
        f"{COMMANDS['declare']}\n\nA name that is there already is changed: only the keys that are typed. Each command "
        "shows its reach first; --write writes it. The keys of a kind: davlo declare KIND --help."
    ),
)
def command() -> None:
    """The commands that declare."""


@functools.cache
def _command_of(kind: str) -> click.Command:
    """The command of a kind."""
    made: Any = functools.wraps(_declare)(lambda **options: _declare(**options))  # options are noted on the function
    for option in reversed(_options(kind)):
        made = option(made)
    told = KINDS[kind].told or f"Declare a {kind}, or change one."
    more = " KEY=VALUE sets a key, KEY= takes it away; of a list, KEY+=ITEM adds, and KEY-=ITEM takes away."
    found = click.command(kind, cls=KindCommand, help=told + more, examples=KINDS[kind].examples)(made)
    found.kind, inner = kind, found.callback
    assert inner is not None
    found.callback = functools.partial(inner, kind=kind)
    return found


Decorator = Callable[[Any], Any]


def _options(kind: str) -> list[Decorator]:
    """The arguments and options of the command of a kind."""
    found: list[Decorator] = []
    if kind != "site":
        found.append(click.argument("name", metavar=KINDS[kind].named, shell_complete=complete_declared))
    found.append(click.argument("words", nargs=-1, metavar="[KEY=VALUE]…", shell_complete=complete_key))
    if kind == "person":
        option = click.option(
            "--group",
            "groups",
            metavar="GROUP",
            multiple=True,
            shell_complete=complete_group,
            help="Put this person into a group; repeat it for more.",
        )
        found.append(option)
    if kind == "rule":
        for name, word in (("stronger", "before"), ("weaker", "after")):
            told = f"Put it right {word} this rule in the list, of which the first is the strongest."
            one = click.option(f"--{name}-than", metavar="RULE", shell_complete=complete_rule, help=told)
            found.append(one)
    if kind in ("guarantee", "rule"):
        for name, told in (("when", "The pages that it is for"), ("except", "But not for these pages")):
            found.append(
                click.option(
                    f"--{name}",
                    name,
                    metavar="CONDITION",
                    multiple=True,
                    shell_complete=complete_condition,
                    help=f"{told}, as type=event.",
                )
            )
    if kind not in ("person", "viewpoint", "guarantee", "rule"):
        found.append(click.option("--first", "is_first", is_flag=True, help="Put the items of every += in front."))
    if kind != "site":
        them = ", with whatever names this person" if kind == "person" else ""
        found.append(click.option("--drop", "is_dropped", is_flag=True, help=f"Take it away{them}."))
        if kind not in ("viewpoint", "guarantee", "person", "rule"):
            told = "With --drop: take away what names it, too."
            found.append(click.option("--everywhere-named", "everywhere", is_flag=True, help=told))
    return [*found, change_options]


def _declare(
    how: HowToChange,
    words: tuple[str, ...],
    kind: str = "",
    name: str = "",
    is_first: bool = False,
    is_dropped: bool = False,
    everywhere: bool = False,
    stronger_than: str | None = None,
    weaker_than: str | None = None,
    **more: tuple[str, ...],
) -> int:
    from davlo.core.change.steps.change import Change, MoveRule
    from davlo.core.faults import SiteError, ValueFault

    groups, when, excepts = (more.get(key, ()) for key in ("groups", "when", "except"))
    if stronger_than and weaker_than:
        raise click.UsageError("say one of --stronger-than and --weaker-than")
    moves = bool(stronger_than or weaker_than)
    if is_dropped and (groups or when or excepts or moves or is_first or (words and kind != "viewpoint")):
        raise click.UsageError("--drop takes the declaration away: leave out its keys")
    if is_first and not any(is_addition(word) for word in words):
        raise click.UsageError("--first goes with KEY+=ITEM: it puts the item in front of the list")
    if everywhere and not is_dropped:
        raise click.UsageError("--everywhere-named goes with --drop")
    site = open_named_site(how.site)
    if is_dropped:
        return show_or_write(site, Change(_dropped(site, kind, name, words, everywhere)), how)
    if kind == "rule" and not any(rule.name == name for rule in site.rules):
        told = typed("set", "SETTING=VALUE", "--new-rule", name, "--when", "CONDITION")
        raise click.UsageError(f"there is no rule {name!r}; a rule is made by what it gives: {told}")
    if not (words or groups or when or excepts or moves or kind in ("person", "viewpoint", "sidebar", "type", "group")):
        keys = ", ".join(f"{key}=" for key in _form(kind).keys[:4])
        raise click.UsageError(f"say what it holds: {keys} …; for all keys: {typed('declare', kind, '--help')}")
    try:
        steps = _steps(site, kind, name, words, is_first, groups, when, excepts)
    except (SiteError, ValueFault) as error:
        faults = error.faults if isinstance(error, SiteError) else (error,)
        raise not_understood(f"declare {kind} {name}".rstrip(), faults) from None
    if moves:
        steps += (MoveRule(name, stronger_than or weaker_than or "", is_after=not stronger_than),)
    status = show_or_write(site, Change(steps), how)
    if how.form == "text" and kind == "setting":
        _print_without_stamp(site, Change(steps), name)
    if how.form == "text" and KINDS[kind].to_use and not _is_used(site, kind, name):
        say("To use it:")
        say(f"  {typed(*(word.format(name) for word in KINDS[kind].to_use))}")
    return status


def _print_without_stamp(site: Site, change: Change, name: str) -> None:
    """How pages keep a default that becomes one for new pages: those without a stamp lose it."""
    from davlo.core.change.steps.restamp import restamp_change

    before, after = site.catalogue.find(name), site.apply(change)
    number = after.catalogue.find(name)
    if number is None or not after.resolve().is_for_new_pages(number):
        return
    if before is not None and site.resolve().is_for_new_pages(before):
        return
    bare = restamp_change(after, [name]).counts[0].without_stamp
    if bare:
        verb = "page has no stamp, and loses" if bare == 1 else "pages have no stamp, and lose"
        say(f"{bare:,} {verb} what is set by default. To stamp them right after it is written:")
        say(f"  {typed('page', 'restamp', name, '--new', '--write')}")


def _is_used(site: Site, kind: str, name: str) -> bool:
    """Whether something names a declaration of the site, or it is one of Davlo's settings."""
    from davlo.core.site.mentions import Mentions

    return (kind == "setting" and site.catalogue.find(name) is not None) or Mentions(site).names(kind, name)


def _steps(
    site: Site,
    kind: str,
    name: str,
    words: tuple[str, ...],
    is_first: bool,
    groups: tuple[str, ...],
    when: tuple[str, ...],
    excepts: tuple[str, ...],
) -> tuple[Step, ...]:
    from davlo.core.change.steps.change import Declare
    from davlo.core.faults import UnknownName
    from davlo.core.site.declarations import Group
    from davlo.files.read.sections.when import asked_condition
    from davlo.files.rewrite.typed_declarations import declared_by_words

    condition: Condition | None = asked_condition(when, site) if when else None
    left_out = [asked_condition(excepts, site)] if excepts else []
    steps = declared_by_words(site, kind, name, words, is_first, condition, left_out)
    for group in dict.fromkeys(groups):
        if group not in site.people.groups:
            raise UnknownName("group", group, tuple(site.people.groups))
        members = site.people.groups[group]
        if name not in members:
            steps += (Declare(Group(group, site.people.places[group], (*members, name))),)
    return steps


def _dropped(site: Site, kind: str, name: str, words: tuple[str, ...], everywhere: bool) -> tuple[Step, ...]:
    """The step that takes a declaration away."""
    from davlo.core.change.steps.change import DropRule, DropViewpoint, Undeclare, UndeclareEverywhere
    from davlo.core.change.steps.declaration_steps import named_elsewhere
    from davlo.core.site.people import VISITOR

    if kind == "viewpoint":
        viewer = next((word.partition("=")[2] for word in words if word.startswith("as=")), VISITOR)
        return (DropViewpoint(name, viewer),)
    if kind == "rule":
        return (DropRule(name),)
    if everywhere or kind == "person":
        return (UndeclareEverywhere(kind, name),)
    named = named_elsewhere(site, kind, name)
    if named:
        places = ", ".join(f"{one.by} ({one.place})" for one in named[:3])
        more = f" and {len(named) - 3:,} more" if len(named) > 3 else ""
        raise click.UsageError(
            f"the {kind} {name} is named by {places}{more}; to take that away, too: "
            f"{typed('declare', kind, name, '--drop', '--everywhere-named')}"
        )
    return (Undeclare(kind, name),)
