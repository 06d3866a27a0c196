"""`davlo start DIR --from FOLDER`: built HTML pages, read by the web's conventions."""

from __future__ import annotations

from pathlib import Path

import pytest

import davlo

from .built_garden import SELECTORS, build_garden


class Begun:
    """The garden, its built pages, and the site that is begun from them."""

    def __init__(self, folder: Path) -> None:
        self.before = davlo.open_demo()
        self.pages = build_garden(self.before, folder / "public")
        (folder / "parts.yaml").write_text(SELECTORS, encoding="utf-8")
        self.made = davlo.start_site_from(folder / "begun", [folder / "public"], areas=folder / "parts.yaml")
        self.after = davlo.open_site(folder / "begun")


@pytest.fixture(scope="module")
def begun(tmp_path_factory: pytest.TempPathFactory) -> Begun:
    return Begun(tmp_path_factory.mktemp("built"))


@pytest.mark.exhaustive
def test_it_has_the_pages_titles_and_languages(begun: Begun) -> None:
    assert sorted(begun.after.tree.paths.tolist()) == sorted(begun.pages)
    for path in begun.pages:
        assert begun.after.page(path)["title"] == begun.before.page(path)["title"]
    assert (begun.after.name, begun.after.url, begun.after.languages) == (
        "Quillmere Botanic Garden",
        "https://quillmere.example",
        ("en", "fr"),
    )
    for name in ("language", "translates", "modified", "type"):
        one, other = (
            [site.details.columns[name][site.tree.number(path)] for path in begun.pages]
            for site in (begun.before, begun.after)
        )
        assert other == one, name


@pytest.mark.exhaustive
@pytest.mark.parametrize(
    "setting", ["heading.show", "robots.index", "sidebar.right", "sidebar.left", "band.footer", "band.masthead"]
)
def test_pages_that_had_the_same_value_have_the_same_value(begun: Begun, setting: str) -> None:
    before, after = begun.before.resolve(), begun.after.resolve()
    pairs = {
        (str(before[path][setting]), str(after[path][setting]))
        for path in begun.pages
        if setting.partition(".")[2] not in ("right", "left", "footer", "masthead")
        or setting.partition(".")[2] in begun.before.declarations.layouts[str(before[path]["layout.name"])].areas
    }
    assert len({one for one, _ in pairs}) == len({other for _, other in pairs}) == len(pairs), pairs


def test_it_says_so_with_few_statements(begun: Begun) -> None:
    assert begun.made.statements + begun.made.exceptions <= 1.2 * len(begun.before.statements)
    assert begun.made.explained > 0.95
    assert not [fault for fault in begun.after.check().findings if fault.level == "error"]


def test_the_menu_is_that_of_the_site(begun: Begun) -> None:
    for language in ("en", "fr"):
        one, other = (
            [(link.page, link.label) for link in site.links(language=language).links() if link.level == 1]
            for site in (begun.before, begun.after)
        )
        assert other == one


def begin(folder: Path, pages: dict[str, str]) -> tuple[davlo.StartedSite, davlo.Site]:
    """A site that is begun from HTML files with these texts."""
    for name, text in pages.items():
        file = folder / "public" / name
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text, encoding="utf-8")
    made = davlo.start_site_from(folder / "begun", [folder / "public"])
    return made, davlo.open_site(folder / "begun")


def details(site: davlo.Site, name: str) -> dict[str, str]:
    """A detail of each page that has it."""
    return {
        path: text
        for path, text in zip(site.tree.paths.tolist(), site.details.column(name).texts(), strict=True)
        if text
    }


def remarks(made: davlo.StartedSite) -> dict[str, int]:
    """What was guessed and lost, and of how many pages."""
    return {remark.what: remark.pages for remark in (*made.seen.guessed, *made.seen.lost)}


def test_languages_are_told_by_folders_where_pages_do_not_say_them(tmp_path: Path) -> None:
    names = ("index.html", "visit.html", "visit/prices.html")
    made, site = begin(
        tmp_path, {f"{code}/{name}": f"<title>{name}</title>" for code in ("en", "de-DE") for name in names}
    )
    assert site.languages == ("en", "de-DE")
    assert details(site, "translates") == {
        "/de-DE": "/en",
        "/de-DE/visit.html": "/en/visit.html",
        "/de-DE/visit/prices.html": "/en/visit/prices.html",
    }
    assert details(site, "parent") == {f"/{code}/visit/prices.html": f"/{code}/visit.html" for code in ("en", "de-DE")}
    assert remarks(made)["the language: the first folder of the address"] == 6


def test_breadcrumbs_tell_the_page_above_and_never_lead_in_a_circle(tmp_path: Path) -> None:
    trail = "<nav aria-label=breadcrumb><a href=/{}>x</a></nav>"
    pages = {"index.html": "<h1>Home</h1>", "a.html": trail.format("b.html"), "b.html": trail.format("a.html")}
    _, site = begin(tmp_path, {**pages, "c.html": trail.format("b.html"), "d.html": trail.format("gone.html")})
    parents = {path: site.tree.paths[int(site.tree.parent[page])] for page, path in enumerate(site.tree.paths.tolist())}
    assert parents["/c.html"] == "/b.html"
    assert (parents["/a.html"], parents["/b.html"]) == ("/", "/a.html")
    assert parents["/d.html"] == "/"


