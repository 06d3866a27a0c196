"""`davlo page`: the tree itself, and the details of its pages: add, set, move, drop, restamp."""

from __future__ import annotations

import importlib
import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from davlo.core.wording import count

from ..command_list import COMMANDS, PAGE_COMMANDS, Question, answers, write_examples
from ..completion.offers import complete_detail, complete_page, complete_person, complete_type, complete_value
from ..options import find_person, open_named_site, typed
from ..questions.new_page import new_path, told_by_neighbours
from ..screen import heading, note, say, table
from .change_options import HowToChange, change_options, show_or_write
from .new_page_rows import new_columns, steps_of_row, steps_of_table, typed_pairs
from .scope_options import scope_words

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Change, Step
    from davlo.site import Site

MOST_NAMED = 12


class PageCommands(click.Group):
    """The group of the commands about pages, in the order in which people use them."""

    examples = (
        "davlo page add /visit/picnic --title Picnic",
        "davlo page set /visit/maps title=Maps",
        "davlo page move /visit/cafe /cafe",
        "davlo page drop /visit/thanks",
        "davlo page restamp blocks.content --type event",
    )

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(PAGE_COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name in ("refresh", "restamp"):
            found: click.Command = importlib.import_module(f".{name}", __package__).command
            return found
        return super().get_command(ctx, name)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(PAGE_COMMANDS.items()))

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        write_examples(self.examples, formatter)


@click.group(
    "page",
    cls=PageCommands,
    no_args_is_help=False,
    help=f"{COMMANDS['page']}\n\nEach command shows its reach first; --write writes it.",
)
def command() -> None:
    """The commands about pages."""


def _page_command(name: str, *examples: str) -> Callable[[Callable[..., Any]], Question]:
    """Make a function a command of the group, as `answers` does."""

    def decorate(function: Callable[..., Any]) -> Question:
        made = answers(name, *examples)(function)
        command.add_command(made)
        return made

    return decorate


@_page_command(
    "page add",
    "davlo page add /visit/picnic --title Picnic --type event",
    "davlo page add /visit/picnic --title Picnic sidebar.right=none",
    "davlo page add --from new-pages.csv",
)
@click.argument("path", required=False)
@click.argument("settings", nargs=-1, metavar="[SETTING=VALUE]…", shell_complete=complete_value)
@click.option("--title", metavar="TEXT", help="The page's title (default: from the last part of its path).")
@click.option("--type", "kind", metavar="NAME", shell_complete=complete_type, help="Its type (default: page).")
@click.option(
    "--parent", metavar="PAGE", shell_complete=complete_page, help="The page above it, if its path does not say."
)
@click.option(
    "--detail",
    "details",
    metavar="COLUMN=VALUE",
    multiple=True,
    shell_complete=complete_detail,
    help="Any other detail, as in language=fr.",
)
@click.option("--draft", "is_draft", is_flag=True, help="The page is a draft.")
@click.option(
    "--by",
    "maker",
    metavar="PERSON",
    shell_complete=complete_person,
    help="Who makes it, and so owns it where no default names an owner.",
)
@click.option(
    "--from",
    "source",
    metavar="FILE",
    help="Add a page for each row of a CSV file, or of a paste from a spreadsheet with - for standard input.",
)
@change_options
def add(
    path: str | None,
    settings: tuple[str, ...],
    title: str | None,
    kind: str | None,
    parent: str | None,
    details: tuple[str, ...],
    is_draft: bool,
    maker: str | None,
    source: str | None,
    how: HowToChange,
) -> int:
    """Adds a row to the page list, and the stamps that a new page gets.

    It takes the language of the page above it, and the type that all pages beside it share, if you say none.
    SETTING=VALUE sets what the page itself says; it may be a detail, too, and a column that is not there is made. With
    --from the columns of the file are details and settings.
    """
    if (path is None) == (source is None):
        raise click.UsageError("name the path of one page, as in /visit/picnic, or a file of pages with --from")
    site = open_named_site(how.site)
    if source is not None:
        if settings or title or kind or details:
            raise click.UsageError("--from takes titles, types and details from the file: leave out the others")
        of_all = {"parent": parent, "status": "draft" if is_draft else None}
        return show_or_write_pages(site, _changed(steps_of_table(site, source, of_all, maker or "")), how)
    told = {"title": title, "type": kind, "parent": parent, "status": "draft" if is_draft else None}
    row = {"path": str(path), **{name: value for name, value in told.items() if value is not None}}
    said = [*typed_pairs(details, "--detail"), *typed_pairs(settings, "SETTING=VALUE")]
    names = [*row, *(one.name for one in said)]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise click.UsageError(f"{twice} is said twice: once is enough")
    lists = {one.name for one in said if one.how}
    cells = {**row, **{one.name: one.text for one in said}}
    cells |= told_by_neighbours(site, new_path(site, str(path)), cells)
    return show_or_write_pages(site, _changed(steps_of_row(site, cells, maker or "", lists=lists)), how)


