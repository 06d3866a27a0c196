"""The README, the docs and the examples say what is true."""

from __future__ import annotations

import doctest
import json
import re
import shlex
import subprocess
import sys
from pathlib import Path

import click
import pytest
from docs import (
    write_files,
    write_findings,
    write_from_site,
    write_help,
    write_library,
    write_own_site,
    write_readme,
    write_records,
)

import davlo
from davlo.cli.command_list import COMMANDS, HEADINGS
from davlo.cli.first_lines import FIRST_LINES
from davlo.cli.main import cli
from davlo.core.findings.kinds.every_kind import KINDS
from davlo.frames.record_schema import record_schema
from tests.conftest import Run
from tests.test_shape import ROOMS, SOURCE

ROOT = Path(__file__).parents[2]
README = (ROOT / "README.md").read_text(encoding="utf-8")
CONSOLE = write_readme.CONSOLE.findall(README)


@pytest.mark.parametrize(("typed", "printed"), CONSOLE, ids=[typed for typed, _ in CONSOLE])
def test_the_readmes_commands_print_what_it_shows(typed: str, printed: str, garden: Path) -> None:
    write_readme.broken_site(garden, README)
    assert write_readme.printed(typed, garden) == printed.rstrip(), "write it anew: python -m docs.write_readme"