def test_a_copy_of_a_page_keeps_its_own_address(tmp_path: Path) -> None:
    own = '<link rel=canonical href="https://a.example{}"><title>{}</title>'
    pages = {
        "index.html": own.format("/", "A"),
        "old/b.html": own.format("/b", "B"),
        "print/b.html": own.format("/b", "B"),
    }
    _, site = begin(tmp_path, pages)
    assert (site.url, sorted(site.tree.paths.tolist())) == ("https://a.example", ["/", "/b", "/print/b.html"])


def test_a_canonical_address_without_a_host_is_the_pages_own(tmp_path: Path) -> None:
    page = "<link rel=canonical href='{}'><title>{}</title>"
    pages = {"index.html": page.format("/", "A"), "visit.html": page.format("/visit/", "B")}
    _, site = begin(tmp_path, {**pages, "visit/maps.html": page.format("maps", "C")})
    assert [site.page(path)["address"] for path in site.tree.paths.tolist()] == [
        f"{site.url}{written}" for written in ("/", "/visit/", "/visit/maps")
    ]
    assert site.tree.parent.tolist() == [-1, 0, 1]


def test_titles_have_the_pattern_that_many_share(tmp_path: Path) -> None:
    page = "<title>{}</title><main><h1>{}</h1></main>"
    pages = {"index.html": page.format("Thistlemouth Museum", "Welcome")}
    for name in ("Visit", "Ships", "News"):
        pages[f"{name.lower()}/index.html"] = page.format(f"{name} | Thistlemouth Museum", name)
        pages[f"{name.lower()}/more/index.html"] = page.format(f"More | {name} | Thistlemouth Museum", "More")
    pages["news/odd/index.html"] = page.format("Something else", "Odd {one}")
    _, site = begin(tmp_path, pages)
    effective = site.resolve()
    patterns = {path: effective[path]["title.pattern"] for path in site.tree.paths.tolist()}
    assert (site.name, patterns["/visit"], patterns["/ships/more"]) == (
        "Thistlemouth Museum",
        "{title} | {site}",
        "{title} | {parent} | {site}",
    )
    assert site.page("/")["title"] == "Thistlemouth Museum"
    assert site.page("/news/more")["title"] == "More | News | Thistlemouth Museum"
    assert site.page("/news/odd")["title"] == "Something else"
    headings = {path: effective[path]["heading.text"] for path in site.tree.paths.tolist()}
    assert {path: text for path, text in headings.items() if text != "{title}"} == {"/news/odd": "Odd {{one}}"}


def test_what_is_on_one_page_alone_is_told_and_not_declared(tmp_path: Path) -> None:
    page = "<main><h1>{0}</h1></main><aside><h2>On this page</h2><p>Part {0}</p></aside><footer>Quay 3</footer>"
    pages = {f"{name}.html": page.format(name) for name in "abcdefgh"}
    pages["other.html"] = "<h1>No landmark</h1>"
    pages["gone.html"] = "<meta http-equiv=refresh content='0; url=a.html'>"
    pages["empty.html"] = ""
    made, site = begin(tmp_path, pages)
    assert [*site.declarations.sidebars] == []
    assert [*site.declarations.bands] == ["quay-3"]
    assert details(site, "leads_to") == {"/gone.html": "/a.html"}
    told = remarks(made)
    assert told["what the area aside holds: it differs from page to page (filled_elsewhere)"] == 8
    assert {one.filled_elsewhere for one in site.declarations.layouts.values()} == {("aside",)}
    assert told["the areas of pages without landmarks (name them by CSS selectors: --areas FILE)"] == 1
    assert told["public/empty.html: it holds no elements"] == 0


def test_the_page_for_other_languages_is_taken_over(tmp_path: Path) -> None:
    def page(code: str, title: str) -> str:
        names = {"en": "/a.html", "fr": "/fr/a.html", "x-default": "/fr/a.html"}
        links = "".join(f'<link rel="alternate" hreflang="{one}" href="{href}">' for one, href in names.items())
        return f'<html lang="{code}"><title>{title}</title>{links}'

    _, site = begin(tmp_path, {"a.html": page("en", "Tea"), "fr/a.html": page("fr", "Thé")})
    assert (site.languages, site.for_other_languages) == (("fr", "en"), "fr")


