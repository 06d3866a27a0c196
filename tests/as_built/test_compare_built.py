"""Built pages against what was decided: of deliberate mistakes just these are found, and nothing else."""

from __future__ import annotations

import csv
import io
import json
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run
from tests.start.built_garden import SELECTORS, build_garden

Small = Callable[..., Path]
Change = Callable[[str], str]
FOOTERS = 8
"""The pages whose theme has no place for a footer; the template of the tests builds one all the same."""
TODAY = ("--today", "2026-11-25")


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The garden as it was built, with its sitemap and robots.txt, and without the footers that nobody decided."""
    folder = tmp_path_factory.mktemp("built")
    site = davlo.open_demo()
    effective = site.resolve()
    for path in build_garden(site, folder / "public"):
        if effective[path]["layout.theme"] == "evening":
            edit(folder / "public", path, lambda text: text.partition("<footer")[0] + "</body></html>")
    plan = site.publication(folder / "public")
    for name, chunks in plan.contents.items():
        (folder / "public" / name).write_bytes(b"".join(chunks()))
    (folder / "parts.yaml").write_text(SELECTORS, encoding="utf-8")
    return folder


@pytest.fixture
def built(whole: Path, tmp_path: Path) -> Path:
    """A copy to make mistakes in."""
    shutil.copytree(whole / "public", tmp_path / "public")
    return tmp_path / "public"


def edit(folder: Path, path: str, change: Change) -> None:
    file = folder / path.strip("/") / "index.html"
    text = file.read_text(encoding="utf-8")
    assert change(text) != text, path
    file.write_text(change(text), encoding="utf-8")


def mistakes(garden: Path, built: Path, **how: str) -> set[tuple[str, str, str, str]]:
    site = davlo.open_site(garden)
    found = site.compare_built(built, **how)  # type: ignore[arg-type]
    return {(one.what, one.page, one.shows, one.should) for one in found.mistakes}


@pytest.mark.exhaustive
@pytest.mark.parametrize("areas", [True, False])
def test_what_is_as_decided_has_no_mistake(garden: Path, whole: Path, areas: bool) -> None:
    site = davlo.open_site(garden)
    found = site.compare_built(whole / "public", areas=whole / "parts.yaml" if areas else None)
    assert (found.mistakes, found.pages) == ((), 137)
    assert found.unseen == (
        "what HTML does not show is not compared: who may edit, looks, themes, and the site's own settings",
    )


def test_of_many_mistakes_just_these_are_found(garden: Path, built: Path) -> None:
    title = "Tickets · Quillmere Botanic Garden"
    wrong: list[tuple[str, Change, tuple[str, str, str, str]]] = [
        (
            "/visit/tickets",
            lambda t: t.replace(title, "Admission"),
            ("document title", "/visit/tickets", "Admission", title),
        ),
        (
            "/visit/maps",
            lambda t: t.replace("<h1>", "<p>").replace("</h1>", "</p>"),
            ("heading", "/visit/maps", "hidden", "shown"),
        ),
        (
            "/visit/shop",
            lambda t: t.replace("<h1>", "<h1>Our "),
            ("heading", "/visit/shop", "Our Garden shop", "Garden shop"),
        ),
        ("/about", lambda t: t.replace('lang="en"', 'lang="fr"', 1), ("language", "/about", "fr", "en")),
        (
            "/about/team",
            lambda t: t.replace("<title>", '<meta name="robots" content="noindex"><title>'),
            ("robots", "/about/team", "noindex", "index"),
        ),
        (
            "/visit/schools",
            lambda t: t.replace('/visit/schools">', '/schools">', 1),
            (
                "canonical",
                "/visit/schools",
                "https://quillmere.example/schools",
                "https://quillmere.example/visit/schools",
            ),
        ),
    ]
    site = davlo.open_site(garden)
    expected = set()
    for path, change, mistake in wrong:
        edit(built, path, change)
        expected.add(mistake)
    aside = (
        (built / "stories" / "index.html").read_text(encoding="utf-8").partition("<aside")[2].partition("</aside>")[0]
    )
    assert site.resolve()["/stories"]["sidebar.right"] != site.resolve()["/visit/cafe"]["sidebar.right"]

    def with_other_aside(text: str) -> str:
        before, _, rest = text.partition("<aside")
        return f"{before}<aside{aside}</aside>{rest.partition('</aside>')[2]}" if aside else text

    page = next(
        p for p in site.tree.paths if site.resolve()[p]["sidebar.right"] == "stories" and p.startswith("/stories/")
    )
    aside = (
        (built / page.strip("/") / "index.html")
        .read_text(encoding="utf-8")
        .partition("<aside")[2]
        .partition("</aside>")[0]
    )
    edit(built, "/visit/cafe", with_other_aside)
    expected.add(("area right", "/visit/cafe", "sidebar stories", "sidebar visit-planning"))
    edit(built, "/visit/getting-here", lambda t: t.partition("<aside")[0] + t.partition("</aside>")[2])
    expected.add(("area right", "/visit/getting-here", "nothing", "sidebar visit-planning"))
    edit(built, "/privacy", lambda t: t.replace('<a href="/plants/">', '<a href="/plants/roses/">', 1))
    label = next(link.label for link in site.links(language="en").links() if link.page == "/plants")
    expected |= {
        ("menu", "/privacy", "nothing", f"{label} (/plants)"),
        ("menu", "/privacy", f"{label} (/plants/roses)", "nothing"),
    }
    assert mistakes(garden, built) == expected


def test_pages_that_only_one_of_both_has(garden: Path, built: Path) -> None:
    shutil.rmtree(built / "visit" / "maps")
    (built / "new.html").write_text("<html lang=en><title>New</title>", encoding="utf-8")
    for path in ("staff/rota", "plants/draft"):
        (built / path).mkdir(parents=True, exist_ok=True)
    (built / "staff" / "rota" / "index.html").write_text("<html lang=en><title>Rota</title>", encoding="utf-8")
    site = davlo.open_site(garden)
    draft = site.tree.paths[int(site.details.draft.nonzero()[0][0])]
    (built / draft.strip("/")).mkdir(parents=True, exist_ok=True)
    (built / draft.strip("/") / "index.html").write_text("<html><title>Soon</title>", encoding="utf-8")
    shutil.copy(built / "about" / "index.html", built / "about.html")
    assert mistakes(garden, built) == {
        ("in the page list, and not built", "/visit/maps", "", ""),
        ("built, and not in the page list", "/new.html", "", ""),
        ("built though a visitor may not view it", "/staff/rota", "", ""),
        ("built though it is no live page", draft, "status draft", ""),
        ("built twice", "/about", "about/index.html", ""),
    }


def test_the_sitemap_and_robots_txt_are_compared_too(garden: Path, built: Path) -> None:
    text = (built / "sitemap.xml").read_text(encoding="utf-8")
    maps = text[text.index("  <url>\n    <loc>https://quillmere.example/visit/maps<") :]
    maps = maps[: maps.index("</url>\n") + len("</url>\n")]
    text = text.replace(maps, maps.replace("/visit/maps<", "/staff<")).replace(
        "<priority>1</priority>", "<priority>0.1</priority>", 1
    )
    (built / "sitemap.xml").write_text(text, encoding="utf-8")
    (built / "robots.txt").write_text("User-agent: *\nDisallow: /events\n", encoding="utf-8")
    found = mistakes(garden, built)
    closed = {one for one in found if one[0] == "robots.txt" and one[1].startswith("/events")}
    assert {(what, shows) for what, _, shows, _ in closed} == {
        ("robots.txt", "closed by 'Disallow: /events' (robots.txt:2)")
    }
    assert found - closed == {
        ("sitemap", "/visit/maps", "not listed", "listed"),
        ("sitemap", "/staff", "listed", "not listed: a visitor may not view it"),
        ("sitemap priority", "/", "0.1", "1"),
        ("robots.txt", "robots.txt", "nothing", "Disallow: /search? (davlo.yaml:174)"),
        ("robots.txt", "robots.txt", "Disallow: /events (robots.txt:2)", "nothing"),
    }


def test_the_command_tells_them_by_cause(garden: Path, built: Path, run: Run) -> None:
    for path in ("/visit/tickets", "/visit/maps", "/visit/shop"):
        edit(built, path, lambda text: text.replace(" · Quillmere Botanic Garden</title>", "</title>"))
    words = ("compare", str(built), *TODAY, "--site", str(garden))
    told = run(*words)
    assert (told.status, told.out.splitlines()[:8]) == (
        0,
        [
            f"{built}, as it was built, against what was decided",
            "137 pages compared: 1 difference on 3 pages",
            "",
            "Titles and headings",
            "  document title: 3 pages show something else than was decided, by everywhere, davlo.yaml:36",
            "    /visit/maps shows Maps of the garden, not Maps of the garden · Quillmere Botanic Garden",
            "    /visit/shop shows Garden shop, not Garden shop · Quillmere Botanic Garden",
            "    /visit/tickets shows Tickets, not Tickets · Quillmere Botanic Garden",
        ],
    )
    assert run(*words, "--fail-on", "difference").status == 1
    assert run(*words, "--fail-on", "difference", "--only", "menu").status == 0
    assert run(*words, "--fail-on", "difference", "--when", "below=/plants").status == 0
    rows = [*csv.DictReader(io.StringIO(run(*words, "--format", "csv").out))]
    assert {(row["page"], row["file"], row["line"]) for row in rows} == {
        (path, "davlo.yaml", "36") for path in ("/visit/tickets", "/visit/maps", "/visit/shop")
    }
    assert len(json.loads(run(*words, "--format", "json").out)["mistakes"]) == 3
    assert "- document title: 3 pages show something else" in run(*words, "--format", "markdown").out
    for more, says in (
        (("HEAD",), "leave LATER out"),
        (("--only", "access"), "built pages do not show access"),
        (("--fail-on", "access"), "--fail-on takes difference or never"),
        (("--areas", "none.yaml"), "none.yaml: it cannot be read"),
    ):
        got = run(*words[:2], *more, *words[2:])
        assert (got.status, says in got.err) == (2, True), got.err


def test_a_page_without_landmarks_is_compared_as_far_as_it_goes(small: Small, run: Run, tmp_path: Path) -> None:
    folder = small("", "path,title,leads_to\n/,Home,\n/a,A,\n/old,Old,/a\n")
    built = tmp_path / "html"
    built.mkdir()
    (built / "index.html").write_text("<title>Home</title><h1>Home</h1>", encoding="utf-8")
    (built / "a.html").write_text("<title>A</title><h1>A</h1>", encoding="utf-8")
    (built / "old.html").write_text('<meta http-equiv=refresh content="0; url=/">', encoding="utf-8")
    (built / "empty.html").write_bytes(b"")
    found = davlo.open_site(folder).compare_built(built)
    assert [(one.what, one.page, one.shows, one.should) for one in found.mistakes] == [("leads to", "/old", "/", "/a")]
    assert [one.partition(",")[0].partition(":")[0] for one in found.unseen] == [
        "what HTML does not show is not compared",
        "no page names its alternates in other languages",
        "no page says its language",
        "no page gives its canonical address",
        "no page has landmarks beside its content",
        "there is no robots.txt in the folder",
        "there is no sitemap in the folder",
        "empty.html",
    ]


def test_an_empty_aside_is_not_taken_for_the_one_that_is_filled(small: Small, tmp_path: Path) -> None:
    decisions = """everywhere: {layout.name: wide, sidebar.right: main}
