"""Runs the first example of each command's help on the garden, and writes its first lines: python -m docs.write_help.

A test runs them again, so the help shows what the commands print.
"""

from __future__ import annotations

import io
import os
import re
import shlex
import subprocess
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import chdir, redirect_stderr, redirect_stdout
from pathlib import Path
from pprint import pformat
from unittest.mock import patch

import click

from davlo.cli.main import cli, status_of
from davlo.demo import write_demo, write_demo_estate

MODULE = Path(__file__).parents[1] / "src" / "davlo" / "cli" / "first_lines.py"
WIDTH = 76
"""The letters of a line of help, without its indentation."""
LATER = ("compare", "undo", "report --to report.html --since", "estate compare", "estate undo")
"""What is asked after a change was written."""
OWN = ["set", "sidebar.right=main", "--below", "/visit", "--write"]
SHARED = ["set", "title.limit=60", "--write"]
"""What is changed before."""
TIME = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d")
HEAD = '''"""What the first example of each command's help prints first, as docs/write_help.py runs it."""

from __future__ import annotations

FIRST_LINES: dict[str, tuple[str, ...]] = '''


def first_examples(command: click.Command = cli) -> Iterator[str]:
    """The first example of each command, and of the commands in it."""
    examples = getattr(command, "examples", ())
    if examples:
        yield examples[0]
    if isinstance(command, click.Group):
        for name in command.list_commands(click.Context(command)):
            inner = command.get_command(click.Context(command), name)
            assert inner is not None
            yield from first_examples(inner)


def first_lines(typed: str, folder: Path) -> tuple[str, ...]:
    """The first two lines that a command prints in a new garden below a folder."""
    words = shlex.split(typed)[1:]
    is_estate = words[0] == "estate"
    place = folder / "work" / ("gardens" if is_estate else "garden")
    (write_demo_estate if is_estate else write_demo)(place)
    with chdir(place):
        if not is_estate:
            Path("pages-of-today.csv").write_bytes(Path("pages.csv").read_bytes() + b"/visit/picnic,Picnic\n")
        if " ".join(words).startswith(LATER):
            _change(place, ["estate", *SHARED] if is_estate else OWN)
        printed, complaint = io.StringIO(), io.StringIO()
        with patch.dict(os.environ, COLUMNS="100"), redirect_stdout(printed), redirect_stderr(complaint):
            status = status_of(words)
    assert status in (0, 1), f"{typed}: {complaint.getvalue()}"
    told = TIME.sub("2026-11-30T09:15", f"{printed.getvalue()}{complaint.getvalue()}")
    lines = (line for line in told.splitlines() if line.strip())
    return tuple(line if len(line) <= WIDTH else f"{line[: WIDTH - 1]}…" for line in lines)[:2]


def _change(folder: Path, change: Sequence[str]) -> None:
    """Keep the demo in a repository, and write a change of it."""
    git = ["git", "-c", "user.name=Ida Marsh", "-c", "user.email=ida@quillmere.example"]
    for words in (["init", "-q"], ["add", "."], ["commit", "-qm", "one"], ["commit", "-qm", "two", "--allow-empty"]):
        subprocess.run([*git, *words], cwd=folder, check=True)
    with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
        assert status_of(change) == 0


def module() -> str:
    """The module with what the first examples print now."""
    found = {}
    for typed in dict.fromkeys(first_examples()):
        with tempfile.TemporaryDirectory() as holder:
            found[typed] = first_lines(typed, Path(holder))
    return HEAD + pformat(found, width=118, sort_dicts=False) + "\n"


if __name__ == "__main__":
    MODULE.write_text(module(), encoding="utf-8")
