"""What davlo.yaml says of the site as a whole: its name and address, its menu, its sitemap."""

from __future__ import annotations

from typing import Any, NamedTuple

from davlo.core.faults import Place, ValueFault
from davlo.core.outcomes.sitemap.addresses import is_web_address
from davlo.core.site.model import SitemapRules
from davlo.core.site.pages.page_names import INDEX, PageNames
from davlo.core.site.publication import OwnershipProof
from davlo.core.site.settings.names import NAME

from ...form.davlo_yaml import LEAVE_OUT, MENU, PAGE_LIST, PAGE_LIST_ENDINGS, SITE, SITEMAP
from ..yaml.node_reader import Reader
from ..yaml.yaml_nodes import Mapping, Node
from .hosts import ascii_address
from .publication import read_ownership_proofs

SECONDS = 300
"""How many seconds a query may take by default."""


class Source(NamedTuple):
    """Where the page list comes from: a file of the site folder, or a database, the query to ask it, and how long."""

    name: str
    place: Place
    query: str = ""
    seconds: float = 0

    @property
    def label(self) -> str:
        """What messages call it."""
        return f"database {self.name}" if self.query else self.name


class About(NamedTuple):
    """The `site` section; `values` are files with their places."""

    name: str
    url: str
    written_url: str
    index_files: tuple[str, ...]
    languages: tuple[str, ...]
    language_paths: str
    for_other_languages: str
    home: str
    page_list: Source
    values: tuple[tuple[str, Place], ...]
    ownership_proofs: tuple[OwnershipProof, ...]

    @property
    def names(self) -> PageNames:
        """The reader of names of the site's pages."""
        return PageNames(self.url, self.index_files, self.written_url)

    def of_site(self) -> dict[str, Any]:
        """What a site takes over as it is, by the names that a site has for it."""
        names = {"home": "home_path"}
        said = self._asdict().items()
        return {names.get(name, name): one for name, one in said if name not in ("page_list", "values")}


def read_about(node: Node | None, top: Place, reader: Reader) -> About:
    """The `site` section; `top` is where it would stand."""
    if node is None:
        hint = "site: {name: My site, url: https://www.example, page_list: pages.csv}"
        reader.fault(top, "the section site is missing", hint=hint)
        node = Mapping(top)
    body = reader.mapping(node, "site", SITE.keys)
    name, url = (reader.text(body.entries.get(key), key) for key in ("name", "url"))
    for key, value, example in (("name", name, "My site"), ("url", url, "https://www.example")):
        if not value:
            reader.fault(node.place, f"site says no {key}", hint=f"{key}: {example}")
    if url and not is_web_address(url):
        reader.fault(body.keys["url"], f"url takes an address that begins with https://, not {url!r}")
        url = ""
    paths = reader.text(body.entries.get("language_paths"), "language_paths")
    if paths and not ("{language}" in paths and "{path}" in paths):
        hint = 'language_paths: "/{language}{path}"'
        reader.fault(body.keys["language_paths"], "language_paths needs {language} and {path} in it", hint=hint)
    written = url.rstrip("/")
    try:
        url = ascii_address(written)
    except ValueFault as error:
        reader.value_fault(body.keys["url"], error)
    index = _index(body.entries.get("index"), reader)
    languages = tuple(word for word, _ in reader.words(body.entries.get("languages"), "languages"))
    others = body.entries.get("for_other_languages")
    if others and not languages:
        reader.fault(others.place, "for_other_languages names one of the site's languages", hint="languages: [en, fr]")
    return About(
        name=name,
        url=url,
        written_url=written if written != url else "",
        index_files=index,
        languages=languages,
        language_paths=paths,
        for_other_languages=reader.one_of(others, "for_other_languages", languages, "") if languages else "",
        home=PageNames(url, index, written).path(reader.text(body.entries.get("home"), "home")) or "/",
        page_list=_page_list(body.entries.get("page_list"), node.place, reader),
        values=tuple(reader.words(body.entries.get("values"), "values")),
        ownership_proofs=read_ownership_proofs(body.entries.get("ownership_proofs"), reader),
    )


def _index(node: Node | None, reader: Reader) -> tuple[str, ...]:
    """The names of index files: what a server shows for a folder."""
    if node is None:
        return INDEX
    found = reader.words(node, "index")
    for name, place in found:
        if not name or "/" in name or name != PageNames("", ()).path(f"/{name}")[1:]:
            reader.fault(place, f"index takes names of files, not {name!r}", hint="index: [index.html, index.htm]")
    return tuple(name for name, _ in found)


def _page_list(node: Node | None, site: Place, reader: Reader) -> Source:
    """A file, or a database and a query; pages.csv is the default."""
    if node is None:
        return Source("pages.csv", site)
    if isinstance(node, Mapping):
        body = reader.mapping(node, "page_list", PAGE_LIST.keys)
        name, query = (reader.text(body.entries.get(key), key) for key in ("database", "query"))
        example = "page_list: {database: garden, query: select path, title from pages}"
        for key, word in (("database", name), ("query", query)):
            if not word.strip():
                reader.fault(node.place, f"a page list from a database needs a {key}", hint=example)
        if name and not NAME.fullmatch(name):
            reader.fault(body.keys["database"], f"{name!r} is no name: names are words with - or . between")
        seconds = reader.number(body.entries.get("seconds"), "seconds", SECONDS, *PAGE_LIST.bounds("seconds"))
        return Source(name, node.place, query, seconds) if name.strip() and query.strip() else Source("", node.place)
    text = reader.text(node, "page_list")
    if text and not text.lower().endswith(PAGE_LIST_ENDINGS):
        what = f"a page list is a {', '.join(PAGE_LIST_ENDINGS[:-1])} or {PAGE_LIST_ENDINGS[-1]} file, not {text!r}"
        reader.fault(node.place, what, hint="save it as CSV, and write page_list: pages.csv")
        return Source("", node.place)
    return Source(text, node.place)


def read_max_entries(node: Node | None, reader: Reader) -> int:
    """How many entries fit the top menu; 0 if the file does not say."""
    if node is None:
        return 0
    body = reader.mapping(node, "menu", MENU.keys)
    return int(reader.number(body.entries.get("max_entries"), "max_entries", 0, *MENU.bounds("max_entries")))


def read_sitemap_rules(node: Node | None, reader: Reader) -> SitemapRules:
    """What keeps pages out of the sitemap besides their own settings."""
    if node is None:
        return SitemapRules()
    body = reader.mapping(node, "sitemap", SITEMAP.keys)
    leave = body.entries.get("leave_out")
    out = reader.mapping(leave, "leave_out", LEAVE_OUT.keys) if leave else Mapping(body.place)
    return SitemapRules(
        menu_hidden=reader.flag(out.entries.get("menu_hidden"), "menu_hidden"),
        priority_under=reader.number(
            out.entries.get("priority_under"), "priority_under", 0, *LEAVE_OUT.bounds("priority_under")
        ),
        stale_after_days=int(
            reader.number(
                body.entries.get("stale_after_days"), "stale_after_days", 0, *SITEMAP.bounds("stale_after_days")
            )
        ),
        add_addresses_from=tuple(
            word for word, _ in reader.words(body.entries.get("add_addresses_from"), "add_addresses_from")
        ),
    )
