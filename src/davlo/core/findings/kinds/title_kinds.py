"""Findings about titles and headings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import groups
from ...arrays.path_finder import fingerprints
from ...arrays.texts import Texts
from ...change.steps.change import Change, Say
from ...outcomes.placeholders import HEADING, filled_on, placeholder_names, unknown_placeholders, word_texts
from ...outcomes.shown_things import OF_SHOWN
from ...site.settings.scopes import Scope
from ...site.settings.setting import PATTERNS
from ...wording import count, some_of
from ..bound_kind import BoundKind
from ..context import FindingContext
from ..finding import Finding, Said
from ..finding_kind import ALL, setting_kind, site_kind
from ..folded_setting import FoldedSetting
from ..mending import FEW, Remedy
from ..title_marks import PATTERN, folded_title, title_texts


@site_kind(
    "duplicate-title",
    "warning",
    "titles",
    depends_on=("title.pattern", "texts"),
    setting=PATTERN,
    meaning="live pages of one language share a document title",
    why="In tabs, bookmarks and search results nobody can tell them apart.",
    mend="Decide what tells them apart; change a title, or put {parent} or {branch} into the pattern.",
    needs_decision=True,
)
def duplicate_title(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """Live pages of one language share a document title, letter case aside; gathered by pattern."""
    source = context.source(PATTERN)
    by_pattern: dict[int, list[SharedTitle]] = {}
    for shared in _shared_titles(context):
        if kind.reports(shared.pages):
            by_pattern.setdefault(int(source[shared.pages[0]]), []).append(shared)
    for by, groups_of in by_pattern.items():
        alike = sorted(groups_of, key=lambda one: (-len(one.pages), int(one.pages[0])))
        pages = np.concatenate([one.pages for one in alike])
        titles = [f'"{one.title}" ({len(one.pages):,})' for one in alike]
        what = "a document title" if len(alike) == 1 else f"{len(alike):,} document titles"
        yield kind.finding(
            pages,
            [by],
            f"{count(len(pages), 'live page')} share {what}, {context.by(by)}: {some_of(titles, MOST_TITLES)}",
            f"no single edit mends it: decide what tells the pages apart, and change titles in the page list or the "
            f"pattern{_what_would_part(context, alike)}",
        )


class SharedTitle(NamedTuple):
    """Live pages of one language that share a document title. `pages: int64[n]`"""

    title: str
    pages: NDArray[np.int64]


def _shared_titles(context: FindingContext) -> Iterator[SharedTitle]:
    site, titles = context.site, context.titles
    live = np.flatnonzero(site.details.readable & ~titles.blank)
    language = site.details.language.codes
    for _, rows in groups(titles.mark[live] ^ (language[live].astype(np.int64) << 40), least=2):
        texts = title_texts(context.effective, live[rows])
        folded = folded_title(texts)
        alike = folded.same(
            np.zeros(len(rows), dtype=np.int64), folded, folded.end
        )  # two titles may share a mark by chance
        pages = live[rows[alike & (language[live[rows]] == language[live[rows[0]]])]]
        if len(pages) > 1:
            yield SharedTitle(texts[0], pages)


def _what_would_part(context: FindingContext, alike: Sequence[SharedTitle]) -> str:
    """Which words in the pattern would tell the pages apart: all of them, or as many as can be."""
    site = context.site
    pages = np.concatenate([one.pages for one in alike])
    title = np.repeat(np.arange(len(alike)), [len(one.pages) for one in alike])
    details = [name for name in site.details.columns if name not in NO_PART and not site.details.is_blank(name)]
    found = []
    for name in ("parent", "branch", *details[:MOST_DETAILS]):
        marks = fingerprints(word_texts(site, name, pages)).view(np.int64)
        order = np.lexsort((marks, title))
        same = (np.diff(title[order]) == 0) & (np.diff(marks[order]) == 0)
        still = int(np.count_nonzero(np.append(same, False) | np.append(False, same)))
        if still < len(pages):
            found.append((still, name))
    if not found:
        return ""
    least = min(still for still, _ in found)
    best = [f"{{{name}}}" for still, name in found if still == least]
    shown, more = best[:MOST_WORDS], len(best) - MOST_WORDS
    named = f"{', '.join(shown[:-1])} or {shown[-1]}" if len(shown) > 1 else shown[0]
    apart = f"tell all {len(pages):,} apart" if not least else f"leave {least:,} of {len(pages):,} alike"
    return f"; adding {named} to the pattern would {apart}" + (f" ({more} more would)" if more > 0 else "")


MOST_TITLES, MOST_WORDS, MOST_DETAILS = 3, 3, 12
NO_PART = ("path", "title", "address", "parent", "translates", "leads_to", "status")
"""Details that make no sense in a title, or that it has already."""


@site_kind(
    "long-title",
    "note",
    "titles",
    depends_on=("title.", "texts"),
    setting="title.limit",
    meaning="a document title is longer than title.limit",
    why="Search engines and tabs cut it.",
    mend="Shorten the title or the pattern, or raise the limit.",
    needs_decision=True,
)
def long_title(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The document title is longer than `title.limit`."""
    site, number, length = context.site, context.site.setting_number("title.limit"), context.titles.length
    limit = context.effective.resolved(number)
    most = np.array([word if isinstance(word, int) else np.iinfo(np.int64).max for word in limit.words])[limit.value]
    pages = np.flatnonzero((length > most) & site.has(number) & context.has_title)
    for (pattern, by), at in kind.grouped(pages, context.source(PATTERN), limit.source):
        longest = int(at[np.argmax(length[at])])
        yield kind.finding(
            at,
            [pattern, by],
            f"the document title of {count(len(at), 'page')} is longer than {int(most[at[0]])} characters; "
            f"the longest, of {site.tree.paths[longest]}, has {int(length[longest])}: "
            f'"{filled_on(context.effective, PATTERN, longest)}"',
            "no single edit mends it: decide what to leave out of the titles or the pattern, or raise title.limit",
        )


