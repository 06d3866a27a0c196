"""YAML as nodes with their lines, and CSV as sheets: what is written reads as itself."""

from __future__ import annotations

import csv
import io
import threading
from collections.abc import Callable
from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

import davlo
from davlo.core.site.settings.values import Raw
from davlo.files.read.rows import csv_sheets as cells
from davlo.files.read.rows import large_csv
from davlo.files.read.rows import row_sources as rows
from davlo.files.read.rows.csv_sheets import Sheet, _read_plain, read_sheet
from davlo.files.read.yaml.node_reader import Reader
from davlo.files.read.yaml.yaml_nodes import Mapping, Scalar, raw, read_yaml
from davlo.frames import intake
from tests.rows import long_rows

Small = Callable[..., Path]
WORDS = st.text(
    st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"], exclude_characters="\x85\u2028\u2029\ufeff"),
    max_size=6,
)
TREES = st.dictionaries(
    WORDS,
    st.recursive(WORDS, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(WORDS, inner, max_size=3)),
    min_size=1,
    max_size=4,
)


@given(TREES, st.booleans())
def test_yaml_that_is_written_reads_as_itself(tree: dict[str, Raw], flow: bool) -> None:
    text = yaml.safe_dump(tree, allow_unicode=True, default_flow_style=flow, sort_keys=False)
    node, faults = read_yaml(text, "davlo.yaml")
    assert faults == []
    assert node is not None
    assert raw(node) == tree


YAML = """a: 1
b:
  - x
  -   y
c: &this {d: off, "e": 'none'}
f: *this
g: |
  two
  lines
"""


def test_each_key_and_value_knows_its_line() -> None:
    node, faults = read_yaml(YAML, "davlo.yaml")
    assert (faults, node is not None) == ([], True)
    assert node
    assert {key: place.line for key, place, _ in node} == {"a": 1, "b": 2, "c": 5, "f": 6, "g": 7}
    assert raw(node) == {
        "a": "1",
        "b": ["x", "y"],
        "c": {"d": "off", "e": "none"},
        "f": {"d": "off", "e": "none"},
        "g": "two\nlines\n",
    }
    inner = node.entries["c"]
    assert isinstance(inner, Mapping)
    assert [s.bare for s in inner.entries.values() if isinstance(s, Scalar)] == [True, False]


BROKEN = {
    "a: [1, 2\nb: 3\n": "a [ is opened here, and not closed|end it with ]",
    'a: "b\nc: d\n': 'a quote is opened here, and not closed|end it with "',
    "a:\n  b:c\n  d: e\n": "a colon needs a space after it|write b: c",
    "a:\n  b: c\n   d: e\n": "the line begins with 3 spaces; those beside it begin with 2 spaces|as line 2 does",
    "a:\n  b: c\n d: e\n": "the line begins with 1 space; those beside it begin with 2 spaces|as line 2 does",
    "a: x: y\n": 'a text with a colon and a space in it must stand in quotes|write a: "x: y"',
    "- a\n": "the file holds keys with values",
    "a: 1\n---\nb: 2\n": "a second document begins here",
    "? [a]\n: b\n": "a key is a single word here",
    "a: *nowhere\n": "*nowhere names nothing above",
    "a:\n  -\n": "nothing stands after this -",
    "a: @b\n": 'a text that begins with @ must stand in quotes|write "@b"',
    "a: {b: , c: 1}\n": "b has no value in {c, b}",
    "a: " + "{b: " * 3000 + "1" + "}" * 3000 + "\n": "nested too deep",
}


@pytest.mark.parametrize("text", BROKEN, ids=lambda text: text[:12])
def test_broken_yaml(text: str) -> None:
    _, faults = read_yaml(text, "davlo.yaml")
    what, _, hint = BROKEN[text].partition("|")
    assert any(what in fault.what and hint in fault.hint for fault in faults)
    assert all(fault.place.file == "davlo.yaml" for fault in faults)


