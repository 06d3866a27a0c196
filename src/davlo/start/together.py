"""Several sources put together: each page once, by its path; what the first source says of it counts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.settings.values import Raw

from .languages import plain_code
from .seen_site import UNSAID, Remark, Seen, SeenSite, most_common, origin

NAMED_PAGES = ("parent", "translates", "leads_to")


def together(sources: Sequence[SeenSite], url: str = "") -> SeenSite:
    """What several sources show of one site.

    `sources`: the first counts where they say different things. `url`: the site's address; else what the sources give.
    Returns with an address and no host for each page, each page once.

    Example
    -------
    >>> one = SeenSite(["https://a.example/", "https://a.example/b/"], {"title": ["A", ""]})
    >>> both = together([one, SeenSite(["/b"], {"title": ["B"]})])
    >>> both.url, list(both.addresses), both.details["title"]
    ('https://a.example', ['/', '/b/'], ['A', 'B'])
    """
    url = url or next((one.url for one in sources if one.url), "")
    url = url or most_common(origin(address) for one in sources for address in one.addresses)
    names, lost = PageNames(url), list[Remark]()
    places: dict[str, int] = {}
    written: list[str] = []
    at: list[list[int]] = []
    for source in sources:
        mine, strange = list[int](), list[str]()
        for address in source.addresses:
            page = names.read(address)
            if not page.path.startswith("/"):
                strange.append(address)
                mine.append(-1)
                continue
            if page.path not in places:
                places[page.path] = len(places)
                written.append(names.published(address))
            mine.append(places[page.path])
        at.append(mine)
        if strange:
            what = f"addresses that are not on {url or 'the site'} are left out"
            lost.append(Remark(what, len(strange), next(filter(None, strange), "")))
    details, values = dict[str, list[str]](), dict[str, list[Seen]]()
    disagree: dict[str, tuple[int, str]] = {}
    for source, mine in zip(sources, at, strict=True):
        for name, texts in source.details.items():
            if name == "language":
                texts = [plain_code(text) or text for text in texts]
            if name in NAMED_PAGES:
                texts = [names.path(text) if text else "" for text in texts]
            _fill(details.setdefault(name, [""] * len(places)), texts, mine, "", name, disagree)
        for name, seen in source.values.items():
            _fill(values.setdefault(name, [None] * len(places)), seen, mine, None, name, disagree)
    for name, (pages, example) in disagree.items():
        lost.append(Remark(f"the sources differ on {name}; the first counts", pages, example))
    listed = [one for one in sources if "sitemap.include" in one.values]
    if listed and len(listed) < len(sources):
        _left_out(values["sitemap.include"], details, values)
    languages = _languages(details, written, names, next((one.languages for one in sources if one.languages), ()))
    return SeenSite(
        written,
        details,
        values,
        _joined([one.declared for one in sources]),
        url,
        next((one.name for one in sources if one.name), ""),
        languages,
        next((one.robots for one in sources if one.robots), ()),
        tuple(column for one in sources for column in one.columns),
        tuple(remark for one in sources for remark in one.guessed),
        (*lost, *(remark for one in sources for remark in one.lost)),
    )


def _languages(
    details: Mapping[str, Sequence[str]], addresses: Sequence[str], names: PageNames, said: tuple[str, ...]
) -> tuple[str, ...]:
    """The languages of pages: those that a source tells first, in its order; else that of most translations first."""
    language = details.get("language", ())
    counts = Counter(code for code in language if code)
    if said or not counts:
        return (*said, *sorted(counts.keys() - {*said}))
    of = {names.path(address): code for address, code in zip(addresses, language, strict=True)}
    first = most_common(of.get(path, "") for path in details.get("translates", ()) if path)
    first = first or most_common(language)
    return (first, *sorted(counts.keys() - {first}))


def _fill(
    to: list[Any],
    said: Sequence[Any],
    at: Sequence[int],
    blank: object,
    name: str,
    disagree: dict[str, tuple[int, str]],
) -> None:
    """Put what a source says where nothing is said yet."""
    for page, what in zip(at, said, strict=True):
        if page < 0 or what == blank or (what == UNSAID and to[page] is not None):
            continue
        if to[page] in (blank, UNSAID):
            to[page] = what
        elif to[page] != what:
            pages, example = disagree.get(name, (0, f"{to[page]} and {what}"))
            disagree[name] = (pages + 1, example)


def _left_out(listed: list[Seen], details: Mapping[str, Sequence[str]], values: Mapping[str, Sequence[Seen]]) -> None:
    """A page that another source has, and the sitemap lacks, is left out of it, where nothing else keeps it out."""
    leads, index = details.get("leads_to"), values.get("robots.index")
    for page, seen in enumerate(listed):
        if seen is None and not (leads and leads[page]) and not (index and index[page] == "no"):
            listed[page] = "no"


def _joined(parts: Sequence[Mapping[str, Mapping[str, Raw]]]) -> dict[str, dict[str, Raw]]:
    """Declarations of several sources; of two with one name the first counts."""
    found: dict[str, dict[str, Raw]] = {}
    for part in parts:
        for section, entries in part.items():
            found[section] = {**entries, **found.get(section, {})}
    return found
