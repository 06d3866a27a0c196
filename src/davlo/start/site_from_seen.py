"""A site folder made of what was seen: defaults and exceptions in place of values, and every value proven."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.codebooks import Codebook
from davlo.core.arrays.texts import Texts
from davlo.core.condense.seen_values import UNSEEN, SeenValues, explained
from davlo.core.faults import Fault, SiteError, ValueFault
from davlo.core.site.settings.names import what_is_wrong
from davlo.core.site.settings.parse_values import read_value
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import ACCESS_FAMILIES
from davlo.core.site.settings.values import Plain, Raw, Value, is_plain
from davlo.site import Site, open_site

from .seen_site import UNSAID, Remark, SeenColumn, SeenSite, as_column, name_from
from .site_texts import site_texts
from .together import paths_of

MOST_ROUNDS = 8
"""How often to retry without cells that cannot be used, before giving up."""
NO_URL, NO_NAME = "https://www.my-website.example", "My website"


class StartedSite(NamedTuple):
    """A site folder that is made of what was seen.

    Attributes
    ----------
    contents : mapping of str to bytes
        The files.
    seen : SeenSite
        What the sources show together, with all that was guessed and lost.
    pages, values : int
        How many pages there are, and how many values were seen on them.
    statements : int
        How many statements of everywhere, types and branches there are.
    exceptions, exceptional : int
        How many values single pages say, and how many pages say some.
    """

    contents: Mapping[str, bytes]
    seen: SeenSite
    pages: int
    values: int
    statements: int
    exceptions: int
    exceptional: int

    @property
    def explained(self) -> float:
        """The share of the values that statements for more than one page give: 0 to 1."""
        return 1 - self.exceptions / self.values if self.values else 1.0


def site_from_seen(seen: SeenSite) -> StartedSite:
    """A site folder for what was seen, with the fewest statements that give each page its values.

    Raises SiteError if what was seen makes no site; it lists every fault.
    """
    seen, site = _read(_with_types(_named(seen)))
    values, seen = _typed(seen, site)
    says = explained(site, values)
    contents = site_texts(seen, declared_by(seen), says)
    _prove(contents, seen, values)
    singles = [say for say in says if say.scope.kind == ScopeKind.HERE]
    return StartedSite(
        contents,
        seen,
        len(site.tree),
        sum(SeenColumn.of(raws).count_said() for raws in seen.values.values()),
        len(says) - len(singles),
        len(singles),
        len({say.scope.name for say in singles}),
    )


def _named(seen: SeenSite) -> SeenSite:
    """What was seen, with a name and an address for the site."""
    guessed = list(seen.guessed)
    if not seen.url:
        guessed.append(Remark(f"the site's address, {NO_URL}: no source tells it (set it with --url)"))
    if not seen.name:
        guessed.append(Remark(f"the site's name, {NO_NAME!r}: no source tells it (set it with --name)"))
    return replace(seen, url=seen.url or NO_URL, name=seen.name or NO_NAME, guessed=tuple(guessed))


def _with_types(seen: SeenSite) -> SeenSite:
    """What was seen, with its types declared, by names that can be names."""
    names, types = {"page": "page"}, dict[str, Raw]()
    column = as_column(seen.details.get("type", ()))
    for text in column.words:
        if text and text not in names:
            fits = not any(what_is_wrong(text, "type")) and text not in types
            names[text] = text if fits else name_from(text, types, "type")
            types[names[text]] = {} if fits else {"label": text}
    if not types:
        return seen
    details = {**seen.details, "type": column.changed(lambda text: names.get(text, ""))}
    return replace(seen, details=details, declared={**seen.declared, "types": types})


def declared_by(seen: SeenSite) -> dict[str, Raw]:
    """What davlo.yaml declares for what was seen, as a dictionary; no statements."""
    site: dict[str, Raw] = {"name": seen.name, "url": seen.url}
    if seen.languages:
        site["languages"] = [*seen.languages]
    found: dict[str, Raw] = {"davlo": "1", "site": site}
    declared = {section: dict(entries) for section, entries in seen.declared.items()}
    site.update(declared.pop("site", {}))
    people: dict[str, Raw] = {}
    if "names" in declared:
        people["names"] = [*declared.pop("names")]
    if "groups" in declared:
        people["groups"] = declared.pop("groups")
    if people:
        found["people"] = people
    if "actions" in declared:
        found["actions"] = [*declared.pop("actions")]
    if seen.robots:
        found["robots"] = [*seen.robots]
    return {**found, **declared}


def _read(seen: SeenSite) -> tuple[SeenSite, Site]:
    """The site without statements. Cells of the page list that cannot be used are left blank, and told."""
    taken: dict[str, tuple[int, str]] = {}
    for _ in range(MOST_ROUNDS):
        try:
            site = Site.from_frames({"path": seen.addresses, **seen.details}, _with_subjects(declared_by(seen), seen))
        except SiteError as error:
            wrong = [one for one in error.faults if one.place.file == "page_list" and one.place.line]
            if not wrong:
                raise
            seen = _without(seen, wrong)
            for column, what in {(one.place.line, one.place.column): one.what for one in wrong}.items():
                name = column[1] if column[1] in seen.details else "path"
                taken[name] = taken.get(name, (0, what))[0] + 1, taken.get(name, (0, what))[1]
        else:
            lost = list(seen.lost)
            for name, (pages, example) in taken.items():
                rows = "rows that name no page are left out"
                what = rows if name == "path" else f"cells of {name} that cannot be used are left blank"
                lost.append(Remark(what, pages, example))
            return replace(seen, lost=tuple(lost)), site
    raise SiteError(wrong)


def _with_subjects(decisions: dict[str, Raw], seen: SeenSite) -> dict[str, Raw]:
    """Decisions with an unused preset that names all subjects of access, so that their settings exist."""
    subjects: dict[str, Raw] = {}
    for name in seen.values:
        family, _, who = name.partition(".")
        if family in ACCESS_FAMILIES:
            of_family = subjects.setdefault(family, {})
            assert isinstance(of_family, dict)
            of_family[who] = []
    return {**decisions, "presets": {"seen": subjects}} if subjects else decisions


def _without(seen: SeenSite, wrong: Sequence[Fault]) -> SeenSite:
    """What was seen without the cells that cannot be used, and without the rows that name no page."""
    details, gone = {name: [*texts] for name, texts in seen.details.items()}, set[int]()
    addresses = [*seen.addresses]
    for one in wrong:
        row = one.place.line - 1
        if one.place.column in details:
            details[one.place.column][row] = ""
        else:
            gone.add(row)
    if not gone:
        return replace(seen, details=details)
    kept = [row for row in range(len(addresses)) if row not in gone]
    return replace(
        seen,
        addresses=[addresses[row] for row in kept],
        details={name: [texts[row] for row in kept] for name, texts in details.items()},
        values={name: SeenColumn.of(some).take(np.array(kept)) for name, some in seen.values.items()},
    )


def _typed(seen: SeenSite, site: Site) -> tuple[dict[str, SeenValues], SeenSite]:
    """The values that were seen by the setting's kind, in tree order; those that a setting cannot take are reported."""
    order = np.full(len(site.tree), -1, dtype=np.int64)
    order[site.tree.find_all(Texts.of(paths_of(site.page_names, seen.addresses)))] = np.arange(len(order))
    found, lost = dict[str, SeenValues](), list(seen.lost)
    kept = dict[str, SeenColumn]()
    for name, raws in seen.values.items():
        column = SeenColumn.of(raws)
        number = site.catalogue.find(name)
        if number is None:
            lost.append(Remark(f"{name} is no setting of this site", column.count_said()))
            continue
        book, codes, example = Codebook[Plain](), list[int](), ""
        for raw in column.words:
            if raw is None or raw == UNSAID:
                codes.append(UNSEEN if raw is None else book.code(site.catalogue[number].built_in))
                continue
            try:
                value = read_value(site.catalogue[number], raw)
                codes.append(book.code(value) if is_plain(value) else UNSEEN)
            except ValueFault as error:
                codes.append(UNSEEN)
                example = example or error.what
        of_word = np.array(codes, dtype=np.int32)
        is_said = np.array([raw is not None for raw in column.words], dtype=bool)
        wrong = int(np.count_nonzero(((of_word == UNSEEN) & is_said)[column.codes])) if len(codes) else 0
        if wrong:
            lost.append(Remark(f"values of {name} that it cannot take are left out", wrong, example))
        found[name] = SeenValues(of_word[column.codes][order], book.items)
        words = [raw if code != UNSEEN else None for raw, code in zip(column.words, codes, strict=True)]
        kept[name] = SeenColumn(column.codes, words)
    return found, replace(seen, values=kept, lost=tuple(lost))


def _prove(contents: Mapping[str, bytes], seen: SeenSite, values: Mapping[str, SeenValues]) -> None:
    """Read the files back, and check that each page has the values that were seen.

    Raises RuntimeError if it does not, or if the files cannot be read: a fault of Davlo's own.
    """
    with tempfile.TemporaryDirectory() as holder:
        for name, content in contents.items():
            (Path(holder) / name).write_bytes(content)
        try:
            site = open_site(holder)
        except SiteError as error:
            raise RuntimeError(f"the site that was made cannot be read: {error}") from error
        effective = site.resolve()
        for name, one in values.items():
            number = site.catalogue.find(name)
            if number is None:  # access that all pages have as it is built in
                continue
            resolved = effective.resolved(number)
            book: Codebook[Value] = Codebook(resolved.words)
            codes = np.array([book.find(value) for value in one.values] + [UNSEEN], dtype=np.int32)[one.codes]
            differs = np.flatnonzero((one.codes != UNSEEN) & (codes != resolved.value))
            if len(differs):
                raise RuntimeError(f"{name} would be another on {site.tree.paths[int(differs[0])]}")
