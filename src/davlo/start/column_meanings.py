"""Which detail or setting each column of a table is, and why."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from davlo.core.arrays.codebooks import Column
from davlo.core.faults import Fault, Place, SiteError
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.catalogue import Vocabulary, davlo_settings
from davlo.core.site.settings.names import NAME, what_is_wrong
from davlo.core.site.settings.near_names import near_name
from davlo.core.site.settings.setting import FAMILIES, SUBJECTS

from .seen_site import ColumnMeaning

LEFT_OUT, OWN_SETTING = "-", "setting:"
"""What `--column` says of a column that is left out, and before the name of a setting of the site's own."""
PLAIN_SETTINGS = tuple(setting.name for setting in davlo_settings(Vocabulary({}, (), (), {})))
OTHER_WORDS: Mapping[str, tuple[str, ...]] = {
    "path": ("url", "uri", "link", "page", "permalink", "loc", "location", "href", "page url", "page address"),
    "title": ("page title", "heading", "headline", "h1", "page name"),
    "type": ("page type", "content type", "kind"),
    "parent": ("parent page", "parent path", "parent url", "page above", "section page"),
    "language": ("lang", "locale", "hreflang", "page language"),
    "translates": ("translation of", "original", "source page"),
    "tags": ("tag", "keywords", "labels", "topics"),
    "status": ("state", "page status"),
    "leads_to": ("redirect", "redirects to", "redirect to", "target", "forwards to"),
    "created": ("date created", "created at", "created on", "published", "publish date", "published at"),
    "modified": ("last modified", "lastmod", "updated", "updated at", "changed", "date modified", "last change"),
    "order": ("position", "sort order", "menu order", "weight", "rank"),
    "title.pattern": ("title pattern", "document title pattern"),
    "menu.show": ("in menu", "show in menu", "in navigation"),
    "menu.label": ("menu title", "navigation title", "nav title", "menu name"),
    "layout.name": ("layout", "template", "page layout"),
    "layout.theme": ("theme", "skin"),
    "page.owner": ("owner", "responsible", "page owner"),
    "page.group": ("owner group", "page group"),
    "robots.index": ("indexed", "index", "indexable"),
    "sitemap.include": ("in sitemap",),
    "sitemap.priority": ("priority",),
    "sitemap.changefreq": ("changefreq", "change frequency"),
    "sidebar.right": ("sidebar", "right sidebar"),
    "sidebar.left": ("left sidebar",),
    "band.footer": ("footer",),
    "band.masthead": ("header", "masthead"),
}
"""What people call columns that are details or settings."""
_MEANING_OF = {word: name for name, words in OTHER_WORDS.items() for word in words}
_LANGUAGE = re.compile(r"[a-z]{2,3}(?:[-_][A-Za-z]{2,4})?")
_ADDRESS = re.compile(r"/|https?://", re.IGNORECASE)


def meanings_of(
    header: Sequence[str], columns: Sequence[Column], said: Mapping[str, str], label: str
) -> list[ColumnMeaning]:
    """What each column is: what `said` says, else what its name says, else what its cells say, else a detail of its
    own.

    `said`: names of details or settings by column; `-` leaves a column out. `label`: what messages call the table.
    Raises SiteError if no column holds addresses, or `said` names a detail or setting that there is not.

    Example
    -------
    >>> cells = [Column.of(["/", "/a"]), Column.of(["Home", "A"]), Column.of(["7", "9"])]
    >>> [(one.column, one.became) for one in meanings_of(["URL", "Titel", "visits"], cells, {}, "pages.csv")]
    [('URL', 'path'), ('Titel', 'title'), ('visits', 'visits')]
    """
    faults = [*_wrong(header, said, label)]
    found, taken = list[ColumnMeaning](), set[str]()
    for ask in (_by_what_is_said, _by_name, _by_other_words, _by_near_name, _by_cells):
        for name, cells in zip(header, columns, strict=True):
            if name and all(one.column != name for one in found):
                became, why = ask(name, cells, said)
                if became and became not in taken:
                    found.append(ColumnMeaning(name, became, why))
                    taken |= {became} - {LEFT_OUT}
    if "path" not in taken and not faults:
        hint = f"say which: --column '{next(filter(None, header), 'COLUMN')}=path'"
        faults.append(Fault(Place(label, 1), "no column holds the addresses of pages", hint=hint))
    if faults:
        raise SiteError(faults)
    known = {one.column: one for one in found}
    own = "no detail or setting has this name: kept as a detail of your own"
    return [known.get(name) or ColumnMeaning(name, _own_detail(name, taken), own) for name in header if name]


