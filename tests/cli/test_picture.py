"""`davlo picture` on the garden: what it writes, what it refuses, and that it obeys nothing it finds."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from tests.conftest import Run


@pytest.mark.exhaustive
def test_a_picture_is_written_where_it_is_asked_in_every_format_and_the_same_again(
    garden: Path, run: Run, tmp_path: Path
) -> None:
    starts = {"png": b"\x89PNG", "svg": b"<?xml", "pdf": b"%PDF"}
    for ending, start in starts.items():
        written = []
        for name in ("one", "two"):
            file = tmp_path / f"{name}.{ending}"
            outcome = run("picture", "/visit/tickets", "Maps of the garden", "--to", str(file), "--site", str(garden))
            assert (outcome.status, outcome.out, outcome.err) == (0, "", f"wrote {file}\n")
            written.append(file.read_bytes())
        assert written[0].startswith(start)
        assert written[0] == written[1]
    assert Image.open(tmp_path / "one.png").size == (1280, 800)
    assert b"phone /visit/tickets footer" in (tmp_path / "one.svg").read_bytes()


def test_a_map_of_everything_or_of_a_branch(garden: Path, run: Run, tmp_path: Path) -> None:
    sizes = []
    for words in ([], ["/visit"]):
        file = tmp_path / "map.png"
        outcome = run("picture", *words, "--map", "sidebar.right", "--to", str(file), "--site", str(garden))
        assert outcome.status == 0
        sizes.append(Image.open(file).size)
    assert sizes[0] == (1280, 800)
    assert sizes[1][0] == 1280
    assert sizes[1][1] < 800


@pytest.mark.parametrize(
    "words",
    [
        ["/visit", "--try", "sidebar.right=main,quiet"],
        ["/visit/tickets", "--screen", "tablet"],
        ["--new", "/visit/build", "--detail", "made_with=potting-bench", "--detail", "language=en"],
        ["--new", "/visit/build", "--detail", "language=en", "--try", "layout.name=open", "--screen", "phone"],
        ["--map", "may:view"],
    ],
)
def test_what_else_can_be_drawn(words: list[str], garden: Path, run: Run, tmp_path: Path) -> None:
    outcome = run("picture", *words, "--to", str(tmp_path / "x.png"), "--site", str(garden))
    assert (outcome.status, outcome.err) == (0, f"wrote {tmp_path / 'x.png'}\n")
    assert Image.open(tmp_path / "x.png").size[0] == 1280


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ([], "name the pages to draw, by path or title; or say --map SETTING"),
        (["/visit"], "say where to write the picture: davlo picture /visit --to picture.png"),
        (["/visit", "--to", "x.gif"], "--to writes a file that ends in .png, .svg, .pdf, not 'x.gif'"),
        (["/", "/visit", "--map", "heading.show", "--to", "x.png"], "--map draws one branch: name one page"),
        (["/visit"] * 13, "a picture shows 12 pages at most; choose among these 13"),
        (["/vist", "--to", "x.png"], "did you mean /visit?"),
        (["--map", "sidebar.rihgt", "--to", "x.png"], "did you mean sidebar.right?"),
        (["/visit", "--to", "no/such/folder/x.png"], "it cannot be written"),
        (["/visit", "--try", "sidebar.right=mian", "--to", "x.png"], "there is no sidebar 'mian'"),
        (["/visit", "--try", "sidebar.right", "--to", "x.png"], "--try takes SETTING=VALUE,VALUE"),
        (["/", "/visit", "--try", "sidebar.right=main", "--to", "x.png"], "--try draws one page several times"),
        (["/visit", "--screen", "watch", "--to", "x.png"], "'watch' is not one of 'wide', 'tablet', 'phone'"),
        (["--map", "may:edt", "--to", "x.png"], "did you mean edit?"),
        (["--map", "heading.show", "--screen", "phone", "--to", "x.png"], "--map draws the tree: leave out --new"),
        (["--new", "/visit", "--to", "x.png"], "there is a page /visit already"),
    ],
)
def test_what_cannot_be_drawn_is_said_with_what_to_type(
    words: list[str], said: str, garden: Path, run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    outcome = run("picture", *words, "--site", str(garden))
    assert (outcome.status, outcome.out) == (2, "")
    assert said in outcome.err
    assert list(tmp_path.iterdir()) == []


def test_what_stands_in_the_folder_is_not_obeyed_and_unknown_letters_are_told(garden: Path, tmp_path: Path) -> None:
    (tmp_path / "matplotlibrc").write_bytes(b"text.usetex: True\nfigure.dpi: 999\n\xff\xfe")
    (tmp_path / "davlo.yaml").write_text("davlo: 1\nsite: {name: Small, url: 'https://small.example'}\n")
    (tmp_path / "pages.csv").write_text("path,title\n/,$\\input{x}$ \U000f1234\n", encoding="utf-8")
    command = [sys.executable, "-m", "davlo", "picture", "/", "--to", "home.png"]
    done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True)
    assert (done.returncode, done.stdout) == (0, "")
    assert done.stderr.splitlines() == ["wrote home.png", "□ replaces characters that the font of the pictures lacks"]
    assert Image.open(tmp_path / "home.png").size == (1280, 800)
