"""One notion of a line: an edit changes the row or the entry that it names, whatever letters stand before it."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from pathlib import Path

import pytest

import davlo
from davlo.files.rewrite.line_edits import edited
from davlo.files.rewrite.rewrite import rewrite
from davlo.frames.csv_lines import write_csv
from tests.conftest import MINIMAL, Run

Small = Callable[..., Path]
ODD = ("\x0b", "\x0c", "\x1c", "\x1d", "\x1e", "\x85", "\u2028", "\u2029")
ENDS = ("\n", "\r\n", "\r")


@pytest.mark.parametrize("end", ENDS)
@pytest.mark.parametrize("mark", ["", "\ufeff"])
@pytest.mark.parametrize("odd", ODD)
def test_an_edit_of_a_row_changes_that_row_alone(small: Small, odd: str, mark: str, end: str) -> None:
    rows = ["path,title,menu.show", "/,Home,", f"/a,A{odd}one,", "/b,B,yes", "/c,C,no"]
    folder = small("")
    (folder / "pages.csv").write_bytes((mark + end.join(rows) + end).encode())
    site = davlo.open_site(folder)
    assert site.details.title[site.tree.number("/a")] == f"A{odd}one"
    (edit,) = rewrite(site, folder, davlo.Change().take_away("menu.show", here="/b"))
    assert (edit.line, edit.old, edit.new) == (4, f"/b,B,yes{end}", f"/b,B,{end}")
    rows[3] = "/b,B,"
    content = (folder / "pages.csv").read_bytes().decode()
    assert edited(content.encode(), [edit]).decode() == mark + end.join(rows) + end


@pytest.mark.parametrize("end", ENDS)
@pytest.mark.parametrize("mark", ["", "\ufeff"])
@pytest.mark.parametrize("odd", ["\x85", "\u2028", "\u2029"])
def test_an_edit_of_an_entry_changes_that_entry_alone(small: Small, odd: str, mark: str, end: str) -> None:
    lines = [
        *MINIMAL.strip().split("\n"),
        f"# a comment{odd}that goes on",
        f'everywhere: {{title.pattern: "{{title}}{odd}x", menu.show: yes}}',
        f"pages: {{/a: {{here: {{menu.label: A{odd}b, menu.show: yes}}}}}}",
    ]
    folder = small("")
    (folder / "davlo.yaml").write_bytes((mark + end.join(lines) + end).encode())
    site = davlo.open_site(folder)
    found = site.resolve()
    assert found["/a"]["title.pattern"] == f"{{title}}{odd}x"
    assert found["/a"]["menu.label"] == f"A{odd}b"
    assert found.source("/a", "menu.show").line == len(lines)
    edits = rewrite(site, folder, davlo.Change().take_away("menu.show", here="/a"))
    lines[-1] = f"pages: {{/a: {{here: {{menu.label: A{odd}b}}}}}}"
    content = (folder / "davlo.yaml").read_bytes().decode()
    assert edited(content.encode(), edits).decode() == mark + end.join(lines) + end


@pytest.mark.parametrize("odd", ODD)
def test_a_fix_in_sarif_names_the_lines_that_it_deletes(small: Small, run: Run, odd: str) -> None:
    rows = ["path,title,menu.show", f"/,Ho{odd}me,", "/a,A,yes", "/b,B,"]
    folder = small("", "\n".join(rows) + "\n")
    log = json.loads(run("check", "--kind", "repeats-inherited", "--format", "sarif", "--site", str(folder)).out)
    (result,) = log["runs"][0]["results"]
    (replacement,) = result["fixes"][0]["artifactChanges"][0]["replacements"]
    region = replacement["deletedRegion"]
    assert (region["startLine"], region["endLine"], region["startColumn"]) == (3, 4, 1)
    assert result["locations"][0]["physicalLocation"]["region"]["startLine"] == 3


@pytest.mark.parametrize("letter", ["\r", "\n", "\r\n", '"', ",", ";", *ODD])
def test_csv_that_is_written_reads_back(letter: str) -> None:
    pyarrow_csv = pytest.importorskip("pyarrow.csv")
    rows = [["path", "title"], ["/a", f"one{letter}two"], [f"/{letter}", ""], ["/b", letter]]
    out = io.StringIO()
    write_csv(out, rows)
    assert [*csv.reader(io.StringIO(out.getvalue(), newline=""))] == rows
    read = pyarrow_csv.read_csv(
        io.BytesIO(out.getvalue().encode()), parse_options=pyarrow_csv.ParseOptions(newlines_in_values=True)
    )
    assert [[*row.values()] for row in read.to_pylist()] == rows[1:]


@pytest.mark.parametrize("end", ENDS)
@pytest.mark.parametrize("name", ["pages.csv", "davlo.yaml"])
def test_a_letter_of_another_encoding_names_its_line(small: Small, run: Run, name: str, end: str) -> None:
    folder = small("")
    rows = "title;path|Home;/|Caf\xe9;/a|" if name == "pages.csv" else f"{MINIMAL}# Caf\xe9\n".replace("\n", "|")
    (folder / name).write_bytes(rows.replace("|", end).encode("latin-1"))
    got = run("check", "--site", str(folder))
    assert (got.status, f"{name}:3: the file is " in got.err) == (2, True), got.err


@pytest.mark.parametrize("end", ENDS)
@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_the_separator_is_found_wherever_the_path_stands(small: Small, end: str, mark: str) -> None:
    rows = [mark.join(("title", "path")), mark.join(("Home", "/")), mark.join(("A", "/a"))]
    assert davlo.open_site(small("", end.join(rows) + end)).tree.paths.tolist() == ["/", "/a"]