@_page_command(
    "page set",
    "davlo page set /visit/maps title=Maps",
    "davlo page set /events/2027 status=live",
    "davlo page set '/visit/*' language=en --write",
    "davlo page set /visit/maps tags+=family",
)
@click.argument("page", shell_complete=complete_page)
@click.argument("details", nargs=-1, required=True, metavar="COLUMN=VALUE…", shell_complete=complete_detail)
@change_options
def set_details(page: str, details: tuple[str, ...], how: HowToChange) -> int:
    """Sets details of a page in the page list: title, type, parent, status, tags, order, language and others.

    An empty value blanks the cell; += adds items to a list such as tags, and -= takes them away. A column that is not
    there is made. status=live publishes a draft. PAGE may be a glob, as in '/visit/*'.
    """
    from davlo.core.change.steps.change import SetDetail

    from .scope_options import paths_of

    site = open_named_site(how.site)
    told = typed_pairs(details, "a detail")
    for one in told:
        if one.name == "path":
            move = typed("page", "move", page, one.text or "PATH")
            raise click.UsageError(f"another path means to move the page: {move}")
        if site.catalogue.could_be(one.name):
            instead = typed("set", f"{one.name}{one.how}={one.text}", "--here", page)
            raise click.UsageError(f"{one.name} is a setting, not a detail: {instead}")
    if len({one.name for one in told}) < len(told):
        raise click.UsageError("a detail is said twice: once is enough")
    paths = paths_of(site, page)
    steps: list[Step] = [*new_columns(site, [one.name for one in told])]
    for one in told:
        text = site.tree.paths[site.find_page(one.text)] if one.name == "parent" and one.text else one.text
        for path in paths:
            before = site.details.column(one.name)[site.tree.number(path)] if one.how else ""
            steps.append(SetDetail(path, one.name, one.changed(before) if one.how else text))
    return show_or_write_pages(site, _changed(steps), how)


@_page_command(
    "page move",
    "davlo page move /visit/cafe /cafe",
    "davlo page move /visit/cafe /cafe --addresses moved.csv --write",
    "davlo page move /visit/cafe /visit/tea-room",
)
@click.argument("page", shell_complete=complete_page)
@click.argument("path")
@click.option(
    "--parent",
    metavar="PAGE",
    default="",
    shell_complete=complete_page,
    help="The page above it, if the new path does not say.",
)
@click.option(
    "--addresses",
    type=click.Path(dir_okay=False),
    metavar="FILE",
    help="Write the old and the new address of each page to this CSV file, for redirects.",
)
@change_options
def move(page: str, path: str, parent: str, addresses: str | None, how: HowToChange) -> int:
    """Moves a page to another path, and the pages below it whose paths begin with its own.

    Whatever names a moved page is updated: statements, rules, lists of links, other pages. What cannot be updated, such
    as a glob, is listed.
    """
    from davlo.core.change.steps.change import Change, MovePage
    from davlo.core.change.steps.page_steps import pages_moved

    site = open_named_site(how.site)
    old = site.tree.paths[site.find_page(page)]
    above = site.tree.paths[site.find_page(parent)] if parent else ""
    step = MovePage(old, new_path(site, path), above)
    renames = pages_moved(site, step)
    status = show_or_write_pages(site, Change((step,)), how)
    if how.form == "text":
        _print_globs(site, list(renames), list(renames.values()))
    if addresses is not None:
        _write_addresses(site, Change((step,)), renames, Path(addresses))
    return status


