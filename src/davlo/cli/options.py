"""Options and arguments that commands share, and the site they lead to."""

from __future__ import annotations

import datetime
import os
import re
import shlex
import threading
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from .completion.offers import complete_condition, complete_page, complete_setting, complete_value, complete_viewer
from .elsewhere import SEEN
from .machine import keep_memory
from .screen import note
from .site_folder import site_folder

if TYPE_CHECKING:
    from davlo.core.arrays.codebooks import Mask
    from davlo.core.faults import Fault, ValueFault
    from davlo.effective import Effective
    from davlo.site import Site


Command = TypeVar("Command", bound=Callable[..., Any])

IS_NEW = "davlo.cli.is_new"
"""The key in the context under which stands whether `.davlo` was missing when the command began."""


def typed(*words: str) -> str:
    """A command as one would type it, for the same site."""
    context = click.get_current_context(silent=True)
    site = context.params.get("site") if context else None
    return shlex.join(["davlo", *words, *(["--site", site] if site else [])])


def typed_for(folder: Path, *words: str) -> str:
    """A command as one would type it for a site folder, whatever command is running."""
    here = Path.cwd()
    is_here = folder.resolve() in (here, *here.parents)
    return shlex.join(["davlo", *words, *([] if is_here else ["--site", str(folder)])])


def open_named_site(named: str | None, meanwhile: Callable[[], None] | None = None, tells_notes: bool = False) -> Site:
    """The site that `--site` names, or the one around the current folder.

    `named`: the folder. `meanwhile`: what to do meanwhile in another thread. `tells_notes`: whether to print what Davlo
    reads differently from how it is written.
    """
    folder = site_folder(named)
    keep_memory()
    if meanwhile:
        threading.Thread(target=meanwhile, daemon=True).start()
    from davlo.files.store.own_folder import is_new
    from davlo.files.store.site_writes import recover
    from davlo.site import open_site

    cut_off = recover(folder)
    if cut_off is not None:
        record, is_finished = cut_off
        note(f"note: a write that was cut off is {'finished' if is_finished else 'taken back'}: {record.sentence}")
    _tell_unbelieved(folder)
    context = click.get_current_context(silent=True)
    if context:
        context.meta[IS_NEW] = is_new(folder)
    site = open_site(folder)
    if context:
        context.meta[SEEN] = site
    for text in site.notes if tells_notes else ():
        note(f"note: {text}")
    return site


def _tell_unbelieved(folder: Path) -> None:
    """Say in one line what lies in `.davlo` and is ignored, because this user did not make it here."""
    from davlo.files.store.own_folder import IGNORE, OWN, own_names

    if {*own_names(folder / OWN)} <= {IGNORE}:  # nothing is noted yet: what reads records is not imported
        return
    from davlo.files.store.unbelieved import maker_words, unbelieved

    found = unbelieved(folder)
    aside = typed_for(folder, "undo", "--set-aside")
    if found.unfinished:
        makers = " and ".join(maker_words(one) for one in found.unfinished[:2])
        note(
            f"note: {makers} began a write here that is not finished: some files may be new and others old. Davlo "
            f"reads, and writes nothing until its maker finishes it with any davlo command, or: {aside}"
        )
    elif found.names:
        were = "a record in .davlo is" if len(found.names) == 1 else f"{len(found.names):,} records in .davlo are"
        note(
            f"note: {were} not yours (made by somebody else, on another machine or in another folder), and ignored; "
            f"to put {'it' if len(found.names) == 1 else 'them'} away: {aside}"
        )


def tell_version_control(folder: Path) -> None:
    """After a write: say once that `.davlo` is kept out of version control; say each time if it is not."""
    from davlo.files.read.git.revisions import tracked

    context = click.get_current_context(silent=True)
    if tracked(folder, ".davlo"):
        note("note: git tracks .davlo, so colleagues get records that are not theirs. To keep it out from now on:")
        note(f"  git -C {shlex.quote(str(folder))} rm -r -q --cached .davlo")
    elif context and context.meta.pop(IS_NEW, False):
        note("note: what undo needs is in .davlo, which its .gitignore keeps out of version control")


def write_file(site: Site, path: Path, content: bytes | Callable[[Path], None], option: str = "--to") -> None:
    """Write the file that an option names, whole, and say so; nothing that the site reads is written over.

    Raises click.UsageError if the site reads it.
    """
    from davlo.files.store.outputs import WritesOverSite, refuse_site_files
    from davlo.files.store.whole_files import write_whole

    try:
        refuse_site_files(site, Path(site.folder), [path])
    except WritesOverSite as error:
        raise click.UsageError(f"{option}: {error}") from None
    write_whole(path, content)
    note(f"wrote {path}")


