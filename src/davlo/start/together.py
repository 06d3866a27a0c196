"""Several sources put together: each page once, by its path; what the first source says of it counts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import TypeAlias, cast

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.texts import Texts
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.settings.values import Raw
from davlo.files.read.rows.page_paths import Paths

from .languages import plain_code
from .seen_site import UNSAID, Cells, Remark, Seen, SeenColumn, SeenSite, as_column, most_common, most_common_origin

Places: TypeAlias = "NDArray[np.int64]"
"""For each row of a source the number of its page."""

NAMED_PAGES = ("parent", "translates", "leads_to")


def together(sources: Sequence[SeenSite], url: str = "") -> SeenSite:
    """What several sources show of one site.

    `sources`: the first counts where they say different things. `url`: the site's address; else what the sources give.
    Returns with an address and no host for each page, each page once.

    Example
    -------
    >>> one = SeenSite(["https://a.example/", "https://a.example/b/"], {"title": ["A", ""]})
    >>> both = together([one, SeenSite(["/b"], {"title": ["B"]})])
    >>> both.url, list(both.addresses), list(both.details["title"])
    ('https://a.example', ['/', '/b/'], ['A', 'B'])
    """
    url = url or next((one.url for one in sources if one.url), "")
    url = url or most_common_origin(one.addresses for one in sources)
    names, lost = PageNames(url), list[Remark]()
    places, written, at = dict[str, int](), list[str](), list[Places]()
    for source in sources:
        mine, strange = list[int](), list[str]()
        for address, path in zip(source.addresses, paths_of(names, source.addresses), strict=True):
            if path[:1] != "/":
                strange.append(address)
                mine.append(-1)
                continue
            place = places.setdefault(path, len(written))
            if place == len(written):
                written.append(names.published(address))
            mine.append(place)
        at.append(np.array(mine, dtype=np.int64))
        if strange:
            what = f"addresses that are not on {url or 'the site'} are left out"
            lost.append(Remark(what, len(strange), next(filter(None, strange), "")))
    details, values, disagree = dict[str, Column](), dict[str, SeenColumn](), dict[str, tuple[int, str]]()
    rows = [*zip(sources, at, strict=True)]
    for name in dict.fromkeys(name for one in sources for name in one.details):
        texts = [(_cells(name, one.details[name], names), mine) for one, mine in rows if name in one.details]
        cells = _put_together(texts, len(written), UNSAID, name, disagree)
        details[name] = Column(cells.codes, cast("Sequence[str]", cells.words))
    for name in dict.fromkeys(name for one in sources for name in one.values):
        seen = [(SeenColumn.of(one.values[name]), mine) for one, mine in rows if name in one.values]
        values[name] = _put_together(seen, len(written), None, name, disagree)
    for name, (pages, example) in disagree.items():
        lost.append(Remark(f"the sources differ on {name}; the first counts", pages, example))
    listed = [one for one in sources if "sitemap.include" in one.values]
    if listed and len(listed) < len(sources):
        values["sitemap.include"] = _left_out(values["sitemap.include"], details, values)
    languages = _languages(details, written, names, next((one.languages for one in sources if one.languages), ()))
    return SeenSite(
        _each_once(Texts.of(written)),
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


def paths_of(names: PageNames, addresses: Cells) -> list[str]:
    """The path that each address means; an address that can be no page's is returned unchanged."""
    return Paths(names).column(_each_once(Texts.of_column(as_column(addresses)))).texts()


def _each_once(texts: Texts) -> Column:
    return Column(np.arange(len(texts), dtype=np.int32), texts)


def _cells(name: str, cells: Cells, names: PageNames) -> SeenColumn:
    """The cells of one detail, those that name languages or pages in one form."""
    column = as_column(cells)
    if name == "language":
        column = column.changed(lambda code: plain_code(code) or code)
    elif name in NAMED_PAGES:
        column = column.changed(lambda text: names.path(text) if text else "")
    return SeenColumn(column.codes, column.words)


def _languages(
    details: Mapping[str, Column], addresses: Sequence[str], names: PageNames, said: tuple[str, ...]
) -> tuple[str, ...]:
    """The languages of pages: those that a source tells first, in its order; else that of most translations first."""
    language = details["language"].texts() if "language" in details else []
    counts = Counter(code for code in language if code)
    if said or not counts:
        return (*said, *sorted(counts.keys() - {*said}))
    of = dict(zip(paths_of(names, addresses), language, strict=True))
    first = most_common(of.get(path, "") for path in details.get("translates", ()) if path)
    first = first or most_common(language)
    return (first, *sorted(counts.keys() - {first}))


def _put_together(
    parts: Sequence[tuple[SeenColumn, Places]], pages: int, blank: Seen, name: str, disagree: dict[str, tuple[int, str]]
) -> SeenColumn:
    """What sources say of a detail or a setting: for each page what the first that says something says.

    `parts`: what each source says, and the number of the page of each of its rows, -1 where it is none. `blank`: what
    says nothing. `disagree`: how many pages the sources differ on, with an example, by name; it grows.
    """
    if len(parts) == 1 and len(parts[0][1]) == pages and (parts[0][1] == np.arange(pages)).all():
        return parts[0][0]
    words = SeenColumn.of([blank, UNSAID, *(word for column, _ in parts for word in column.words)])
    unsaid, to, begin = words.codes[1], np.zeros(pages, dtype=np.int32), 2
    for column, at in parts:
        table = words.codes[begin : begin + len(column.words)]
        begin += len(column.words)
        said = table[column.codes]
        rows = np.flatnonzero((at >= 0) & (said != 0) & (said != unsaid))
        page, first = np.unique(at[rows], return_index=True)  # of a page in several rows the first counts
        is_free = (to[page] == 0) | (to[page] == unsaid)
        to[page[is_free]] = said[rows[first[is_free]]]
        silent = at[(at >= 0) & (said == unsaid)]
        to[silent[to[silent] == 0]] = unsaid
        differs = rows[to[at[rows]] != said[rows]]
        if len(differs):
            known, other = (words.words[int(code)] for code in (to[at[differs[0]]], said[differs[0]]))
            number, example = disagree.get(name, (0, f"{known} and {other}"))
            disagree[name] = number + len(differs), example
    return SeenColumn(to, words.words)


def _left_out(listed: SeenColumn, details: Mapping[str, Column], values: Mapping[str, SeenColumn]) -> SeenColumn:
    """A page that another source has, and the sitemap lacks, is left out of it, where nothing else keeps it out."""
    lacks = np.array([word is None for word in listed.words], dtype=bool)[listed.codes]
    if "leads_to" in details:
        lacks &= ~details["leads_to"].where([bool(word) for word in details["leads_to"].words])
    if "robots.index" in values:
        index = values["robots.index"]
        lacks &= ~np.array([word == "no" for word in index.words], dtype=bool)[index.codes]
    return SeenColumn(np.where(lacks, len(listed.words), listed.codes).astype(np.int32), [*listed.words, "no"])


def _joined(parts: Sequence[Mapping[str, Mapping[str, Raw]]]) -> dict[str, dict[str, Raw]]:
    """Declarations of several sources; of two with one name the first counts."""
    found: dict[str, dict[str, Raw]] = {}
    for part in parts:
        for section, entries in part.items():
            found[section] = {**entries, **found.get(section, {})}
    return found
