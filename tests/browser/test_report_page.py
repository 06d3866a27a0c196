"""The report in a real browser: each view, the search, the keyboard, hostile texts, and what axe finds.

`make test-browser` runs these: they need Debian's Chromium, whose path is in DAVLO_TEST_CHROMIUM.
"""

from __future__ import annotations

import csv
import io
import json
import unicodedata
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

import davlo
from tests.conftest import Run

from .conftest import CHROMIUM

pytestmark = pytest.mark.skipif(not CHROMIUM, reason="needs a browser: make test-browser")
Small = Callable[..., Path]
NASTY = '<img src=x onerror="window.hurt=1"></script><script>window.hurt=1</script> {{7*7}} & \u202e"\''


class Opened:
    """A report that is open in the browser, and what it tried to fetch or complained of."""

    def __init__(self, page: Any, file: Path) -> None:
        self.page, self.file, self.amiss = page, file, list[str]()
        page.on("console", lambda message: self.amiss.append(message.text))
        page.on("pageerror", lambda error: self.amiss.append(str(error)))
        page.on("request", lambda one: self.amiss.extend([] if one.url.startswith("file:") else [one.url]))

    def show(self, view: str = "") -> Any:
        self.page.goto(self.file.as_uri() + view)
        self.page.reload()
        return self.page


Show = Callable[..., Opened]


@pytest.fixture
def show(browser: Any, tmp_path: Path) -> Iterator[Show]:
    contexts = []

    def opened(text: str, **how: Any) -> Opened:
        file = tmp_path / "report.html"
        file.write_text(text, encoding="utf-8")
        contexts.append(browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **how}))
        return Opened(contexts[-1].new_page(), file)

    yield opened
    for context in contexts:
        context.close()


@pytest.fixture(scope="module")
def garden_report(tmp_path_factory: pytest.TempPathFactory) -> str:
    site = davlo.open_demo()
    folder = tmp_path_factory.mktemp("earlier") / "garden"
    davlo.write_demo(folder)
    earlier = davlo.open_site(folder)
    earlier.write(davlo.Change().say("sidebar.right", "main", below="/visit"))
    return site.report(since=str(folder))


VIEWS = (
    "#access",
    "#access?who=ida.marsh&action=edit",
    "#tree?sort=Page",
    "#tree",
    "#page=%2Fvisit%2Ftickets",
    "#findings",
    "#declarations",
    "#exceptions",
    "#menus",
    "#changes",
)


@pytest.mark.parametrize("view", VIEWS)
@pytest.mark.parametrize(("width", "scheme"), [(1280, "light"), (360, "dark")])
def test_each_view_is_drawn_and_axe_finds_nothing_serious(
    garden_report: str, show: Show, view: str, width: int, scheme: str
) -> None:
    opened = show(garden_report, viewport={"width": width, "height": 800}, color_scheme=scheme)
    page = opened.show(view)
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert "[object" not in page.inner_text("body")
    assert len(page.inner_text("main")) > 100
    assert opened.amiss == []
    axe = pytest.importorskip("axe_playwright_python.sync_playwright")
    source = Path(axe.__file__).parent / "axe.min.js"
    page.context.new_cdp_session(page).send("Page.setBypassCSP", {"enabled": True})
    page.reload()
    page.evaluate(source.read_text(encoding="utf-8"))
    found = page.evaluate("axe.run()")["violations"]
    serious = [(one["id"], one["nodes"][0]["html"][:200]) for one in found if one["impact"] in ("serious", "critical")]
    assert serious == []


