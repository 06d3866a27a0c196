"""Writes docs/own-site.md: from nothing to a site of one's own without an editor, with what each command prints.

python -m docs.write_own_site
"""

from __future__ import annotations

import io
import os
import re
import shlex
import tempfile
from contextlib import chdir, redirect_stderr, redirect_stdout
from pathlib import Path
from typing import NamedTuple
from unittest import mock

from davlo.cli.main import status_of

FOLDER = "my-site"
HEAD = """# A site of your own

Made by `python -m docs.write_own_site`, which takes these steps and prints what comes back. No editor is needed. At the
end you have pages in a tree, a branch with a sidebar of its own, a footer that nothing overrides, editors for one
branch, and a rule.
"""


class Step(NamedTuple):
    """A step: its heading, what to do, what to type, and what to paste into the first command."""

    heading: str
    told: str
    commands: tuple[str, ...]
    pasted: str = ""


STEPS = (
    Step(
        "Begin",
        "The command writes a folder with a few pages and decisions. Nothing else changes on your machine.",
        (f"davlo start {FOLDER} --name 'Thistlemouth Museum' --url https://thistlemouth.example --language en",),
    ),
    Step(
        "Bring your pages",
        f"From here on you are in the folder: `cd {FOLDER}`. Paste rows from a spreadsheet, or name a file after\n"
        "`--from`. Later, `davlo page refresh --from FILE` brings the page list up to date. Without `--write` a\n"
        "command only shows what it would do.",
        ("davlo page add --from - --write --brief", "davlo tree --columns sidebar.right,band.footer"),
        "path,title\n/about/history,Our history\n/about/history/fire,The fire of 1911\n/visit,Visit us\n",
    ),
    Step(
        "Give a branch a sidebar of its own",
        "Declare a block and a sidebar that holds it. Then set the sidebar for a page and all below it: see the reach\n"
        "first, then write.",
        (
            "davlo declare block timeline kind=text text='Since 1874' --write --brief",
            "davlo declare sidebar about blocks=timeline,opening-hours --write --brief",
            "davlo set sidebar.right=about --here-and-below /about",
            "davlo set sidebar.right=about --here-and-below /about --write --brief",
        ),
    ),
    Step(
        "Look, and ask why",
        "A page shows what it gets, and from where. Each value says what it overrode.",
        ("davlo show /about/history", "davlo why /about/history sidebar.right"),
    ),
    Step(
        "Lock the footer",
        "A lock lets nothing stronger change the value. `why` says how to make an exception to it.",
        ("davlo set band.footer --lock --everywhere --write --brief", "davlo why /visit band.footer"),
    ),
    Step(
        "Let somebody edit one branch",
        "Put a person into a group, and give the group a branch.",
        (
            "davlo declare group news-desk --write --brief",
            "davlo declare person nia.frost --group news-desk --write --brief",
            "davlo set access.news-desk=view,edit,create --here-and-below /news --write --brief",
            "davlo access --in-branch /news",
        ),
    ),
    Step(
        "Make a rule",
        "A rule sets values on pages that match a condition, wherever they are.",
        ("davlo set sidebar.right=none --new-rule 'News items run wide' --when type=news --write --brief",),
    ),
    Step("Take it back", "The last write is taken back byte for byte.", ("davlo undo --write --brief",)),
    Step("Check", "The check reports what contradicts what. Run it after every change.", ("davlo check",)),
)
TAIL = """## What next

- [Every key and column](files.md), with an example.
- An editor that knows JSON Schema completes `davlo.yaml` as you type. `davlo schema --site . --to davlo.schema.json`
  adds your own names to what it knows.
- The values of pages that your site shows today, as few statements: [begin from the site you have](from-site.md).
"""


WHEN = re.compile(r"\(\d{4}-\d{2}-\d{2}T\d{2}:\d{2}\)")
"""When a write was made, which is another time on each run."""


class Typed(NamedTuple):
    """A command of the road: what was typed and pasted, its exit status, and what it printed."""

    command: str
    pasted: str
    status: int
    printed: str


def typed(command: str, pasted: str = "") -> Typed:
    """Run a command, as somebody types it."""
    out, note = io.StringIO(), io.StringIO()
    paste = io.TextIOWrapper(io.BytesIO(pasted.encode()), encoding="utf-8")
    with redirect_stdout(out), redirect_stderr(note), mock.patch("sys.stdin", paste):
        status = status_of(shlex.split(command)[1:])
    printed = WHEN.sub("(2026-05-01T10:00)", out.getvalue() + note.getvalue())
    return Typed(command, pasted, status, printed.rstrip())


def asked(command: str) -> str:
    """What a command prints, and what it notes."""
    return typed(command).printed


def road() -> list[list[Typed]]:
    """What each step types and gets; the steps are taken in a folder that is gone afterwards."""
    told = []
    with tempfile.TemporaryDirectory() as name, chdir(name), mock.patch.dict(os.environ, COLUMNS="100"):
        for step in STEPS:
            told.append([typed(one, step.pasted if not at else "") for at, one in enumerate(step.commands)])
            if step is STEPS[0]:
                os.chdir(FOLDER)
    return told


def page() -> str:
    """The whole page."""
    told = [HEAD]
    for number, (step, commands) in enumerate(zip(STEPS, road(), strict=True), 1):
        blocks = []
        for one in commands:
            paste = f" <<'END'\n{one.pasted}END" if one.pasted else ""
            blocks.append(f"```console\n$ {one.command}{paste}\n{one.printed}\n```")
        told.append("\n\n".join([f"## {number}. {step.heading}", step.told, *blocks]) + "\n")
    return "\n".join([*told, TAIL])


if __name__ == "__main__":
    text = page()
    (Path(__file__).parent / "own-site.md").write_text(text, encoding="utf-8")