def is_setting(name: str) -> bool:
    """Whether a name is one of Davlo's own settings, or of one of its families."""
    return name in PLAIN_SETTINGS or name.partition(".")[0] in FAMILIES


def _own_detail(name: str, taken: set[str]) -> str:
    """What a detail of the site's own is called: as its column, unless that name is taken."""
    found = " ".join(name.split())
    while found in taken or is_setting(found):
        found += "_"
    taken.add(found)
    return found


def _wrong(header: Sequence[str], said: Mapping[str, str], label: str) -> Iterator[Fault]:
    for column, meaning in said.items():
        if column not in header:  # another table may have used the name
            continue
        if meaning != LEFT_OUT and list(said.values()).count(meaning) > 1:
            yield Fault(Place(label, 1), f"--column makes several columns {meaning}; name one of them")
        own = meaning.removeprefix(OWN_SETTING)
        if own != meaning:
            if not NAME.fullmatch(own) or own != own.lower() or own in (*STANDARD, *PLAIN_SETTINGS):
                told = f"no setting of your own can be called {own!r}"
                yield Fault(Place(label, 1), told, hint="write lower-case words with - between")
        elif not meaning:
            hint = f"--column '{column}={LEFT_OUT}' leaves the column out"
            yield Fault(Place(label, 1), f"--column says nothing after {column}=", hint=hint)
        elif meaning != LEFT_OUT and not _is_known(meaning):
            hint = f"--column '{column}={OWN_SETTING}NAME' makes it a setting of your own"
            told = f"--column makes {column!r} {meaning!r}, which is no detail and no setting"
            near = near_name(meaning, (*STANDARD, *PLAIN_SETTINGS))
            yield Fault(Place(label, 1), told, hint=f"write {near}" if near else hint)


def _is_known(name: str) -> bool:
    family, dot, member = name.partition(".")
    of_family = family in FAMILIES and dot and (member in SUBJECTS or not any(what_is_wrong(member, "area")))
    return name in STANDARD or name in PLAIN_SETTINGS or bool(of_family)


def _by_what_is_said(name: str, cells: Column, said: Mapping[str, str]) -> tuple[str, str]:
    return said.get(name, ""), "you said so"


def _by_name(name: str, cells: Column, said: Mapping[str, str]) -> tuple[str, str]:
    small = name.strip().lower()
    return (small, "the same name") if _is_known(small) else ("", "")


def _by_other_words(name: str, cells: Column, said: Mapping[str, str]) -> tuple[str, str]:
    plain = " ".join(re.findall(r"[^\W_]+", name.lower()))
    dotted = plain.replace(" ", ".", 1).replace(" ", "-")
    if _is_known(dotted):
        return dotted, "the same name in another spelling"
    scored = plain.replace(" ", "_")
    if _is_known(scored):
        return scored, "the same name in another spelling"
    found = _MEANING_OF.get(plain, "")
    return found, "another word for it" if found else ""


def _by_near_name(name: str, cells: Column, said: Mapping[str, str]) -> tuple[str, str]:
    found = near_name(name, (*STANDARD, *PLAIN_SETTINGS))
    return found, "spelled nearly like it"


def _by_cells(name: str, cells: Column, said: Mapping[str, str]) -> tuple[str, str]:
    words = [word for word in cells.words if word.strip()]
    if words and len(words) > len(cells) // 2 and all(map(_ADDRESS.match, words)):
        return "path", "its cells are addresses"
    if words and len(cells) > 1 and all(map(_LANGUAGE.fullmatch, words)) and all(len(word) in (2, 5) for word in words):
        return "language", "its cells are codes of languages"
    return "", ""