def test_the_sitemap_and_robots_txt_of_the_folder_are_read_without_being_named(tmp_path: Path) -> None:
    pages = {f"{name}.html": f"<html lang=EN><title>{name}</title>" for name in ("index", "tea", "hidden")}
    (tmp_path / "public").mkdir()
    url = "https://a.example"
    rows = "".join(f"<url><loc>{url}/{name}</loc><lastmod>2026-03-04</lastmod></url>" for name in ("", "tea.html"))
    (tmp_path / "public" / "sitemap.xml").write_text(f"<urlset>{rows}</urlset>", encoding="utf-8")
    robots = f"User-agent: *\nDisallow: /tea\nno line at all\nSitemap: {url}/sitemap.xml\n"
    (tmp_path / "public" / "robots.txt").write_text(robots, encoding="utf-8")
    made, site = begin(tmp_path, pages)
    assert (site.url, site.languages, [line.text for line in site.robots]) == (
        url,
        ("en",),
        ["User-agent: *", "Disallow: /tea"],
    )
    assert details(site, "modified") == {"/": "2026-03-04", "/tea.html": "2026-03-04"}
    assert not site.resolve()["/hidden.html"]["sitemap.include"]
    assert remarks(made)["lines of robots.txt that crawlers cannot understand are left out: 1"] == 0
    assert {one.what for one in site.compare_built(tmp_path / "public").mistakes} == {
        "robots.txt"
    }  # the line that is none


def test_a_home_page_that_only_leads_on_is_above_nothing_and_translates_nothing(tmp_path: Path) -> None:
    pages = {"index.html": "<meta http-equiv=refresh content='0; url=/en/'>"}
    for code in ("en", "fr"):
        for name in ("index", "tea", "rye"):
            pages[f"{code}/{name}.html"] = f"<html lang={code}><title>{name}</title>"
        pages[f"copy/{code}/tea.html"] = f"<html lang={code}><title>tea</title>"
    for name in ("en/tea.html", "fr/tea.html", "copy/fr/tea.html"):
        links = "".join(f"<link rel=alternate hreflang={code} href=/{code}/tea.html>" for code in ("en", "fr"))
        pages[name] = pages[name].replace("<title>", f"{links}<title>")
    _, site = begin(tmp_path, pages)
    assert details(site, "translates") == {f"/fr{end}": f"/en{end}" for end in ("", "/rye.html", "/tea.html")}
    assert site.languages == ("en", "fr")


def test_navigation_that_opens_by_section_is_one_block_and_a_logo_is_one(tmp_path: Path) -> None:
    pages = {}
    for section in "abcdef":
        for name in ("index", "one", "two"):
            links = "".join(f"<a href=/{other}/index.html>{other.upper()}</a>" for other in "abcdef")
            opened = "".join(f"<a href=/{section}/{one}.html>{section}{one}</a>" for one in ("one", "two"))
            logo = f"<header><a href=/{section}/index.html><img alt=Logo></a></header>"
            toc = f"<aside><p>In {section}{name}</p></aside>"
            nav, title = f"<nav>{links}{opened}</nav>", f"<title>{section}{name}</title>"
            pages[f"{section}/{name}.html"] = (
                f"<html lang=en>{title}{logo}{nav}<main><h1>{section}{name}</h1></main>{toc}"
            )
    _, site = begin(tmp_path, pages)
    blocks = site.declarations.blocks
    assert sorted((one.kind, len(one.links)) for one in blocks.values()) == [("menu", 0), ("text", 0)]
    assert {one.filled_elsewhere for one in site.declarations.layouts.values()} == {("aside",)}
    assert len(site.declarations.bands) == 2
    assert site.compare_built(tmp_path / "public").mistakes == ()
    file = tmp_path / "public" / "c" / "one.html"
    file.write_text(file.read_text(encoding="utf-8").replace("<a href=/d/index.html>D</a>", ""), encoding="utf-8")
    found = site.compare_built(tmp_path / "public").mistakes
    assert [(one.what, one.page) for one in found] == [("menu", "/c/one.html")]


def test_headings_are_those_of_the_content_and_patterns_must_pay(tmp_path: Path) -> None:
    page = "<html lang=en><title>{}</title><h1><a href=/>Quay Museum</a></h1><h1>{}<a href=#x>¶</a></h1>"
    pages = {f"p{at}.html": page.format(f"Page {at} - Quay", f"Page {at}") for at in range(8)}
    pages |= {f"mod/m{at}.html": page.format(f"m{at} - Quay", f"Module m{at}") for at in range(6)}
    pages |= {"odd/x.html": page.format("Odd: one", "Another"), "odd/y.html": page.format("Odd: two", "two")}
    _, site = begin(tmp_path, pages)
    effective = site.resolve()
    told = {
        path: (site.details.title[page], *(effective[path][f"{one}"] for one in ("title.pattern", "heading.text")))
        for page, path in enumerate(site.tree.paths.tolist())
    }
    assert (site.name, told["/p3.html"]) == ("Quay", ("Page 3", "{title} - {site}", "{title}"))
    assert told["/mod/m2.html"] == ("m2", "{title} - {site}", "Module {title}")
    assert told["/odd/x.html"] == ("Odd: one", "{title}", "Another")  # two pages, and two statements
    assert told["/odd/y.html"] == ("two", "Odd: {title}", "{title}")  # or it would need a heading of its own
    assert site.compare_built(tmp_path / "public").mistakes == ()