layouts: {wide: {areas: [content, left, right]}}
sidebars: {main: {blocks: [clock]}}
blocks: {clock: {kind: text, text: Open daily}}
"""
    folder, built = small(decisions, "path,title\n/,Home\n"), tmp_path / "html"
    built.mkdir()
    clock = "<section><h2>Clock</h2><p>Open daily</p></section>"
    for asides, told in (
        (f"<aside></aside><aside>{clock}</aside>", []),
        ("<aside></aside>", [("area right", "nothing", "sidebar main")]),
        (f"<aside>{clock}</aside><aside>{clock}</aside>", [("area aside-2", "sidebar main", "nothing")]),
    ):
        page = f"<title>Home</title><main><h1>Home</h1></main>{asides}"
        (built / "index.html").write_text(page, encoding="utf-8")
        found = davlo.open_site(folder).compare_built(built).mistakes
        assert [(one.what, one.shows, one.should) for one in found] == told


AREAS = """everywhere: {layout.name: wide, sidebar.left: finder, sidebar.right: main, band.footer: legal}
layouts: {wide: {areas: [content, left, right, footer], filled_elsewhere: [menu]}}
sidebars: {main: {blocks: [clock, trains]}, finder: {blocks: [finder]}, quiet: {blank: yes}}
bands: {legal: {fits: [footer], blocks: [line]}}
blocks:
  clock: {kind: text, text: Open daily - 10 to 17}
  finder: {kind: text, text: Find a plant}
  line: {kind: one-of, blocks: [clock, finder]}
  trains: {kind: links, links: {By train: /train, By bus: /bus}}
