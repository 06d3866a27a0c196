"""Pictures are looked at by what is in them: words, their sizes and places, boxes and their widths."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random

import numpy as np
import pytest
from benchmarks.make import make
from hypothesis import given
from hypothesis import strategies as st
from matplotlib.colors import to_hex
from matplotlib.figure import Figure
from matplotlib.patches import Patch, Rectangle
from matplotlib.path import Path as MplPath
from matplotlib.text import Text
from matplotlib.transforms import Bbox

import davlo
from davlo import draw
from davlo.core.change.steps.change import Declare
from davlo.core.outcomes.access.who_may_act import who_may_act
from davlo.core.records.page_plan import plan
from davlo.draw.area_text import area_lines, short_lines
from davlo.draw.ink import INKS
from davlo.draw.lettering import CUT, SMALLEST, as_measured, drawable, fit, lines, width
from davlo.site import Site
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]


def words(figure: Figure) -> list[str]:
    return [text.get_text() for text in figure.axes[0].texts]


def boxes(figure: Figure) -> dict[str, Rectangle]:
    """The boxes that have names."""
    return {str(box.get_gid()): box for box in figure.axes[0].patches if isinstance(box, Rectangle) and box.get_gid()}


def rectangles(patch: Patch) -> int:
    """How many rectangles are drawn together."""
    return int(np.count_nonzero(patch.get_path().codes == MplPath.MOVETO))


def extents(figure: Figure) -> list[tuple[Text, Bbox]]:
    canvas = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    return [(text, text.get_window_extent(canvas)) for text in figure.axes[0].texts]


def assert_legible(figure: Figure) -> None:
    """No words are small, none lie on others, none leave the sheet or the box they begin in."""
    with as_measured():
        found = extents(figure)
    sheet = figure.bbox
    for text, box in found:
        assert float(text.get_fontsize()) >= SMALLEST, text.get_text()
        assert box.x0 >= sheet.x0, text.get_text()
        assert box.x1 <= sheet.x1, text.get_text()
        assert box.y0 >= sheet.y0, text.get_text()
    for name, drawn in boxes(figure).items():
        around = drawn.get_window_extent()
        for text, words_box in found:
            if around.contains(words_box.x0, (words_box.y0 + words_box.y1) / 2):
                assert words_box.x1 <= around.x1 + 0.5, (text.get_text(), name)
                assert words_box.y0 >= around.y0 - 2, (text.get_text(), name)
    edges = np.array([[box.x0, box.y0, box.x1, box.y1] for _, box in found])
    x0, y0, x1, y1 = edges.T
    across = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0)
    down = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0)
    over = np.argwhere(np.triu((across > 0.5) & (down > 1.5), 1))  # the room under letters may be shared
    assert [(found[i][0].get_text(), found[j][0].get_text()) for i, j in over] == []


def test_a_page_is_drawn_as_its_layout_to_scale_with_what_stands_there_and_from_where() -> None:
    figure = draw.page(davlo.open_demo().resolve(), "/visit/maps")
    assert (figure.get_size_inches() * 100).tolist() == [1280, 800]
    found, told = boxes(figure), words(figure)
    page = found["wide /visit/maps masthead"].get_width()
    screen = found["wide /visit/maps"].get_width()
    assert page / screen == pytest.approx(1040 / 1280)
    assert found["phone /visit/maps"].get_width() / screen == pytest.approx(360 / 1280)
    right, content = found["wide /visit/maps right"], found["wide /visit/maps content"]
    assert right.get_width() / page == pytest.approx(0.28, abs=0.005)
    assert content.get_x() + content.get_width() < right.get_x()
    for area in ("masthead", "menu", "content", "right", "footer"):
        assert f"phone /visit/maps {area}" in found
    assert "sidebar visit-planning" in told
    assert "below /visit, davlo.yaml:79" in told
    assert "getting-here: Ten minutes on foot" in " ".join(told)
    assert "top-menu: Quillmere Botanic Garden, Visit" in " ".join(told)
    assert (
        "left: the layout two-column has no such area; not shown: sidebar visit-planning (here, davlo.yaml:81)" in told
    )
    assert_legible(figure)


def test_pages_beside_each_other_are_marked_where_they_differ_and_themes_are_named() -> None:
    figure = draw.page(davlo.open_demo().resolve(), "/visit/maps", "/campaigns/spring", "/visit/shop")
    told = words(figure)
    assert figure.get_size_inches()[0] * 100 == pytest.approx(1920)
    assert told.count("footer ≠") == 6
    assert told.count("masthead") == 6
    assert "evening calls it top-links" in told
    assert "evening does not show this area: it shows nothing" in told
    hatched = [box for box in figure.axes[0].patches if box.get_hatch() == "///"]
    assert len(hatched) == 2
    assert_legible(figure)


@pytest.mark.parametrize("pages", [1, 2, 3, 4, 7])
def test_any_number_of_pages_can_be_read(pages: int) -> None:
    site = davlo.open_demo()
    chosen = Random(pages).sample(list(site.tree.paths), pages)
    figure = draw.page(site.resolve(), *chosen)
    assert [text for text in words(figure) if text in chosen] == chosen
    assert_legible(figure)


ODD = """
layouts:
  wild: {areas: [top, left-far, left, content, right, aside, tail], width: narrow}
