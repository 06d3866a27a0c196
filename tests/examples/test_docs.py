"""The README, the docs and the examples say what is true."""

from __future__ import annotations

import doctest
import re
import subprocess
import sys
from pathlib import Path

import pytest
from docs import write_files, write_findings, write_from_site, write_own_site, write_readme

import davlo
from davlo.cli.command_list import COMMANDS
from davlo.core.findings.kinds import KINDS

ROOT = Path(__file__).parents[2]
README = (ROOT / "README.md").read_text(encoding="utf-8")
CONSOLE = write_readme.CONSOLE.findall(README)


@pytest.mark.parametrize(("typed", "printed"), CONSOLE, ids=[typed for typed, _ in CONSOLE])
def test_the_readmes_commands_print_what_it_shows(typed: str, printed: str, garden: Path) -> None:
    write_readme.broken_site(garden, README)
    assert write_readme.printed(typed, garden) == printed.rstrip(), "write it anew: python -m docs.write_readme"


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


def test_every_kind_stands_in_the_docs_as_the_code_tells_it() -> None:
    written = (ROOT / "docs" / "findings.md").read_text(encoding="utf-8")
    assert written == write_findings.page(), "write it anew: python -m docs.write_findings"
    assert [kind.name for kind in KINDS if f"### `{kind.name}`" not in written] == []


def test_every_key_and_column_stands_in_the_docs_as_the_reader_has_it() -> None:
    written = (ROOT / "docs" / "files.md").read_text(encoding="utf-8")
    assert written == write_files.page(), "write it anew: python -m docs.write_files"


def test_the_ten_steps_to_a_site_of_ones_own_print_what_the_page_says() -> None:
    written = (ROOT / "docs" / "own-site.md").read_text(encoding="utf-8")
    assert written == write_own_site.page(), "write it anew: python -m docs.write_own_site"


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


SAYS = {
    "who_edits_what.py": "/members               4            4              0           0             1           1",
    "sheets_of_a_branch.py": "pages-2: /visit/cafe, /visit/shop, /visit/maps\n",
    "list_exceptions.py": "sidebar.right          6 of 158 pages are exceptions\n",
}


@pytest.mark.parametrize("example", sorted((ROOT / "examples").glob("*.py")), ids=lambda path: path.name)
def test_examples_run(example: Path, garden: Path) -> None:
    run = subprocess.run([sys.executable, str(example), str(garden)], capture_output=True, text=True)
    assert (run.returncode, run.stderr) == (0, "")
    assert SAYS[example.name] in run.stdout


def test_the_start_benchmark_runs(capsys: pytest.CaptureFixture[str]) -> None:
    from benchmarks import start

    start.main(1)
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 6
    assert all(re.search(r"\d+ ms +\d+\.\d\d x ", line) for line in lines)
