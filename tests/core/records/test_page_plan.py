"""The plan of a page: where areas lie, how wide they are, what stands in them and from where."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.core.outcomes.area_fits import LEFT, RIGHT
from davlo.core.outcomes.areas import composition
from davlo.core.records.page_plan import HEADING, MIDDLE, Plan, plan
from tests.core.resolve.test_fold import open_made_up
from tests.sites import SiteDict, of_made_up_sites

Small = Callable[..., Path]
PIECES = """
layouts:
  broad: {areas: [masthead, left, content, aside, right, footer], width: full}
  narrow: {areas: [content, footer], width: narrow, blocks: {footer: [clock]}}
sidebars: {slim: {blocks: [clock]}, other: {}}
looks: {half: {whole: {width: 50%}}, tenth: {whole: {width: 10%}, shows_on: [wide]}}
bands: {foot: {fits: [footer], blocks: [clock]}}
blocks:
  clock: {kind: text, text: Open at ten}
everywhere: {layout.name: broad, sidebar.left: slim, sidebar.aside: other}
"""


def planned(folder: Path, path: str) -> Plan:
    effective = davlo.open_site(folder).resolve()
    return plan(effective, effective.site.tree.number(path))


@of_made_up_sites(5)
def test_a_plan_holds_what_the_composition_does_with_the_sources_of_its_settings(site: SiteDict) -> None:
    opened = open_made_up(site)
    effective = opened.resolve()
    for page, path in enumerate(opened.tree.paths):
        made, found = composition(effective, page), plan(effective, page)
        assert [area.area for area in found.areas] == [content.area for content in made.areas]
        for area, content in zip(found.areas, made.areas, strict=True):
            shows_heading = area.side == MIDDLE and effective[path]["heading.show"] is True
            assert [i for i, thing in enumerate(area.things) if thing.kind == HEADING] == [0] * shows_heading
            things = [thing for thing in area.things if thing.kind != HEADING]
            assert [(thing.kind, thing.name) for thing in things] == list(content.stands)
            for thing in things:
                if thing.kind in ("band", "sidebar", "block"):
                    family = "blocks" if thing.kind == "block" else thing.kind
                    assert thing.source == effective.source(path, f"{family}.{area.area}")
        beside = [area.share for area in found.areas if area.side in (LEFT, MIDDLE, RIGHT)]
        if any(area.side == MIDDLE for area in found.areas):
            assert sum(beside) == pytest.approx(1)
        if made.layout:
            settings = effective[path]
            lost = [f"{t.kind if t.kind != 'block' else 'blocks'}.{area}" for area, t in found.placeless]
            said = [
                name
                for name, value in settings.items()
                if name.split(".")[0] in ("band", "sidebar", "blocks") and value not in (None, ())
            ]
            areas = {area.area for area in found.areas}
            assert set(lost) == {name for name in said if name.partition(".")[2] not in areas}


def test_columns_lie_beside_the_content_as_wide_as_their_looks_say(small: Small) -> None:
    folder = small(PIECES + "pages: {/a: {here: {look.left: tenth, look.aside: half, look.right: half}}}\n")
    found = planned(folder, "/a")
    assert [(area.area, area.side, area.share) for area in found.areas] == [
        ("masthead", "above", 1.0),
        ("left", "left", pytest.approx(0.1 / 1.1 * 0.9)),
        ("content", "middle", 0.1),  # a tenth is left to it, however wide the columns are
        ("aside", "right", pytest.approx(0.5 / 1.1 * 0.9)),
        ("right", "right", pytest.approx(0.5 / 1.1 * 0.9)),
        ("footer", "below", 1.0),
    ]
    assert found.pixels == 1280
    assert found.areas[1].things[0].screens == ("wide",)


def test_a_layouts_own_blocks_and_width_come_from_the_layout_and_what_has_no_area_is_told(small: Small) -> None:
    folder = small(PIECES + "pages: {/a: {here: {layout.name: narrow, heading.show: no}}}\n")
    found = planned(folder, "/a")
    assert (found.width, found.pixels) == ("narrow", 800)
    assert found.chosen["layout.width"].words == "layout narrow"
    footer = found.areas[1]
    assert [(thing.kind, thing.inside, str(thing.source)) for thing in footer.things] == [
        ("layout block", (("clock", "Open at ten"),), "layout narrow, davlo.yaml:6")
    ]
    assert [thing.kind for thing in found.areas[0].things] == ["own content"]
    assert [(area, thing.name, str(thing.source)) for area, thing in found.placeless] == [
        ("left", "slim", "everywhere, davlo.yaml:12"),
        ("aside", "other", "everywhere, davlo.yaml:12"),
    ]


def test_without_a_layout_there_is_nothing_to_plan(small: Small) -> None:
    found = planned(small("everywhere: {heading.show: yes}\n"), "/a")
    assert (found.layout, found.areas, found.placeless) == ("", (), ())