themes:
  dim: {areas: [top, content, left, strip], area_names: {tail: strip}, if_missing: {right: b3, aside: left}}
sidebars:
  a-very-long-name-that-nobody-would-ever-type-by-hand: {blocks: [b1, b2, b3, b4, b5, b6, b7, b8, b9]}
  two: {blocks: [b1]}
looks:
  fat:
    shows_on: [wide]
    whole: {width: 50%, position: sticky, padding: 60px, margin: 90px, gap: 40px, text-align: center}
    headings: {font-size: 48px}
    each_block: {border: 2px dashed red, padding: 1em, margin: 5px}
  thin: {shows_on: [phone], whole: {width: 10%, background-color: "#333", border: solid}, headings: {background-color: "#fe0"}}
bands: {band-top: {fits: [top], blocks: [b1, b2]}}
blocks:
  b1: {kind: text, text: "Words with $math^2$ and \ue123\ue124 and a text that goes on and on and on and on and on and on without an end"}
  b2: {kind: text, text: Pneumonoultramicroscopicsilicovolcanoconiosis}
""" + "".join(f"  b{i}: {{kind: text, text: x}}\n" for i in range(3, 10))
ODD += """
everywhere:
  layout.name: wild
  layout.theme: dim
  sidebar.left: two
  look.left: fat
  look.left-far: fat
  look.right: thin
  sidebar.right: two
  sidebar.aside: a-very-long-name-that-nobody-would-ever-type-by-hand
  band.top: band-top
  layout.phone-order: [content]
pages:
  /a: {here: {layout.name: none}}