@_page_command(
    "page drop",
    "davlo page drop /visit/thanks",
    "davlo page drop /press --branch",
    "davlo page drop /visit/thanks --write",
)
@click.argument("page", shell_complete=complete_page)
@click.option("--branch", is_flag=True, help="Drop all pages below it too.")
@change_options
def drop(page: str, branch: bool, how: HowToChange) -> int:
    """Drops a page from the page list, with what is set for it, and lists what else names it."""
    from davlo.core.change.steps.change import Change, DropPage

    site = open_named_site(how.site)
    number = site.find_page(page)
    path, end = site.tree.paths[number], int(site.tree.end[number])
    if end > number + 1 and not branch:
        below = count(end - number - 1, "page stands", "pages stand")
        raise click.UsageError(f"{below} below {path}: drop them too with --branch, or move them first")
    status = show_or_write_pages(site, Change((DropPage(path, branch),)), how)
    if how.form == "text":
        _print_names(site, site.tree.paths[number:end].tolist())
    return status


def _changed(steps: Sequence[Step]) -> Change:
    from davlo.core.change.steps.change import Change

    return Change((*steps,))


def show_or_write_pages(
    site: Site, change: Change, how: HowToChange, beside: Mapping[str, object] | None = None
) -> int:
    """Show or write a change; where the page list is no file that Davlo may write, print the rows to enter by hand.

    `beside`: more keys of the JSON object.
    """
    from davlo.files.rewrite.csv_text import is_csv

    if not is_csv(site.page_list):
        return _by_hand(site, change, how)
    return show_or_write(site, change, how, beside=beside)


def _by_hand(site: Site, change: Change, how: HowToChange) -> int:
    """Print the rows that somebody must enter in a page list that Davlo does not write."""
    from davlo.core.change.page_list_rows import HEADER, page_list_rows

    from .reach import print_reach

    reach = site.reach(change)
    if how.by is not None:
        site.check_may(reach, find_person(site, how.by))
    print_reach(reach, change.words, (), how.everything, how.is_brief)
    if how.write:
        note(f"nothing was written: Davlo does not write {site.page_list}")
    say(f"Davlo does not write {site.page_list}. Enter there by hand:")
    table(HEADER, page_list_rows(reach), "  ")
    say("Then type:")
    for words in _commands_after(change):
        say(f"  {typed(*words)}")
    say(f"  {typed('check')}")
    return 1


def _commands_after(change: Change) -> Iterator[list[str]]:
    """What to type once the rows are there: what pages themselves set, and the stamps of new pages."""
    from davlo.core.change.steps.change import AddPage, RefreshPages, Say
    from davlo.core.site.settings.values import raw_of
    from davlo.files.rewrite.yaml_text import flow

    for step in change.steps:
        if isinstance(step, Say):
            raw = step.value if isinstance(step.value, str) else raw_of(step.value)
            value = "; ".join(map(str, raw)) if isinstance(raw, list) else raw if isinstance(raw, str) else flow(raw)
            yield ["set", f"{step.setting}={value}", *scope_words(step.scope), "--write"]
    if any(isinstance(step, AddPage | RefreshPages) for step in change.steps):
        yield ["page", "restamp", "--new", "--write"]


def _print_globs(site: Site, old: list[str], new: list[str]) -> None:
    """The globs that match a page before or after it moves: Davlo cannot know what they should become."""
    from davlo.core.site.page_mentions import globs_matching

    found = globs_matching(site, [*old, *new])
    if found:
        heading("Globs that match a page which moves: they stay as they are")
        for one in found[:MOST_NAMED]:
            say(f"  {one.path} in the {one.said_by} ({one.place})")


def _print_names(site: Site, paths: list[str]) -> None:
    """What else names pages that are dropped."""
    from davlo.core.site.page_mentions import page_mentions

    named = [one for one in page_mentions(site) if one.path in set(paths)]
    if named:
        heading("What else names it, and stays")
        for one in named[:MOST_NAMED]:
            say(f"  {one.path}: the {one.said_by} ({one.place})")
        if len(named) > MOST_NAMED:
            say(f"  and {count(len(named) - MOST_NAMED, 'more place')}")


def _write_addresses(site: Site, change: Change, renames: dict[str, str], path: Path) -> None:
    """Write the old and the new address of each page that moves."""
    from davlo.core.outcomes.sitemap.addresses import moved_addresses
    from davlo.frames.csv_lines import write_csv

    from ..options import write_file

    told = io.StringIO()
    write_csv(told, [("old", "new"), *moved_addresses(site, site.apply(change), renames)])
    write_file(site, path, told.getvalue().encode(), "--addresses")