@site_kind(
    "empty-title",
    "warning",
    "titles",
    depends_on=("title.pattern", "texts"),
    setting=PATTERN,
    meaning="a page has no document title",
    why="Tabs and search results show the address instead.",
    mend="Give the page a title, or use a pattern that says something without it.",
    needs_decision=True,
    example=Change((Say(Scope.here("/visit/maps"), "title.pattern", ""),)),
)
def empty_title(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """The document title, or the title that its pattern asks for, is empty or only spaces."""
    pattern, title = context.effective.column(PATTERN), context.site.details.title
    asks = pattern.where(lambda word: isinstance(word, str) and "title" in placeholder_names(word))
    untitled = asks & Texts.of_column(title).blank()
    pages = np.flatnonzero((context.titles.blank | untitled) & context.has_title)
    for (source, part), at in kind.grouped(pages, context.source(PATTERN), untitled.astype(np.int64)):
        has = "has" if len(at) == 1 else "have"
        told = f"{count(len(at), 'page')} {has} no title in the page list, which title.pattern asks for"
        if not part:
            told = f"{count(len(at), 'page')} {has} no document title: the pattern says nothing there"
        yield kind.finding(
            at,
            [source],
            f"{told}, {context.by(source)}",
            "no single edit mends it: decide what to call the pages in the page list, or write a pattern that says "
            "something without a title",
        )


@site_kind(
    "empty-heading",
    "warning",
    "titles",
    depends_on=("heading.", "texts"),
    setting=HEADING,
    meaning="a page shows a heading without words",
    why="Readers see a gap, and a screen reader announces a heading that says nothing.",
    mend="Give the page a title, write another heading.text, or set heading.show to no.",
    needs_decision=True,
    example=Change((Say(Scope.here("/visit/maps"), "heading.text", ""),)),
)
def empty_heading(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`heading.show` is yes, and what `heading.text` comes to is empty or only spaces."""
    for (source,), at in kind.grouped(np.flatnonzero(context.empty_heading), context.source(HEADING)):
        yield kind.finding(
            at,
            [source],
            f"the heading of {count(len(at), 'page')} is empty, {context.by(source)}",
            "no single edit mends it: decide what the heading says, in the page's title or in heading.text, or set "
            "heading.show to no",
        )


@setting_kind(
    "unknown-placeholder",
    "error",
    "titles",
    depends_on=(),
    meaning="a pattern has a placeholder that is no word of ours and no detail",
    why="It is not filled in: readers see the braces.",
    mend="Mend the name; a brace itself is written twice.",
    takes_away=(("the pattern", ALL),),
    example=Change((Say(Scope.everywhere(), "title.pattern", "{titel} · {site}"),)),
)
def unknown_placeholder(context: FindingContext, kind: BoundKind, folded: FoldedSetting) -> Iterator[Finding]:
    """A pattern has a placeholder that is no word of ours and no detail."""
    if folded.name not in PATTERNS:
        return
    found = context.effective.resolved(folded.setting)
    patterns = found.words
    unknown = [unknown_placeholders(context.site, word) if isinstance(word, str) else () for word in patterns]
    wrong = np.array([bool(names) for names in unknown], dtype=bool)
    if not wrong.any():
        return
    pages = np.flatnonzero(wrong[found.value] & context.site.has(folded.setting) & context.has_title)
    for (source, code), at in kind.grouped(pages, found.source, found.value):
        listed = ", ".join(f"{{{name}}}" for name in unknown[code])
        yield kind.finding(
            at,
            [source],
            f"{folded.name} of {count(len(at), 'page')} is {patterns[code]}, {context.by(source)}, but {listed} "
            f"{'is' if len(unknown[code]) == 1 else 'are'} no word of a pattern and no column of the page list",
            "write {title} {site} {branch} {parent} {type} {language} or a detail; a brace itself is {{",
        )


@site_kind(
    "no-heading",
    "note",
    "titles",
    depends_on=("heading.", "texts", *OF_SHOWN),
    setting="heading.show",
    meaning="a page shows no heading, and no block provides one",
    why="Who reads with a screen reader, and search engines, find the page by its heading.",
    mend="Show the heading, or say `provides: heading` of the block that carries the name.",
    takes_away=(("what hides the heading", ALL),),
)
def no_heading(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`heading.show` is no, and no block that shows on the page says `provides: heading`."""
    site, number = context.site, context.site.setting_number("heading.show")
    found = context.effective.resolved(number)
    hidden = found.where(lambda word: word is False) & site.has(number) & context.has_title
    for name, block in site.declarations.blocks.items():
        if "heading" in block.provides and hidden.any():
            hidden &= ~context.uses.shown("block", name)
    for (source,), at in kind.grouped(np.flatnonzero(hidden), found.source):
        yield kind.finding(
            at,
            [source],
            f"{count(len(at), 'page')} {'shows' if len(at) == 1 else 'show'} no heading {context.by(source)}, "
            "and no block there provides one",
            "set heading.show to yes, or say provides: heading of the block that carries the name",
        )


@site_kind(
    "heading-twice",
    "note",
    "titles",
    depends_on=("heading.", "texts", *OF_SHOWN),
    setting="heading.show",
    meaning="a page shows its heading, and a block provides another",
    why="Readers see two headings, and who reads with a screen reader cannot tell which names the page.",
    mend="Set heading.show to no there, or take provides: heading from the block.",
    example=Change((Say(Scope.type("plant-record"), "heading.show", True),)),
)
def heading_twice(context: FindingContext, kind: BoundKind) -> Iterator[Finding]:
    """`heading.show` is yes and its text is not empty, and a block that shows on the page says `provides: heading`."""
    site, found = context.site, context.effective.column("heading.show")
    shown = found.where(lambda word: word is True) & context.has_title & ~context.empty_heading
    for name, block in site.declarations.blocks.items():
        if "heading" not in block.provides:
            continue
        for (source,), at in kind.grouped(np.flatnonzero(shown & context.uses.shown("block", name)), found.source):
            yield kind.finding(
                at,
                [source] if source >= 0 else [Said(f"block {name}", block.place.file, block.place.line, name)],
                f"{count(len(at), 'page')} {'shows its' if len(at) == 1 else 'show their'} heading, "
                f"and the block {name} provides a second one",
                f"set heading.show to no there, or take provides: heading from the block {name}",
                *_hidden_heading(context, at),
            )


def _hidden_heading(context: FindingContext, pages: NDArray[np.int64]) -> Iterator[Remedy]:
    """The way that hides the heading of few pages."""
    if len(pages) <= FEW:
        steps = tuple(
            Say(Scope.here(path), "heading.show", False) for path in context.site.tree.paths.take(pages).tolist()
        )
        yield Remedy("hide the heading there", Change(steps))