pages:
  /quiet: {here: {sidebar.right: quiet, sidebar.left: none}}
"""
CLOCK, FINDER = "<h2>Hours</h2><p>Open <b>daily</b>, 10 to&nbsp;17", "<p>Find a plant</p>"
TRAINS = "<ul><li><a href=/train>By train</a> · <a href=/bus>By bus</a></ul>"
FOOTER = f"<footer>{FINDER}</footer>"


@pytest.mark.parametrize(
    ("areas", "told"),
    [
        (f"<aside>{FINDER}</aside><aside>{CLOCK}{TRAINS}</aside>{FOOTER}", []),
        (
            f"<aside>{CLOCK}{TRAINS}<p>And more</p></aside><aside>{FINDER}</aside>{FOOTER}<nav><a href=/x>X</a></nav>",
            [],
        ),
        (f"<aside>{CLOCK}{TRAINS}</aside>{FOOTER}", [("area left", "nothing", "sidebar finder")]),
        (
            f"<aside>{FINDER}</aside><aside>{CLOCK}</aside>{FOOTER}",
            [("area right", "it without trains", "sidebar main")],
        ),
        (
            f"<aside>{FINDER}</aside><aside>{CLOCK}{TRAINS.replace('/bus', '/train')}</aside>{FOOTER}",
            [("area right", "it without By bus", "sidebar main")],
        ),
        (f"<aside>{FINDER}</aside><aside>{FINDER}</aside>{FOOTER}", [("area right", "sidebar finder", "sidebar main")]),
        (
            f"<aside>{FINDER}</aside><aside>{CLOCK}{TRAINS}</aside><footer>Quay 3</footer><header>Brand</header>",
            [("area footer", "it without line", "band legal"), ("area masthead", "something else", "nothing")],
        ),
    ],
)
def test_an_area_is_right_where_its_decided_blocks_show(
    small: Small, tmp_path: Path, areas: str, told: list[tuple[str, str, str]]
) -> None:
    pages = "path,title\n/,Home\n/train,By train\n/bus,By bus\n"
    folder, built = small(AREAS.partition("pages:")[0], pages), tmp_path / "html"
    built.mkdir()
    for name in ("index", "train", "bus"):  # all alike: what most pages show is not right for that
        (built / f"{name}.html").write_text(f"<title>{name}</title><main><h1>{name}</h1></main>{areas}", "utf-8")
    found = davlo.open_site(folder).compare_built(built).mistakes
    of_home = [(one.what, one.shows, one.should) for one in found if one.page == "/" and one.part == "values"]
    assert of_home == told
    assert {one.page for one in found if one.what.startswith("area")} == ({"/", "/train", "/bus"} if told else set())


def test_links_lead_to_files_also_where_pages_have_other_addresses(small: Small, tmp_path: Path) -> None:
    decisions = """everywhere: {layout.name: wide, band.footer: nav}
