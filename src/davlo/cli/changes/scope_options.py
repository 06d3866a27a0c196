"""SCOPE and SETTING=VALUE: where something is said, and what, as `set` and `unset` take them."""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any, NamedTuple

import click

from davlo.core.faults import UnknownName
from davlo.core.site.settings.scopes import Scope

from ..completion.offers import complete_page, complete_rule, complete_type
from ..options import Command, typed

if TYPE_CHECKING:
    from davlo.core.change.steps.change import Step
    from davlo.core.site.model import SiteModel
    from davlo.core.site.settings.values import Value
    from davlo.site import Site

_ASSIGNMENT = re.compile(r"(?P<name>[^=+\s]+?)(?P<how>\+|-)?=(?P<value>.*)", re.DOTALL)
_SETTING = re.compile(r"[^=+\s/]+")
_SHAPES = "SETTING=VALUE, or for a list SETTING+=ITEM, SETTING-=ITEM"


class ScopeWords(NamedTuple):
    """A scope as it was typed."""

    everywhere: bool
    type: str | None
    below: str | None
    here_and_below: str | None
    here: tuple[str, ...]
    rule: str | None

    def scopes(self, site: Site) -> list[Scope]:
        """The scopes it names: one, or one for each page of `--here`.

        Raises click.UsageError if none is named, or several.
        """
        named = [word for word, value in zip(_WORDS, self, strict=True) if value]
        if len(named) != 1:
            told = f"{' and '.join(named)}: name one of them" if named else "say where"
            raise click.UsageError(f"{told}, as in {', '.join(_EXAMPLES)}")
        if self.everywhere:
            return [Scope.everywhere()]
        if self.type is not None:
            return [Scope.type(self.type)]
        if self.rule is not None:
            return [Scope.rule(self.rule)]
        if self.below is not None:
            return [Scope.below(_path(site, self.below))]
        if self.here_and_below is not None:
            return [Scope.here_and_below(_path(site, self.here_and_below))]
        return [Scope.here(path) for path in dict.fromkeys(path for word in self.here for path in paths_of(site, word))]


_WORDS = ("--everywhere", "--type", "--below", "--here-and-below", "--here", "--rule")
_EXAMPLES = ("--everywhere", "--type event", "--below /visit", "--here /visit/tickets")


def scope_options(command: Command) -> Command:
    """The options that name a scope; the command takes them as `where`: `ScopeWords`."""

    @functools.wraps(command)
    def with_scope(*args: Any, **options: Any) -> Any:
        return command(*args, where=ScopeWords(*(options.pop(name) for name in ScopeWords._fields)), **options)

    for option in (
        click.option("--rule", metavar="NAME", shell_complete=complete_rule, help="In this rule."),
        click.option(
            "--here",
            metavar="PAGE-OR-GLOB",
            multiple=True,
            shell_complete=complete_page,
            help="On this page alone; repeat it for several, or name many by a glob, as in '/visit/*'.",
        ),
        click.option(
            "--here-and-below", metavar="PAGE", shell_complete=complete_page, help="On this page and on all below it."
        ),
        click.option("--below", metavar="PAGE", shell_complete=complete_page, help="On all pages below this one."),
        click.option("--type", metavar="NAME", shell_complete=complete_type, help="For the pages of this type."),
        click.option("--everywhere", is_flag=True, help="For every page."),
    ):
        with_scope = option(with_scope)
    return with_scope  # type: ignore[return-value]


def scope_words(scope: Scope) -> list[str]:
    """A scope as one types it.

    Example
    -------
    >>> scope_words(Scope.here_and_below("/visit")), scope_words(Scope.everywhere())
    (['--here-and-below', '/visit'], ['--everywhere'])
    """
    if scope.both:
        return ["--here-and-below", scope.name]
    return [f"--{scope.kind.word}", *([scope.name] if scope.name else [])]


def exception_words(site: SiteModel, scope: Scope, paths: Sequence[str] = ()) -> list[str]:
    """The words after `--except` that leave out the pages of a scope, or these pages; none if that cannot be typed.

    Example
    -------
    >>> import davlo
    >>> exception_words(davlo.open_demo(), Scope.below("/campaigns/spring"))
    ['below=/campaigns/spring']
    """
    from davlo.core.change.steps.lock_exceptions import condition_of
    from davlo.core.outcomes.declaration_contents import condition_words
    from davlo.core.site.settings.scopes import ScopeKind

    if scope.kind >= ScopeKind.STAMP and not scope.both:
        return [f"path={';'.join(paths)}"] if 0 < len(paths) <= MOST_TYPED and "*" not in "".join(paths) else []
    when, left_out = condition_of(site, scope)
    words = condition_words(when)
    if left_out or "details" in words:
        return []
    return [f"{key}={told if isinstance(told, str) else ';'.join(told)}" for key, told in words.items()]


