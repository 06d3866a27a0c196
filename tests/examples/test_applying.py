"""docs/applying.md: each piece of code runs on the demo, and the website that the example builds shows what was decided."""

from __future__ import annotations

import os
import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import davlo
from tests.conftest import Run

ROOT = Path(__file__).parents[2]
EXAMPLE = ROOT / "examples" / "build_the_garden.py"
PAGE = (ROOT / "docs" / "applying.md").read_text(encoding="utf-8")
COMMANDS = [line for block in re.findall(r"```console\n(.*?)```", PAGE, re.DOTALL) for line in block.splitlines()]
SCRIPTS = re.findall(r"```python\n(.*?)```", PAGE, re.DOTALL)


@pytest.fixture
def folder(own: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A garden of the test's own, in a repository with an earlier revision; commands run in it."""
    monkeypatch.chdir(own)
    git = ["git", "-c", "user.name=Ida Marsh", "-c", "user.email=ida@quillmere.example"]
    for words in (["init", "-q"], ["add", "."], ["commit", "-qm", "one"], ["commit", "-qm", "two", "--allow-empty"]):
        subprocess.run([*git, *words], check=True)
    shutil.copy("pages.csv", "pages-now.csv")
    return own


def build(run: Run) -> str:
    """Build the garden's website as the page says; gives what `compare` finds."""
    assert run("export", "--records", "--to", "records.jsonl").status == 0
    assert run("export", "--to", "looks.css").status == 0
    shutil.rmtree("public", ignore_errors=True)
    words = [sys.executable, str(EXAMPLE), "records.jsonl", "looks.css", "public"]
    built = subprocess.run(words, capture_output=True, text=True, check=True)
    assert re.fullmatch(r"built \d+ pages in public\n", built.stdout)
    return run("compare", "public").out


@pytest.mark.exhaustive
def test_the_website_shows_what_was_decided_before_and_after_a_change(folder: Path, run: Run) -> None:
    assert "each shows what was decided" in build(run)
    for words in (["sidebar.right=quiet", "--type", "article"], ["title.pattern={title} at {site}", "--everywhere"]):
        assert run("set", *words, "--write").status == 0
        assert "each shows what was decided" not in run("compare", "public").out
        assert "each shows what was decided" in build(run)


def test_closed_pages_are_left_out_and_others_are_there(folder: Path, run: Run) -> None:
    build(run)
    site = davlo.open_site(folder)
    for path in site.tree.paths:
        record = site.page(path)
        address = record["address"]
        is_open = record["visitor may view"] and record.details["status"] == "live"
        file = Path("public", (address or "").removeprefix(site.url).strip("/"), "index.html")
        assert file.is_file() == bool(address and is_open), path


def test_every_command_of_the_page_runs(folder: Path, run: Run) -> None:
    build(run)
    for words in map(shlex.split, COMMANDS):
        if words[0] == "davlo":
            found = run(*words[1:])
            assert (found.status, words) == (0, words), found.err
        else:
            assert [words[0], Path(words[1]).name] == ["python", EXAMPLE.name]


def test_the_pieces_of_code_run(
    folder: Path, run: Run, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    build(run)
    asked, library, saved = SCRIPTS
    monkeypatch.setenv("PATH", str(Path(sys.executable).parent), prepend=os.pathsep)  # where the `davlo` under test is
    names: dict[str, object] = {}
    exec(asked, names)
    application, answers = names["application"], list[str]()
    assert callable(application)

    def begin(status: str, headers: list[tuple[str, str]]) -> None:
        answers.append(status)

    application({"PATH_INFO": "/staff/rota"}, begin)
    application({"PATH_INFO": "/staff/rota", "REMOTE_USER": "tomas.vell"}, begin)
    (body,) = application({"PATH_INFO": "/visit/tickets"}, begin)
    assert answers == ["404 Not Found", "200 OK", "200 OK"]
    assert body.decode().startswith("Tickets · Quillmere Botanic Garden\n")
    capfd.readouterr()
    exec(library, {})
    exec(saved, {})
    assert capfd.readouterr().out.splitlines() == [
        "Tickets · Quillmere Botanic Garden [{'kind': 'sidebar', 'name': 'visit-planning'}]",
        "whats-on",
    ]