def check_openpyxl() -> None:
    """Raise click.UsageError if no workbook can be written, because openpyxl is not installed."""
    from importlib.util import find_spec

    from davlo.files.read.rows.workbook_cells import NEEDS_OPENPYXL

    if find_spec("openpyxl") is None:
        raise click.UsageError(NEEDS_OPENPYXL)


def write_sheets(
    site: Site, path: Path, title: Sequence[str], sheets: Mapping[str, tuple[Sequence[str], Sequence[Sequence[str]]]]
) -> None:
    """Write a workbook: a sheet that says what it is about, then one for each table, with its header and rows."""
    from davlo.frames.workbook import Sheet, write_sheets

    found = [
        Sheet(name, header, rows) for name, (header, rows) in {"summary": (title[:1], [title[1:]]), **sheets}.items()
    ]
    write_file(site, path, lambda part: write_sheets(found, part))


def site_option(command: Command) -> Command:
    """`--site DIR`."""
    return click.option(
        "--site",
        type=click.Path(file_okay=False),
        metavar="DIR",
        callback=lambda ctx, param, named: named or ctx.find_root().params.get("site"),
        help="The site folder (default: the nearest folder upwards with davlo.yaml).",
    )(command)


def format_option(*formats: str) -> Callable[[Command], Command]:
    """`--format`; the first of the formats is the default."""

    def add(command: Command) -> Command:
        return click.option(
            "--format", "form", type=click.Choice(formats), default=formats[0], show_default=True, help="Output format."
        )(command)

    return add


def typed_cell(column: str, text: str) -> str:
    """A detail that somebody typed as a cell of the page list has it: between tags stand semicolons there."""
    if column != "tags":
        return text
    from davlo.core.site.settings.parse_values import typed_items

    return "; ".join(typed_items(text))


def find_setting(site: Site, word: str) -> str:
    """The setting of this name; or the one that the site sets among those that a part of the name means.

    `sidebar` means `sidebar.right` if that is the one that some statement sets. Raises UnknownName, with the settings
    that are set first, if there is none, or more than one.
    """
    from davlo.core.faults import UnknownName

    if site.catalogue.could_be(word):
        return word
    lower = word.casefold()
    meant = [name for name in site.catalogue.names() if lower in (name.casefold(), *name.casefold().split("."))]
    used = [name for name in meant if len(site.statements.of_setting(site.setting_number(name)))]
    if len(used) == 1:
        note(f"note: {word} is taken for {used[0]}, which is the one that is set here")
        return used[0]
    if used:
        raise UnknownName("setting", word, used)
    raise UnknownName("setting", word, site.catalogue.names())


def page_argument(required: bool) -> Callable[[Command], Command]:
    """PAGE: a path, or a title that only one page has."""

    def add(command: Command) -> Command:
        return click.argument("page", required=required, shell_complete=complete_page)(command)

    return add


def viewer_option(told: str, is_repeatable: bool = False) -> Callable[[Command], Command]:
    """`--as WHO`: whose view it is; one viewer, or all that are named."""

    def add(command: Command) -> Command:
        return click.option(
            "--as", "who", metavar="WHO", multiple=is_repeatable, shell_complete=complete_viewer, help=told
        )(command)

    return add


def find_viewer(site: Site, word: str) -> str:
    """The viewer of this name, or the one whose name has this part, in any letter case: `ida` means `ida.marsh`.

    Raises UnknownName if there is none, or more than one.
    """
    from davlo.core.site.people import SIGNED_IN, VISITOR

    return _of_part(word, (*site.people.names, *site.people.groups, VISITOR, SIGNED_IN), "person or group")


def find_person(site: Site, word: str) -> str:
    """The person of this name, or the one whose name has this part, in any letter case.

    Raises UnknownName if there is none, or more than one.
    """
    return _of_part(word, site.people.names, "person")


def _of_part(word: str, names: Sequence[str], what: str) -> str:
    """The name that is this word, or that alone has it as a part; a note says what it was taken for."""
    from davlo.core.faults import UnknownName

    if word in names:
        return word
    lower = word.casefold()
    meant = [name for name in names if lower in (name, *re.split("[.-]", name))]
    if len(meant) != 1:
        raise UnknownName(what, word, meant or names)
    note(f"note: {word} is taken for {meant[0]}")
    return meant[0]