MOST_TYPED = 3
"""The most pages that an exception names one by one."""


def _path(site: Site, words: str) -> str:
    """The path of a page, by path or title; also of a page that is gone, if something is still set for it."""
    path = site.page_names.path(words)
    if site.tree.find(path) < 0 and path in site.statements.gone:
        return path
    return site.tree.paths[site.find_page(words)]


def paths_of(site: Site, words: str) -> list[str]:
    """The pages that a path, a title or a glob names.

    Raises UnknownName if there is none.
    """
    if "*" not in words:
        return [_path(site, words)]
    import numpy as np

    mask = site.mask_when([f"path={words}"])
    found = site.tree.paths.take(np.flatnonzero(mask)).tolist()
    if not found:
        raise UnknownName("page that matches", words, ())
    return found


def check_words(words: Sequence[str], lock: bool | None = None) -> None:
    """Make sure that each word sets something; a setting alone keeps its value, to be locked or unlocked (`lock`).

    Raises click.UsageError if one does not.
    """
    for word, after in zip(words, [*words[1:], ""], strict=False):
        if _ASSIGNMENT.fullmatch(word) or (lock is not None and _SETTING.fullmatch(word)):
            continue
        if word.startswith("/"):
            raise click.UsageError(f"{word} is a page: say --here {word}, or --below {word} for the pages below it")
        if after and "=" not in after and not after.startswith("/"):
            raise click.UsageError(f"write {word}={after}, with nothing between")
        raise click.UsageError(f"{word!r} sets nothing: write {_SHAPES}")


def is_addition(word: str) -> bool:
    """Whether a word adds items to a list.

    Example
    -------
    >>> is_addition("blocks.content+=offer"), is_addition("sidebar.right=main")
    (True, False)
    """
    found = _ASSIGNMENT.fullmatch(word)
    return found is not None and found["how"] == "+"


def say_steps(
    site: Site, words: Sequence[str], scopes: Sequence[Scope], lock: bool | None, because: str, is_first: bool = False
) -> list[Step]:
    """The steps for words such as SETTING=VALUE, in each of the scopes; `is_first`: += puts items in front.

    Where a scope sets the setting already, its lock and its reason stay unless others are given. A setting alone keeps
    its value.

    Raises click.UsageError if one of them is not understood; ValueFault if a setting cannot take its value.
    """
    from davlo.core.change.differences.list_changes import changed_list, said_before
    from davlo.core.change.steps.change import FRESH_ACCESS, Say
    from davlo.core.site.settings.parse_values import typed_items
    from davlo.core.site.settings.values import ListChange
    from davlo.files.read.sections.typed_values import read_typed

    check_words(words, lock)
    plain: dict[str, Any] = {}
    changes: dict[str, ListChange] = {}
    kept = [word for word in words if not _ASSIGNMENT.fullmatch(word)]
    for word in words:
        found = _ASSIGNMENT.fullmatch(word)
        if found is None:
            continue
        name, how, value = found["name"], found["how"], found["value"]
        if name in plain or (not how and name in changes):
            raise click.UsageError(f"{name} is set twice: once is enough")
        if name == FRESH_ACCESS:
            plain[name] = _fresh_access(found)
            continue
        setting = site.catalogue.setting(name)
        if not how:
            plain[name] = read_typed(setting, value)
            continue
        before, items = changes.get(name, ListChange()), tuple(typed_items(value))
        part = "remove" if how == "-" else "first" if is_first else "add"
        changes[name] = replace(before, **{part: items})
    steps: list[Step] = []
    for scope in scopes:
        same = {name: _said_there(site, scope, name) for name in kept}
        values = {
            **same,
            **plain,
            **{name: changed_list(site, scope, name, change) for name, change in changes.items()},
        }
        for name, value in values.items():
            was_locked, reason = said_before(site, scope, name)
            is_locked = (was_locked if lock is None else lock) and name != FRESH_ACCESS
            steps.append(Say(scope, name, value, is_locked, because or reason))
    return steps


def _said_there(site: Site, scope: Scope, name: str) -> Value:
    """What a scope sets a setting to.

    Raises click.UsageError if it does not set it.
    """
    from davlo.core.change.steps.statement_steps import said_by

    site.catalogue.setting(name)
    row = said_by(site, scope.parts[0], name)
    if row < 0:
        raise click.UsageError(f"{scope.sentence} does not set {name}: write {name}=VALUE")
    return site.statements.said(row)


def _fresh_access(word: re.Match[str]) -> bool:
    """The value of `fresh_access=yes`, which a scope says or does not say.

    Raises click.UsageError for another value.
    """
    from davlo.core.site.settings.setting import FLAGS

    if word["how"] or not FLAGS.get(word["value"].lower()):
        told = typed("unset", "fresh_access", "--below", "PAGE")
        raise click.UsageError(f"fresh_access takes yes; to let access from weaker scopes through again: {told}")
    return True
