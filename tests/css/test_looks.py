"""A look is CSS on three parts: what each property takes, what a derived look changes, and what is drawn."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo import draw
from davlo.css.properties import PROPERTIES, checked
from davlo.css.used_values import color_of, longhands, pixels
from tests.conftest import Run
from tests.draw.test_pictures import words

Small = Callable[..., Path]
UNITS = {"px": 1, "pt": 4 / 3, "in": 96, "em": 16, "rem": 16}
SIDES = ("top", "right", "bottom", "left")
LENGTHS = st.tuples(st.integers(0, 400), st.sampled_from(sorted(UNITS)))


@given(st.sampled_from(["padding", "margin"]), st.lists(LENGTHS, min_size=1, max_size=4))
def test_one_to_four_lengths_go_round_the_box(name: str, lengths: list[tuple[int, str]]) -> None:
    value = " ".join(f"{number}{unit}" for number, unit in lengths)
    assert checked(name, value) == value
    found = longhands({name: value})
    expected = [number * UNITS[unit] for number, unit in lengths]
    round_it = [expected[0], expected[1 % len(expected)], expected[2 % len(expected)], expected[-1]]
    if len(expected) == 3:
        round_it[3] = expected[1]
    assert [pixels(found[f"{name}-{side}"]) for side in SIDES] == pytest.approx(round_it)


@given(st.integers(0, 0xFFFFFF))
def test_a_colour_has_many_spellings(number: int) -> None:
    red, green, blue = number >> 16, number >> 8 & 255, number & 255
    spelt = (f"#{number:06x}", f"#{number:06X}", f"rgb({red}, {green}, {blue})", f"rgb({red} {green} {blue})")
    assert {color_of(longhands({"color": checked("color", one) or ""})["color"]) for one in spelt} == {spelt[0]}


@given(st.permutations(["2px", "dashed", "teal"]), st.integers(1, 3))
def test_a_border_takes_each_of_its_three_once_in_any_order(parts: list[str], most: int) -> None:
    value = " ".join(parts[:most])
    assert checked("border", value) == value
    assert checked("border", f"{value} {parts[0]}") is None


@given(st.sampled_from(sorted(PROPERTIES)), st.text("0123456789abcdepx%#() ;{}'\"/-.", max_size=16))
def test_whatever_a_property_takes_it_takes_again(name: str, value: str) -> None:
    taken = checked(name, value)
    if taken is not None:
        assert checked(name, taken) == taken
        assert not set(taken) & set(";{}\"'")
        assert longhands({name: taken})


REFUSED = {
    "width: 0%": "width takes a percentage of the page",
    "width: 40": "width takes a percentage of the page",
    "padding: -3px": "padding takes",
    "padding: 1px 2px 3px 4px 5px": "padding takes",
    "border: 1px 2px": "border takes",
    "background-color: url(x.png)": "background-color takes",
    "color: expression(alert(1))": "color takes",
    "font-weight: 1001": "font-weight takes",
    "position: fixed": "position takes static or sticky",
    "text-align: middle": "text-align takes",
    "font-size: calc(1px + 2px)": "font-size takes",
    "gap: 1px; color: red": "gap takes",
}


@pytest.mark.parametrize("declaration", REFUSED)
def test_what_css_or_a_look_does_not_take_is_refused_at_its_line(declaration: str, small: Small) -> None:
    name, _, value = declaration.partition(": ")
    with pytest.raises(davlo.SiteError) as caught:
        davlo.open_site(small(f"looks:\n  usual:\n    each_block: {{{name}: '{value}'}}\n"))
    assert any(REFUSED[declaration] in fault.what and fault.place.line == 5 for fault in caught.value.faults)


def test_a_property_that_is_nearly_one_is_named(run: Run, small: Small) -> None:
    random = Random(31)
    for name in random.sample(sorted(PROPERTIES), 12):
        at = random.randrange(1, len(name))
        slip = name[:at] + name[at + 1 :]
        if slip in PROPERTIES:
            continue
        told = run("tree", "--site", str(small(f"looks: {{usual: {{whole: {{{slip}: 1px}}}}}}\n"))).err
        assert f"has no key '{slip}'" in told
        assert "did you mean" in told


def test_a_derived_look_changes_single_properties_and_what_is_said_last_wins(small: Small) -> None:
    site = davlo.open_site(
        small(
            "looks:\n"
            "  base: {whole: {width: 20%, padding: 1px, padding-top: 5px}, headings: {color: red}}\n"
            "  made: {based_on: base, shows_on: [wide], whole: {padding: 9px}, headings: {font-weight: bold}}\n"
            "  last: {based_on: made, whole: {inline-size: 44%}}\n"
        )
    )
    made, last = (next(one for one in site.declared("look") if one.name == name).details for name in ("made", "last"))
    assert made["headings"] == {"color": "red", "font-weight": "bold"}
    assert isinstance(made["whole"], dict)
    assert isinstance(last["whole"], dict)
    found = longhands(made["whole"])
    assert (pixels(found["padding-top"]), pixels(found["padding-left"]), made["shows_on"]) == (9, 9, ("wide",))
    assert longhands(last["whole"])["width"].value == 44


BAND = """layouts: {plain: {areas: [masthead, content]}}
bands: {head: {fits: [masthead], blocks: [words]}}
blocks: {words: {kind: text, text: Good morning}}
looks: {loud: {whole: {background-color: navy, color: white, text-align: center}, headings: {background-color: gold}}}
everywhere: {layout.name: plain, band.masthead: head, look.masthead: loud}
"""


def test_a_look_may_be_set_where_a_band_stands_and_is_drawn(small: Small, run: Run) -> None:
    folder = small(BAND)
    site = davlo.open_site(folder)
    assert site.resolve().shown.reason("/", "look.masthead") == ""
    figure = draw.page(site.resolve(), "/")
    assert any("look loud" in text for text in words(figure))
    colors = {patch.get_facecolor()[:3] for patch in figure.axes[0].patches}
    assert {(0.0, 0.0, 128 / 255), (1.0, 215 / 255, 0.0)} <= {tuple(color) for color in colors}
    bare = davlo.open_site(small(BAND.replace("band.masthead: head, ", "")))
    assert bare.resolve().shown.reason("/", "look.masthead").startswith("no sidebar and no band")


def test_a_look_that_is_written_keeps_its_properties(small: Small, run: Run, tmp_path: Path) -> None:
    folder = small(BAND)
    assert run("rename", "look", "loud", "grand", "--write", "--site", str(folder)).status == 0
    text = (folder / "davlo.yaml").read_text()
    assert "looks: {grand: {whole: {background-color: navy, color: white, text-align: center}" in text
    assert "look.masthead: grand" in text


def test_a_site_without_looks_loads_no_parser_of_css(small: Small) -> None:
    for decisions, loaded in (("", "False"), ("looks: {usual: {whole: {width: 30%}}}\n", "True")):
        asked = (
            f"import sys, davlo; davlo.open_site({str(small(decisions))!r}).resolve(); print('tinycss2' in sys.modules)"
        )
        assert subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True).stdout.strip() == loaded
