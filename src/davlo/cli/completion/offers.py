"""What the shell completes: pages, names, settings and their values, conditions, revisions, findings."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from contextlib import suppress
from functools import partial
from pathlib import Path

import click
from click.shell_completion import CompletionItem

from ..site_folder import NoSite, site_folder
from .name_list import NameList, Part, names_of

Completion = Callable[[click.Context, click.Parameter, str], list[CompletionItem]]
Offer = Callable[[NameList, str], Iterable[str]]
"""What may stand for a word that is begun; the words that do not begin alike are left out later."""

PLAIN = re.compile(r"[\w/.,@+:=-]+")
"""Names that a shell takes as they are. It would run or split others, so they are not completed."""
SENTENCE = re.compile(r"[\w/.,@+: -]+")
"""The names of rules and guarantees, which are sentences: their spaces are marked for the shell."""
_PAIR = re.compile(r"(?P<key>[^=]*?)(?P<sign>[+-]?=)(?P<value>.*)", re.DOTALL)
_VIEWERS = ("visitor", "signed-in")


def _completing(offer: Offer, several: bool = False, part: Part = "names", form: re.Pattern[str] = PLAIN) -> Completion:
    """A function that completes a word for the shell.

    `several`: whether words are separated by commas or semicolons, so that the last one is completed. `part`: the list
    that it needs.
    """

    def complete(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
        try:
            names = names_of(_folder(ctx), part)
        except NoSite:
            names = NameList()
        return _items(partial(offer, names), incomplete, several, form)

    return complete


def _folder(ctx: click.Context) -> Path:
    """The site folder that a command is about; of a command about an estate its first site, which has what is shared.

    Raises NoSite if there is none.
    """
    named = ctx.params.get("site") or ctx.find_root().params.get("site")
    if ctx.parent is None or ctx.parent.info_name != "estate":
        return site_folder(named)
    from davlo.core.faults import SiteError
    from davlo.files.read.estate.estate_file import ESTATE_FILE, read_estate_file, site_folders

    here = Path(ctx.params.get("estate") or Path.cwd())
    with suppress(SiteError, OSError):
        folder = next((one for one in (here, *here.parents) if (one / ESTATE_FILE).is_file()), here)
        estate = read_estate_file(folder)
        return next(estate.folder / one.name for one in site_folders(estate) if not one.fault)
    return site_folder(named)


def _items(
    offer: Callable[[str], Iterable[str]], incomplete: str, several: bool = False, form: re.Pattern[str] = PLAIN
) -> list[CompletionItem]:
    at = _last_item(incomplete) if several else 0
    before, last = incomplete[:at], incomplete[at:]
    found = (name for name in offer(last) if name.startswith(last))
    return [CompletionItem(before + name) for name in found if form.fullmatch(name[len(last) :] or "-")]


def _last_item(text: str) -> int:
    return max(text.rfind(","), text.rfind(";")) + 1


def _of(*kinds: str, more: tuple[str, ...] = ()) -> Offer:
    return lambda names, word: (*(name for kind in kinds for name in names.names.get(kind, ())), *more)


def _pairs(keys: Callable[[NameList], Iterable[str]], values: Callable[[NameList, str], Iterable[str]]) -> Offer:
    """What may stand for KEY=VALUE: first the keys, and after `=` the values of a key, the last of several."""

    def offer(names: NameList, word: str) -> Iterable[str]:
        pair = _PAIR.fullmatch(word)
        if pair is None:
            return [f"{key}=" for key in keys(names)]
        at = _last_item(pair["value"])
        head = f"{pair['key']}{pair['sign']}{pair['value'][:at]}"
        return [head + value for value in values(names, pair["key"])]

    return offer


def _of_setting(names: NameList, setting: str) -> Iterable[str]:
    return names.values.get(setting.partition(":")[0], ())


def _of_condition(names: NameList, key: str) -> Iterable[str]:
    if key in ("path", "in_branch", "below"):
        return names.names.get("page", ())
    return (*names.conditions.get(key, ()), *names.columns.get("tags" if key == "tag" else key, ()))


def _keys_of_condition(names: NameList) -> Iterable[str]:
    return dict.fromkeys((*(key for key in names.conditions if key != "details"), *names.columns))


def _of_detail(names: NameList, column: str) -> Iterable[str]:
    if column in ("type", "status"):
        return _of_condition(names, column)
    is_page = column in ("parent", "translates", "leads_to")
    return names.names.get("page", ()) if is_page else names.columns.get(column, ())


def _declarations(names: NameList, word: str) -> Iterable[str]:
    kinds = names.names.get("kind", ())
    plurals = ("people" if kind == "person" else f"{kind}s" for kind in kinds)
    return dict.fromkeys((*plurals, *(name for kind in kinds for name in names.names[kind])))


complete_page = _completing(_of("page"))
complete_setting = _completing(_of("setting"), several=True)
complete_value = _completing(_pairs(lambda names: names.values, _of_setting))
complete_viewer = _completing(_of("person", "group", more=_VIEWERS))
complete_person = _completing(_of("person"))
complete_action = _completing(_of("action"))
complete_area = _completing(_of("area"))
complete_type = _completing(_of("type", more=("page",)))
complete_rule = _completing(_of("rule"), form=SENTENCE)
complete_preset = _completing(_of("preset"))
complete_group = _completing(_of("group"))
complete_list = _completing(_of("list"))
complete_condition = _completing(_pairs(_keys_of_condition, _of_condition))
complete_detail = _completing(_pairs(lambda names: names.columns, _of_detail))
complete_finding = _completing(_of("finding"), part="findings")
complete_language = _completing(lambda names, word: names.columns.get("language", ()))
complete_kind = _completing(_of("kind"))
complete_finding_kind = _completing(_of("finding kind"))
complete_declaration = _completing(_declarations, form=SENTENCE)


def complete_declared(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Complete the name after a kind of declaration, as in `declare sidebar NAME` and `rename type OLD`."""
    kind = ctx.params.get("kind") or ctx.command.name or ""
    return _completing(_of(kind), form=SENTENCE)(ctx, param, incomplete)


def complete_key(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Complete KEY=VALUE after `declare KIND NAME`: the keys of the kind, and what each may hold."""
    kind = ctx.params.get("kind") or ctx.command.name or ""

    def keys(names: NameList) -> Iterable[str]:
        return (*names.keys.get(kind, ()), *(names.values if kind == "preset" else ()))

    def values(names: NameList, key: str) -> Iterable[str]:
        return names.keys.get(kind, {}).get(key, ()) or _of_setting(names, key)

    return _completing(_pairs(keys, values))(ctx, param, incomplete)


def complete_revision(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Complete an earlier state: a branch or tag of git, or else a folder."""
    from davlo.files.read.git.git_process import RevisionFault
    from davlo.files.read.git.git_repository import revision_names

    found: list[CompletionItem] = []
    with suppress(NoSite, RevisionFault, OSError):
        folder = _folder(ctx)
        found = _items(lambda word: revision_names(folder), incomplete, form=re.compile(r"[\w/.,@+~-]+"))
    return found or [CompletionItem(incomplete, type="dir")]
