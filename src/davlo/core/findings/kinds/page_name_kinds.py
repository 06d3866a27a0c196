"""Findings about names of pages: pages that are not there, and paths that are easily mistaken."""

from __future__ import annotations

import re
import string
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import groups
from ...arrays.path_finder import Finder
from ...arrays.texts import SPACE_BEGINS, Texts, byte_table, places_of
from ...change.steps.change import CHANGED, AddPage, Change, Declare, NameInstead
from ...change.steps.page_steps import said_of_both
from ...site.declarations import Block
from ...site.page_mentions import page_mentions
from ...site.settings.near_names import MOST_LOST
from ...site.settings.scopes import OF_PAGES
from ...wording import count, some_of
from ..bound_kind import NO_PAGES, BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import site_kind
from ..mending import Remedy, without

MOST_NAMED = 3
"""How many names of the same page a message lists."""
_SPACE = re.compile(r"\s")
_SEPARATOR = re.compile(r"[,;\t]")
_EMPTY_SEGMENT = re.compile(r"//")
_DOTS = re.compile(r"/\.\.?(?=/|$)")
_MIX_UPS = (
    (_SPACE, "holds a space", "links to it break where a program cuts at spaces"),
    (_SEPARATOR, "holds a comma, a semicolon or a tab", "cells of tables are cut there"),
    (_EMPTY_SEGMENT, "holds //", "servers and browsers may read it as /"),
    (_DOTS, "holds . or .. as a part", "browsers take that for another folder"),
)
"""What makes a path odd, and what comes of it."""
_SUSPECT = SPACE_BEGINS | byte_table(b",;")
"""The bytes with which white space and separators begin."""
_SLASH, _AFTER_SLASH = byte_table(b"/"), byte_table(b"/.")
_FOLDS = byte_table(string.ascii_uppercase.encode() + b"%" + bytes(range(128, 256)))
"""Of two paths that differ only in letter case or percent codes, at least one holds one of these bytes."""


