"""A word that was typed where it names nothing: what else it is, and the command that shows it."""

from __future__ import annotations

import shlex
from typing import TYPE_CHECKING

from davlo.core.faults import UnknownName
from davlo.core.site.declared_names import DECLARED_KINDS, declared_names, plural_of
from davlo.core.site.people import SIGNED_IN, VISITOR
from davlo.core.wording import count

if TYPE_CHECKING:
    from davlo.core.site.model import SiteModel

SEEN = "davlo.site"
"""Where the context of the commands keeps the site that was opened."""
COMMAND_OF = {
    **{word: f"davlo list {plural_of(kind)}" for kind in DECLARED_KINDS for word in (kind, plural_of(kind))},
    "menu": "davlo menus",
    "page": "davlo tree",
    "pages": "davlo tree",
    "conflicts": "davlo check",
    "findings": "davlo check",
    "map": "davlo picture --map SETTING",
}
"""For each word, the command that shows what it means."""


def hint_elsewhere(error: UnknownName, site: SiteModel | None) -> str:
    """What a word names instead, and what to type; empty if it names nothing else."""
    word, what = error.word, error.what
    if site is not None:
        path = site.page_names.path(word)
        if what != "page" and word.startswith("/") and site.tree.find(path) >= 0:
            command = {"list of links": "menus --on"}.get(what, "show")
            return f"{path} is a page: davlo {command} {shlex.quote(path)}"
        if what.startswith("page") and path.startswith("/"):
            folder, _, glob = path.partition("*")
            told = _in_folder(site, folder.rstrip("/"), glob)
            if told:
                return told
        if what == "setting" and word in site.actions:
            return f"{word} is an action: davlo access --who-may {word}; a map of it: davlo picture --map may:{word}"
        if what == "setting" and word in site.details.columns:
            return f"{word} is a detail of the page list: choose pages by it with --when {word}=VALUE"
        if word in (VISITOR, SIGNED_IN) and what != "person":
            return f"{word} is a viewer: davlo access --as {word}"
        kinds = [kind for kind in DECLARED_KINDS if kind != what and word in declared_names(site, kind)]
        if kinds:
            told = f"{word} is a {kinds[0]}: davlo list {shlex.quote(word)}"
            return told + (f"; what they may do: davlo access --as {word}" if kinds[0] in ("person", "group") else "")
        named = [name for kind in ("rule", "guarantee") for name in declared_names(site, kind) if _has_word(name, word)]
        if what == "declaration" and named and word not in COMMAND_OF:
            return f"in quotes: davlo list {shlex.quote(named[0])}"
    shows = COMMAND_OF.get(word)
    return f"to see them: {shows}" if shows and what in ("command", "page", "declaration", "setting") else ""


def _in_folder(site: SiteModel, folder: str, glob: str) -> str:
    """How many pages lie in a folder that is no page, and how to name them; empty if none do.

    `glob`: what follows the first `*` of the word.
    """
    number = sum(path.startswith(f"{folder}/") for path in site.tree.paths) if folder else 0
    if not number:
        return ""
    lie = f"{count(number, 'page')} {'lies' if number == 1 else 'lie'} in {folder}, at any depth"
    if glob != "*" and site.tree.find(folder) >= 0:
        return f"{lie}: --here {shlex.quote(folder + '/**')}"
    add = f"davlo page add {shlex.quote(folder)} status=folder"
    return f"{lie}: --here {shlex.quote(folder + '/**')}; {folder} is no page itself; to make it one: {add}"


def _has_word(name: str, word: str) -> bool:
    """Whether a name of several words holds a word."""
    return word.lower() in name.lower().split()