def test_the_tree_is_searched_and_filtered(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#tree")
    assert page.inner_text("#told") == "158 pages"
    page.fill("#search", "cafe")
    paths = page.locator("#rows tbody th a").all_inner_texts()
    assert page.inner_text("#told") == f"{len(paths)} pages of 158 match"
    site = davlo.open_demo()
    titles = site.details.title.texts()
    wanted = [p for p, title in zip(site.tree.paths, titles, strict=True) if "cafe" in plain(f"{p}\n{title}")]
    assert paths == wanted
    page.fill("#search", "")
    page.select_option("select >> nth=1", "sidebar.right")
    page.select_option("select >> nth=2", "whats-on")
    assert page.locator("#rows tbody tr").count() == len(site.resolve().search("sidebar.right=whats-on"))
    page.select_option("select >> nth=2", "")
    page.select_option("select >> nth=3", "exceptions")
    exceptions = {one.path for one in site.resolve().exceptions("sidebar.right").records()}
    assert set(page.locator("#rows tbody th a").all_inner_texts()) == exceptions
    page.select_option("select >> nth=3", "")
    page.select_option("select >> nth=4", "error")
    wrong = {path for one in site.check().findings if one.level == "error" for path in one.pages}
    assert page.inner_text("#told").startswith(f"{len(wrong)} pages of")


def plain(text: str) -> str:
    """A text in small letters, without accents."""
    return "".join(one for one in unicodedata.normalize("NFD", text) if not unicodedata.combining(one)).lower()


def test_search_finds_values_addresses_and_forgives_one_slip(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#tree")
    site = davlo.open_demo()
    page.fill("#search", "https://quillmere.example/visit/tickets")
    assert "/visit/tickets" in page.locator("#rows tbody th a").all_inner_texts()
    page.fill("#search", "visit-planning")
    assert set(site.resolve().search("sidebar.right=visit-planning")) <= set(
        page.evaluate("matching().map((page) => pages.path[page])")
    )
    for slip in ("tickts", "tickest", "ticketss", "tivkets"):
        page.fill("#search", slip)
        assert "taken for tickets" in page.inner_text("#told"), slip
        assert "/visit/tickets" in page.locator("#rows tbody th a").all_inner_texts()
    page.fill("#search", "zzzzzzzz")
    assert page.inner_text("#told") == "0 pages of 158 match"


def test_the_address_keeps_the_view_and_back_comes_back_to_the_place(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#tree")
    page.fill("#search", "visit")
    page.select_option("select >> nth=1", "sidebar.right")
    page.click("button[data-sort='sidebar.right']")
    before = page.locator("#rows tbody th a").all_inner_texts()
    page.reload()
    assert page.locator("#rows tbody th a").all_inner_texts() == before
    assert page.input_value("#search") == "visit"
    values = [
        page.evaluate(f"valueOf(settings.get('sidebar.right'), pages.path.indexOf({json.dumps(one)}))")
        for one in before
    ]
    assert values == sorted(values)
    link = page.locator("#rows tbody th a").nth(len(before) - 1)
    link.scroll_into_view_if_needed()
    top, href = page.evaluate("window.scrollY"), link.get_attribute("href")
    link.click()
    page.wait_for_function("location.hash.startsWith('#page=')")
    assert page.title().endswith("– Quillmere Botanic Garden")
    page.go_back()
    page.wait_for_function("location.hash.startsWith('#tree')")
    page.wait_for_function("document.activeElement.tagName === 'A'")
    assert page.evaluate("document.activeElement.getAttribute('href')") == href
    assert abs(page.evaluate("window.scrollY") - top) < 5
    assert page.locator("#rows tbody th a").all_inner_texts() == before


def test_the_skip_link_keeps_the_page(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#page=%2Fvisit%2Ftickets")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.id") == "main"
    assert page.inner_text("main h2") == "Tickets"
    assert page.evaluate("location.hash") == "#page=%2Fvisit%2Ftickets"


def test_findings_are_filtered_and_one_has_an_address(garden_report: str, show: Show) -> None:
    opened, findings = show(garden_report), davlo.open_demo().check().findings
    page = opened.show("#findings")
    assert page.locator("details.finding").count() == min(len(findings), 50)
    page.select_option("select >> nth=0", "error")
    errors = [one for one in findings if one.level == "error"]
    assert page.locator("details.finding").count() == len(errors)
    page.select_option("select >> nth=0", "")
    page.select_option("select >> nth=1", findings[-1].kind)
    assert page.locator("details.finding").count() == sum(one.kind == findings[-1].kind for one in findings)
    page = opened.show(f"#finding={errors[0].name}")
    assert errors[0].message in " ".join(page.inner_text("details.finding[open] summary").split())
    assert f"davlo check {errors[0].name}" in page.inner_text("main")
    page.click("text=show them in the tree")
    page.wait_for_function("location.hash.startsWith('#tree')")
    assert page.inner_text("#told").startswith(f"{len(errors[0].pages)} page")


def test_who_may_do_what_over_all_pages(garden_report: str, show: Show) -> None:
    page, access = show(garden_report).show("#access"), davlo.open_demo().access()
    for who in ("ida.marsh", "visitor", "editors"):
        for action in ("view", "edit", "grant"):
            number = len(access.pages(who, action))
            found = page.evaluate(
                "([who, action]) => { const code = codesOf(data.access); return [...code.keys()].filter((page) =>"
                " data.access.groups[code[page]].find((one) => one[0] === who)[1].includes(action)).length; }",
                [who, action],
            )
            assert found == number, (who, action)
    page.click("button[aria-label^='ida.marsh may edit']")
    assert page.inner_text("main section h3") == f"ida.marsh may edit: {len(access.pages('ida.marsh', 'edit'))} pages"


def test_a_table_is_copied_as_csv_without_formulas(small: Small, show: Show) -> None:
    folder = small("", 'path,title\n/,"=1+1, ""x"""\n/a,Plain\n')
    page = show(davlo.open_site(folder).report(), permissions=["clipboard-read", "clipboard-write"]).show("#tree")
    page.click("text=Copy as CSV")
    page.wait_for_selector("text=Copied")
    rows = list(csv.reader(io.StringIO(page.evaluate("navigator.clipboard.readText()"))))
    assert rows[0][:3] == ["path", "title", "Type"]
    assert [row[:2] for row in rows[1:]] == [["/", '\'=1+1, "x"'], ["/a", "Plain"]]


def test_a_value_is_copied_and_a_table_leaves_its_buttons_out(garden_report: str, show: Show) -> None:
    opened = show(garden_report, permissions=["clipboard-read", "clipboard-write"])
    page = opened.show("#page=%2Fvisit%2Ftickets")
    page.locator("tr", has=page.locator("th", has_text="sidebar.right")).hover()
    page.click("button[aria-label='Copy the value of sidebar.right']")
    page.wait_for_selector("text=Copied")
    assert page.evaluate("navigator.clipboard.readText()") == "visit-planning"
    page.locator("text=Copy as CSV").first.click()
    page.wait_for_function("async () => (await navigator.clipboard.readText()).includes('Setting')")
    rows = list(csv.reader(io.StringIO(page.evaluate("navigator.clipboard.readText()"))))
    assert ["sidebar.right", "visit-planning", "below /visit", "davlo.yaml:79"] in rows


def test_a_page_tells_its_values_what_they_beat_and_who_may(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#page=%2Fvisit%2Ftickets")
    row = page.locator("tr", has=page.locator("th", has_text="sidebar.right"))
    cells = row.locator("th, td").all_inner_texts()
    assert [one.split("\n")[0] for one in cells[:3]] == ["sidebar.right", "visit-planning Copy", "below /visit"]
    row.locator("summary").click()
    row.locator("li").first.wait_for()
    told = row.locator("li").all_inner_texts()
    assert [one.partition(":")[0] for one in told] == [
        "visit-planning below /visit (davlo.yaml",
        "main everywhere (davlo.yaml",
        "none built-in",
    ]
    assert page.locator(".screen.wide .area .name").all_inner_texts() == [
        "masthead",
        "menu",
        "content",
        "right",
        "footer",
    ]
    right, content = (page.locator(".screen.wide .middle .area >> nth=" + at).bounding_box() for at in "10")
    assert right["x"] > content["x"] + content["width"] * 0.9
    assert "ida.marsh\tview, edit, create" in page.inner_text("main")


def test_a_declaration_lists_its_pages_and_a_menu_its_viewers(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#declarations")
    sidebar = page.locator("details", has=page.locator("summary b", has_text="plant-finder")).first
    sidebar.locator("summary").first.click()
    sidebar.locator("summary", has_text="The pages that use it").click()
    sidebar.locator(".pages li").first.wait_for()  # a list is drawn once its details have opened
    assert sidebar.locator(".pages li").count() == 31
    sidebar.locator("summary", has_text="What it looks like").click()
    sidebar.locator(".area .kind").wait_for()
    blocks = davlo.open_demo().declarations.sidebars["plant-finder"].blocks
    assert sidebar.locator(".area .head").all_inner_texts() == list(blocks)
    assert sidebar.locator(".area .name").inner_text() == "right"
    page = show(garden_report).show("#menus")
    entries = page.locator("main > div > ul.links li").count()
    page.select_option("select >> nth=1", "ida.marsh")
    assert page.inner_text("h3 >> nth=0") == "The menu as ida.marsh sees it"
    assert page.locator("main > div > ul.links li").count() > entries


def test_it_is_used_by_the_keyboard_alone(garden_report: str, show: Show) -> None:
    page = show(garden_report).show("#tree")
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.className") == "skip"
    for _ in range(2):
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    page.wait_for_function("location.hash === '#findings'")
    assert page.evaluate("document.activeElement.tagName") == "H2"
    for _ in range(9):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.tagName") == "SUMMARY":
            break
    page.keyboard.press("Enter")
    assert page.locator("details[open]").count() == 1
    page = show(garden_report).show("#tree")
    toggle = page.locator("button.toggle[aria-expanded=false]").first
    toggle.focus()
    before = page.locator("#rows tbody tr").count()
    page.keyboard.press("Enter")
    assert page.locator("#rows tbody tr").count() > before
    assert page.evaluate("document.activeElement.getAttribute('aria-expanded')") == "true"


def test_hostile_texts_run_nothing_and_fetch_nothing(small: Small, show: Show) -> None:
    rows = f'path,title,tags\n/,"{NASTY.replace(chr(34), chr(34) * 2)}",x\n/a,"=1+1","{{{{1}}}}"\n'
    folder = small("", rows)
    decisions = (folder / "davlo.yaml").read_text()
    said = NASTY.replace("'", "''")
    (folder / "davlo.yaml").write_text(
        decisions
        + f"everywhere: {{menu.label: '{said}', because: '{said}'}}\npages: {{/a: {{here: {{menu.show: no, because: '{said}'}}}}}}\n"
    )
    opened = show(davlo.open_site(folder).report())
    for view in (
        "#tree",
        "#page=%2F",
        "#page=%2Fa",
        "#findings",
        "#exceptions",
        "#menus",
        "#page=<img src=x onerror=window.hurt=1>",
    ):
        page = opened.show(view)
        for summary in page.locator("summary").all():
            summary.click()
        page.evaluate("new Promise((done) => setTimeout(done, 20))")  # what opened is drawn by then
        assert page.evaluate("window.hurt") is None
        assert page.locator("img").count() == 0
    assert opened.amiss == []
    assert "{{7*7}}" in opened.show("#tree").inner_text("main")


def test_twenty_thousand_pages_are_searched(show: Show) -> None:
    paths = ["/"] + [f"/branch-{page % 97}/page-{page}" for page in range(1, 20_000)]
    rows = {"path": paths, "title": [f"The page of number {page}" for page in range(20_000)]}
    settings = {"davlo": 1, "site": {"name": "Wide", "url": "https://wide.example"}}
    page = show(davlo.Site.from_frames(rows, settings).report()).show("#tree")
    page.fill("#search", "number 19999")
    assert page.locator("#rows tbody th a").all_inner_texts() == ["/branch-17/page-19999"]
    assert page.inner_text("#told") == "1 page of 20,000 match"


def test_it_prints(garden_report: str, show: Show, tmp_path: Path) -> None:
    page = show(garden_report).show("#page=%2Fvisit%2Ftickets")
    page.pdf(path=str(tmp_path / "page.pdf"))
    assert (tmp_path / "page.pdf").read_bytes().startswith(b"%PDF")
    page.emulate_media(media="print")
    assert not page.locator("nav").is_visible()
    assert page.locator("h2").is_visible()


EVERY_VALUE = """() => data.settings.flatMap((setting) => pages.path.flatMap((path, page) => has(setting, page)
  ? [[path, setting.name, valueOf(setting, page), sourceOf(setting, page)[0]]] : []))"""
MARKED = "() => Object.fromEntries(data.settings.map((s) => [s.name, pages.path.filter((_, page) => %s)]))"


def test_every_value_and_mark_is_the_one_that_the_commands_give(
    garden_report: str, garden: Path, show: Show, run: Run
) -> None:
    page = show(garden_report).show("#tree")
    table = csv.DictReader(io.StringIO(run("export", "--long", "--format", "csv", "--site", str(garden)).out))
    wanted = {(row["path"], row["setting"]): (row["value"], row["source"]) for row in table}
    found = {(path, name): (value, source) for path, name, value, source in page.evaluate(EVERY_VALUE)}
    assert {key: (value.replace("(empty)", ""), source) for key, (value, source) in found.items()} == wanted
    effective = davlo.open_demo().resolve()
    exceptions = page.evaluate(MARKED % "isException(s, page)")
    not_shown = page.evaluate(MARKED % "whyNotShown(s, page)")
    for name, pages in exceptions.items():
        assert pages == [effective.site.tree.paths[at] for at in effective.exceptions(name).pages], name
    for name in ("sidebar.right", "sitemap.priority", "menu.label", "look.right"):
        told = json.loads(run("tree", "--not-shown", name, "--format", "json", "--site", str(garden)).out)
        assert set(not_shown[name]) == {one["path"] for one in told}, name


def test_every_page_can_be_drawn_on_a_narrow_screen(garden_report: str, show: Show) -> None:
    opened = show(garden_report, viewport={"width": 360, "height": 800})
    page = opened.show("#tree")
    wide = page.evaluate("""async () => {
      const wide = [];
      for (const path of pages.path) {
        location.hash = `#page=${encodeURIComponent(path)}`;
        await new Promise((done) => addEventListener("hashchange", () => setTimeout(done), { once: true }));
        const heading = document.querySelector("main h2").textContent;
        if (document.documentElement.scrollWidth > 360 || !heading.includes(pages.title[pages.path.indexOf(path)])) wide.push(path);
      }
      return wide;
    }""")
    assert (wide, opened.amiss) == ([], [])