layouts: {wide: {areas: [content, footer]}}
bands: {nav: {fits: [footer], blocks: [top, near]}}
blocks: {top: {kind: menu, levels: 1}, near: {kind: links, links: {Tea: /en/tea}}}
"""
    pages = "path,title,parent\n/en,Home,\n/en/tea,Tea,/en\n/en/rye,Rye,/en\n/en/rye/deep,Deep,/en/rye\n"
    folder, built = small(decisions, pages), tmp_path / "html"
    built.mkdir()
    page = "<link rel=canonical href={}><title>{}</title><main><h1>{}</h1></main>"
    edit_file(folder / "davlo.yaml", lambda text: text.replace("languages:", "home: /en, languages:", 1))
    links = "<a href=index.html>Home</a> <a href=rye.html>Rye</a> <a href=tea.html>Tea</a>"
    near = "<ul><li><a href=tea.html>Tea</a></ul>"
    deep = "<a href=deep.html>Deep</a>"  # the open section shows what lies below it
    for name, path in (("index", "/en"), ("tea", "/en/tea"), ("rye", "/en/rye"), ("deep", "/en/rye/deep")):
        title = {"index": "Home"}.get(name, name.title())
        footer = f"<nav>{links}{deep if 'rye' in path else ''}</nav>{near}"
        text = page.format(davlo.open_site(folder).url + path, title, title) + f"<footer>{footer}</footer>"
        (built / f"{name}.html").write_text(text, encoding="utf-8")
    assert davlo.open_site(folder).compare_built(built).mistakes == ()
    edit_file(built / "tea.html", lambda text: text.replace("</nav>", f"{deep}</nav>"))
    assert [(one.what, one.page, one.shows) for one in davlo.open_site(folder).compare_built(built).mistakes] == [
        ("menu", "/en/tea", "Deep (/en/rye/deep)")
    ]


def edit_file(file: Path, change: Change) -> None:
    file.write_text(change(file.read_text(encoding="utf-8")), encoding="utf-8")


def test_of_two_asides_the_one_that_is_gone_is_told(small: Small, tmp_path: Path) -> None:
    decisions = """everywhere: {layout.name: wide, sidebar.aside: main, sidebar.aside-2: finder}