def test_the_page_about_estates_shows_what_its_commands_print(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    page = write_readme.ESTATE.read_text(encoding="utf-8")
    assert write_readme.estate_page(page) == page, "write it anew: python -m docs.write_readme"
    (code,) = re.findall(r"```python\n(.*?)```", page, re.DOTALL)
    monkeypatch.chdir(tmp_path)
    told: list[str] = []
    exec(code, {"print": lambda *words: told.append(" ".join(map(str, words)))})
    assert told[0] == "branches/fernhurst 9"


@pytest.mark.parametrize("typed", [*write_help.first_examples()][1:])
def test_the_help_shows_what_its_first_example_prints(typed: str, tmp_path: Path) -> None:
    assert write_help.first_lines(typed, tmp_path) == FIRST_LINES[typed], "write it anew: python -m docs.write_help"


def test_the_readmes_library_calls_hold() -> None:
    session = "\n".join(re.findall(r"```python\n(.*?)```", README, re.DOTALL))
    parsed = doctest.DocTestParser().get_doctest(session, {}, "README", "README.md", 0)
    assert parsed.examples
    assert doctest.DocTestRunner(verbose=False).run(parsed).failed == 0


def test_the_readme_meets_every_command_and_links_to_what_is_there() -> None:
    assert [name for name in COMMANDS if f"davlo {name}" not in README] == []
    links = re.findall(r"\]\(([^)#]+)\)", README)
    assert [link for link in links if "://" not in link and not (ROOT / link).exists()] == []
    assert len(list((ROOT / "docs" / "screenshots").iterdir())) < 20


def test_the_demos_story_tells_its_findings() -> None:
    story = (ROOT / "docs" / "demo.md").read_text(encoding="utf-8")
    told = re.findall(r"^\| `([a-z-]+)` \|", story, re.MULTILINE)
    report = davlo.open_demo().check()
    assert sorted(told) == sorted(finding.kind for finding in report.findings)
    assert set(told) <= {kind.name for kind in KINDS}
    counts = {level: report.count(level) for level in ("error", "warning", "note")}
    assert f"{counts['error']} errors, {counts['warning']} warnings and {counts['note']} notes" in story


@pytest.mark.exhaustive
def test_every_kind_stands_in_the_docs_as_the_code_tells_it() -> None:
    written = (ROOT / "docs" / "findings.md").read_text(encoding="utf-8")
    assert written == write_findings.page(), "write it anew: python -m docs.write_findings"
    assert [kind.name for kind in KINDS if f"### `{kind.name}`" not in written] == []


def test_every_public_name_stands_in_the_docs_with_what_it_does() -> None:
    written = (ROOT / "docs" / "library.md").read_text(encoding="utf-8")
    assert written == write_library.page(), "write it anew: python -m docs.write_library"
    told = [name for names in write_library.TOPICS.values() for name in names]
    assert sorted(told) == davlo.__all__
    assert "- `reach(change: Change) -> ChangeReach`: What a change would do" in written


def test_the_page_of_records_is_the_form_of_a_record() -> None:
    assert (ROOT / "docs" / "records.md").read_text(encoding="utf-8") == write_records.page(), (
        "python -m docs.write_records"
    )
    schema = json.loads((ROOT / "docs" / "records.schema.json").read_text(encoding="utf-8"))
    assert schema == record_schema(), "python -m docs.write_records"


def test_every_key_and_column_stands_in_the_docs_as_the_reader_has_it() -> None:
    written = (ROOT / "docs" / "files.md").read_text(encoding="utf-8")
    assert written == write_files.page(), "write it anew: python -m docs.write_files"


def test_the_steps_to_a_site_of_ones_own_print_what_the_page_says() -> None:
    written = (ROOT / "docs" / "own-site.md").read_text(encoding="utf-8")
    assert written == write_own_site.page(), "write it anew: python -m docs.write_own_site"
    assert "editor is needed" in written


def test_the_road_to_a_site_of_ones_own_is_short_and_nothing_on_it_is_refused() -> None:
    """No file is edited by hand: `road` only types commands."""
    typed = [one for step in write_own_site.road() for one in step]
    assert [one.command for one in typed if one.status] == []
    assert len(typed) <= 20
    assert typed[-1].printed == "nothing to report"


README_ROAD = re.compile(r"## Your own site in ten minutes\n(?:.*\n)*?```\n((?:.*\n)*?)```")


def test_the_road_of_the_readme_is_refused_nowhere(tmp_path: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    found = README_ROAD.search((ROOT / "README.md").read_text(encoding="utf-8"))
    assert found is not None
    (tmp_path / "my-pages.csv").write_text("path,title\n/about/history,Our history\n", encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    commands = [shlex.split(line, comments=True) for line in found[1].splitlines()]
    assert 8 <= len(commands) <= 13
    for words in commands:
        if words[0] == "cd":
            monkeypatch.chdir(tmp_path / words[1])
        else:
            got = run(*words[1:])
            assert got.status == 0, (words, got.err)


def test_beginning_from_a_site_prints_what_the_page_says() -> None:
    written = (ROOT / "docs" / "from-site.md").read_text(encoding="utf-8")
    assert written == write_from_site.page(), "write it anew: python -m docs.write_from_site"


def test_the_demo_is_as_large_and_as_deep_as_it_says() -> None:
    site = davlo.open_demo()
    assert len(site.tree) == 158
    assert int(site.tree.depth.max()) >= 4
    assert set(site.types.declared) == {"page", "article", "event", "plant-record", "listing", "landing"}
    assert {word for word in site.details.language.words if word} == {"en", "fr"}
    assert site.url.endswith(".example")


NUMBERS = dict(
    zip(
        ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"],
        range(1, 13),
        strict=True,
    )
)
COUNTED = {"layouts": "layout", "themes": "theme", "sidebars": "sidebar", "bands": "band", "people": "person"}


def test_the_demos_story_counts_what_the_garden_has() -> None:
    story = (ROOT / "docs" / "demo.md").read_text(encoding="utf-8")
    site = davlo.open_demo()
    told = {
        COUNTED[word]: NUMBERS[number]
        for number, word in re.findall(r"\b([a-z]+)(?=\s(\w+))", story)
        if word in COUNTED and number in NUMBERS
    }
    assert told == {kind: len(site.declared(kind)) for kind in COUNTED.values()}
    pages = re.search(r"`davlo show --viewpoints` shows (\w+) pages", story)
    assert pages is not None
    assert NUMBERS[pages[1]] == len(site.viewpoints)
    assert f"{len(site.tree)} pages, two languages, five drafts" in story
    assert (site.details.status.texts().count("draft"), len(site.languages)) == (5, 2)


def test_contributing_tells_of_every_room() -> None:
    told = re.findall(r"^\| `([a-z_/]+)` \|", (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8"), re.MULTILINE)
    assert sorted(told) == sorted(
        room.replace(".", "/") for room in ROOMS if (SOURCE / room.replace(".", "/")).is_dir() and room != "core"
    )


DOCS = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "SECURITY.md", *(ROOT / "docs").glob("*.md")]


@pytest.mark.parametrize("path", DOCS, ids=lambda path: path.name)
def test_every_command_in_the_docs_is_one_with_those_options(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    typed = re.findall(r"`(davlo [^`\n]+)`", text) + re.findall(r"^(?:\$ |  )(davlo [a-z-]+[^\n]*)", text, re.MULTILINE)
    for line in typed:
        words = re.split(r" \| | > |  ", line)[0].split()[1:]
        if words[0].startswith("-"):
            continue
        command: click.Command | None = cli
        while isinstance(command, click.Group) and words:
            command = command.get_command(click.Context(command), words.pop(0))
        assert command is not None, line
        known = {"--help", *(option for one in command.params for option in one.opts + one.secondary_opts)}
        assert {word.split("=")[0] for word in words if word.startswith("--")} <= known, line


def test_the_docs_say_what_a_change_needs_to_be_written() -> None:
    """A command that changes a site shows; of such a command alone no page says that it writes."""
    changing = "|".join([*HEADINGS[next(name for name in HEADINGS if name.startswith("Change"))]])
    for path in DOCS:
        text = " ".join(path.read_text(encoding="utf-8").split())
        for sentence in re.findall(rf"[^.`]*`davlo (?:{changing})[^`]*`[^.]*\.", text):
            said = re.search(
                rf"`davlo (?:{changing})(?![^`]*--write)[^`]*` (writes|takes back|publishes|renames|mends)\b", sentence
            )
            assert said is None, sentence


SAYS = {  # tests/examples/test_applying.py runs the others
    "who_edits_what.py": "/members               4            4              0           0             1           1",
    "sheets_of_a_branch.py": "pages-2: /visit/cafe, /visit/shop, /visit/maps\n",
    "list_exceptions.py": "sidebar.right          6 of 158 pages are exceptions\n",
}


@pytest.mark.parametrize("example", [ROOT / "examples" / name for name in SAYS], ids=lambda path: path.name)
def test_examples_run(example: Path, garden: Path) -> None:
    run = subprocess.run([sys.executable, str(example), str(garden)], capture_output=True, text=True)
    assert (run.returncode, run.stderr) == (0, "")
    assert SAYS[example.name] in run.stdout


@pytest.mark.exhaustive
def test_the_start_benchmark_runs(capsys: pytest.CaptureFixture[str]) -> None:
    from benchmarks import start

    start.main(1)
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 6
    assert all(re.search(r"\d+ ms +\d+\.\d\d x ", line) for line in lines)