@site_kind(
    "no-such-page",
    "warning",
    "decisions",
    meaning="a statement, a stamp, a block, a link or a condition names a page that is not there",
    why="Pages are moved and deleted; what names them stays behind, does nothing, and takes effect again when somebody "
    "makes a page of that path. A guarantee about a page that is not there proves nothing.",
    mend="Name the page by its new path, add the page, or take away what names it.",
    example=Change((Declare(Block("tree-walk", CHANGED, kind="branch-links", under="/plants/tres")),)),
)
def no_such_page(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A statement, stamp, block, link or condition names a page that the page list lacks."""
    if not kind.reports(NO_PAGES):
        return
    site, statements = context.site, context.statements
    rows: dict[str, list[int]] = {}
    gone = np.flatnonzero(np.isin(statements.scope, OF_PAGES) & (statements.target < 0))
    for (target,), at in groups(statements.target[gone]):
        rows[statements.gone[-1 - target]] = sorted(gone[at].tolist())
    named = list(page_mentions(site))
    missing = site.tree.find_all(Texts.of(one.path for one in named)) < 0
    others: dict[str, list[Said]] = {}
    in_guarantee: set[str] = set()
    for one in (one for one, is_gone in zip(named, missing.tolist(), strict=True) if is_gone):
        others.setdefault(one.path, []).append(Said(one.said_by, one.place.file, one.place.line, one.path))
        in_guarantee |= {one.path} if one.kind == "guarantee" else set()
    paths = list(dict.fromkeys([*rows, *others]))
    near, beneath = context.near_pages(paths), _beneath(context, paths)
    near = {path: page for path, page in near.items() if not said_of_both(site, path, site.tree.number(page))}
    for path in paths:
        numbers, more = rows.get(path, []), others.get(path, [])
        told = [*context.said(numbers), *more]
        names = list(dict.fromkeys(f"{_named_by(one, more)} ({one.place})" for one in told))
        verb = "name" if len(names) > 1 else "names"
        yield kind.finding(
            NO_PAGES,
            numbers if not more else told,
            f"there is no page {path}, but {some_of(names, MOST_NAMED)} {verb} it"
            + (f"; {_begin(beneath[path])} with {path.rstrip('/')}/" if beneath.get(path) else ""),
            _fix(path, near.get(path), beneath.get(path, 0), context),
            *_named_instead(path, near.get(path)),
            _folder(path) if beneath.get(path) else None,
            without(site, "what is set for it", numbers) if numbers and not more else None,
            level="error" if path in in_guarantee else "",
        )


def _named_by(said: Said, others: list[Said]) -> str:
    """What names a page, in words: a statement, or something else by its name."""
    return f"the {said.scope}" if said in others else "a stamp" if said.scope == "stamp" else "a statement"


def _begin(pages: int) -> str:
    return f"{count(pages, 'page')} {'begins' if pages == 1 else 'begin'}"


def _fix(path: str, near: str | None, beneath: int, context: FindingContext) -> str:
    ways = [f"name {near}, if that was meant"] if near else []
    if beneath:
        ways.append(f"add a row {path} with the status folder to {context.site.page_list}")
    return "; or ".join([*ways, "take away what names it" if beneath else "take away what names it, or add the page"])


def _named_instead(path: str, near: str | None) -> Iterator[Remedy]:
    if near:
        yield Remedy(f"name {near} instead", Change((NameInstead(path, near),)))


def _folder(path: str) -> Remedy:
    return Remedy("add it as a folder", Change((AddPage(path, (("status", "folder"),)),)))


def _beneath(context: FindingContext, paths: list[str]) -> dict[str, int]:
    """How many pages begin with a path and a slash, for few paths."""
    if len(paths) > MOST_LOST:
        return {}
    texts, found = context.site.tree.paths, {}
    for path in paths:
        prefix = Texts.of([f"{path.rstrip('/')}/"])
        size = int(prefix.end[0])
        some = texts.take(np.flatnonzero(texts.end - texts.start > size))
        same = prefix.same(np.zeros(len(some), dtype=np.int64), some, some.start + size)
        found[path] = int(np.count_nonzero(same))
    return found


@site_kind(
    "odd-path",
    "warning",
    "decisions",
    depends_on=(),
    meaning="a path that is easily mistaken for another, or cut",
    why="Tables and mail programs cut at spaces and separators. Empty parts, dots and letter case mean another page to "
    "some servers, and the same page to others.",
    mend="Give the page a plain path, and let the old address lead to it.",
    needs_decision=True,
    example=Change((AddPage("/visit/Tickets", (("title", "Tickets"),)),)),
)
def odd_path(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """A path holds what is easily mistaken, or differs from another's only by letter case, `%2F` or `%25`."""
    site = context.site
    paths = site.tree.paths
    suspect = places_of(paths.data, _SUSPECT | _FOLDS)
    slash = places_of(paths.data, _SLASH, _AFTER_SLASH)
    candidates = np.union1d(paths.around(slash), paths.around(suspect[_SUSPECT[paths.data[suspect]]]))
    texts = paths.take(candidates).tolist()
    for pattern, what, why in _MIX_UPS:
        at = candidates[[pattern.search(text) is not None for text in texts]] if texts else NO_PAGES
        yield from _odd(context, kind, at, what, why)
    alike = _alike(paths, paths.around(suspect[_FOLDS[paths.data[suspect]]]))
    for (_,), at in kind.grouped(np.flatnonzero(alike >= 0), alike):
        names = some_of(paths.take(at).tolist(), MOST_NAMED)
        yield kind.finding(
            at,
            (_of_page(context, int(at[0])),),
            f"{names} differ only in letter case, or in %2F or %25: some servers take them for one page",
            "no single edit mends it: decide which address is right, and let the others lead to it (leads_to)",
        )


def _odd(context: FindingContext, kind: BoundKind, pages: NDArray[np.int64], what: str, why: str) -> Iterator[Finding]:
    for _, at in kind.grouped(pages):
        holds = what if len(at) == 1 else what.replace("holds", "hold", 1)
        yield kind.finding(
            at,
            (_of_page(context, int(at[0])),),
            f"{count(len(at), 'path')} {holds}, as {context.site.tree.paths[int(at[0])]}: {why}",
            "no single edit mends it: decide on a plain path for the page, and let the old one lead there (leads_to)",
        )


def _of_page(context: FindingContext, page: int) -> Said:
    return Said("page_list", context.site.page_list, int(context.site.tree.line[page]), context.site.tree.paths[page])


def _alike(paths: Texts, odd: NDArray[np.int64]) -> NDArray[np.int64]:
    """For each page that differs from another only by letter case, `%2F` or `%25`, the first of these; else -1.

    `odd: int64[n]` are the pages whose paths differ from their folded form.
    """
    found = np.full(len(paths), -1, dtype=np.int64)
    if not len(odd):
        return found
    folded = paths.replaced(odd, Texts.of(_folded(path) for path in paths.take(odd).tolist()))
    first = Finder(folded).firsts()
    again = np.flatnonzero(first != np.arange(len(paths)))
    found[again] = first[again]
    found[first[again]] = first[again]
    return found


def _folded(path: str) -> str:
    return path.casefold().replace("%2f", "/").replace("%25", "%")