def test_a_mistake_in_one_section_hides_none_in_those_below() -> None:
    text = 'a:\n  b: "c\nd: {e: f}\ng: {h: [i}\nj:\n  - k: l\n   m: n\n'
    _, faults = read_yaml(text, "davlo.yaml")
    assert [(fault.place.line, fault.what.split(",")[0]) for fault in faults] == [
        (2, "a quote is opened here"),
        (4, "a [ is opened here"),
        (7, "the line begins with 3 spaces; those beside it begin with 4 spaces"),
    ]


@pytest.mark.parametrize(
    ("file", "content", "hint"),
    [
        ("pages.csv", "/,Home\n/a,A\n", "put a row above it that names them, as path"),
        ("values.csv", "here /a,title.limit,9\n", "put a row above it that names them, as where,setting,value"),
        ("stamps.csv", "/a,title.limit,9\n", "put a row above it that names them, as path,setting,value"),
    ],
)
def test_a_header_that_is_lost(file: str, content: str, hint: str, small: Callable[..., Path]) -> None:
    folder = small(files={file: content})
    text = (folder / "davlo.yaml").read_text().replace("[en, fr]", "[en, fr], values: [values.csv]")
    (folder / "davlo.yaml").write_text(text)
    (folder / "values.csv").touch()
    with pytest.raises(davlo.SiteError) as error:
        davlo.open_site(folder)
    assert (file, 1, hint) in [(fault.place.file, fault.place.line, fault.hint) for fault in error.value.faults]


CELLS = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"], include_characters="\n"), max_size=5)
ROWS = st.lists(st.tuples(CELLS, CELLS).filter(lambda row: any(cell.strip() for cell in row)), max_size=6)


def sheet_of(folder: Path, content: bytes) -> tuple[Sheet | None, Reader]:
    (folder / "sheet.csv").write_bytes(content)
    reader = Reader()
    return read_sheet(folder, "sheet.csv", reader, ("a",), None), reader


@given(ROWS, st.sampled_from(["\n", "\r\n"]), st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]))
def test_csv_that_is_written_reads_as_itself(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, str]], ends: str, encoding: str
) -> None:
    buffer = io.StringIO(newline="")
    csv.writer(buffer, lineterminator=ends).writerows([("a", "b"), *rows])
    sheet, reader = sheet_of(tmp_path_factory.mktemp("csv"), buffer.getvalue().encode(encoding))
    assert (reader.faults, sheet is not None) == ([], True)
    assert sheet
    assert list(zip(sheet.texts("a"), sheet.texts("b"), strict=True)) == rows
    line, expected = 2, []
    for row in rows:
        expected.append(line)
        line += 1 + sum(cell.count("\n") for cell in row)
    assert sheet.lines.tolist() == expected


@pytest.mark.parametrize("chunk", [None, 3])
@given(rows=ROWS, ends=st.sampled_from(["\n", "\r\n"]), last=st.booleans(), data=st.data())
def test_large_files_read_as_small_ones(
    chunk: int | None, rows: list[tuple[str, str]], ends: str, last: bool, data: st.DataObject
) -> None:
    buffer = io.StringIO(newline="")
    csv.writer(buffer, lineterminator=ends).writerows([("path", "b"), *rows])
    content = buffer.getvalue()
    for _ in range(data.draw(st.integers(0, 2))):  # blank lines and blank rows, where they are none of a cell
        content += data.draw(st.sampled_from([ends, f",{ends}", f" , {ends}"]))
    content = content if last else content.removesuffix(ends)
    with pytest.MonkeyPatch.context() as patch:
        if chunk:
            patch.setattr(intake, "MANY_WORDS", chunk)
        parsed = large_csv.parse_large(content.encode())
        large = parsed and parsed.columns()
    plain = _read_plain(content, "sheet.csv", Reader())
    assert plain
    if large is None:
        assert not any(row for row in rows)  # a file of no rows is left to the plain reader
        return
    assert (large[0], large[2].tolist()) == (plain[0], plain[2].tolist())
    assert [column.texts() for column in large[1]] == [column.texts() for column in plain[1]]


REFUSED = [b"a,b\n1\n", b"a,b\n1,2,3\n", b"a\n\xe9\n", b"a\0\n1\n", b"a\r1\r", b"a\r1\r\n", b'a\n"x\n']