"""


def test_narrow_columns_hidden_screens_and_odd_words_are_told_and_nothing_is_obeyed(small: Small) -> None:
    folder = small(
        ODD, pages='path,title\n/,"A $title$ that is much longer than anybody would have it, and then more"\n/a,A\n'
    )
    figure = draw.page(davlo.open_site(folder).resolve(), "/", "/a")
    told = words(figure)
    for expected in (
        "no layout: there is nothing to draw",
        "(3) right ≠",
        "dim does not show this area: it shows the block b3",
        "dim does not show this area: it shows its area left",
        "look thin, 10 % of the page (everywhere, davlo.yaml:36)",
        "not shown on: wide, tablet",
        "and 1 more block",
    ):
        assert expected in told
    assert any("$math^2$ and □□" in text for text in told)
    assert any(text.startswith("not on a phone:") for text in told)
    assert all(text.get_color() != "#ffffff" for text in figure.axes[0].texts)  # the dark look is in no area shown
    assert any(text.endswith(CUT) for text in told)
    assert_legible(figure)


@of_made_up_sites(3)
def test_made_up_pages_and_maps_can_be_read(site: SiteDict) -> None:
    opened = open_made_up(site)
    random, effective = Random(str(site["rows"])), opened.resolve()
    assert_legible(draw.page(effective, *random.sample(list(opened.tree.paths), min(2, len(opened.tree)))))
    assert_legible(draw.map(effective, random.choice(["title.pattern", "weight", "sidebar.right"])))


@pytest.mark.parametrize("screens", [["wide"], ["tablet"], ["phone"], ["phone", "tablet"], ["wide", "tablet", "phone"]])
def test_each_screen_is_drawn_to_scale_and_the_first_says_everything(screens: list[str], small: Small) -> None:
    figure = draw.page(davlo.open_demo().resolve(), "/visit/maps", screens=screens)
    found, told = boxes(figure), words(figure)
    pixels = {"wide": 1280, "tablet": 768, "phone": 360}
    widths = {screen: found[f"{screen} /visit/maps"].get_width() for screen in screens}
    assert {screen for screen in pixels if f"{screen} /visit/maps footer" in found} == set(screens)
    assert len({round(width / pixels[screen], 4) for screen, width in widths.items()}) == 1
    assert " ".join(told).count("below /visit, davlo.yaml:79") == 1
    assert_legible(figure)
    odd = davlo.open_site(small(ODD, pages="path,title\n/,Home\n/a,A\n"))
    assert_legible(draw.page(odd.resolve(), "/", "/a", screens=screens))


def test_a_look_is_drawn_as_it_says() -> None:
    site = davlo.open_demo()
    look, plain = site.declarations.looks["usual"], boxes(draw.page(site.resolve(), "/visit/tickets"))
    own = {
        "whole": {"width": "35%", "padding": "24px", "border": "none", "border-inline-start": "2px solid red"},
        "each_block": {"border": "1px solid rgb(0 128 0)", "padding": "4px"},
        "headings": {"background-color": "#ffd76f", "color": "#102030", "font-size": "20px"},
    }
    own["whole"] |= {"background-color": "#1d3a5f", "margin-inline-start": "60px", "gap": "30px"}
    site = site.apply(davlo.Change((Declare(look._replace(own=own)),)))
    figure = draw.page(site.resolve(), "/visit/tickets")
    found = boxes(figure)
    page = found["wide /visit/tickets masthead"].get_width()
    right, content = found["wide /visit/tickets right"], found["wide /visit/tickets content"]
    assert right.get_width() / page == pytest.approx(0.35, abs=0.005)
    gap = right.get_x() - content.get_x() - content.get_width()
    assert gap / page == pytest.approx(60 / 1040, abs=0.01)
    line = found["border of wide /visit/tickets right"]
    assert (line.get_width(), to_hex(line.get_edgecolor())) == (0, "#ff0000")
    assert right.get_x() < line.get_x() < right.get_x() + 5
    around = plain["border of wide /visit/tickets right"]
    assert around.get_width() > plain["wide /visit/tickets right"].get_width() * 0.9
    edges = [to_hex(patch.get_edgecolor()) for patch in figure.axes[0].patches]
    assert edges.count("#008000") == 3  # the blocks of the sidebar, on the wide screen
    fills = [to_hex(patch.get_facecolor()) for patch in figure.axes[0].patches]
    assert fills.count("#1d3a5f") == 2  # the column, on both screens
    assert fills.count("#ffd76f") >= 3
    headings = [text for text in figure.axes[0].texts if text.get_text().startswith("getting")]
    assert [(text.get_color(), text.get_fontsize()) for text in headings] == [("#102030", 10.0)]
    heights = {text.get_text(): float(text.get_position()[1]) for text in figure.axes[0].texts}
    ticket = min(height for text, height in heights.items() if text.startswith("ticket"))
    assert ticket - max(height for text, height in heights.items() if "Halt" in text) > 15
    light = [text.get_color() for text in figure.axes[0].texts if text.get_text().startswith("below /visit")]
    assert light == ["#ffffff"]
    assert_legible(figure)


def test_values_are_tried_beside_each_other_and_nothing_changes() -> None:
    site = davlo.open_demo()
    figure = draw.candidates(site, "/visit/tickets", "sidebar.right", ["main", "visit-planning", "none"])
    told = words(figure)
    assert [text for text in told if text.startswith("sidebar.right")] == [
        "sidebar.right as it is: visit-planning",
        "sidebar.right: main",
        "sidebar.right: none",
    ]
    assert "sidebar main" in told
    assert "here, the change" in " ".join(told)
    assert told.count("right ≠") == 6
    assert site.resolve()["/visit/tickets"]["sidebar.right"] == "visit-planning"
    assert_legible(figure)
    locked = words(draw.candidates(site, "/visit/tickets", "band.footer", ["footer-press"], screens=["phone"]))
    assert "band.footer: footer-press has no effect: everywhere locks it (davlo.yaml:47)" in " ".join(locked)
    blocks = words(draw.candidates(site, "/visit/tickets", "blocks.content", ["plate; facts-box"]))
    assert "blocks.content: plate; facts-box" in blocks
    with pytest.raises(davlo.UnknownName):
        draw.candidates(site, "/visit/tickets", "sidebar.rigth", ["main"])
    with pytest.raises(davlo.UnknownName, match="setting for a page of type page"):
        draw.candidates(site, "/visit/tickets", "audio-guide", ["7"])
    with pytest.raises(davlo.ChangeError):
        draw.candidates(site, "/visit/tickets", "sidebar.right", ["mian"])
    for call in (
        lambda: draw.candidates(site, "/visit/tickets", "sidebar.right", []),
        lambda: draw.page(site.resolve(), "/", screens=["watch"]),
    ):
        with pytest.raises(ValueError, match=r"name at least one|screens are wide, tablet, phone"):
            call()


def test_the_map_of_who_may_act_names_groups_or_counts_people() -> None:
    effective = davlo.open_demo().resolve()
    figure = draw.map(effective, "may:edit")
    told = words(figure)
    assert told[0] == "who may edit, on 158 pages"
    assert {"editors: 147 pages", "nobody but admins: 2 pages", "its owner: 3 pages"} <= set(told)
    assert_legible(figure)
    assert any(text.startswith("everybody: ") for text in words(draw.map(effective, "may:view", branch="/staff")))
    counted, access = who_may_act(effective, "edit", most=2), davlo.open_demo().access()
    for page, path in enumerate(effective):
        people = [who for who in effective.site.people.names if access.may(who, "edit", path)]
        assert counted.words[counted.codes[page]] == len([who for who in people if not access.is_admin(who)])
    with pytest.raises(davlo.UnknownName):
        draw.map(effective, "may:edt")


def test_a_page_without_an_owner_names_who_may_act(small: Callable[..., Path]) -> None:
    people = "people: {names: [amber.finch]}\neverywhere: {access: {amber.finch: [edit]}}\n"
    site = davlo.open_site(small(f"{people}pages: {{/a: {{here: {{page.owner: amber.finch}}}}}}\n"))
    found = who_may_act(site.resolve(), "edit")
    told = [found.words[found.codes[site.page_number(path)]] for path in ("/a", "/a/b")]
    assert told == ["its owner", "amber.finch"]


@of_made_up_sites(4)
def test_who_may_act_is_what_each_may(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective, access, people = opened.resolve(), opened.access(), opened.people
    action = Random(str(site["rows"])).choice(opened.actions)
    named, counted = who_may_act(effective, action, most=1000), who_may_act(effective, action, most=0)
    for page, path in enumerate(opened.tree.paths):
        told = named.words[named.codes[page]]
        may = [who for who in people.names if access.may(who, action, path) and not access.is_admin(who)]
        assert (told == "everybody") == access.may("visitor", action, path)
        assert counted.words[counted.codes[page]] == len(may)
        if told not in ("everybody", "anyone signed in"):
            groups = [group for group in people.groups if access.may(group, action, path)]
            inside = {who for group in groups for who in people.members_of(group)}
            owner = effective[path].get("page.owner")
            others = ["its owner" if who == owner else who for who in may if who not in inside]
            assert told == (", ".join([*groups, *others]) or "nobody but admins")


def test_the_map_of_the_garden_shows_every_page_its_value_and_what_departs() -> None:
    site = davlo.open_demo()
    figure = draw.map(site.resolve(), "sidebar.right")
    told = words(figure)
    assert told[0] == "sidebar.right on 158 pages"
    assert {"main: 52 pages", "plant-finder: 31 pages", "call-to-action: 2 pages"} <= set(told)
    assert sum(text.startswith("◆") for text in told) == 1 + 5  # two of them in one box
    assert "○ 13 pages have their value set but not shown" in told
    assert "◆ 6 pages are exceptions" in told
    tails = [path.rpartition("/")[2] for path in site.tree.paths]
    alike = {"/visit/tickets", "/staff", "/topics", "/campaigns/spring"}  # their branches are closed
    assert all(told.count(f"/{path.rpartition('/')[2]}") for path in alike)
    assert sum(told.count(f"/{tail}") for tail in set(tails)) == 121
    of_hatch = [patch for patch in figure.axes[0].patches if patch.get_hatch() == INKS[1].hatch]
    assert sum(rectangles(patch) for patch in of_hatch) == 31 + 1  # and in the legend
    assert_legible(figure)


def test_the_map_of_a_hundred_thousand_pages_is_gathered_and_every_box_has_its_count(tmp_path: Path) -> None:
    make(100_000, 1, tmp_path)
    effective = davlo.open_site(tmp_path).resolve()
    figure = draw.map(effective, "sidebar.right")
    told = words(figure)
    assert (figure.get_size_inches() * 100).tolist() == [1280, 800]
    assert "100,000 pages" in told
    assert any(text.startswith("Large. Each box") and "gathered into 200 boxes" in text for text in told)
    assert sum(text.endswith(" pages") and text[0] in "◆0123456789" for text in told) > 150
    assert_legible(figure)


def test_a_map_with_many_long_values_still_ends_on_the_sheet() -> None:
    values = [f"{{title}} | a pattern of words so long that nobody could want it, number {i}" for i in range(9)]
    paths = ["/", *(f"/p{i}" for i in range(300))]
    decisions = {"davlo": 1, "site": {"name": "Words", "url": "https://words.example"}}
    page_list = {"path": paths, "title.pattern": [values[i % 9] for i in range(301)]}
    figure = draw.map(Site.from_frames(page_list, decisions).resolve(), "title.pattern")
    assert sum(text.endswith("…: 34 pages") for text in words(figure)) == 4
    assert_legible(figure)


def test_blocks_of_a_page_stand_under_its_own_content() -> None:
    figure = draw.page(davlo.open_demo().resolve(), "/events/2026/apple-day")
    heights = {text.get_text(): float(text.get_position()[1]) for text in figure.axes[0].texts}
    content = boxes(figure)["wide /events/2026/apple-day content"]
    below = content.get_y() + content.get_height()
    assert heights["Apple day"] < heights["the page's own content"] < content.get_y() + 60
    assert below - 60 < heights["block booking-link"] < below


def test_a_numbers_legend_goes_down_and_a_branch_can_be_drawn_alone() -> None:
    effective = davlo.open_demo().resolve()
    told = words(draw.map(effective, "sitemap.priority", branch="/visit"))
    assert told[0] == "sitemap.priority on 24 pages, /visit and what is below it"
    legend = [float(text.partition(":")[0]) for text in told if ": " in text and text[0] == "0"]
    assert legend == sorted(legend, reverse=True)
    assert len(legend) >= 4


def test_what_is_not_there_is_named(garden: Path) -> None:
    effective = davlo.open_site(garden).resolve()
    for call in (lambda: draw.page(effective, "/nowhere"), lambda: draw.map(effective, "no.such")):
        with pytest.raises(davlo.UnknownName):
            call()
    with pytest.raises(ValueError, match="at least one page"):
        draw.page(effective)


@given(st.sampled_from(["/visit/maps", "/campaigns/spring", "/plants/ferns/tree-fern"]), st.floats(42, 300))
def test_what_is_told_of_an_area_fits_whatever_its_width(path: str, room: float) -> None:
    effective = davlo.open_demo().resolve()
    planned = plan(effective, effective.site.tree.number(path))
    for area in planned.areas:
        for line in (*area_lines(planned, area, room, True), *short_lines(planned, area, room, True)):
            assert line.indent + width(line.text, line.size, line.face) <= room


WIDE = st.text(alphabet=st.characters(codec="utf-8", exclude_categories=["Cs"]), max_size=60)


@given(WIDE, st.floats(20, 200), st.sampled_from(["plain", "bold", "slanted"]))
def test_words_that_are_fitted_are_no_wider_than_the_room_and_cut_with_a_sign(
    text: str, room: float, face: str
) -> None:
    cut = fit(text, 8, room, face)
    assert width(cut, 8, face) <= room
    assert cut == text or cut.endswith(CUT)
    told = lines(text, 8, room, face, most=100)
    assert all(width(line, 8, face) <= room for line in told)
    assert "".join("".join(told).split()) == "".join(text.split())
    few = lines(text, 8, room, face, most=2)
    assert len(few) <= 2
    assert all(width(line, 8, face) <= room for line in few)
    assert few == told or few[-1].endswith(CUT)
    assert len(drawable(text, face)) == len(text)


MISSING_CONES = {
    "none": np.eye(3),
    "long": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "medium": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.01182, 0.04294, 0.968881]]
    ),
    "short": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.3039]]
    ),
}
"""Machado, Oliveira and Fernandes, 2009: the matrices of severity 1, for linear RGB."""


def seen(colors: list[str], cones: np.ndarray) -> np.ndarray:
    """Colours as they are seen, in CIE L*a*b*. float[colors, 3]"""
    rgb = np.array([[int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)] for color in colors])
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    to_xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
    ratio = np.clip(linear @ cones.T, 0, 1) @ to_xyz.T / to_xyz.sum(axis=1)
    root = np.where(ratio > 0.008856, np.cbrt(ratio), 7.787 * ratio + 16 / 116)
    x, y, z = root.T
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=1)


@pytest.mark.parametrize("cones", MISSING_CONES)
def test_inks_can_be_told_apart_whatever_cones_are_missing_and_in_grey(cones: str) -> None:
    colors = [ink.color for ink in INKS]
    found = seen(colors, MISSING_CONES[cones])
    apart = np.sqrt(((found[:, None] - found) ** 2).sum(axis=2)) + 1e9 * np.eye(len(found))
    assert apart.min() > 25
    lightness = np.sort(seen(colors, MISSING_CONES["none"])[:, 0])
    assert np.diff(lightness).min() > 6
    assert len({ink.hatch for ink in INKS}) == len(INKS)