def two_viewers(who: Sequence[str]) -> tuple[str, str]:
    """The viewers that `--as` names twice.

    Raises click.UsageError if it names more, or one twice.
    """
    if len(who) != 2 or who[0] == who[1]:
        raise click.UsageError("two viewers are compared: say --as twice, with different names")
    return who[0], who[1]


def when_option(command: Command) -> Command:
    """`--when KEY=VALUE`: only pages that match it."""
    return click.option(
        "--when",
        metavar="KEY=VALUE",
        multiple=True,
        shell_complete=complete_condition,
        help="Only pages that match this condition, as in a rule's `when`: type=event, below=/visit, tag=prices, or a "
        "column of the page list, also as a date or a range: created=2026-03..2026-05, order=..5. All keys must match; "
        "repeat a key, or list its values, to allow any of them.",
    )(command)


def asked_pages(site: Site, words: Sequence[str]) -> Mask | None:
    """Where the conditions of `--when` hold; None where there are none. bool[pages]

    Raises click.UsageError if they are not understood.
    """
    if not words:
        return None
    from davlo.core.faults import SiteError

    try:
        found = site.mask_when(words)
    except SiteError as error:
        raise not_understood("--when", error.faults) from None
    has_several = len(words) > 1 or any(one in words[0] for one in ",;")
    if has_several or not found.any():
        from davlo.files.read.sections.when import unmatched

        from .faults import meant

        for one in unmatched(words, site):
            near = meant(one.word, one.allowed, one.what) if one.allowed else ""
            note(f"note: --when: {one.what}" + (f"; {near}" if near else ""))
    return found


def not_understood(option: str, faults: Iterable[Fault | ValueFault]) -> click.UsageError:
    """What is wrong with the words of an option, and what was probably meant."""
    from .faults import meant

    lines = [line for f in faults for line in (f.what, meant(f.word, f.allowed, f.what), f.hint) if line]
    return click.UsageError(f"{option}: " + "\n  ".join(lines))


def search_options(command: Command) -> Command:
    """`--having`, `--shown` and `--not-shown`: only pages that get certain values."""
    for option in (
        click.option(
            "--not-shown",
            metavar="SETTING",
            multiple=True,
            shell_complete=complete_setting,
            help="Only pages on which this setting is set but not shown.",
        ),
        click.option(
            "--shown",
            metavar="SETTING",
            multiple=True,
            shell_complete=complete_setting,
            help="Only pages on which a value of this setting is shown (none and the built-in value aside).",
        ),
        click.option(
            "--having",
            metavar="SETTING=VALUE",
            multiple=True,
            shell_complete=complete_value,
            help="Only pages that end up with this value, as in sidebar.right=none; a list may hold more. All settings "
            "must match; repeat a setting to allow either value.",
        ),
    ):
        command = option(command)
    return command


def searched_pages(effective: Effective, having: Sequence[str], shown: Sequence[str], not_shown: Sequence[str]) -> Mask:
    """The pages that `--having`, `--shown` and `--not-shown` choose. bool[pages]

    Raises click.UsageError if a value is not understood.
    """
    from davlo.core.faults import ValueFault
    from davlo.core.outcomes.page_search import search_pages

    try:
        return search_pages(effective, having, shown, not_shown)
    except ValueFault as fault:
        raise not_understood("--having", [fault]) from None


def today_option(command: Command) -> Command:
    """`--today`, else SOURCE_DATE_EPOCH, else the clock."""
    return click.option(
        "--today",
        callback=lambda ctx, param, text: _today(text),
        metavar="DATE",
        help="Use this date as today, as in 2026-05-01 (default: SOURCE_DATE_EPOCH, or the clock).",
    )(command)


def _today(text: str | None) -> datetime.date:
    if text is not None:
        try:
            return datetime.date.fromisoformat(text)
        except ValueError:
            raise click.BadParameter(f"it takes a date like 2026-05-01, not {text!r}") from None
    epoch = os.environ.get("SOURCE_DATE_EPOCH", "")
    if epoch:
        try:
            return datetime.datetime.fromtimestamp(int(epoch), datetime.UTC).date()
        except (ValueError, OverflowError, OSError):
            raise click.UsageError(f"SOURCE_DATE_EPOCH takes a number of seconds, not {epoch!r}") from None
    return datetime.datetime.now().astimezone().date()
