"""Which page is in which language, and which page translates which: by alternates, else by folders."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

from davlo.core.outcomes.sitemap.addresses import FOR_OTHERS as DEFAULT
from davlo.core.site.settings.values import Raw

from .seen_site import Remark

_CODE = re.compile(r"[A-Za-z]{2,3}(?:[-_][A-Za-z0-9]{2,8}){0,3}")


_CASES = {2: str.upper, 4: str.title}
"""How BCP 47 (RFC 5646, section 2.1.1) writes the parts after the first, by their length: countries, scripts."""


class Translations(NamedTuple):
    """The languages of pages."""

    # the first is the one that others are translated from; empty if none is known
    languages: tuple[str, ...]
    # `language`, `translates`: for each page its language, and the address of the page that it translates; empty where
    # there is none
    language: list[str]
    translates: list[str]
    guessed: tuple[Remark, ...]
    # what the site section of davlo.yaml says of it: the language for readers of all others, if pages name it
    declared: Mapping[str, Mapping[str, Raw]] = MappingProxyType({})


def translations(
    addresses: Sequence[str],
    alternates: Sequence[Sequence[tuple[str, str]]],
    said: Sequence[str],
    shown: Sequence[bool] | None = None,
) -> Translations:
    """The languages of pages, and what they translate.

    `alternates`: for each page the languages and addresses that it gives. `said`: for each page the language that it
    says it is in; may be empty. `shown`: whether a page shows something, and does not only send its readers on; a page
    that does not translates nothing and is not translated (default: all show something).

    Example
    -------
    >>> links = (("en", "/a"), ("fr", "/fr/a"), ("x-default", "/a"))
    >>> found = translations(["/a", "/fr/a"], [links, links], ["en", "fr"])
    >>> found.languages, found.translates
    (('en', 'fr'), ['', '/a'])
    """
    guessed, language = list[Remark](), [plain_code(code) for code in said]
    known = {address: number for number, address in enumerate(addresses) if shown is None or shown[number]}
    for links in alternates:
        for code, address in links:
            if code != DEFAULT and address in known and not language[known[address]]:
                language[known[address]] = plain_code(code)
    folders = [_folder(address) for address in addresses]
    codes = {folder for folder in folders if folder}
    blank = [page for page, code in enumerate(language) if not code and folders[page]]
    if len(codes) > 1 and not any(language) and _are_twins([addresses[page] for page in blank]):
        for page in blank:
            language[page] = plain_code(folders[page])
        guessed.append(Remark("the language: the first folder of the address", len(blank), addresses[blank[0]]))
    counts = Counter(code for code in language if code)
    if not counts:
        return Translations((), language, [""] * len(addresses), tuple(guessed))
    first = _first(addresses, alternates, language, counts)
    roots = ["", *sorted({folder for folder in folders if folder and plain_code(folder) == first})]
    languages = (first, *sorted(counts.keys() - {first}))
    translates, by_folder = [""] * len(addresses), 0
    for page, address in enumerate(addresses):
        if not language[page] or language[page] == first or address not in known:
            continue
        other = next((link for code, link in alternates[page] if plain_code(code) == first), "")
        if not other and not alternates[page]:
            other = next((one for one in _in_first(address, roots, known) if language[known[one]] == first), "")
            by_folder += bool(other)
        if other in known and language[known[other]] == first:
            translates[page] = other
    _once(addresses, language, translates, {link for links in alternates for _, link in links})
    if by_folder:
        what = "the page that it translates: the same address below the folder of the first language"
        guessed.append(Remark(what, by_folder))
    with_links = [links for links in alternates if links]
    has_others = sum(any(code == DEFAULT for code, _ in links) for links in with_links) * 2 > len(with_links)
    declared = {"site": {"for_other_languages": first}} if has_others else {}
    return Translations(languages, language, translates, tuple(guessed), declared)


def plain_code(code: str) -> str:
    """A code as BCP 47 writes it: the language small, the country in capitals; empty if it is none."""
    if not _CODE.fullmatch(code):
        return ""
    head, *rest = re.split("[-_]", code)
    return "-".join([head.lower(), *(_CASES.get(len(part), str.lower)(part) for part in rest)])


def _folder(address: str) -> str:
    """The first folder of an address, if it could be a language."""
    path = re.sub(r"^https?://[^/]*", "", address)
    folder = path.split("/")[1] if path.count("/") > 1 else ""
    return folder if re.fullmatch(r"[a-z]{2}(?:[-_][A-Za-z]{2})?", folder) else ""


def _first(
    addresses: Sequence[str],
    alternates: Sequence[Sequence[tuple[str, str]]],
    language: Sequence[str],
    counts: Counter[str],
) -> str:
    """The language that others are translated from: that of most pages for readers of no other, else of most pages."""
    of = dict(zip(addresses, language, strict=True))
    default = Counter(
        of[address] for links in alternates for code, address in links if code == DEFAULT and of.get(address)
    )
    if default:
        return default.most_common(1)[0][0]
    most = max(counts.values())
    english = [code for code in counts if code.partition("-")[0] == "en" and counts[code] == most]
    return english[0] if english else counts.most_common(1)[0][0]


def _are_twins(addresses: Sequence[str]) -> bool:
    """Whether most addresses are there below the folder of another language, too."""
    folders = Counter(address.replace(f"/{_folder(address)}/", "/", 1) for address in addresses)
    return sum(number for number in folders.values() if number > 1) * 2 > len(addresses)


def _in_first(address: str, roots: Sequence[str], known: dict[str, int]) -> Iterator[str]:
    """The addresses of the same page below the folders of the first language."""
    folder = _folder(address)
    for other in roots if folder else ():
        found = address.replace(f"/{folder}/", f"/{other}/" if other else "/", 1)
        if found in known and known[found] != known[address]:
            yield found


def _once(addresses: Sequence[str], language: Sequence[str], translates: list[str], named: Collection[str]) -> None:
    """Of two pages of one language that translate the same one, only one does: one that others name, or the first."""
    seen = set[tuple[str, str]]()
    for page in sorted(range(len(addresses)), key=lambda page: addresses[page] not in named):
        other = translates[page]
        if other and (language[page], other) in seen:
            translates[page] = ""
        seen.add((language[page], other))
