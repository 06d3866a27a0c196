"""How two states of a site differ, in sentences, gathered by cause."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import NamedTuple

from davlo.core.change.differences.causes import DEFAULT, DETAILS, GONE, NEW, OWN, RULE, SAYS, Cause, NewValue
from davlo.core.change.differences.comparison import Comparison
from davlo.core.faults import Place
from davlo.core.findings.finding import Finding
from davlo.core.letters import visible
from davlo.core.site.people import VISITOR
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.values import marked, shown
from davlo.core.wording import count, shortened, some_of

from .outcomes import detail_sentences, outcome_sentences
from .reach import access_sentences, declaration_sentences, finding_change_sentences, lock_sentences, reach_sentence

MOST_VALUES, MOST_PAGES, MOST_LETTERS = 2, 2, 40
_MARKED = re.compile(r"([\\`*_\[\]<>#|&~])")
_ACTING = re.compile(
    r"@|\b[a-z][a-z0-9+.-]*:(?=//)|\b(?:mailto|xmpp):|\bwww(?=\.)|\b(?:GH|gh)-(?=\d)|!(?=\d)", re.IGNORECASE
)
"""What code hosts make a mention, a link or a reference of."""


OUTCOMES = {
    "areas": "What shows in areas",
    "titles": "Titles and headings",
    "menu": "Menu",
    "addresses": "Addresses",
    "sitemap": "Sitemap",
}
"""The parts of a comparison that are outcomes, and their titles."""


class Section(NamedTuple):
    """A part of a comparison in words: its title, its lines, and the findings that it lists instead of lines."""

    part: str
    title: str
    lines: tuple[str, ...] = ()
    findings: tuple[Finding, ...] = ()


def comparison_sections(found: Comparison, parts: Sequence[str], earlier: str) -> list[Section]:
    """A comparison in words, the worst first; parts that do not differ are left out.

    `parts`: which of `davlo.core.change.differences.comparison.PARTS`. `earlier`: what the first state is called.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = site.apply(davlo.Change().take_away("sidebar.right", below="/visit"))
    >>> comparison_sections(site.difference(after), ["values"], "main")[0].lines[0].partition(": 2")[0]
    'sidebar.right: davlo.yaml:79 in main went (below /visit)'
    """
    paths = found.before.site.tree.paths
    makers: dict[str, tuple[str, Callable[[], Iterable[str]]]] = {
        "access": ("Who gains and who loses", lambda: access_sentences(found.access)),
        "pages": ("Pages", lambda: _pages(found)),
        **{part: (title, partial(_outcomes, found, part)) for part, title in OUTCOMES.items()},
        "values": ("Why values differ", lambda: _causes(found, earlier)),
        "details": ("Details in the page list", lambda: detail_sentences(found.detail_changes, paths, found.moved)),
        "declarations": ("What is declared", lambda: declaration_sentences(found.declarations, found.is_met)),
    }
    sections = [Section(part, title, tuple(lines())) for part, (title, lines) in makers.items() if part in parts]
    if "values" in parts:
        locks = tuple(lock_sentences(found.lock_changes, found.before.site.tree.paths))
        sections.append(Section("values", "Locks", locks))
    if "findings" in parts:
        new, gone, changed = found.findings
        sections = [Section("findings", "New findings", (), new), *sections]
        sections.append(Section("findings", "Findings that are gone", (), gone))
        told = tuple(finding_change_sentences(changed))
        sections.append(Section("findings", "Findings on more or fewer pages", told))
    return [section for section in sections if section.lines or section.findings]


def _outcomes(found: Comparison, part: str) -> Iterable[str]:
    return outcome_sentences(found.outcomes_of(part), found.before.site.tree.paths, found.viewer)


def comparison_title(earlier: str, later: str, found: Comparison) -> tuple[str, str]:
    """What is compared, and what differs in numbers."""
    moved = f"; {count(len(found.moved), 'page')} moved" if found.moved else ""
    met = "" if found.viewer == VISITOR else f", as {found.after.site.people.in_words(found.viewer)} meets it"
    return f"From {earlier} to {later}{met}", reach_sentence(found.numbers) + moved


def _pages(found: Comparison) -> Iterator[str]:
    if found.new:
        yield f"{count(len(found.new), 'page is', 'pages are')} new: {some_of(found.new)}"
    if found.gone:
        yield f"{count(len(found.gone), 'page is', 'pages are')} gone: {some_of(found.gone)}"
    if found.moved:
        yield f"{count(len(found.moved), 'page')} moved: {some_of([f'{old} to {new}' for old, new in found.moved])}"


def _causes(found: Comparison, earlier: str) -> Iterator[str]:
    """The causes, those of one detail together."""
    paths = found.before.site.tree.paths
    for one in found.causes:
        examples = some_of([paths[page] for page in one.pages[:MOST_PAGES].tolist()], MOST_PAGES)
        more = f" and {len(one.pages) - MOST_PAGES:,} more" if len(one.pages) > MOST_PAGES else ""
        yield f"{one.setting}: {cause_words(one, earlier)}: {values_words(one.values)}: {examples}{more}"


def cause_words(one: Cause, earlier: str) -> str:
    """What a cause is, in words: `davlo.yaml:79 in main went (below /visit)`."""
    if one.what == DETAILS:
        return (
            f"another {one.detail} in the page list"
            if one.detail != "the page above"
            else "they stand below another page"
        )
    if one.what == DEFAULT:
        return "another built-in value, or other types have the setting"
    if one.source is None:
        return "for another reason"
    place = str(Place(one.source.file, one.source.line))
    place += f" in {earlier}" if one.is_before else ""
    if one.what == RULE:
        return f'the rule "{one.detail}" ({place}) {"no longer matches" if one.is_before else "matches other pages"}'
    if one.what == OWN:
        whose = "stamps" if one.source.scope.kind == ScopeKind.STAMP else "pages themselves"
        file = f"{one.source.file}{f' in {earlier}' if one.is_before else ''}"
        return f"{whose} {'no longer say it' if one.is_before else 'say so'} ({file})"
    scope = one.source.scope.sentence
    if one.what == NEW:
        return f"{place} is new ({scope})"
    if one.what == GONE:
        return f"{place} went ({scope})"
    says = shortened(shown(one.says), MOST_LETTERS)
    return f"{place} says {says}{', locked' if one.source.locked else ''} now ({scope})" if one.what == SAYS else place


def values_words(values: Sequence[NewValue]) -> str:
    """What pages get, in words: `20 pages get main, 3 get none`."""
    told = []
    for at, one in enumerate(values[:MOST_VALUES]):
        who = count(one.pages, "page") if not at else f"{one.pages:,}"
        value = f"get {shortened(marked(one.value), MOST_LETTERS)}" if one.is_there else "no longer have it"
        if one.pages == 1:
            value = value.replace("get ", "gets ", 1) if one.is_there else "no longer has it"
        told.append(f"{who} {value}")
    left = sum(one.pages for one in values[MOST_VALUES:])
    return ", ".join(told) + (f", {left:,} {'gets' if left == 1 else 'get'} other values" if left else "")


def as_markdown(title: tuple[str, str], sections: Sequence[Section], most: int | None) -> str:
    """A comparison as Markdown (CommonMark), for a review of a change.

    Parameters
    ----------
    title : (str, str)
        What is compared, and what differs in numbers.
    sections : sequence of Section
    most : int, or None
        The most lines of a section; None: all.

    Example
    -------
    >>> print(as_markdown(("From main to HEAD", "1 page changes"), [Section("pages", "Pages", ("/a*b is new",))], 5))
    ### From main to HEAD
    <BLANKLINE>
    1 page changes
    <BLANKLINE>
    **Pages**
    <BLANKLINE>
    - /a\\*b is new
    <BLANKLINE>
    """
    lines = [f"### {escaped(title[0])}", "", escaped(title[1]), ""]
    for section in sections:
        lines += [f"**{section.title}**", ""]
        told = [*section.lines, *(f"{one.level}: {one.message}" for one in section.findings)]
        lines += [f"- {escaped(one)}" for one in told[:most]]
        lines += [f"- and {len(told[most:]):,} more"] if most is not None and len(told) > most else []
        lines.append("")
    return "\n".join(lines)


def escaped(text: str) -> str:
    """A text as Markdown shows it as it is, in one line (CommonMark, section 2.4).

    A space without width keeps code hosts from making mentions and links of it: nobody is called, nothing is linked.

    Example
    -------
    >>> escaped("*ask* @ida at https://garden.example")
    '\\\\*ask\\\\* @&#8203;ida at https:&#8203;//garden.example'
    """
    shown = _MARKED.sub(r"\\\1", visible(" ".join(text.split())))
    return _ACTING.sub(lambda found: f"{found[0]}&#8203;", shown)
