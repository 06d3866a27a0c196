"""Values: what a text, a list or a mapping stands for by the setting's kind, and how it is written again."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from davlo.core.faults import ValueFault
from davlo.core.site.settings.parse_values import read_cell, read_value
from davlo.core.site.settings.setting import Setting
from davlo.core.site.settings.values import (
    ByDepth,
    ListChange,
    Plain,
    Raw,
    Reference,
    Value,
    expand_roles,
    format_value,
    json_value,
)

SETTINGS = {
    "flag": Setting("flag", "flag", False, own=True),
    "motto": Setting("motto", "text", "", own=True),
    "rank": Setting("rank", "integer", None, least=0, most=20, own=True),
    "weight": Setting("weight", "number", None, own=True),
    "hue": Setting("hue", "choice", None, choices=("red", "green"), own=True),
    "until": Setting("until", "date", None, own=True),
    "tint": Setting("tint", "color", None, own=True),
    "topics": Setting("topics", "list", (), own=True),
    "may": Setting("may", "list", (), choices=("view", "edit", "create"), stands_for={"tending": ("view", "edit")}),
}

READ: list[tuple[str, Raw, Value]] = [
    ("flag", "yes", True),
    ("flag", "TRUE", True),
    ("flag", "false", False),
    ("motto", "none", "none"),
    ("motto", "<empty>", ""),
    ("motto", "yes", "yes"),
    ("motto", "<below>", Reference("below")),
    ("rank", "007", 7),
    ("rank", "none", None),
    ("weight", "1.50", 1.5),
    ("weight", "-2e3", -2000.0),
    ("weight", {"by_depth": {"top": "1", "step": ".25", "floor": "0.5"}}, ByDepth(1.0, 0.25, 0.5)),
    ("hue", "red", "red"),
    ("hue", "none", None),
    ("until", "2026-02-28", "2026-02-28"),
    ("tint", "#ABC", "#abc"),
    ("topics", ["b", "a", "b"], ("b", "a")),
    ("topics", [], ()),
    ("topics", "none", ()),
    ("topics", {"add": ["a"], "remove": ["b"]}, ListChange(add=("a",), remove=("b",))),
    ("may", ["tending", "create", "view"], ("view", "edit", "create")),
    ("may", {"first": ["tending"]}, ListChange(first=("view", "edit"))),
]


@pytest.mark.parametrize(("name", "raw", "value"), READ)
def test_what_a_file_holds_is_typed_by_the_settings_kind(name: str, raw: Raw, value: Value) -> None:
    found = read_value(SETTINGS[name], raw)
    assert (found, type(found)) == (value, type(value))


REFUSED: list[tuple[str, Raw, str]] = [
    ("flag", "none", "takes yes or no"),
    ("flag", "1", "takes yes or no"),
    ("rank", "1.0", "takes an integer from 0 to 20, not '1.0'"),
    ("rank", "21", "not 21"),
    ("rank", "٣", "takes an integer"),
    ("weight", "1,5", "takes a number, not '1,5'"),
    ("weight", "nan", "takes a number"),
    ("weight", "1e999", "takes a number"),
    ("hue", "blue", "takes one of red, green, or none"),
    ("until", "2026-02-30", "takes a date like"),
    ("until", "2026-W01-1", "takes a date like"),
    ("tint", "red", "takes a color like"),
    ("topics", ["a; b"], "holds no ';'"),
    ("topics", [""], "is empty"),
    ("topics", [["a"]], "is a word"),
    ("topics", {}, "takes add, first and remove, not 'nothing'"),
    ("may", ["delete"], "item 'delete' is not known"),
    ("rank", {"by_depth": {"top": "1", "step": "1", "floor": "0"}}, "not a mapping with by_depth"),
    ("weight", {"by_depth": {"top": "x", "step": "1", "floor": "0"}}, "top takes a number, not 'x'"),
    ("motto", ["a"], "takes a text, not a list"),
]


@pytest.mark.parametrize(("name", "raw", "says"), REFUSED)
def test_what_a_setting_cannot_take(name: str, raw: Raw, says: str) -> None:
    with pytest.raises(ValueFault) as caught:
        read_value(SETTINGS[name], raw)
    assert says in caught.value.what


CELLS: list[tuple[str, str, Value]] = [
    ("topics", "a; b;", ("a", "b")),
    ("topics", "+ a; b", ListChange(add=("a", "b"))),
    ("topics", "- a", ListChange(remove=("a",))),
    ("topics", "-a", ("-a",)),
    ("topics", "<type>", Reference("type")),
    ("may", "+ tending", ListChange(add=("view", "edit"))),
    ("rank", "3", 3),
]


@pytest.mark.parametrize(("name", "text", "value"), CELLS)
def test_what_a_cell_says(name: str, text: str, value: Value) -> None:
    assert read_cell(SETTINGS[name], text) == value


PLAIN: dict[str, st.SearchStrategy[Plain]] = {
    "flag": st.booleans(),
    "rank": st.none() | st.integers(0, 20),
    "weight": st.none() | st.floats(-1e6, 1e6).map(lambda number: round(number, 4)),
    "hue": st.sampled_from([None, "red", "green"]),
    "until": st.dates().map(lambda day: day.isoformat()),
    "topics": st.lists(st.from_regex(r"[a-z0-9.]{1,4}", fullmatch=True).filter(lambda w: w != "none"), unique=True).map(
        tuple
    ),
    "may": st.sampled_from([(), ("view",), ("edit", "create")]),
}


@given(st.data())
def test_a_value_that_is_written_reads_as_itself(data: st.DataObject) -> None:
    name = data.draw(st.sampled_from(sorted(PLAIN)))
    value = data.draw(PLAIN[name])
    text = format_value(value) or "none"  # an empty list is an empty cell, which says nothing; none says it
    assert read_cell(SETTINGS[name], text) == value


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (Reference("below"), "<below>"),
        (ByDepth(1.0, 0.15, 0.3), "by depth: 1, 0.15 less a level, at least 0.3"),
        (ListChange(first=("a",), remove=("b", "c")), "remove b; c, first a"),
        (ListChange(), "change nothing"),
    ],
)
def test_what_is_no_plain_value_is_told_in_words(value: Value, text: str) -> None:
    assert format_value(value) == text


def test_json_and_roles() -> None:
    assert [json_value(value) for value in (("a",), None, True, 0.5)] == [["a"], None, True, 0.5]
    assert expand_roles({"tending": ("view", "edit")}, ["edit", "tending"]) == ("edit", "view")