layouts: {wide: {areas: [content, aside, aside-2]}}
sidebars: {main: {blocks: [clock]}, finder: {blocks: [finder]}}
blocks: {clock: {kind: text, text: "Open daily, 10 to 17"}, finder: {kind: text, text: Find a plant}}
"""
    folder, built = small(decisions, "path,title\n/,Home\n/a,A\n"), tmp_path / "html"
    built.mkdir()
    page = "<title>{0}</title><main><h1>{0}</h1></main>{1}"
    (built / "a.html").write_text(page.format("A", f"<aside>{CLOCK}</aside><aside>{FINDER}</aside>"), encoding="utf-8")
    for asides, told in (
        (f"<aside>{CLOCK}</aside><aside>{FINDER}</aside>", []),
        (f"<aside>{FINDER}</aside>", [("area aside", "nothing")]),
        (f"<aside>{CLOCK}</aside>", [("area aside-2", "nothing")]),
        (f"<aside>Else</aside><aside>{FINDER}</aside>", [("area aside", "it without clock")]),
    ):
        (built / "index.html").write_text(page.format("Home", asides), encoding="utf-8")
        found = davlo.open_site(folder).compare_built(built).mistakes
        assert [(one.what, one.shows) for one in found if one.page == "/"] == told


def test_what_is_blank_or_none_by_decision_shows_no_sidebar_of_others(small: Small, tmp_path: Path) -> None:
    folder, built = small(AREAS, "path,title\n/,Home\n/quiet,Quiet\n"), tmp_path / "html"
    built.mkdir()
    page = "<title>Quiet</title><main><h1>Quiet</h1></main><aside>{}</aside>" + FOOTER
    for aside, told in (
        ("Something that nobody declared", []),
        (CLOCK + TRAINS, [("area right", "sidebar main", "sidebar quiet")]),
    ):
        (built / "quiet.html").write_text(page.format(aside), encoding="utf-8")
        parts = "areas: {right: aside}"
        (tmp_path / "parts.yaml").write_text(parts, encoding="utf-8")
        found = davlo.open_site(folder).compare_built(built, areas=tmp_path / "parts.yaml").mistakes
        assert [(one.what, one.shows, one.should) for one in found if one.page == "/quiet"] == told


def test_a_menu_takes_no_aside_that_shows_another_area(small: Small, tmp_path: Path) -> None:
    decisions = """everywhere: {layout.name: wide, sidebar.left: nav, sidebar.right: main}
layouts: {wide: {areas: [content, left, right]}}
sidebars: {nav: {blocks: [top]}, main: {blocks: [clock]}}
blocks: {top: {kind: menu, levels: 1}, clock: {kind: text, text: "Open daily, 10 to 17"}}
"""
    folder, built = small(decisions, "path,title\n/,Home\n/a,A\n"), tmp_path / "html"
    built.mkdir()
    asides = f"<aside>{CLOCK}</aside><aside><nav><a href=/>Home</a> <a href=/a>A</a></nav></aside>"
    for name in ("index", "a"):
        title = {"index": "Home", "a": "A"}[name]
        page = f"<title>{title}</title><main><h1>{title}</h1></main>{asides}"
        (built / f"{name}.html").write_text(page, encoding="utf-8")
    assert davlo.open_site(folder).compare_built(built).mistakes == ()