@pytest.mark.parametrize("content", REFUSED)
def test_what_is_odd_is_left_to_the_plain_reader(content: bytes) -> None:
    assert large_csv.parse_large(content) is None


def test_a_large_site_is_read_as_a_small_one(garden: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def told() -> list[tuple[str, ...]]:
        return long_rows(davlo.open_site(garden).resolve())

    before = told()
    with monkeypatch.context() as patch:
        patch.setattr(cells, "LARGE", 0)
        patch.setattr(rows, "LARGE", 0)
        patch.setattr(intake, "MANY_WORDS", 5)
        assert told() == before


def test_a_short_row_is_filled_and_a_binary_file_is_none(tmp_path: Path) -> None:
    sheet, _ = sheet_of(tmp_path, b"a,b\n1\n\n,\n2,3\n")
    assert sheet
    assert (sheet.texts("b"), sheet.lines.tolist(), str(sheet.place(1, "b"))) == (
        ["", "3"],
        [2, 5],
        "sheet.csv:5, column b",
    )
    for content, what in (
        (b"a\0b\n", "holds NUL characters"),
        (b'a\n"open\n', "this is not CSV"),
        (b"b\n1\n", "the column a is missing"),
    ):
        nothing, reader = sheet_of(tmp_path, content)
        assert nothing is None
        assert what in reader.faults[0].what


ROWS_OF_VALUES = """where,setting,value
here /a,heading.show,no
here /a/,title.limit,30
everywhere,title.limit,20
here https://small.example/a/b,heading.show,no
below /a,title.limit,25
type page,menu.show,no
here /gone,heading.show,no
"""
ODD_ROWS = "heer /a,title.limit,1\nhere a,title.limit,2\nhere /a,title.limit,x\ntype pgae,title.limit,3\n"


ONLY_HERE = "".join(line for line in ROWS_OF_VALUES.splitlines(True) if line.startswith(("where", "here /")))


@pytest.mark.parametrize("rows", [ROWS_OF_VALUES, ROWS_OF_VALUES + ODD_ROWS, ONLY_HERE])
def test_very_many_rows_of_values_read_as_few(rows: str, small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    files = {"values.csv": rows}
    folder = small("", files=files)
    text = (folder / "davlo.yaml").read_text().replace("languages", "values: [values.csv], languages")
    (folder / "davlo.yaml").write_text(text)

    def told() -> list[str]:
        try:
            site = davlo.open_site(folder)
        except davlo.SiteError as error:
            return str(error).splitlines()
        return [*map(str, long_rows(site.resolve())), *site.notes, *site.statements.gone]

    plain = told()
    assert len(plain) >= (5 if ODD_ROWS in rows else 40)
    monkeypatch.setattr(cells, "LARGE", 0)
    monkeypatch.setattr(intake, "MANY_WORDS", 2)
    assert told() == plain


def test_what_goes_wrong_beside_is_told_in_order(small: Small, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = small(
        "everywhere: {heading.shown: no}\npages: {a: {here: {heading.show: no}}}\n", "path,order\nb,x\n/,1\n/,y\n"
    )

    def told() -> str:
        with pytest.raises(davlo.SiteError) as error:
            davlo.open_site(folder)
        return str(error.value)

    plain = told()
    assert len(plain.splitlines()) == 6
    monkeypatch.setattr(rows, "LARGE", 0)
    assert told() == plain

    def fail(*words: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(rows, "read_page_list_sheet", fail)
    with pytest.raises(ZeroDivisionError):
        davlo.open_site(folder)
    monkeypatch.undo()
    monkeypatch.setattr(rows, "LARGE", 0)

    # who reads beside asks what columns mean, and need not wait for settings that never come
    (folder / "pages.csv").write_text("PATH,Owner\n/,x\n")
    (folder / "davlo.yaml").write_text("site: {name: G, url: https://g.example, page_list: pages.csv}\nsettings: [")
    assert "davlo.yaml" in told()
    for thread in threading.enumerate():
        if thread is not threading.current_thread():
            thread.join(10)
            assert not thread.is_alive()
